"""Outlines kept from one piece of work to the next, by all that they are made of."""

import hashlib
from collections import OrderedDict
from collections.abc import Iterable

import numpy as np

from plain_stride.lines.shape import Shape

MOST_NUMBERS = 24_000_000
"""In all outlines together: 8 bytes each."""
Outlines = dict[str, list[np.ndarray]]


class KeptOutlines:
    """The oldest go first where there are too many."""

    def __init__(self, most_numbers: int = MOST_NUMBERS) -> None:
        self._most, self._numbers = most_numbers, 0
        self._kept: OrderedDict[bytes, Outlines] = OrderedDict()

    def __len__(self) -> int:
        return len(self._kept)

    def lend(self, shapes: Iterable[Shape]) -> None:
        """Gives shapes the outlines that are known of them."""
        for shape in shapes:
            known = self._kept.get(_made_of(shape))
            if known is not None:
                shape.take_outlines(known)

    def keep(self, shapes: Iterable[Shape]) -> None:
        """Keeps the outlines that have been worked out of shapes."""
        for shape in shapes:
            if known := shape.outlines():
                key = _made_of(shape)
                self._numbers += _size(known) - _size(self._kept.pop(key, {}))
                self._kept[key] = known
        while self._numbers > self._most:
            self._numbers -= _size(self._kept.popitem(last=False)[1])


def _size(known: Outlines) -> int:
    return sum(array.size for arrays in known.values() for array in arrays)


def _made_of(shape: Shape) -> bytes:
    w = shape.widths
    made = hashlib.blake2b(f"{shape.closed} {shape.ends} {shape.edge}".encode(), digest_size=20)
    for array in (shape.curve, w.s, w.left, w.right, *shape.corners):
        made.update(array.tobytes())
    return made.digest()
