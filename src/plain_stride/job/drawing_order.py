"""Lines and blacks back to front, kept as rows come and go: a change of one line on a full board sorts nothing anew."""

from bisect import bisect_left
from collections.abc import Iterable

Rank = tuple[float, float]
"""How near the part is, the nearest last; the place in the part."""


class DrawingOrder:
    """Keys by their ranks; those of one rank in the order in which they came."""

    def __init__(self, ranked: Iterable[tuple[Rank, str]]) -> None:
        rows = [(rank, n, key) for n, (rank, key) in enumerate(ranked)]
        self._count, self._rows = len(rows), sorted(rows)
        self._keys = [key for _, _, key in self._rows]

    @property
    def keys(self) -> list[str]:
        """All keys, back to front."""
        return list(self._keys)

    def put(self, key: str, before: Rank | None, after: Rank | None) -> None:
        """A key has another rank now; before, after: None where it was not there, or is there no more. n for the room
        that it takes in a list, which is moved as one piece of memory."""
        if before == after:
            return
        if before is not None:
            at = bisect_left(self._rows, (before,))
            while self._keys[at] != key:
                at += 1
            del self._rows[at], self._keys[at]
        if after is not None:
            self._count += 1
            row = (after, self._count, key)
            at = bisect_left(self._rows, row)
            self._rows.insert(at, row)
            self._keys.insert(at, key)
