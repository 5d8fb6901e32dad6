"""The session: the open job with what is in hand and chosen. All the window talks to it."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.session.document import Document
from plain_stride.desk.session.drawing_link import DrawingLink
from plain_stride.desk.session.ink_words import ink_words, short_ink_words
from plain_stride.desk.session.saving import Saving
from plain_stride.desk.session.state import State, StateHolder
from plain_stride.desk.session.strip_picture import StripPicture
from plain_stride.desk.session.strokes import Strokes
from plain_stride.desk.session.timeline import Timeline
from plain_stride.desk.session.weigher import Weigher
from plain_stride.desk.workers.aside import Aside
from plain_stride.desk.workers.owned import owned
from plain_stride.hand.joining import NONE, Again
from plain_stride.hand.nib import SCREEN, Nib, Steadying
from plain_stride.job.changes import DEFAULT_PART, Made
from plain_stride.job.history import RowChange
from plain_stride.job.job import Job
from plain_stride.job.rows import Part


class Session(QObject):
    """document: the job and its changes; state: what is in hand and chosen; strokes, timeline, saving: what is done;
    drawing: asked of a worker beside the window.

    Signals of their own and of the document: changed, said; live_width (mm under the pen, None with it up); offered (a
    sentence, a verb, what it does).
    """

    live_width = Signal(object)
    offered = Signal(str, str, object)

    def __init__(self, path: Path) -> None:
        """Opens a job. Raises JobError."""
        super().__init__()
        self.document = document = owned(self, Document(path))
        self.job, self.shapes, self.covers = document.job, document.shapes, document.covers
        self.changed, self.said, self.updates = document.changed, document.said, document.updates
        toned = self.job.parts_of_tones()
        drawn = [part for part in self.job.parts() if part.id not in toned]
        self.state = owned(
            self, StateHolder(State(part=drawn[0].name if drawn else DEFAULT_PART, last_line=_newest_pull(self.job)))
        )
        self.strokes = owned(self, Strokes(document, self.state))
        self.timeline = owned(self, Timeline(document))
        self.saving = owned(self, Saving(document, self.strokes.coming))
        self.aside, self.drawing = Aside(), owned(self, DrawingLink(document))
        self.weigher = owned(self, Weigher(document, self.drawing))
        self._nibs: dict[str, Nib] = {}
        self.inked_share: float | None = None
        self.strip_picture: StripPicture | None = None
        document.changed.connect(self._job_changed)
        self.state.changed.connect(self._state_changed)

    @property
    def read_only(self) -> str:
        return self.document.read_only

    @property
    def now(self) -> State:
        return self.state.now

    # What is in hand

    @property
    def nib(self) -> Nib:
        if not self._nibs:
            self._nibs = self.job.nibs()
        return self._nibs[self.now.nib]

    @property
    def nib_now(self) -> Nib:
        """The nib in hand with the widths that it has on the paper as the board lies now."""
        return self.nib.on_paper(self.now.glass)

    @property
    def pulling_nib(self) -> Nib:
        """The nib as it pulls a line of the role in hand."""
        free = self.now.hand_alone or self.now.role in self.now.unsteadied
        return replace(self.nib_now, steadying=Steadying("off")) if free else self.nib_now

    @property
    def part(self) -> Part | None:
        return self.job.part_named(self.now.part)

    def parts_lately(self) -> list[str]:
        """Names of parts that were in hand before this one, the latest first."""
        return [name for name in self.now.lately if self.job.part_named(name) is not None]

    def take(self, **what: Any) -> None:
        """Takes another part, nib or role in hand, or another way to pull."""
        self.state.put(**what)

    def lies_at(self, glass: float) -> None:
        """The board shows a mm of the sheet as `glass` mm now: a nib held on the screen is another on the paper."""
        self.state.put(glass=glass)

    def guard(self) -> str:
        """Why a pull cannot begin now; empty when it can."""
        part = self.part
        if self.read_only:
            return f"{self.read_only}."
        if self.now.looking_back:
            return "You are looking at what was: let the key go to draw."
        if part is not None and part.locked:
            return f"Part '{part.name}' is locked: unlock it, or take another part."
        if part is not None and part.hidden:
            return f"Part '{part.name}' is hidden: show it, or take another part."
        return ""

    def draw_cover(self) -> None:
        """The next pull goes round the part in hand and becomes its cover."""
        if self.part is not None and not self.read_only:
            self.take(cover_of=self.part.name)
            self.said.emit(f"The next pull goes round **{self.part.name}**: it becomes its cover, not a line.", False)

    def arm_again(self) -> None:
        """The next pull belongs to the line in hand, or is a new line again."""
        key = self.shown_line()
        if not self.now.again and key is None:
            self.said.emit("There is no line yet that could be pulled again.", False)
            return
        self.take(again=not self.now.again)
        words = ("the next pull redoes the line in hand: its start for a take, on it for its tail, its end to go on; "
                 "from the line and back to it for the stretch between.")  # fmt: skip
        if key is not None and self.job.rows.lines[key].pull is None:
            words = "the next pull, from the line and back to it, draws the stretch between anew."
        self.said.emit(f"**Again:** {words}" if self.now.again else "The next pull is a new line.", False)

    def what_again(self, place: tuple[float, float]) -> Again:
        """What a pull that begins at a place (mm) would be of the line in hand."""
        if not self.now.again:
            return Again(NONE)
        return self.strokes.what_again(self.shown_line(), place, self.now.glass)

    # What is chosen

    @property
    def chosen(self) -> list[str]:
        """Lines and blacks."""
        return list(self.now.chosen)

    def choose(self, lines: list[str]) -> None:
        self.state.put(chosen=tuple(lines))

    def chosen_lines(self) -> list[str]:
        """What is chosen, without blacks."""
        return [key for key in self.now.chosen if key in self.job.rows.lines]

    def shown_line(self) -> str | None:
        """The line that the strip and the notes speak of: the one chosen, else the last one pulled."""
        lines = self.chosen_lines()
        key = lines[-1] if lines else None if self.now.chosen else self.now.last_line
        return key if key in self.job.rows.lines else None

    def shown_parts(self) -> set[str]:
        """Keys of parts whose lines can be chosen: those that are seen, and not dimmed."""
        alone = self.now.part if self.now.alone else None
        return {part.id for part in self.job.parts() if not part.hidden and alone in (None, part.name)}

    def locked_part(self, key: str) -> str:
        """The name of the part of a line or a black where it is locked; '' where it is open."""
        part = self.job.part_of(key)
        return part.name if part.locked else ""

    def words_of(self, key: str) -> str:
        """A line or a black in words: what and where it is."""
        return ink_words(self.job, self.shapes, key)

    def short_words_of(self, key: str) -> str:
        """A line or a black in few words."""
        return short_ink_words(self.job, self.shapes, key)

    # What is known of the pencils

    def know_inked(self, share: float | None) -> None:
        """So much of the pencils has ink; None where that is not known."""
        self.inked_share = share

    def show_on_strip(self, picture: StripPicture | None) -> None:
        """Shows pencils on the strip, until a line is chosen or pulled."""
        self.strip_picture = picture
        self.updates.wake()

    # Changing the job

    def make(self, change: str, /, **arguments: Any) -> Made | None:
        """Makes a named change; None, with the reason said, when it cannot be made."""
        return self.document.make(change, arguments)

    def make_several(self, wanted: list[tuple[str, dict[str, Any]]], words: str) -> Made | None:
        """Makes several changes as one step."""
        return self.document.make_several(wanted, words)

    def settle(self) -> None:
        """Makes lines of all pulls that were lifted, now: whatever comes next stands on them."""
        self.document.settle()

    def close(self) -> None:
        """Writes what waits and lets the file go."""
        self.settle()
        self.strokes.close()
        self.drawing.close()
        self.document.close()

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        self._nibs = {}
        self.state.put(chosen=tuple(key for key in self.now.chosen if self.job.inked(key) is not None))

    def _state_changed(self, before: State, now: State) -> None:
        if before.chosen != now.chosen or before.last_line != now.last_line:
            self.strip_picture = None
        if replace(before, glass=now.glass) != now or self.nib.held == SCREEN:
            self.updates.wake()


def _newest_pull(job: Job) -> str | None:
    """The line pulled last, so that a job opens with it on the strip."""
    for number in sorted(job.history.steps, reverse=True):
        for change in job.history.steps[number].rows:
            row = job.rows.lines.get(change.id) if change.table == "lines" and change.before is None else None
            if row is not None and row.tone is None:
                return change.id
    return None
