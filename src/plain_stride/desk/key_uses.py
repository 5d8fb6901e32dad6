"""What the keys of the free hand do in this window."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from plain_stride.desk.bench import Bench
from plain_stride.desk.keys import KeyUse
from plain_stride.desk.stations.weigh import toggle_plan
from plain_stride.form.roles import ROLES
from plain_stride.hand.nib import next_of_group

if TYPE_CHECKING:
    from plain_stride.desk.shell import Shell

SWELL_STEP = 2.0**0.25


def key_uses(shell: "Shell") -> dict[str, KeyUse]:
    """Keys by their place on a US board. `shell.bench` and `shell.sheet` are looked up when a key is used."""
    sheet = shell.sheet

    def held(what: str) -> dict[str, object]:
        return {"hold": lambda: sheet.begin_hold(what), "let_go": sheet.end_hold}

    fellow = _NibKey(shell, lambda: _fellow(shell.bench))
    uses = {
        "A": KeyUse("ink alone, pencils gone", "keep it so, or back", lambda: _ink_alone(shell, True),
                    lambda: _ink_alone(shell, False), lambda: _toggle_pencils(shell)),
        "S": KeyUse("swell the line under the pen: up is heavier", "nib one step heavier",
                    tap=lambda: _nib_step(shell.bench, 1), **held("swell")),  # type: ignore[arg-type]
        "E": KeyUse("shave the line under the pen: up is lighter", "nib one step lighter",
                    tap=lambda: _nib_step(shell.bench, -1), **held("shave")),  # type: ignore[arg-type]
        "D": KeyUse("move the board", "fit the board", tap=sheet.fit, **held("move")),  # type: ignore[arg-type]
        "F": KeyUse("turn the board", "upright", tap=sheet.upright, **held("turn")),  # type: ignore[arg-type]
        "C": fellow.use("the other nib of the group, while held", "the next nib of the group"),
        "G": KeyUse("enlarge or reduce round the pen", "100 % of print size",
                    tap=sheet.print_size, **held("enlarge")),  # type: ignore[arg-type]
        "H": KeyUse("the plan lifted off: widths of the hand", "lift it off, or lay it again",
                    lambda: _hand_only(shell, True), lambda: _hand_only(shell, False),
                    lambda: toggle_plan(shell.bench)),
        "W": KeyUse("nudge the line under the pen; on empty paper, draw round lines to choose them",
                    "choose the line under the pen", lambda: sheet.begin_hold("nudge"), lambda: _end_nudge(shell),
                    lambda: sheet.choose_at(None, False)),
        "Q": KeyUse("before: the drawing as it was at the last mark", "set the mark",
                    lambda: sheet.show_then(shell.bench.step_before()), sheet.show_now,
                    lambda: shell.bench.mark_now()),
        "U": KeyUse("true print size: the ink alone, as large as it will be", "keep it so, or back",
                    lambda: shell.show_print(True), lambda: shell.show_print(False),
                    lambda: shell.show_print(not shell.print_shown())),
        "X": KeyUse("mirror", "mirror, or back", sheet.mirror, sheet.mirror, sheet.mirror),
        "J": KeyUse("mirror top to bottom", "mirror top to bottom, or back", sheet.mirror_down, sheet.mirror_down,
                    sheet.mirror_down),
        "Y": KeyUse("trim: the stretch under the pen shown", "trim it", tap=sheet.trim_under,
                    **held("trim")),  # type: ignore[arg-type]
        "Z": KeyUse("the last change off, to compare", "take it back", lambda: _last_off(shell), sheet.show_now,
                    lambda: shell.bench.undo()),
        "V": KeyUse("the strip, large", "strip folded, or back", lambda: shell.enlarge_strip(True),
                    lambda: shell.enlarge_strip(False), shell.fold_strip),
        "R": KeyUse("rehearse: the pull is shown, not kept",
                    "again: the next pull redoes the line, its tail, or goes on from its end",
                    lambda: _rehearse(shell, True), lambda: _rehearse(shell, False), lambda: arm_again(shell.bench)),
        "T": KeyUse("the way your hand likes", "turn the pencil line under the pen that way, or back",
                    lambda: shell.turning.show(True), lambda: shell.turning.show(False), shell.turning.turn),
        "O": KeyUse("other parts dimmed", "keep it so, or back", lambda: shell.bench.take(alone=True),
                    lambda: shell.bench.take(alone=False),
                    lambda: shell.bench.take(alone=not shell.bench.in_hand.alone)),
        "N": KeyUse("the frame under the pen fills the view", "the frame, or back to the page",
                    lambda: shell.show_frame(True), lambda: shell.show_frame(False),
                    lambda: shell.show_frame(not shell.frame_shown())),
        "K": KeyUse("the scan as it came, before it was cleaned", "keep it so, or back",
                    lambda: _as_scanned(shell, True), lambda: _as_scanned(shell, False),
                    lambda: _as_scanned(shell, not sheet.layer.as_scanned)),
        "L": KeyUse("what the ink lost of the pencils, over the ink alone", "keep it so, or back",
                    lambda: _lost(shell, True), lambda: _lost(shell, False),
                    lambda: _lost(shell, not sheet.layer.pencils_off)),
        ".": KeyUse("", "the next role, of the chosen lines or of the next one",
                    tap=lambda: step_role(shell.bench, 1)),
        ",": KeyUse("", "the role before", tap=lambda: step_role(shell.bench, -1)),
        "B": KeyUse("all margins away", "keep it so, or back", lambda: shell.show_margins(False),
                    lambda: shell.show_margins(True), lambda: shell.show_margins(not shell.margins_shown())),
    }  # fmt: skip
    for n in "123456789":
        uses[n] = _NibKey(shell, partial(str, n)).use("that nib while held", "that nib")
    return uses


class _NibKey:
    """A key that takes a nib, or takes it only while it is held. key: the nib's number, or what gives it."""

    def __init__(self, shell: "Shell", key: Callable[[], str]) -> None:
        self._shell, self._key, self._before = shell, key, ""

    def use(self, held: str, tapped: str) -> KeyUse:
        return KeyUse(held, tapped, self._hold, self._back, self._take)

    def _take(self) -> None:
        self._shell.bench.take(nib=self._key())

    def _hold(self) -> None:
        self._before = self._shell.bench.in_hand.nib
        self._take()

    def _back(self) -> None:
        self._shell.bench.take(nib=self._before)


def step_role(bench: Bench, step: int) -> None:
    """The next or the previous role, of the chosen lines or of the next one."""
    lines = bench.chosen_lines()
    now = bench.job.rows.lines[lines[-1]].role if lines else bench.in_hand.role
    role = ROLES[(ROLES.index(now) + step) % len(ROLES)]
    if lines and bench.make("set", lines=lines, role=role) is None:
        return
    if not lines:
        bench.take(role=role)
    bench.said.emit(f"{'The chosen lines are' if lines else 'The next line is'} **{role}**.", False)


def _fellow(bench: Bench) -> str:
    """The next nib of the group of the one in hand."""
    key = bench.in_hand.nib
    fellow = next_of_group(bench.job.nibs(), key)
    if fellow == key:
        bench.said.emit(f"Nib **{key}** is alone: give it and another the same group, at Pull, Nib.", False)
    return fellow


def _nib_step(bench: Bench, step: int) -> None:
    keys = list(bench.job.nibs())
    at = keys.index(bench.in_hand.nib) + step
    if 0 <= at < len(keys):
        bench.take(nib=keys[at])


def _ink_alone(shell: "Shell", on: bool) -> None:
    shell.sheet.layer.pencils_off = on
    shell.sheet.redraw()


def _rehearse(shell: "Shell", on: bool) -> None:
    shell.sheet.rehearsing = on


def arm_again(bench: Bench) -> None:
    """The next pull belongs to the line in hand, or is a new line again."""
    if not bench.again and bench.shown_line() is None:
        bench.said.emit("There is no line yet that could be pulled again.", False)
        return
    key = bench.shown_line()
    if not bench.again and key is not None and bench.job.rows.lines[key].pull is None:
        bench.said.emit("That line was drawn, not pulled: there is no pull of it to redo. Pull a new line.", False)
        return
    bench.again = not bench.again
    words = "the next pull redoes the line in hand: its start for a take, on it for its tail, its end to go on."
    bench.said.emit(f"**Again:** {words}" if bench.again else "The next pull is a new line.", False)
    bench.chosen_changed.emit()


def _as_scanned(shell: "Shell", on: bool) -> None:
    shell.sheet.layer.as_scanned = on
    shell.sheet.redraw()


def _lost(shell: "Shell", on: bool) -> None:
    shell.pencils().show_lost(on)
    _ink_alone(shell, on)


def _toggle_pencils(shell: "Shell") -> None:
    _ink_alone(shell, not shell.sheet.layer.pencils_off)


def _hand_only(shell: "Shell", on: bool) -> None:
    shell.sheet.layer.hand_only = on
    shell.sheet.redraw()


def _last_off(shell: "Shell") -> None:
    """The drawing without its last change; the job itself stays as it is."""
    job = shell.bench.job
    if job.history.head:
        shell.sheet.show_then(job.history.steps[job.history.head].parent)


def _end_nudge(shell: "Shell") -> None:
    """A key that was held a moment and not used was meant as a tap."""
    used = shell.sheet.hold.used
    shell.sheet.end_hold()
    if not used:
        shell.sheet.choose_at(None, False)
