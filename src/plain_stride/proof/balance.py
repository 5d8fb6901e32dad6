"""Balance figures beside the proof: how much of the sheet is black, where detail is densest, how much of it is at rest,
which widths there are. They are told and judged by nobody: a page may be as dense as it wants."""

from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.form.places import along_of
from plain_stride.lines.shape import Shape
from plain_stride.proof.page import Page

CELL_MM, FINE_MM, REST_MM = 10.0, 1.0, 5.0
"""Detail is counted in cells of so many mm; ink is looked for on a grid of so many; what lies farther from all ink is
at rest."""
CLASSES = (0.18, 0.35, 0.7)
"""mm: fine up to the first, then light, medium, heavy (two steps of ISO 128's ladder each)."""


@dataclass(frozen=True)
class Balance:
    """dense: mm of line for each cm2 in the densest cell, usual: in the median one of those that have any; dense_at:
    mm; rest: the share of the sheet without ink near it; classes: shares of all length that are fine, light, medium,
    heavy."""

    dense: float
    usual: float
    dense_at: tuple[float, float]
    rest: float
    classes: tuple[float, ...]


def balance_of(page: Page) -> Balance:
    """The balance of all ink that is seen, strokes of tones among it. Linear in the ink."""
    points, weight, wide = _places(page)
    cells, at = _in_cells(page, points, weight)
    some = cells[cells > 0.0]
    total = max(float(weight.sum()), 1e-9)
    which = np.searchsorted(CLASSES, wide, side="left")
    shares = np.bincount(which, weight, minlength=len(CLASSES) + 1) / total
    usual, dense = (float(np.median(some)), float(some.max())) if len(some) else (0.0, 0.0)
    return Balance(dense, usual, at, _rest(page, points), tuple(float(v) for v in shares))


def _places(page: Page) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(places (n, 2) mm, mm of line that each stands for (n,), widths (n,)) of all lines."""
    points, weight, wide = [np.zeros((0, 2))], [np.zeros(0)], [np.zeros(0)]
    for shape in page.shapes.values():
        along = along_of(shape.path)
        points.append(along.points)
        weight.append(np.full(len(along.s), float(along.s[-1]) / len(along.s)))
        wide.append(_widths(shape))
    return np.concatenate(points), np.concatenate(weight), np.concatenate(wide)


_kept: WeakKeyDictionary[Shape, np.ndarray] = WeakKeyDictionary()


def _widths(shape: Shape) -> np.ndarray:
    """mm at the places of a line; kept as long as it is the same."""
    if shape not in _kept:
        _kept[shape] = np.interp(along_of(shape.path).s, shape.body.s, shape.body.full)
    return _kept[shape]


def _in_cells(page: Page, points: np.ndarray, weight: np.ndarray) -> tuple[np.ndarray, tuple[float, float]]:
    """(mm of line for each cm2 (k,), the middle of the densest cell) of cells on the sheet."""
    wide, high = (max(1, int(np.ceil(v / CELL_MM))) for v in page.sheet.size_mm)
    column, row = np.floor(points / CELL_MM).astype(int).T if len(points) else np.zeros((2, 0), int)
    inside = (column >= 0) & (column < wide) & (row >= 0) & (row < high)
    cells = np.bincount(row[inside] * wide + column[inside], weight[inside], minlength=wide * high)
    k = int(np.argmax(cells)) if len(cells) else 0
    return cells / (CELL_MM / 10.0) ** 2, ((k % wide + 0.5) * CELL_MM, (k // wide + 0.5) * CELL_MM)


def _rest(page: Page, points: np.ndarray) -> float:
    """The share of the sheet that lies farther than REST_MM from all ink."""
    from scipy import ndimage

    wide, high = (max(1, int(np.ceil(v / FINE_MM))) for v in page.sheet.size_mm)
    empty = np.ones((high, wide), bool)
    column, row = np.floor(points / FINE_MM).astype(int).T if len(points) else np.zeros((2, 0), int)
    inside = (column >= 0) & (column < wide) & (row >= 0) & (row < high)
    empty[row[inside], column[inside]] = False
    rows, columns = np.indices(empty.shape)
    middles = np.column_stack([columns.ravel() + 0.5, rows.ravel() + 0.5]) * FINE_MM
    for area in page.black_areas:
        empty.ravel()[area.holds(middles)] = False
    if empty.all():
        return 1.0
    return float((ndimage.distance_transform_edt(empty) * FINE_MM > REST_MM).mean())
