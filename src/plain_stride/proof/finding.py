"""A finding of the proof: what is wrong where, by how much, against which limit, and what would mend it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

MUST, SHOULD, LOOK = SEVERITIES = ("must", "should", "look")
Point = tuple[float, float]


@dataclass(frozen=True)
class Mend:
    """says: what it does, a sentence; changes: named changes with their arguments; safe: whether it may be made unseen,
    together with others."""

    says: str
    changes: tuple[Mapping[str, Any], ...]
    safe: bool = True


@dataclass(frozen=True)
class Finding:
    """at: mm, the place that is pointed at; extent: mm, what it reaches over, two points at least where it is more than
    a place; lines: ids, the one that is to be mended first; measured, limit: in `unit`; advice: a sentence; others: ids
    of what it is found on besides lines, as a black or a tone."""

    kind: str
    severity: str
    at: Point
    extent: tuple[Point, ...]
    lines: tuple[str, ...]
    measured: float
    limit: float
    unit: str
    advice: str
    mend: Mend | None = None
    others: tuple[str, ...] = ()

    @property
    def id(self) -> str:
        """A name that stays as long as the finding: its kind, its lines, and the 2 mm in which it lies."""
        x, y = (round(v / _CELL_MM) for v in self.at)
        named = (*self.lines[:2], *self.others[:1])
        return "-".join((self.kind, *named, f"{x}.{y}"))

    @property
    def weight(self) -> float:
        """How far it is over its limit, in doublings: the worst of a kind come first."""
        low, high = sorted((abs(self.measured), abs(self.limit)))
        return float(min(np.log2((high + 1e-6) / (low + 1e-6)), MOST_DOUBLINGS))


_CELL_MM, MOST_DOUBLINGS = 2.0, 4.0


def point(at: np.ndarray) -> Point:
    """A place as plain numbers, mm."""
    x, y = at.tolist()
    return round(x, 3), round(y, 3)


def points(places: np.ndarray, most: int = 24) -> tuple[Point, ...]:
    """Places (n, 2) as plain numbers, evenly thinned to so many."""
    some = places if len(places) <= most else places[np.linspace(0, len(places) - 1, most).round().astype(int)]
    return tuple(point(one) for one in some)
