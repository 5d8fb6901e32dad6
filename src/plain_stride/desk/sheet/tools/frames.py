"""Frames by dragging: an empty place draws one, a corner or an edge sizes it, its inside moves it."""

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.board.frames import LEAST_MM
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import GRIP_PX, SheetTool, box_corners, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.board_facts import edges_of, frame_under, frames_of

SNAP_PX = 7.0
Box = tuple[float, float, float, float]


class FrameTool(SheetTool):
    """Edges come to rest on the margin, on the trim, and a gutter away from other frames."""

    words = "**Frames:** drag on an empty place to draw one, at its edges to size it, inside to move it. Esc ends it."

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.chosen: list[str] = []
        self._key: str | None = None
        self._sides: tuple[int, int] = (0, 0)
        self._start = np.zeros(2)
        self._before: Box = (0.0, 0.0, 0.0, 0.0)
        self._box: Box | None = None

    def choose(self, frame: str) -> None:
        """The frame whose handles are shown."""
        self.chosen = [frame]

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._start = event.mm
        self._key, self._sides = self._under(event.mm, event.view)
        if self._key is not None:
            self._before = self._box = frames_of(self._session.job)[self._key].box
            self.chosen = [self._key]
        else:
            self.chosen = []
            self._before = (float(event.mm[0]), float(event.mm[1]), float(event.mm[0]), float(event.mm[1]))
            self._sides = (1, 1)

    def _under(self, at: np.ndarray, view: BoardView) -> tuple[str | None, tuple[int, int]]:
        """(frame, which of its sides is held): (-1 left, 1 right, 0 none; -1 upper, 1 lower, 0 none)."""
        reach = GRIP_PX / view.scale
        for key, frame in frames_of(self._session.job).items():
            x0, y0, x1, y1 = frame.box
            if x0 - reach <= at[0] <= x1 + reach and y0 - reach <= at[1] <= y1 + reach:
                sides = (_held(float(at[0]), x0, x1, reach), _held(float(at[1]), y0, y1, reach))
                if sides != (0, 0):
                    return key, sides
        return frame_under(self._session.job, float(at[0]), float(at[1])), (0, 0)

    def move(self, event: PointerEvent) -> None:
        by = event.mm - self._start
        x0, y0, x1, y1 = self._before
        sx, sy = self._sides
        if self._key is not None and (sx, sy) == (0, 0):
            box = [x0 + by[0], y0 + by[1], x1 + by[0], y1 + by[1]]
            dx, dy = (self._rest(box, axis, event.view) for axis in (0, 1))
            self._box = (box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy)
            return
        box = [x0, y0, x1, y1]
        for axis, side in ((0, sx), (1, sy)):
            if side:
                k = axis if side < 0 else axis + 2
                box[k] += by[axis]
                box[k] += self._rest([*box], axis, event.view, only=k)
        self._box = (min(box[0], box[2]), min(box[1], box[3]), max(box[0], box[2]), max(box[1], box[3]))

    def _rest(self, box: list[float], axis: int, view: BoardView, only: int | None = None) -> float:
        """How far to the nearest line where an edge may come to rest; 0 where none is near."""
        edges, size = edges_of(self._session.job), self._session.job.page.size_mm[axis]
        rests = [0.0, size, edges.margin, size - edges.margin]
        for key, frame in frames_of(self._session.job).items():
            if key != self._key:
                low, high = frame.box[axis], frame.box[axis + 2]
                rests += [low, high, low - edges.gutter, high + edges.gutter]
        ways = [rest - box[k] for rest in rests for k in ((axis, axis + 2) if only is None else (only,))]
        nearest = min(ways, key=abs)
        return nearest if abs(nearest) * view.scale <= SNAP_PX else 0.0

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        box, self._box = self._box, None
        if box is None or box == self._before or min(box[2] - box[0], box[3] - box[1]) < LEAST_MM:
            return
        named = {} if self._key is None else {"frame": self._key}
        made = self._session.make("frame", x=box[0], y=box[1], w=box[2] - box[0], h=box[3] - box[1], **named)
        if made is not None:
            self.chosen = [str(made.results[0])]

    def paint(self, painter: QPainter, view: BoardView) -> None:
        frames = frames_of(self._session.job)
        if self._box is not None:
            paint_outline(painter, view, box_corners(*self._box), handles=True)
        else:
            for key in self.chosen:
                if key in frames:
                    paint_outline(painter, view, box_corners(*frames[key].box), handles=True)


def _held(at: float, low: float, high: float, reach: float) -> int:
    return -1 if abs(at - low) <= reach else 1 if abs(at - high) <= reach else 0
