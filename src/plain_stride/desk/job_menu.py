"""The Job menu: what concerns the whole job, the look of the window, and the hands."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu

from plain_stride.desk.cautions import MINUTES
from plain_stride.desk.clipboard import copy_chosen, cut_chosen, duplicate_chosen
from plain_stride.desk.theme import TEXT_SCALES, THEME, VARIANTS

if TYPE_CHECKING:
    from plain_stride.desk.shell import Shell


def job_menu(shell: "Shell") -> QMenu:
    """The menu as things stand now."""
    menu, bench = QMenu(shell), shell.bench
    menu.addAction("New board", shell.new_job)
    menu.addAction("Open a job…", shell.asks.ask_open)
    recent = menu.addMenu("Recent jobs")
    for path in shell.settings.recent():
        recent.addAction(path.stem, partial(shell.open_job, path))
    menu.addAction("Bring in lines…", shell.asks.ask_lines).setEnabled(not bench.read_only)
    menu.addSeparator()
    menu.addAction("Rename…", shell.asks.ask_name)
    menu.addAction("Save a copy…", shell.asks.ask_copy)
    if bench.keeper.pending():
        menu.addAction("Try again to save", bench.keeper.again)
    menu.addSeparator()
    menu.addAction("Take back", bench.undo).setEnabled(bench.job.history.head > 0)
    menu.addAction("Do again", bench.redo).setEnabled(bench.job.history.redo_count() > 0)
    _add_history(shell, menu.addMenu("History"))
    _add_lines(shell, menu.addMenu("Lines"))
    menu.addSeparator()
    _add_look(shell, menu.addMenu("Look"))
    _add_hands(shell, menu.addMenu("Hands"))
    menu.addAction("Keys", shell.asks.show_keys)
    menu.addAction("About Plain Stride", shell.asks.show_about)
    menu.addAction("Quit", shell.close)
    return menu


def _add_history(shell: "Shell", menu: QMenu) -> None:
    bench, writable = shell.bench, not shell.bench.read_only
    menu.addAction("All steps…", shell.asks.show_history)
    menu.addAction("Then and now…", shell.asks.show_compare)
    menu.addSeparator()
    menu.addAction("Mark this moment…", shell.asks.ask_mark).setEnabled(writable)
    back = menu.addMenu("Go back to a mark")
    for name, step in bench.job.history.marks.items():
        back.addAction(name, partial(bench.go_to, step)).setEnabled(writable and step != bench.job.history.head)
    back.setEnabled(not back.isEmpty())
    menu.addSeparator()
    menu.addAction("How large it is", bench.keeper.tell_sizes)
    menu.addAction("Pack the file; the history stays", bench.keeper.pack).setEnabled(writable)
    forget = menu.addMenu("Forget all before a mark")
    for name in [name for name, step in bench.job.history.marks.items() if step]:
        forget.addAction(name, partial(shell.asks.ask_forget, name)).setEnabled(writable)
    forget.setEnabled(not forget.isEmpty())


def _add_lines(shell: "Shell", menu: QMenu) -> None:
    bench = shell.bench
    for words, work in (
        ("Copy", partial(copy_chosen, bench)),
        ("Cut", partial(cut_chosen, bench)),
        ("Duplicate", partial(duplicate_chosen, bench)),
        ("Take away", shell.delete_chosen),
    ):
        menu.addAction(words, work).setEnabled(bool(bench.chosen))
    menu.addSeparator()
    menu.addAction("Paste", shell.paste)
    menu.addAction("Choose all", shell.choose_all)


def _checked(action: QAction, on: bool) -> None:
    action.setCheckable(True)
    action.setChecked(on)


def _add_look(shell: "Shell", menu: QMenu) -> None:
    for variant in VARIANTS:
        _checked(menu.addAction(variant.capitalize(), partial(shell.use_variant, variant)), THEME.variant == variant)
    menu.addSeparator()
    for scale in TEXT_SCALES:
        action = menu.addAction(f"Text at {scale * 100:.0f} %", partial(shell.use_text_scale, scale))
        _checked(action, abs(THEME.text_scale - scale) < 0.01)


def _add_hands(shell: "Shell", menu: QMenu) -> None:
    _checked(
        menu.addAction("Left-handed: keys and margins change sides", shell.toggle_hand), shell.keys.plan.left_handed
    )
    _checked(menu.addAction("Hold-spots on the desk", shell.toggle_spots), not shell.spots.isHidden())
    rub = menu.addMenu("A touch of the pen's other end")
    for how, words in (("trim", "takes away back to the nearest crossings"), ("cut", "cuts the line: both halves stay"),
                       ("whole", "takes the whole line away")):  # fmt: skip
        _checked(rub.addAction(words, partial(shell.use_rub, how)), shell.sheet.rub_how == how)
    menu.addAction("When a pull is advised on…", shell.asks.show_advice)
    rest = menu.addMenu("A word about breaks")
    for minutes in MINUTES:
        words = f"after {minutes} minutes of pulling" if minutes else "never"
        _checked(rest.addAction(words, partial(shell.use_cautions, minutes)), shell.cautions.minutes == minutes)
    button = menu.addMenu("The pen's button")
    for name, use in shell.uses.items():
        words = use.words_hold or use.words_tap
        action = button.addAction(f"{shell.keys.plan.shown(name)}: {words}", partial(shell.use_pen_button, name))
        _checked(action, name == shell.keys.by_pen)
