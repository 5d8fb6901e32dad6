"""Ink moved, scaled and turned by dragging: inside its box moves it, a corner scales it, outside turns it."""

from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QPainter, QPainterPath, QTransform

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.gestures.tool import LEAST_PX, SheetTool, box_corners, grip, paint_outline
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.lines.affine import Affine, degrees_between, moved, scaled, turned
from plain_stride.lines.arranging import ArrangeError, homography, projected
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import path_of, quick_path

LEAST_FACTOR, NEAR_PX = 0.02, 0.3
Change = Callable[[np.ndarray], Affine]


class MapTool(SheetTool):
    """What is chosen, else the line in hand; it is shown where it would lie, and lies there when the pen lifts."""

    moves_chosen = True
    words = "**Place:** drag inside to move what is chosen, a corner to scale it, outside to turn it. Esc ends it."

    def __init__(self, session: Session, widths: Callable[[], str]) -> None:
        """widths: whether they keep or scale."""
        super().__init__()
        self._session, self._widths = session, widths
        self._change: Change | None = None
        self._keys: list[str] = []
        self._corners, self._by = np.zeros((0, 2)), Affine()
        self._ink: list[QPainterPath] = []
        self._from = np.zeros(2)

    def _box(self) -> np.ndarray:
        """Corners (4, 2) of what would be taken hold of; (0, 2) for nothing."""
        boxes = np.array([self._session.shapes.ink(key).box for key in self._wanted()]).reshape(-1, 4)
        return box_corners(*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)) if len(boxes) else np.zeros((0, 2))

    def _wanted(self) -> list[str]:
        shown = self._session.shown_line()
        return self._session.chosen or ([shown] if shown else [])

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._keys, self._corners, self._from, self._by = self._wanted(), self._box(), event.mm, Affine()
        self._change = None
        locked = next((name for key in self._keys if (name := self._session.locked_part(key))), "")
        if locked or not self._keys:
            words = f"Part '{locked}' is locked: unlock it to change its lines." if locked else "Choose lines first."
            self._session.said.emit(words, True)
            return
        near = NEAR_PX / event.view.scale
        self._ink = [quick_path(ink, near) if isinstance(ink, Shape) else path_of(ink.rings)
                     for ink in map(self._session.shapes.ink, self._keys)]  # fmt: skip
        self._change = self._change_from(event)

    def _change_from(self, event: PointerEvent) -> Change:
        """What a drag that begins there does, by where it is."""
        start, box = event.mm, self._corners
        middle, corner = box.mean(axis=0), grip(box, event.mm, event.view)
        if corner is not None:
            fixed = box[(corner + 2) % 4]
            way = start - fixed
            square = max(float(way @ way), 1e-9)
            return lambda at: scaled(fixed, max(LEAST_FACTOR, float((at - fixed) @ way) / square))
        if bool((start >= box.min(axis=0)).all() and (start <= box.max(axis=0)).all()):
            return lambda at: moved(*(float(v) for v in at - start))
        return lambda at: turned(middle, degrees_between(start - middle, at - middle))

    def move(self, event: PointerEvent) -> None:
        if self._change is not None:
            self._by = self._change(event.mm)

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        change, self._change = self._change, None
        if change is not None and np.hypot(*(event.mm - self._from)) * event.view.scale >= LEAST_PX:
            matrix = [round(v, 9) for v in self._by.row]
            self._session.make("affine", lines=self._keys, matrix=matrix, widths=self._widths())

    def left(self) -> None:
        super().left()
        self._change = None

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._change is None:
            box = self._box()
            if len(box):
                paint_outline(painter, view, box, handles=True)
            return
        paint_outline(painter, view, self._by.of(self._corners), handles=True)
        painter.save()
        painter.setTransform(view.transform, True)
        painter.setTransform(QTransform(*self._by.row), True)
        for ink in self._ink:
            painter.fillPath(ink, sheet_color("chosen"))
        painter.restore()


class CornersTool(SheetTool):
    """The corners of the box round what is chosen, else round the line in hand: each is dragged by itself."""

    words = "**Perspective:** drag a corner of the box; the lines follow. Esc ends it."

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._lines: list[str] = []
        self._corner: int | None = None
        self._to = np.zeros((4, 2))

    def _chosen(self) -> list[str]:
        shown = self._session.shown_line()
        return self._session.chosen_lines() or ([shown] if shown else [])

    def _box(self) -> np.ndarray:
        """Corners (4, 2) of the box round the middles of the lines; (0, 2) for none."""
        lines = self._chosen()
        if not lines:
            return np.zeros((0, 2))
        points = np.vstack([self._session.shapes[key].flat[0] for key in lines])
        return box_corners(*points.min(axis=0), *points.max(axis=0))

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        self._lines, self._to = self._chosen(), self._box()
        self._corner = grip(self._to, event.mm, event.view)
        if not self._lines:
            self._session.said.emit("Choose lines first.", True)

    def move(self, event: PointerEvent) -> None:
        if self._corner is not None:
            self._to = self._box()
            self._to[self._corner] = event.mm

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        corner, self._corner = self._corner, None
        if corner is not None and len(self._to) and np.hypot(*(self._to - self._box()).T).max() > 0.0:
            self._session.make("perspective", lines=self._lines, corners=np.round(self._to, 4).tolist())

    def left(self) -> None:
        super().left()
        self._corner = None

    def paint(self, painter: QPainter, view: BoardView) -> None:
        box = self._box()
        if not len(box):
            return
        if self._corner is None:
            paint_outline(painter, view, box, handles=True)
            return
        paint_outline(painter, view, self._to, handles=True)
        try:
            by = homography(np.concatenate([box[0], box[2]]), self._to)
        except ArrangeError:
            return
        for key in self._lines:
            paint_outline(painter, view, projected(self._session.shapes[key].flat[0], by), closed=False)
