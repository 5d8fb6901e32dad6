"""How the board lies under the pen: where a place in mm is on the glass, and back."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF, QSizeF
from PySide6.QtGui import QTransform

SCALES = (0.2, 400.0)


@dataclass(frozen=True)
class BoardView:
    """scale: pixels of the widget for one mm; turn: degrees clockwise; centre: mm at the middle of the widget."""

    scale: float
    turn: float = 0.0
    mirror: bool = False
    centre: tuple[float, float] = (0.0, 0.0)
    size: tuple[float, float] = (100.0, 100.0)

    @property
    def transform(self) -> QTransform:
        t = QTransform()
        t.translate(self.size[0] / 2.0, self.size[1] / 2.0)
        t.rotate(self.turn)
        t.scale(-self.scale if self.mirror else self.scale, self.scale)
        t.translate(-self.centre[0], -self.centre[1])
        return t

    def to_board(self, at: QPointF) -> tuple[float, float]:
        """mm on the sheet under a pixel."""
        p = self._back.map(at)
        return p.x(), p.y()

    def places(self, pixels: np.ndarray) -> np.ndarray:
        """mm (n, 2) on the sheet under pixels (n, 2)."""
        matrix, shift = self._matrix
        return (pixels - shift) @ np.linalg.inv(matrix)

    def to_glass(self, points: np.ndarray) -> np.ndarray:
        """Pixels (n, 2) of places (n, 2) in mm."""
        matrix, shift = self._matrix
        return points @ matrix + shift

    @cached_property
    def _back(self) -> QTransform:
        return self.transform.inverted()[0]

    @cached_property
    def _matrix(self) -> tuple[np.ndarray, np.ndarray]:
        t = self.transform
        return np.array([[t.m11(), t.m12()], [t.m21(), t.m22()]]), np.array([t.dx(), t.dy()])

    def moved(self, dx: float, dy: float) -> "BoardView":
        """The board dragged by pixels."""
        a, b = self.to_board(QPointF(0, 0)), self.to_board(QPointF(dx, dy))
        return replace(self, centre=(self.centre[0] + a[0] - b[0], self.centre[1] + a[1] - b[1]))

    def enlarged(self, factor: float, about: QPointF) -> "BoardView":
        """Enlarged round a pixel that stays where it is."""
        return replace(self, scale=float(np.clip(self.scale * factor, *SCALES)))._kept(self, about)

    def turned(self, degrees: float, about: QPointF) -> "BoardView":
        turn = (self.turn + degrees + 180.0) % 360.0 - 180.0
        return replace(self, turn=turn)._kept(self, about)

    def mirrored(self, about: QPointF) -> "BoardView":
        """Mirrored left to right as seen, round a pixel."""
        return replace(self, mirror=not self.mirror, turn=-self.turn)._kept(self, about)

    def resized(self, size: QSizeF) -> "BoardView":
        return replace(self, size=(max(size.width(), 1.0), max(size.height(), 1.0)))

    def fitted(self, page_mm: tuple[float, float], border: tuple[float, float, float, float]) -> "BoardView":
        """The whole page upright in the widget, borders (left, top, right, bottom) in pixels left free."""
        left, top, right, bottom = border
        room = (max(self.size[0] - left - right, 10.0), max(self.size[1] - top - bottom, 10.0))
        scale = float(np.clip(min(room[0] / page_mm[0], room[1] / page_mm[1]), *SCALES))
        shift = ((left - right) / 2.0 / scale, (top - bottom) / 2.0 / scale)
        side = -1.0 if self.mirror else 1.0
        centre = (page_mm[0] / 2.0 - side * shift[0], page_mm[1] / 2.0 - shift[1])
        return replace(self, scale=scale, turn=0.0, centre=centre)

    def _kept(self, old: "BoardView", about: QPointF) -> "BoardView":
        a, b = old.to_board(about), self.to_board(about)
        return replace(self, centre=(self.centre[0] + a[0] - b[0], self.centre[1] + a[1] - b[1]))
