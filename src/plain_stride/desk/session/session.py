"""The session: the open job with what is in hand (part, nib, role, chosen lines). All the window talks to it."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from plain_stride.desk.session.step_words import step_words
from plain_stride.desk.session.strip_picture import StripPicture
from plain_stride.desk.workers.aside import Aside
from plain_stride.desk.workers.finisher import Coming, Finisher
from plain_stride.desk.workers.latest_only import LatestOnly
from plain_stride.desk.workers.laying import Laying
from plain_stride.desk.workers.update_scheduler import UpdateScheduler
from plain_stride.desk.workers.writer_thread import WriterThread
from plain_stride.errors import StrideError
from plain_stride.form.cover import BRIDGE_MM
from plain_stride.hand.advice import Thresholds
from plain_stride.hand.follow import Guides, line_followed
from plain_stride.hand.joining import NONE, SECTION, TAIL, TAKE, Again, what_again
from plain_stride.hand.nib import SCREEN, Nib, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.job.changes import DEFAULT_PART, DEFAULT_TIER, Made, make, make_all
from plain_stride.job.covers import Covers
from plain_stride.job.errors import JobError
from plain_stride.job.history import RowChange
from plain_stride.job.job import Part, open_job
from plain_stride.job.laying_out import sheets_of
from plain_stride.job.records import PartRecord
from plain_stride.job.shapes import Shapes
from plain_stride.job.store import beside
from plain_stride.lines.affine import Affine
from plain_stride.lines.centre import Centreline, Following, centreline_of
from plain_stride.lines.curve import flatten
from plain_stride.texts import counted

AGAIN_WORDS = {TAKE: "Another take of the line.", TAIL: "Its tail is pulled anew.",
               SECTION: "The line goes on."}  # fmt: skip
AGAIN_MM = 0.25
"""Apart of the places on a line from which its tail may be pulled."""
COVER_MM = 0.01
"""How near the outline of a drawn cover keeps to its pull."""


@dataclass(frozen=True)
class InHand:
    """What the next pull is made with. part: its name; unsteadied: roles whose pulls are left to the hand;
    alone: whether other parts are shown dimmed."""

    part: str = DEFAULT_PART
    nib: str = "3"
    role: str = "outer"
    unsteadied: frozenset[str] = frozenset()
    alone: bool = False


class Session(QObject):
    """Signals: changed (rows that changed), chosen (ids), in_hand, said (a sentence, and whether it is a fault),
    saving (commits that wait), live_width (mm, None with the pen up), tried_changed (the centreline that another
    steadying would give, or None).

    `updates` has the facts beside the sheet shown anew, a moment after changes.
    """

    changed = Signal(object)
    chosen_changed = Signal()
    in_hand_changed = Signal()
    said = Signal(str, bool)
    saving = Signal(int)
    live_width = Signal(object)
    tried_changed = Signal(object)
    marked = Signal()

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.read_only = ""
        try:
            self.job, store = open_job(path, write=True)
        except JobError as fault:
            self.job, store = open_job(path, write=False)
            self.read_only = str(fault)
        self.shapes = Shapes(self.job, store)
        self.covers = Covers(self.job, self.shapes)
        for _, row in self.job.pencils():
            if row.image is not None:
                self.job.image(str(row.image))
        self.writer = WriterThread(store)
        self.writer.saved.connect(self._tell_saving)
        self.writer.failed.connect(self._say_unsaved)
        self.writer.moved.connect(self._moved)
        self.writer.overwritten.connect(self._go_on_beside)
        self.writer.packed.connect(self._say_packed)
        self.writer.sized.connect(self._say_sizes)
        self.updates = UpdateScheduler()
        self.aside, self.laying = Aside(), Laying()
        self._tried_by = LatestOnly()
        self._tried_by.answered.connect(self._show_tried)
        self._finisher = Finisher()
        self._finisher.worked.connect(self._lay_worked)
        self._laid: tuple[Made | None, Coming | None] = (None, None)
        self._nibs: dict[str, Nib] = {}
        self.chosen: list[str] = []
        self.last_line = self._newest_pull()
        self.share_before = 100.0
        self.drawing_cover = ""
        self.again = False
        self.glass = 1.0
        self.thresholds = Thresholds()
        self.follow_share = 0.0
        self.guides = Guides()
        self.tried: np.ndarray | None = None
        self.inked_share: float | None = None
        self.strip_picture: StripPicture | None = None
        self.opened_at = self.job.history.head
        self.looking_back = False
        self.why_unsaved = ""
        parts = self.job.parts()
        self.in_hand = InHand(part=parts[0].name if parts else DEFAULT_PART)

    def _newest_pull(self) -> str | None:
        """The line pulled last, so that a job opens with it on the strip."""
        for number in sorted(self.job.history.steps, reverse=True):
            for change in self.job.history.steps[number].rows:
                if change.table == "lines" and change.id in self.job.rows.lines and change.before is None:
                    return change.id
        return None

    def _say_packed(self, before: int, after: int, history: int) -> None:
        mb = [f"**{size / 1e6:.1f} MB**" for size in (before, after, history)]
        self.said.emit(f"The file took {mb[0]} and takes {mb[1]} now, {mb[2]} of it history, all there.", False)

    def _say_sizes(self, whole: int, history: int) -> None:
        mb = [f"**{size / 1e6:.1f} MB**" for size in (whole, history)]
        self.said.emit(f"The file takes {mb[0]}; the steps of its history take {mb[1]} of it.", False)

    def mark(self, name: str) -> None:
        """Names this moment of the history."""
        if not self._writable():
            return
        self.settle()
        try:
            step = self.job.history.set_mark(name)
        except StrideError as fault:
            self.said.emit(str(fault), True)
            return
        self.writer.run(lambda store: store.mark(name, step))
        self.said.emit(f"Marked as **{name}**.", False)
        self.marked.emit()

    def mark_now(self) -> None:
        """Marks this moment by a name of its own, once however often it is asked for."""
        job = self.job
        here = next((name for name, step in job.history.marks.items() if step == job.history.head), None)
        if here is not None:
            self.said.emit(f"This moment is marked already, as **{here}**.", False)
            return
        base = f"{datetime.now():%d %B %H:%M}, {counted(len(job.rows.lines), 'line')}"
        names = (base if n == 1 else f"{base} ({n})" for n in range(1, 10_000))
        self.mark(next(name for name in names if name not in job.history.marks))

    def step_before(self) -> int:
        """What the drawing is compared with: the last mark that is not now, else how it was when it was opened."""
        job = self.job
        marks = [step for step in job.history.marks.values() if step != job.history.head]
        return marks[-1] if marks else self.opened_at if self.opened_at in (*job.history.steps, 0) else 0

    def go_to(self, step: int) -> None:
        """Goes to a step of any way; the way that is left stays."""
        if not self._writable():
            return
        self.settle()
        try:
            commit = self.job.go_to(step)
        except StrideError as fault:
            self.said.emit(str(fault), True)
            return
        if commit is not None:
            self._written(commit.rows)
            self.writer.put(commit)
            self.said.emit("You are there now; the way you left is in the history.", False)

    def forget_before(self, mark: str) -> None:
        """Lets the history begin at a mark, in the file first; the file is packed by it."""
        self.settle()
        before = len(self.job.history.steps)
        try:
            forgetting = self.job.forgetting(mark)
            self.writer.do(lambda store: store.forget(forgetting))
        except StrideError as fault:
            self.said.emit(f"{fault}. Nothing was forgotten.", True)
            return
        self.job.forget(forgetting)
        self.writer.pack()
        self.said.emit(
            f"**{before - len(self.job.history.steps)}** steps are forgotten; undo ends at **{mark}**.", False
        )

    def _moved(self, path: str) -> None:
        old, self.job.path = self.job.path, Path(path)
        if self.job.path == old:
            words = f"{old.name} was deleted or moved: it has been put back whole, and you go on in it."
        else:
            words = f"Another file has taken the place of {old.name}: this job goes on as {self.job.path.name}."
        self.said.emit(words, True)

    def _go_on_beside(self, words: str) -> None:
        """The file holds another program's work now: what is here goes into a file beside it."""
        old, to = self.job.path, beside(self.job.path)
        try:
            self.save_as(to)
        except StrideError as fault:
            self.said.emit(f"{words}. What you drew is still here, and could not be saved beside it: {fault}.", True)
            return
        self.said.emit(f"Another program has written into {old.name}: this job goes on, whole, as {to.name}.", True)

    def save_as(self, path: Path) -> None:
        """Writes the whole job to another file and goes on there. Raises StrideError, all as it was."""
        self.writer.go_on_as(path, self.job.whole())
        self.job.path = path
        self._tell_saving()

    def unsaved(self) -> int:
        """How many changes are in memory alone, after all was tried to write them."""
        if self.read_only:
            return 0
        try:
            self.save_all()
        except StrideError:
            return self.writer.pending()
        return 0

    def _say_unsaved(self, words: str) -> None:
        self.why_unsaved = words
        self.said.emit(f"{words}. What you drew is still here: try again.", True)

    # What is in hand

    @property
    def nib(self) -> Nib:
        if not self._nibs:
            self._nibs = self.job.nibs()
        return self._nibs[self.in_hand.nib]

    @property
    def nib_now(self) -> Nib:
        """The nib in hand with the widths that it has on the paper as the board lies now."""
        return self.nib.on_paper(self.glass)

    @property
    def pulling_nib(self) -> Nib:
        """The nib as it pulls a line of the role in hand."""
        free = self.in_hand.role in self.in_hand.unsteadied
        return replace(self.nib_now, steadying=Steadying("off")) if free else self.nib_now

    def lies_at(self, glass: float) -> None:
        """The board shows a mm of the sheet as `glass` mm now: a nib held on the screen is another on the paper."""
        if glass != self.glass:
            self.glass = glass
            if self.nib.held == SCREEN:
                self.updates.wake()

    @property
    def part(self) -> Part | None:
        return self.job.part_named(self.in_hand.part)

    def take(self, **what: Any) -> None:
        """Takes another part, nib or role in hand, or other roles that are not steadied."""
        new = replace(self.in_hand, **what)
        if new != self.in_hand:
            self.in_hand = new
            self.in_hand_changed.emit()
            self.updates.wake()

    def choose(self, lines: list[str]) -> None:
        if lines != self.chosen:
            self.chosen, self.strip_picture = lines, None
            self.chosen_changed.emit()
            self.updates.wake()

    def show_on_strip(self, picture: StripPicture | None) -> None:
        """Shows pencils on the strip, until a line is chosen or pulled."""
        self.strip_picture = picture
        self.updates.wake()

    def shown_line(self) -> str | None:
        """The line that the strip and the notes speak of: the one chosen, else the last one pulled."""
        lines = self.chosen_lines()
        key = lines[-1] if lines else None if self.chosen else self.last_line
        return key if key in self.job.rows.lines else None

    def chosen_lines(self) -> list[str]:
        """What is chosen, without blacks."""
        return [key for key in self.chosen if key in self.job.rows.lines]

    def shown_parts(self) -> set[str]:
        """Keys of parts whose lines can be chosen: those that are seen, and not dimmed."""
        alone = self.in_hand.part if self.in_hand.alone else None
        return {part.id for part in self.job.parts() if not part.hidden and alone in (None, part.name)}

    def locked_part(self, key: str) -> str:
        """The name of the part of a line or a black where it is locked; '' where it is open."""
        part = self.job.part_of(key)
        return part.name if part.locked else ""

    def words_of(self, key: str) -> str:
        """A line or a black in words: what and where it is."""
        part = self.job.part_of(key)
        if key in self.job.rows.blacks:
            x0, y0, x1, y1 = self.shapes.black(key).box
            return f"{part.name} ({part.tier}): black, {x1 - x0:.1f} × {y1 - y0:.1f} mm"
        shape = self.shapes[key]
        full = shape.widths.full
        lock = ", locked" if part.locked else ""
        return (
            f"{part.name} ({part.tier}): {self.job.rows.lines[key].role}, {shape.length:.1f} mm long,"
            f" {full.min():.2f} to {full.max():.2f} mm wide{lock}"
        )

    def short_words_of(self, key: str) -> str:
        """A line or a black in few words."""
        name = self.job.part_of(key).name
        if key in self.job.rows.blacks:
            return f"black · {name}"
        shape = self.shapes[key]
        return f"{self.job.rows.lines[key].role}, {shape.length:.0f} mm, {shape.widths.full.max():.2f} mm wide · {name}"

    def guard(self) -> str:
        """Why a pull cannot begin now; empty when it can."""
        part = self.part
        if self.read_only:
            return f"{self.read_only}."
        if self.looking_back:
            return "You are looking at what was: let the key go to draw."
        if part is not None and part.locked:
            return f"Part '{part.name}' is locked: unlock it, or take another part."
        if part is not None and part.hidden:
            return f"Part '{part.name}' is hidden: show it, or take another part."
        return ""

    # Changing the job

    def make(self, change: str, /, **arguments: Any) -> Made | None:
        """Makes a named change; None, with the reason said, when it cannot be made."""
        self.settle()
        return self._made(lambda: make(self.job, self.shapes, change, arguments))

    def make_several(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> Made | None:
        """Makes several changes as one step."""
        self.settle()
        return self._made(lambda: make_all(self.job, self.shapes, wanted, words))

    def lay_import(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> Made | None:
        """Makes the changes of an import as one step; its lines are worked out beside the window first."""
        if not self._writable():
            return None
        self.settle()
        changes, sheets = sheets_of(self.job, wanted)
        try:
            lines = self.laying.worked(sheets)
        except StrideError as fault:
            self.said.emit(f"{fault}. The job is as it was.", True)
            return None
        self.settle()
        self.shapes.expect_all(zip((sheet.source for sheet in sheets), lines, strict=True))
        try:
            return self._made(lambda: make_all(self.job, self.shapes, changes, words))
        finally:
            self.shapes.expect_all(())

    def lay_pull(
        self,
        samples: np.ndarray,
        view: View,
        device: str,
        clock: str,
        laid: Callable[[str | None], object] = lambda line: None,
    ) -> None:
        """Begins to make a line of a pull; `laid` is told its id soon after, or None where it could not be made."""
        pull = Pull(samples, self.pulling_nib, view, device, clock)
        hand, part = self.in_hand, self.part
        follow = self._followed(pull)
        prepare = self.shapes.preparing(pull, hand.role, part.tier if part is not None else DEFAULT_TIER, follow)
        told = None if follow is None else {"share": follow.share, "line": follow.line.tolist()}
        arguments = {"pull": pull, "part": hand.part, "role": hand.role, "follow": told}
        self._finisher.put(arguments, prepare, laid)
        self._tell_saving()

    def _followed(self, pull: Pull) -> Following | None:
        """How a pull follows the pencil line that it runs along; None where it follows none."""
        if self.follow_share <= 0.0:
            return None
        line = line_followed(pull.samples[:, :2], self.guides)
        return None if line is None else Following(self.follow_share, np.round(line, 3))

    def what_again(self, place: tuple[float, float], glass: float) -> Again:
        """What a pull that begins at a place (mm) would be of the line in hand; glass: mm on the glass for one."""
        key = self.shown_line()
        row = self.job.rows.lines.get(key) if key is not None else None
        if row is None or row.pull is None:
            return Again(NONE)
        shape = self.shapes[key]  # type: ignore[index]
        s = np.linspace(0.0, shape.length, max(2, round(shape.length / AGAIN_MM)))
        return what_again(np.array(place), shape.arc.point(s), np.interp(s, shape.s, shape.own), glass)

    def other_takes(self) -> list[np.ndarray]:
        """Centrelines (n, 2) mm of the takes of the line in hand that are not chosen."""
        key = self.shown_line()
        chosen = self.job.rows.lines[key].pull if key is not None else None
        return [points for take, points in self.takes().items() if take != chosen]

    def try_steadying(self, setting: Steadying | None) -> None:
        """Shows over the ink, soon, where another steadying would put the line in hand; None puts that away."""
        key = self.shown_line()
        row = self.job.rows.lines.get(key) if key is not None else None
        if setting is None or row is None or row.pull is None:
            self._tried_by.forget()
            self._show_tried(None)
            return
        pull, following, matrix = self.job.pull(row.pull), row.follow, row.matrix

        def work() -> Centreline:
            centre = centreline_of(pull, setting, following)
            return centre if matrix is None else replace(centre, curve=matrix.of(centre.curve))

        self._tried_by.ask(work)

    def _show_tried(self, centre: Centreline | None) -> None:
        self.tried = flatten(centre.curve, COVER_MM) if centre is not None else None
        self.tried_changed.emit(centre)

    def takes(self) -> dict[str, np.ndarray]:
        """Centrelines (n, 2) mm of all takes of the line in hand, by their pulls' keys."""
        key = self.shown_line()
        row = self.job.rows.lines.get(key) if key is not None else None
        if row is None or row.pull is None:
            return {}
        matrix = row.matrix or Affine()
        rows = {k: replace(row, pull=k, fixed=None) for k in row.tried}
        return {k: matrix.of(flatten(self.shapes.centre(one).curve, COVER_MM)) for k, one in rows.items()}

    def lay_again(
        self, found: Again, samples: np.ndarray, view: View, device: str, clock: str,
        laid: Callable[[str | None], object] = lambda line: None,
    ) -> None:  # fmt: skip
        """Makes a pull another take of the line in hand, its tail, or its next section."""
        key = self.shown_line()
        pull = Pull(samples, self.nib_now, view, device, clock)
        made = self.make("again", line=key, pull=pull, what=found.what, at=found.at)
        if made is not None:
            self.last_line = key
            n = len(self.job.rows.lines[str(key)].takes or ())
            self.said.emit(f"**{AGAIN_WORDS[found.what]}** It has {n} takes now, all kept.", False)
        laid(key if made is not None else None)

    def coming(self) -> int:
        """Pulls that were lifted and are not shown as lines yet."""
        return len(self._finisher) + (self._laid[1] is not None)

    def settle(self) -> None:
        """Makes lines of all pulls that were lifted, now: whatever comes next stands on them."""
        while coming := self._finisher.take(wait=True):
            self._lay(coming)
        self._tell_laid()

    def _lay_worked(self) -> None:
        if coming := self._finisher.take(wait=False):
            self._lay(coming)
            # Shown in a turn of the event loop of its own, so that the pen waits for neither.
            QTimer.singleShot(0, self._tell_laid)

    def _lay(self, coming: Coming) -> None:
        self._tell_laid()
        # Where working it out failed, the change itself fails the same way, and says so.
        self.shapes.expect(coming.work.result() if coming.work.exception() is None else None)
        made = self._made(lambda: make(self.job, self.shapes, "pull", coming.arguments), tell=False)
        self.shapes.expect(None)
        self._laid = (made, coming)

    def _tell_laid(self) -> None:
        """Tells of a line that was laid last, where that is still to do."""
        (made, coming), self._laid = self._laid, (None, None)
        if coming is None:
            return
        if made is not None and made.commit is not None:
            self.last_line, self.strip_picture = made.results[0], None
            self._written(made.commit.rows)
            self._tell_cover(made.commit.rows)
            self.choose([])
        self._tell_saving()
        coming.laid(made.results[0] if made is not None else None)

    def _tell_saving(self) -> None:
        self.saving.emit(self.writer.pending() + self.coming())

    def draw_cover(self) -> None:
        """The next pull goes round the part in hand and becomes its cover."""
        if self.part is not None and not self.read_only:
            self.drawing_cover = self.part.name
            self.said.emit(f"The next pull goes round **{self.part.name}**: it becomes its cover, not a line.", False)

    def lay_cover(self, samples: np.ndarray, view: View) -> None:
        """Makes the cover that was asked for of a pull, closed straight from its end to its start."""
        name, self.drawing_cover = self.drawing_cover, ""
        try:
            curve = centreline_of(Pull(samples, self.nib, view), Steadying()).curve
        except StrideError as fault:
            self.said.emit(str(fault), True)
            return
        self.make("cover", name=name, on=True, shape=[flatten(curve, COVER_MM).tolist()])

    def _tell_cover(self, rows: tuple[RowChange, ...]) -> None:
        """Says why a cover that was put on hides nothing."""
        for change in rows:
            after = change.after
            if isinstance(after, PartRecord) and after.cover and not after.hidden and self.covers.of(change.id) is None:
                self.said.emit(
                    f"The outer lines of **{after.name}** enclose nothing yet, gaps up to {BRIDGE_MM:g} mm bridged:"
                    " close them, or draw its edge.",
                    False,
                )

    def undo(self) -> None:
        if not self._writable():
            return
        self.settle()
        step = self.job.history.steps.get(self.job.history.head)
        commit = self.job.undo()
        if commit is None:
            self.said.emit("Nothing is left to take back: this is the empty job.", False)
            return
        self._written(commit.rows)
        self.writer.put(commit)
        self.said.emit(f"Taken back: {step_words(self.job, step.id) if step else ''}.", False)

    def redo(self) -> None:
        if not self._writable():
            return
        self.settle()
        commit = self.job.redo()
        if commit is None:
            self.said.emit("There is nothing to do again.", False)
            return
        self._written(commit.rows)
        self.writer.put(commit)
        self.said.emit(f"Done again: {step_words(self.job, self.job.history.head)}.", False)

    def save_all(self) -> None:
        """Waits until all is in the file. Raises StrideError when it cannot be written."""
        self.settle()
        self.writer.do(lambda store: None)

    def close(self) -> None:
        """Writes what waits and lets the file go."""
        self.settle()
        self.updates.close()
        self._tried_by.close()
        self._finisher.close()
        self.laying.close()
        self.writer.close()

    def _writable(self) -> bool:
        """Whether the job may be changed; says why where it may not."""
        if self.read_only:
            self.said.emit(f"{self.read_only}.", True)
        return not self.read_only

    def _made(self, work: Callable[[], Made], tell: bool = True) -> Made | None:
        """Does what makes a change and has it written; tell: says at once to all that look on that it was made."""
        if not self._writable():
            return None
        try:
            made = work()
        except StrideError as fault:
            self.said.emit(str(fault), True)
            return None
        if made.commit is not None:
            self.writer.put(replace(made.commit, fits=self.shapes.fresh_fits()))
            if tell:
                self._tell_saving()
                self._written(made.commit.rows)
                self._tell_cover(made.commit.rows)
        return made

    def _written(self, rows: tuple[RowChange, ...]) -> None:
        self._nibs = {}
        self.choose([key for key in self.chosen if self.job.inked(key) is not None])
        self.changed.emit(rows)
        self.updates.wake()
