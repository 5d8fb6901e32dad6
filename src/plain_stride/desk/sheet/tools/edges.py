"""An edge of a line dragged on the sheet: only that edge gives, and softly, as under a chisel."""

from collections.abc import Callable

import numpy as np

from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.tools.seen_tool import SeenTool
from plain_stride.errors import StrideError
from plain_stride.job.mend_changes import LEAST_WIDTH_MM, with_width

LEAST_MM = 0.005


class EdgeTool(SeenTool):
    """The edge on the side where the pen comes down follows the pen. reach: mm along the line to either side over which
    it gives, None where what was typed cannot be read."""

    words = "**Edge:** drag an edge of a line; only that edge gives, as under a chisel. Esc ends it."

    def __init__(self, reach: Callable[[], float | None]) -> None:
        super().__init__()
        self._reach = reach
        self._side, self._mm = "left", 0.0

    def down(self, event: PointerEvent) -> None:
        if self._reach() is None:
            return
        super().down(event)
        if self._touch is not None:
            self._side, self._mm = ("left" if self._off(event) >= 0.0 else "right"), 0.0

    def _off(self, event: PointerEvent) -> float:
        """mm of the pen to the left of the line's middle, where it was taken hold of."""
        assert self._context is not None
        assert self._touch is not None
        arc, s = self._context.session.shapes[self._touch.line].arc, np.array([self._touch.s])
        way, off = arc.direction(s)[0], event.mm - arc.point(s)[0]
        return float(off[0] * way[1] - off[1] * way[0])

    def move(self, event: PointerEvent) -> None:
        context, touch, seen, reach = self._context, self._touch, self._seen, self._reach()
        if context is None or touch is None or seen is None or reach is None:
            return
        session = context.session
        shape, row = session.shapes[touch.line], session.job.rows.lines[touch.line]
        left, right = (float(v[0]) for v in shape.body.at(np.array([touch.s])))
        half = self._off(event) * (1.0 if self._side == "left" else -1.0)
        self._mm = max(max(half, 0.0) + (right if self._side == "left" else left), LEAST_WIDTH_MM)
        try:
            seen.show(
                {touch.line: with_width(touch.line, row, shape, context.place_of(touch), self._mm, self._side, reach)}
            )
        except StrideError as fault:
            session.said.emit(str(fault), True)
            self.left()

    def up(self, event: PointerEvent) -> None:
        context, touch, reach = self._context, self._touch, self._reach()
        super().up(event)
        if context is not None and touch is not None and reach is not None and self._mm > LEAST_MM:
            at = [round(float(v), 4) for v in context.place_of(touch)]
            context.session.make("width", line=touch.line, at=at, mm=round(self._mm, 4), side=self._side, reach=reach)
