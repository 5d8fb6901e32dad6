"""Pulls on their way to lines: laid as new ones, as takes, tails and sections, as covers; and steadyings tried."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from plain_stride.desk.session.document import Document
from plain_stride.desk.session.state import StateHolder
from plain_stride.desk.workers.finisher import Coming, Finisher
from plain_stride.desk.workers.latest_only import LatestOnly
from plain_stride.desk.workers.owned import owned
from plain_stride.errors import StrideError
from plain_stride.hand.follow import Guides, line_followed
from plain_stride.hand.joining import NONE, ON_MM, SECTION, STRETCH, TAIL, TAKE, Again, comes_back, what_again
from plain_stride.hand.nib import Nib, Steadying
from plain_stride.hand.pull import Pull, View
from plain_stride.job.changes import DEFAULT_TIER, Made, make
from plain_stride.job.line_fields import plain_follow
from plain_stride.job.records import LineRecord
from plain_stride.lines.affine import Affine
from plain_stride.lines.centre import Centreline, Following, centreline_of
from plain_stride.lines.curve import flatten

AGAIN_WORDS = {TAKE: "Another take of the line.", TAIL: "Its tail is pulled anew.",
               SECTION: "The line goes on.", STRETCH: "A stretch of it is drawn anew."}  # fmt: skip
AGAIN_MM = 0.25
"""Apart of the places on a line from which its tail may be pulled."""
COVER_MM = 0.01
"""How near the outline of a drawn cover keeps to its pull."""
Laid = Callable[[str | None], object]


def _to_nobody(line: str | None) -> None:
    """The line is told to nobody."""


class Strokes(QObject):
    """guides: the pencil lines that are known. tried_changed: the centreline
    that another steadying would give, or None."""

    tried_changed = Signal(object)

    def __init__(self, document: Document, state: StateHolder) -> None:
        super().__init__()
        self._document, self._job, self._shapes, self._state = document, document.job, document.shapes, state
        self.guides = Guides()
        self.tried: np.ndarray | None = None
        self._tried_by = owned(self, LatestOnly())
        self._tried_by.answered.connect(self._show_tried)
        self._finisher = owned(self, Finisher())
        self._finisher.worked.connect(self._lay_worked)
        self._laid: tuple[Made | None, Coming | None] = (None, None)
        document.settled_by(self.settle)

    def know(self, guides: Guides) -> None:
        """Pulls follow these pencil lines from now on."""
        self.guides = guides

    # New lines

    def lay(self, samples: np.ndarray, nib: Nib, view: View, device: str, clock: str, laid: Laid = _to_nobody) -> None:
        """Begins to make a line of a pull; `laid` is told its id soon after, or None where it could not be made."""
        pull, hand = Pull(samples, nib, view, device, clock), self._state.now
        part = self._job.part_named(hand.part)
        follow = self._followed(pull)
        prepare = self._shapes.preparing(pull, hand.role, part.tier if part is not None else DEFAULT_TIER, follow)
        told = plain_follow(follow) if follow is not None else None
        arguments = {"pull": pull, "part": hand.part, "role": hand.role, "follow": told,
                     "symmetry": hand.symmetry.as_json() if hand.symmetry is not None else None}  # fmt: skip
        self._finisher.put(arguments, prepare, laid)
        self._document.put.emit()

    def _followed(self, pull: Pull) -> Following | None:
        """How a pull follows the rail that is laid, or the pencil line that it runs along; None where there is none."""
        rail = self._state.now.rail
        if rail is not None:
            along = rail.line_for(pull.samples[:, :2])
            if along is not None:
                return Following(1.0, np.round(along, 3), True)
        share = self._state.now.follow_share
        if share <= 0.0:
            return None
        line = line_followed(pull.samples[:, :2], self.guides)
        return None if line is None else Following(share, np.round(line, 3))

    def coming(self) -> int:
        """Pulls that were lifted and are not shown as lines yet."""
        return len(self._finisher) + (self._laid[1] is not None)

    def settle(self) -> None:
        """Makes lines of all pulls that were lifted, now."""
        while coming := self._finisher.take(wait=True):
            self._lay(coming)
        self._tell_laid()

    def close(self) -> None:
        self._tried_by.close()
        self._finisher.close()

    def _lay_worked(self) -> None:
        if coming := self._finisher.take(wait=False):
            self._lay(coming)
            # Shown in a turn of the event loop of its own, so that the pen waits for neither.
            QTimer.singleShot(0, self._tell_laid)

    def _lay(self, coming: Coming) -> None:
        self._tell_laid()
        # Where working it out failed, the change itself fails the same way, and says so.
        self._shapes.expect(coming.work.result() if coming.work.exception() is None else None)
        made = self._document.made(lambda: make(self._job, self._shapes, "pull", coming.arguments), tell=False)
        self._shapes.expect(None)
        self._laid = (made, coming)

    def _tell_laid(self) -> None:
        """Tells of a line that was laid last, where that is still to do."""
        (made, coming), self._laid = self._laid, (None, None)
        if coming is None:
            return
        if made is not None and made.commit is not None:
            self._document.tell(made.commit.rows)
            self._state.put(last_line=made.results[0], chosen=())
        self._document.put.emit()
        coming.laid(made.results[0] if made is not None else None)

    # The line in hand, pulled again

    def _row(self, line: str | None) -> LineRecord | None:
        """The row of a line that has a pull; None for any other."""
        row = self._job.rows.lines.get(line) if line is not None else None
        return row if row is not None and row.pull is not None else None

    def what_again(self, line: str | None, place: tuple[float, float], glass: float) -> Again:
        """What a pull that begins at a place (mm) would be of a line; glass: mm on the glass for one."""
        if line is None or line not in self._job.rows.lines:
            return Again(NONE)
        points, times = self._along(line)
        if self._row(line) is None:
            # There is no pull of it to redo: a stretch of it can be drawn anew.
            near = np.hypot(*(points - place).T).min() * glass <= ON_MM
            return Again(STRETCH if near else NONE)
        return what_again(np.array(place), points, times, glass)

    def _along(self, line: str) -> tuple[np.ndarray, np.ndarray]:
        """(places (n, 2) mm on a line, its source parameters there)."""
        shape = self._shapes[line]
        s = np.linspace(0.0, shape.length, max(2, round(shape.length / AGAIN_MM)))
        return shape.arc.point(s), np.interp(s, shape.s, shape.source_t)

    def lay_again(self, found: Again, line: str | None, pull: Pull, laid: Laid = _to_nobody) -> None:
        """Makes a pull another take of a line, its tail, or its next section; a tail that has come back to the line
        draws the stretch between anew."""
        found = comes_back(found, pull.samples[-1, :2], *self._along(str(line)), pull.view.scale)
        if found.what == STRETCH:
            made = self._document.make("redraw", {"line": line, "samples": pull})
        else:
            made = self._document.make("again", {"line": line, "pull": pull, "what": found.what, "at": found.at})
        if made is not None:
            self._state.put(last_line=line)
            n = len(self._job.rows.lines[str(line)].takes or ())
            kept = f" It has {n} takes now, all kept." if n > 1 else " Its widths stay."
            self._document.said.emit(f"**{AGAIN_WORDS[found.what]}**{kept}", False)
        laid(line if made is not None else None)

    def takes(self, line: str | None) -> dict[str, np.ndarray]:
        """Centrelines (n, 2) mm of all takes of a line, by their pulls' keys."""
        row = self._row(line)
        if row is None:
            return {}
        matrix = row.matrix or Affine()
        rows = {k: replace(row, pull=k, fixed=None) for k in row.tried}
        return {k: matrix.of(flatten(self._shapes.centre(one).curve, COVER_MM)) for k, one in rows.items()}

    def other_takes(self, line: str | None) -> list[np.ndarray]:
        """Centrelines (n, 2) mm of the takes of a line that are not chosen."""
        row = self._row(line)
        chosen = row.pull if row is not None else None
        return [points for take, points in self.takes(line).items() if take != chosen]

    # Tried, not kept

    def try_steadying(self, line: str | None, setting: Steadying | None) -> None:
        """Shows over the ink, soon, where another steadying would put a line; None puts that away."""
        row = self._row(line)
        if setting is None or row is None:
            self._tried_by.forget()
            self._show_tried(None)
            return
        pull, following, matrix = self._job.pull(str(row.pull)), row.follow, row.matrix

        def work() -> Centreline:
            centre = centreline_of(pull, setting, following)
            return centre if matrix is None else replace(centre, curve=matrix.of(centre.curve))

        self._tried_by.ask(work)

    def _show_tried(self, centre: Centreline | None) -> None:
        self.tried = flatten(centre.curve, COVER_MM) if centre is not None else None
        self.tried_changed.emit(centre)

    # Covers

    def lay_cover(self, samples: np.ndarray, nib: Nib, view: View) -> None:
        """Makes the cover that was asked for of a pull, closed straight from its end to its start."""
        name = self._state.now.cover_of
        self._state.put(cover_of="")
        try:
            curve = centreline_of(Pull(samples, nib, view), Steadying()).curve
        except StrideError as fault:
            self._document.said.emit(str(fault), True)
            return
        self._document.make("cover", {"name": name, "on": True, "shape": [flatten(curve, COVER_MM).tolist()]})
