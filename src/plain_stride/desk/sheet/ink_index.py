"""Where the ink of every line lies, so that a change repaints only what it touches."""

import numpy as np

from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape

Ink = Shape | Black

Box = tuple[float, float, float, float]
_NOWHERE = (np.inf, np.inf, -np.inf, -np.inf)


class InkIndex:
    """Shapes as they were last noted, and their boxes (x0, y0, x1, y1) in mm, by line id."""

    def __init__(self) -> None:
        self._row: dict[str, int] = {}
        self._keys: list[str] = []
        self._shapes: list[Ink | None] = []
        self._boxes = np.tile(np.array(_NOWHERE), (64, 1))

    def put(self, key: str, shape: Ink | None) -> None:
        """Notes how a line looks now; None: it is gone."""
        row = self._row.get(key)
        if row is not None and self._shapes[row] is shape:
            return
        if row is None:
            if shape is None:
                return
            row = self._row[key] = len(self._keys)
            self._keys.append(key)
            self._shapes.append(shape)
            if row == len(self._boxes):
                self._boxes = np.vstack([self._boxes, np.tile(np.array(_NOWHERE), (row, 1))])
        self._shapes[row] = shape
        self._boxes[row] = shape.box if shape is not None else _NOWHERE

    def shape(self, key: str) -> Ink | None:
        """How a line was noted last."""
        row = self._row.get(key)
        return self._shapes[row] if row is not None else None

    def touching(self, box: Box) -> list[str]:
        """Lines whose boxes meet a box, in no order."""
        b = self._boxes[: len(self._keys)]
        x0, y0, x1, y1 = box
        hit = (b[:, 0] <= x1) & (b[:, 2] >= x0) & (b[:, 1] <= y1) & (b[:, 3] >= y0)
        return [self._keys[k] for k in np.flatnonzero(hit).tolist()]
