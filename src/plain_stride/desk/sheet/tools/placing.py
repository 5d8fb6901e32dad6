"""Pencils placed by dragging: inside moves, a corner scales, outside turns; and their four corners squared up."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtGui import QPainter

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import SheetTool, grip, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.pencil_sheets import picture_to_sheet, sheet_to_picture
from plain_stride.lines.affine import degrees_between
from plain_stride.pencils.placing import UNIT, Placing

LEAST_MM = 5.0
INSET = 0.08
"""Share of the picture's sides by which its corners stand in before they are put on the paper's."""


class PlaceTool(SheetTool):
    """Changes a sheet's place when the pen lifts; until then its outline shows where it would lie."""

    words = "**Placing:** drag inside to move the scan, a corner to scale it, outside to turn it. Esc ends it."

    def __init__(self, session: Session, sheet: str) -> None:
        super().__init__()
        self._session, self._sheet = session, sheet
        self._way, self._corner = "", 0
        self._start = np.zeros(2)
        self._now: Placing | None = None

    def _before(self) -> Placing | None:
        row = self._session.job.rows.pencils.get(self._sheet)
        return row.placing if row is not None else None

    def down(self, event: PointerEvent) -> None:
        before = self._before()
        if before is None:
            self.done = True
            return
        super().down(event)
        self._start = event.mm
        corner = grip(before.to_sheet(UNIT), self._start, event.view)
        inside = bool(((before.from_sheet(self._start[None]) >= 0) & (before.from_sheet(self._start[None]) <= 1)).all())
        self._way = "scale" if corner is not None else "move" if inside else "turn"
        self._corner = corner or 0
        self._now = before

    def move(self, event: PointerEvent) -> None:
        before = self._before()
        if before is None:
            return
        if self._way == "move":
            dx, dy = event.mm - self._start
            self._now = replace(before, x=before.x + float(dx), y=before.y + float(dy))
        elif self._way == "turn":
            a, b = self._start - before.middle, event.mm - before.middle
            self._now = replace(before, turn=before.turn + degrees_between(a, b))
        else:
            self._now = _scaled(before, self._corner, event.mm)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        now, self._now = self._now, None
        if now is not None and now != self._before():
            self._session.make("pencils", sheet=self._sheet, placed_mm=[now.x, now.y, now.w, now.h], turn=now.turn)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        place = self._now or self._before()
        if place is not None:
            paint_outline(painter, view, place.to_sheet(UNIT), handles=True)


def _scaled(before: Placing, corner: int, at: np.ndarray) -> Placing:
    """The sheet with one corner where the pen is and the opposite one where it was, its shape kept."""
    corners = before.to_sheet(UNIT)
    fixed, held = corners[(corner + 2) % 4], corners[corner]
    way = held - fixed
    factor = max(float((at - fixed) @ way) / float(way @ way), LEAST_MM / min(before.w, before.h))
    middle = fixed + way * factor / 2.0
    w, h = before.w * factor, before.h * factor
    return replace(before, x=float(middle[0]) - w / 2.0, y=float(middle[1]) - h / 2.0, w=w, h=h)


class CornersTool(SheetTool):
    """Four handles that are put on the corners of the paper in a photo; `moved` is told after each."""

    words = "**Square up:** put the four corners on those of the paper, then say *square it up*. Esc gives it up."

    def __init__(self, session: Session, sheet: str, moved: Callable[[], object] = lambda: None) -> None:
        super().__init__()
        self.words = self.words.replace("*square it up*", "'square it up'")
        self._session, self._sheet, self._moved = session, sheet, moved
        row = session.job.rows.pencils[sheet]
        shares = np.array(row.corners, float) if row.corners else UNIT * (1.0 - 2.0 * INSET) + INSET
        self._points = picture_to_sheet(row, shares)
        self._held: int | None = None

    def down(self, event: PointerEvent) -> None:
        self._held = grip(self._points, event.mm, event.view)
        self.busy = self._held is not None

    def move(self, event: PointerEvent) -> None:
        if self._held is not None:
            self._points[self._held] = event.mm

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        self._held = None
        self._moved()

    def apply(self) -> None:
        """Squares the sheet up by the corners as they stand."""
        row = self._session.job.rows.pencils[self._sheet]
        corners = sheet_to_picture(row, self._points).tolist()
        if self._session.make("pencils", sheet=self._sheet, corners=corners) is not None:
            self.done = True

    def paint(self, painter: QPainter, view: BoardView) -> None:
        paint_outline(painter, view, self._points, handles=True)
