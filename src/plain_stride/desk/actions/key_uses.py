"""What the keys of the free hand do in this window."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from plain_stride.desk.keys.key_hand import KeyUse
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.weigh import toggle_plan
from plain_stride.form.roles import ROLES
from plain_stride.hand.nib import next_of_group

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

SWELL_STEP = 2.0**0.25


def key_uses(window: "MainWindow") -> dict[str, KeyUse]:
    """Keys by their place on a US board. `window.session` and `window.sheet` are looked up when a key is used."""
    sheet = window.sheet

    def held(what: str) -> dict[str, object]:
        return {"hold": lambda: sheet.begin_hold(what), "let_go": sheet.end_hold}

    fellow = _NibKey(window, lambda: _fellow(window.session))
    uses = {
        "A": KeyUse("ink alone, pencils gone", "keep it so, or back", lambda: _ink_alone(window, True),
                    lambda: _ink_alone(window, False), lambda: _toggle_pencils(window)),
        "S": KeyUse("swell the line under the pen: up is heavier", "nib one step heavier",
                    tap=lambda: _nib_step(window.session, 1), **held("swell")),  # type: ignore[arg-type]
        "E": KeyUse("shave the line under the pen: up is lighter", "nib one step lighter",
                    tap=lambda: _nib_step(window.session, -1), **held("shave")),  # type: ignore[arg-type]
        "D": KeyUse("move the board", "fit the board", tap=sheet.fit, **held("move")),  # type: ignore[arg-type]
        "F": KeyUse("turn the board", "upright", tap=sheet.upright, **held("turn")),  # type: ignore[arg-type]
        "C": fellow.use("the other nib of the group, while held", "the next nib of the group"),
        "G": KeyUse("enlarge or reduce round the pen", "100 % of print size",
                    tap=sheet.print_size, **held("enlarge")),  # type: ignore[arg-type]
        "H": KeyUse("the plan lifted off: widths of the hand", "lift it off, or lay it again",
                    lambda: _hand_only(window, True), lambda: _hand_only(window, False),
                    lambda: toggle_plan(window.session)),
        "W": KeyUse("nudge the line under the pen; on empty paper, draw round lines to choose them",
                    "choose the line under the pen", lambda: sheet.begin_hold("nudge"), lambda: _end_nudge(window),
                    lambda: sheet.choose_at(None, False)),
        "Q": KeyUse("before: the drawing as it was at the last mark", "set the mark",
                    lambda: sheet.show_then(window.session.timeline.step_before()), sheet.show_now,
                    lambda: window.session.timeline.mark_now()),
        "U": KeyUse("true print size: the ink alone, as large as it will be", "keep it so, or back",
                    lambda: window.show_print(True), lambda: window.show_print(False),
                    lambda: window.show_print(not window.print_shown())),
        "X": KeyUse("mirror", "mirror, or back", sheet.mirror, sheet.mirror, sheet.mirror),
        "J": KeyUse("mirror top to bottom", "mirror top to bottom, or back", sheet.mirror_down, sheet.mirror_down,
                    sheet.mirror_down),
        "Y": KeyUse("trim: the stretch under the pen shown", "trim it", tap=sheet.trim_under,
                    **held("trim")),  # type: ignore[arg-type]
        "Z": KeyUse("the last change off, to compare", "take it back", lambda: _last_off(window), sheet.show_now,
                    lambda: window.session.timeline.undo()),
        "V": KeyUse("the strip, large", "strip folded, or back", lambda: window.enlarge_strip(True),
                    lambda: window.enlarge_strip(False), window.fold_strip),
        "R": KeyUse("rehearse: the pull is shown, not kept",
                    "again: the next pull redoes the line, its tail, or goes on from its end",
                    lambda: _rehearse(window, True), lambda: _rehearse(window, False),
                    lambda: window.session.arm_again()),
        "T": KeyUse("the way your hand likes", "turn the pencil line under the pen that way, or back",
                    lambda: window.turning.show(True), lambda: window.turning.show(False), window.turning.turn),
        "O": KeyUse("other parts dimmed", "keep it so, or back", lambda: window.session.take(alone=True),
                    lambda: window.session.take(alone=False),
                    lambda: window.session.take(alone=not window.session.now.alone)),
        "N": KeyUse("the frame under the pen fills the view", "the frame, or back to the page",
                    lambda: window.show_frame(True), lambda: window.show_frame(False),
                    lambda: window.show_frame(not window.frame_shown())),
        "K": KeyUse("the scan as it came, before it was cleaned", "keep it so, or back",
                    lambda: _as_scanned(window, True), lambda: _as_scanned(window, False),
                    lambda: _as_scanned(window, not sheet.layer.as_scanned)),
        "L": KeyUse("what the ink lost of the pencils, over the ink alone", "keep it so, or back",
                    lambda: _lost(window, True), lambda: _lost(window, False),
                    lambda: _lost(window, not sheet.layer.pencils_off)),
        ".": KeyUse("", "the next role, of the chosen lines or of the next one",
                    tap=lambda: step_role(window.session, 1)),
        ",": KeyUse("", "the role before", tap=lambda: step_role(window.session, -1)),
        "B": KeyUse("all margins away", "keep it so, or back", lambda: window.show_margins(False),
                    lambda: window.show_margins(True), lambda: window.show_margins(not window.margins_shown())),
    }  # fmt: skip
    for n in "123456789":
        uses[n] = _NibKey(window, partial(str, n)).use("that nib while held", "that nib")
    return uses


class _NibKey:
    """A key that takes a nib, or takes it only while it is held. key: the nib's number, or what gives it."""

    def __init__(self, window: "MainWindow", key: Callable[[], str]) -> None:
        self._main_window, self._key, self._before = window, key, ""

    def use(self, held: str, tapped: str) -> KeyUse:
        return KeyUse(held, tapped, self._hold, self._back, self._take)

    def _take(self) -> None:
        self._main_window.session.take(nib=self._key())

    def _hold(self) -> None:
        self._before = self._main_window.session.now.nib
        self._take()

    def _back(self) -> None:
        self._main_window.session.take(nib=self._before)


def step_role(session: Session, step: int) -> None:
    """The next or the previous role, of the chosen lines or of the next one."""
    lines = session.chosen_lines()
    now = session.job.rows.lines[lines[-1]].role if lines else session.now.role
    role = ROLES[(ROLES.index(now) + step) % len(ROLES)]
    if lines and session.make("set", lines=lines, role=role) is None:
        return
    if not lines:
        session.take(role=role)
    session.said.emit(f"{'The chosen lines are' if lines else 'The next line is'} **{role}**.", False)


def _fellow(session: Session) -> str:
    """The next nib of the group of the one in hand."""
    key = session.now.nib
    fellow = next_of_group(session.job.nibs(), key)
    if fellow == key:
        session.said.emit(f"Nib **{key}** is alone: give it and another the same group, at Pull, Nib.", False)
    return fellow


def _nib_step(session: Session, step: int) -> None:
    keys = list(session.job.nibs())
    at = keys.index(session.now.nib) + step
    if 0 <= at < len(keys):
        session.take(nib=keys[at])


def _ink_alone(window: "MainWindow", on: bool) -> None:
    window.sheet.layer.pencils_off = on
    window.sheet.redraw()


def _rehearse(window: "MainWindow", on: bool) -> None:
    window.session.take(rehearsing=on)


def _as_scanned(window: "MainWindow", on: bool) -> None:
    window.sheet.layer.as_scanned = on
    window.sheet.redraw()


def _lost(window: "MainWindow", on: bool) -> None:
    window.pencils().show_lost(on)
    _ink_alone(window, on)


def _toggle_pencils(window: "MainWindow") -> None:
    _ink_alone(window, not window.sheet.layer.pencils_off)


def _hand_only(window: "MainWindow", on: bool) -> None:
    window.sheet.layer.hand_only = on
    window.sheet.redraw()


def _last_off(window: "MainWindow") -> None:
    """The drawing without its last change; the job itself stays as it is."""
    job = window.session.job
    if job.history.head:
        window.sheet.show_then(job.history.steps[job.history.head].parent)


def _end_nudge(window: "MainWindow") -> None:
    """A key that was held a moment and not used was meant as a tap."""
    used = window.sheet.hold.used
    window.sheet.end_hold()
    if not used:
        window.sheet.choose_at(None, False)
