"""A line gone over with the pen: heavier or lighter wherever it goes, within the nib's range and what prints."""

from collections.abc import Callable

import numpy as np

from plain_stride.desk.sheet.hit_test import Touch
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.tools.seen_tool import SeenTool
from plain_stride.errors import StrideError
from plain_stride.job.board_facts import floor_of_job
from plain_stride.job.line_changes import swollen
from plain_stride.lines.cross import nearest

GAIN, LEAST_MM, LEAST_CHANGE, PLACES = 0.7, 1.0, 0.01, 60
"""By how much the hardest pull widens at one going; the least stretch; what is no change; where widths are read."""


class GoingOverTool(SeenTool):
    """One drag is one going over one line, from the least place along it that the pen came to as far as the farthest;
    gone over again it gets heavier still. side: which edge gives."""

    def __init__(self, heavier: bool, side: Callable[[], str]) -> None:
        super().__init__()
        self._heavier, self._side = heavier, side
        name = "Heavier" if heavier else "Lighter"
        self.words = f"**{name}:** go over a line with the pen, the harder the more. Esc ends it."
        self._low, self._high, self._press = 0.0, 0.0, 0.0

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        if self._touch is not None:
            self._low = self._high = self._touch.s
            self._press = 0.0

    def move(self, event: PointerEvent) -> None:
        context, touch, seen = self._context, self._touch, self._seen
        if context is None or touch is None or seen is None:
            return
        shape, row = context.session.shapes[touch.line], context.session.job.rows.lines[touch.line]
        points, s = shape.flat
        at = float(np.interp(nearest(points, event.mm)[1], np.arange(len(s)), s))
        self._low, self._high = min(self._low, at), max(self._high, at)
        self._press = max(self._press, event.pressure if event.device == "pen" else 0.5)
        try:
            seen.show({touch.line: swollen(row, shape, self._factor(touch), *self._stretch(), self._side())})
        except StrideError as fault:
            context.session.said.emit(str(fault), True)
            self.left()

    def up(self, event: PointerEvent) -> None:
        context, touch = self._context, self._touch
        super().up(event)
        if context is None or touch is None or self._high - self._low < LEAST_MM:
            return
        factor, (low, high) = self._factor(touch), self._stretch()
        if abs(factor - 1.0) < LEAST_CHANGE:
            bound = "as heavy as its nib draws" if self._heavier else "as light as prints"
            context.session.said.emit(f"It is {bound} there: nothing was changed.", True)
            return
        context.session.make("swell", line=touch.line, factor=factor, side=self._side(), **{"from": low, "to": high})

    def _stretch(self) -> tuple[float, float]:
        """mm along the line."""
        return round(self._low, 4), round(max(self._high, self._low + LEAST_MM), 4)

    def _factor(self, touch: Touch) -> float:
        """How many times as wide: no wider than the nib's heaviest, no thinner than the lightest that prints."""
        assert self._context is not None
        session = self._context.session
        wide = np.add(*session.shapes[touch.line].body.at(np.linspace(*self._stretch(), PLACES)))
        gain = 1.0 + GAIN * self._press
        if self._heavier:
            most = session.job.rows.lines[touch.line].nib.heaviest / max(float(wide.max()), 1e-6)
            return round(max(min(gain, most), 1.0), 4)
        least = floor_of_job(session.job).mm / max(float(wide.min()), 1e-6)
        return round(min(max(1.0 / gain, least), 1.0), 4)
