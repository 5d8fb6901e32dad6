"""Where the ink of every line lies, so that a change repaints only what it touches."""

from collections.abc import Iterable

import numpy as np

Box = tuple[float, float, float, float]
_NOWHERE = (np.inf, np.inf, -np.inf, -np.inf)


class SeenIndex:
    """Boxes (x0, y0, x1, y1) in mm by line id."""

    def __init__(self) -> None:
        self._row: dict[str, int] = {}
        self._keys: list[str] = []
        self._boxes = np.tile(np.array(_NOWHERE), (64, 1))

    def put(self, key: str, box: Box | None) -> None:
        """Notes where a line lies now; None: nowhere any more."""
        row = self._row.get(key)
        if row is None:
            if box is None:
                return
            row = self._row[key] = len(self._keys)
            self._keys.append(key)
            if row == len(self._boxes):
                self._boxes = np.vstack([self._boxes, np.tile(np.array(_NOWHERE), (row, 1))])
        self._boxes[row] = box if box is not None else _NOWHERE

    def box(self, key: str) -> Box | None:
        """Where a line lies, as far as it is known."""
        row = self._row.get(key)
        if row is None or not np.isfinite(self._boxes[row, 0]):
            return None
        x0, y0, x1, y1 = self._boxes[row].tolist()
        return x0, y0, x1, y1

    def touching(self, box: Box) -> Iterable[str]:
        """Lines whose boxes meet a box, in no order."""
        b = self._boxes[: len(self._keys)]
        x0, y0, x1, y1 = box
        hit = (b[:, 0] <= x1) & (b[:, 2] >= x0) & (b[:, 1] <= y1) & (b[:, 3] >= y0)
        return [self._keys[k] for k in np.flatnonzero(hit).tolist()]
