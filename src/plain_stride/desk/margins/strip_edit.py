"""What a drag on the strip does to the line that is unrolled there: an edge, both edges, or an end."""

from dataclasses import dataclass

import numpy as np

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.errors import StrideError
from plain_stride.job.mend_changes import LEAST_WIDTH_MM, longer, shorter, with_width
from plain_stride.job.records import LineRecord
from plain_stride.lines.shape import Shape

BOTH, LEFT_EDGE, RIGHT_EDGE, START, END = "both", "left", "right", "start", "end"
GRIP_PX, LEAST_MM, LEAST_LEFT_MM = 9.0, 0.005, 0.2
"""How near an edge or an end the pen comes down on it; a smaller change is none; what is left of a line at least."""


@dataclass(frozen=True)
class Laid:
    """How a line lies on the strip: x of its start, pixels a mm along and across, y of its middle."""

    left: float
    along: float
    across: float
    middle: float


class StripEdit:
    """The line is shown as it would be, on the strip and on the sheet, and is so when the pen lifts."""

    def __init__(self, session: Session, seen: SeenEdit) -> None:
        self._session, self._seen = session, seen
        self._key, self._what, self._laid = "", "", Laid(0.0, 1.0, 1.0, 0.0)
        self._s, self._value = 0.0, 0.0

    @property
    def what(self) -> str:
        """What is dragged; '' for nothing."""
        return self._what

    def laid(self) -> Laid:
        """How the line lay when the drag began: its scale stays meanwhile."""
        return self._laid

    def shape(self, key: str) -> Shape:
        """The line as the drag would have it, or as it is."""
        shape = self._seen.shapes.get(key) if self._what else None
        return shape if shape is not None else self._session.shapes[key]

    def under(self, shape: Shape, laid: Laid, x: float, y: float) -> str:
        """What of a line lies under a pixel of the strip; '' for nothing."""
        s = (x - laid.left) / laid.along
        left, right = (float(v[0]) for v in shape.body.at(np.array([np.clip(s, 0.0, shape.length)])))
        top, foot = laid.middle - left * laid.across, laid.middle + right * laid.across
        if not top - 2.0 * GRIP_PX <= y <= foot + 2.0 * GRIP_PX:
            return ""
        for end, at in ((START, laid.left), (END, laid.left + shape.length * laid.along)):
            if abs(x - at) <= GRIP_PX and not shape.closed:
                return end
        if not 0.0 <= s <= shape.length:
            return ""
        if min(abs(y - top), abs(y - foot)) <= GRIP_PX and not (top + 3.0 < y < foot - 3.0 and foot - top < 12.0):
            return LEFT_EDGE if abs(y - top) < abs(y - foot) else RIGHT_EDGE
        return BOTH if top < y < foot else ""

    def begin(self, key: str, what: str, laid: Laid, x: float) -> None:
        """Takes hold of an edge or an end."""
        locked = self._session.locked_part(key)
        if locked:
            self._session.said.emit(f"Part '{locked}' is locked: unlock it to change its lines.", True)
            return
        self._key, self._what, self._laid = key, what, laid
        self._s, self._value = (x - laid.left) / laid.along, 0.0

    def to(self, x: float, y: float) -> None:
        """The pen goes on to a pixel."""
        if not self._what:
            return
        shape, laid = self._session.shapes[self._key], self._laid
        if self._what in (START, END):
            at = (x - laid.left) / laid.along
            self._value = -at if self._what == START else at - shape.length
        else:
            half = abs(y - laid.middle) / laid.across
            left, right = (float(v[0]) for v in shape.body.at(np.array([self._s])))
            others = {BOTH: half, LEFT_EDGE: right, RIGHT_EDGE: left}[self._what]
            self._value = max(half + others, LEAST_WIDTH_MM)
        try:
            self._seen.show({self._key: self._row(shape)})
        except StrideError as fault:
            self._session.said.emit(str(fault), True)
            self.drop()

    def _row(self, shape: Shape) -> LineRecord:
        row = self._session.job.rows.lines[self._key]
        if self._what in (START, END):
            at_end = self._what == END
            if self._value >= 0.0:
                return longer(self._session.shapes, self._key, at_end, max(self._value, LEAST_MM))
            return shorter(row, shape, at_end, min(-self._value, shape.length - LEAST_LEFT_MM))
        return with_width(self._key, row, shape, self._place(shape), self._value, self._what)

    def _place(self, shape: Shape) -> np.ndarray:
        return np.round(shape.arc.point(np.array([self._s]))[0], 4)

    def end(self) -> None:
        """The pen lifts: the change is made."""
        what, self._what = self._what, ""
        if not what:
            return
        self._seen.let_go()
        shape = self._session.shapes[self._key]
        if what in (START, END):
            mm = max(self._value, LEAST_LEFT_MM - shape.length)
            if abs(mm) > LEAST_MM:
                self._session.make("mend-ends", mends=[[self._key, what, round(mm, 4)]])
        elif self._value > 0.0:
            self._session.make(
                "width", line=self._key, at=self._place(shape).tolist(), mm=round(self._value, 4), side=what
            )

    def drop(self) -> None:
        """Nothing is changed after all."""
        self._what = ""
        self._seen.drop()
