"""The Job menu: what concerns the whole job, the look of the window, and the hands."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu

from plain_stride.desk.cautions import MINUTES
from plain_stride.desk.look.theme import TEXT_SCALES, THEME, VARIANTS
from plain_stride.desk.session.clipboard import copy_chosen, cut_chosen, duplicate_chosen

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow


def job_menu(main_window: "MainWindow") -> QMenu:
    """The menu as things stand now."""
    menu, session = QMenu(main_window), main_window.session
    menu.addAction("New board", main_window.new_job)
    menu.addAction("Open a job…", main_window.dialogs.ask_open)
    recent = menu.addMenu("Recent jobs")
    for path in main_window.settings.recent():
        recent.addAction(path.stem, partial(main_window.open_job, path))
    menu.addAction("Bring in lines…", main_window.dialogs.ask_lines).setEnabled(not session.read_only)
    menu.addSeparator()
    menu.addAction("Rename…", main_window.dialogs.ask_name)
    menu.addAction("Save a copy…", main_window.dialogs.ask_copy)
    if session.document.writer.pending():
        menu.addAction("Try again to save", session.document.writer.again)
    menu.addSeparator()
    menu.addAction("Take back", session.timeline.undo).setEnabled(session.job.history.head > 0)
    menu.addAction("Do again", session.timeline.redo).setEnabled(session.job.history.redo_count() > 0)
    _add_history(main_window, menu.addMenu("History"))
    _add_lines(main_window, menu.addMenu("Lines"))
    menu.addSeparator()
    _add_look(main_window, menu.addMenu("Look"))
    _add_hands(main_window, menu.addMenu("Hands"))
    menu.addAction("Keys", main_window.dialogs.show_keys)
    menu.addAction("About Plain Stride", main_window.dialogs.show_about)
    menu.addAction("Quit", main_window.close)
    return menu


def _add_history(main_window: "MainWindow", menu: QMenu) -> None:
    session, writable = main_window.session, not main_window.session.read_only
    menu.addAction("All steps…", main_window.dialogs.show_history)
    menu.addAction("Then and now…", main_window.dialogs.show_compare)
    menu.addSeparator()
    menu.addAction("Mark this moment…", main_window.dialogs.ask_mark).setEnabled(writable)
    back = menu.addMenu("Go back to a mark")
    for name, step in session.job.history.marks.items():
        back.addAction(name, partial(session.timeline.go_to, step)).setEnabled(
            writable and step != session.job.history.head
        )
    back.setEnabled(not back.isEmpty())
    menu.addSeparator()
    menu.addAction("How large it is", session.document.writer.tell_sizes)
    menu.addAction("Pack the file; the history stays", session.document.writer.pack).setEnabled(writable)
    forget = menu.addMenu("Forget all before a mark")
    for name in [name for name, step in session.job.history.marks.items() if step]:
        forget.addAction(name, partial(main_window.dialogs.ask_forget, name)).setEnabled(writable)
    forget.setEnabled(not forget.isEmpty())


def _add_lines(main_window: "MainWindow", menu: QMenu) -> None:
    session = main_window.session
    for words, work in (
        ("Copy", partial(copy_chosen, session)),
        ("Cut", partial(cut_chosen, session)),
        ("Duplicate", partial(duplicate_chosen, session)),
        ("Take away", main_window.delete_chosen),
    ):
        menu.addAction(words, work).setEnabled(bool(session.chosen))
    menu.addSeparator()
    menu.addAction("Paste", main_window.paste)
    menu.addAction("Choose all", main_window.choose_all)


def _checked(action: QAction, on: bool) -> None:
    action.setCheckable(True)
    action.setChecked(on)


def _add_look(main_window: "MainWindow", menu: QMenu) -> None:
    for variant in VARIANTS:
        _checked(
            menu.addAction(variant.capitalize(), partial(main_window.use_variant, variant)), THEME.variant == variant
        )
    menu.addSeparator()
    for scale in TEXT_SCALES:
        action = menu.addAction(f"Text at {scale * 100:.0f} %", partial(main_window.use_text_scale, scale))
        _checked(action, abs(THEME.text_scale - scale) < 0.01)


def _add_hands(main_window: "MainWindow", menu: QMenu) -> None:
    _checked(
        menu.addAction("Left-handed: keys and margins change sides", main_window.toggle_hand),
        main_window.keys.plan.left_handed,
    )
    _checked(menu.addAction("Hold-spots on the desk", main_window.toggle_spots), not main_window.spots.isHidden())
    rub = menu.addMenu("A touch of the pen's other end")
    for how, words in (("trim", "takes away back to the nearest crossings"), ("cut", "cuts the line: both halves stay"),
                       ("whole", "takes the whole line away")):  # fmt: skip
        _checked(rub.addAction(words, partial(main_window.use_rub, how)), main_window.sheet.rub_how == how)
    menu.addAction("When a pull is advised on…", main_window.dialogs.show_advice)
    rest = menu.addMenu("A word about breaks")
    for minutes in MINUTES:
        words = f"after {minutes} minutes of pulling" if minutes else "never"
        _checked(
            rest.addAction(words, partial(main_window.use_cautions, minutes)), main_window.cautions.minutes == minutes
        )
    button = menu.addMenu("The pen's button")
    for name, use in main_window.uses.items():
        words = use.words_hold or use.words_tap
        action = button.addAction(
            f"{main_window.keys.plan.shown(name)}: {words}", partial(main_window.use_pen_button, name)
        )
        _checked(action, name == main_window.keys.by_pen)
