"""What was measured of a row of strokes, kept as long as all its strokes are the same."""

from collections.abc import Callable, Sequence
from typing import Generic, TypeVar
from weakref import ReferenceType, WeakKeyDictionary, ref

from plain_stride.lines.shape import Shape

T = TypeVar("T")


class RowKept(Generic[T]):
    """Measures rows, each once. Rows are known by their first stroke."""

    def __init__(self, measure: Callable[[list[Shape]], T]) -> None:
        self._measure = measure
        self._kept: WeakKeyDictionary[Shape, tuple[tuple[ReferenceType[Shape], ...], T]] = WeakKeyDictionary()

    def of(self, row: Sequence[Shape]) -> T:
        """What is measured of a row."""
        kept = self._kept.get(row[0])
        if kept is not None and [old() for old in kept[0]] == list(row):
            return kept[1]
        found = self._measure(list(row))
        self._kept[row[0]] = (tuple(map(ref, row)), found)
        return found
