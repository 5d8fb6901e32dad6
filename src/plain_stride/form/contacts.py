"""Contacts: where two inks touch or come near each other. Meetings, junction rules, the clearance cap, gaps, overshoots
and tangents all read this one list.

A contact is looked for to LOOK_OUT_MM between the edges of two lines. Ends come first: one that lies on or beside
another line is a corner, a run-on or a tee. Then places where middles cross. What is left, line beside line, is told
once for each stretch over which they are near, at its nearest place.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

LOOK_OUT_MM, JOINED_MM = 1.5, 0.4
"""How far between edges contacts are looked for; how near an end counts as joined."""
RUN_ON_DEG = 35.0
"""Lines whose ends meet and turn by less run on into each other."""
STEP_MM, CLEAR_MM, THIN_MM = 0.4, 2.0, 0.01
"""Apart of places that are looked at along a line; so near an end or a crossing no 'beside' is told; middles are
thinned to this."""
CORNER, RUN_ON, TEE, CROSSING, BESIDE = KINDS = ("corner", "run-on", "tee", "crossing", "beside")


@dataclass(frozen=True)
class Contact:
    """lines: two ids, the one whose end it is first; at: mm, on the first one's middle; places: arc lengths along each;
    gap: mm between the edges of their inks, negative when they lie over each other; angle: degrees between them,
    0 to 90."""

    lines: tuple[str, str]
    kind: str
    at: tuple[float, float]
    places: tuple[float, float]
    gap: float
    angle: float

    @property
    def joined(self) -> bool:
        """Whether the lines count as meeting there."""
        return self.gap <= JOINED_MM and self.kind != BESIDE


@dataclass(frozen=True, eq=False)
class Strand:
    """A line as contacts see it. points (n, 2), s (n,): its middle within THIN_MM; left, right (n,): half-widths."""

    id: str
    points: np.ndarray
    s: np.ndarray
    left: np.ndarray
    right: np.ndarray
    closed: bool

    @cached_property
    def line(self) -> Any:
        import shapely

        return shapely.LineString(self.points)

    @cached_property
    def chords(self) -> np.ndarray:
        """Lengths (n,) along the straights between its points."""
        return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])

    @cached_property
    def widest(self) -> float:
        return float(max(self.left.max(), self.right.max()))

    @cached_property
    def box(self) -> np.ndarray:
        """(4,): x0, y0, x1, y1 of its ink and of how far contacts are looked for, halved: boxes of two that may meet
        overlap."""
        reach = self.widest + LOOK_OUT_MM / 2.0
        return np.concatenate([self.points.min(axis=0) - reach, self.points.max(axis=0) + reach])

    @cached_property
    def ends(self) -> tuple[int, ...]:
        """Indices of its end points; none where it is closed."""
        return () if self.closed else (0, len(self.points) - 1)

    @cached_property
    def along(self) -> tuple[np.ndarray, np.ndarray]:
        """(chord lengths, places) that are looked at along it."""
        at = np.linspace(0.0, self.chords[-1], max(2, int(self.chords[-1] / STEP_MM) + 1))
        return at, self.place(at)

    def place(self, chord: np.ndarray) -> np.ndarray:
        """Places (k, 2) at lengths along its straights."""
        return np.column_stack([np.interp(chord, self.chords, self.points[:, k]) for k in (0, 1)])

    def way(self, chord: float) -> np.ndarray:
        """Unit tangent (2,) at a length along its straights."""
        k = int(np.clip(np.searchsorted(self.chords, chord, side="right") - 1, 0, len(self.points) - 2))
        d = self.points[k + 1] - self.points[k]
        out: np.ndarray = d / max(float(np.hypot(*d)), 1e-12)
        return out

    def half(self, chord: float, towards: np.ndarray) -> float:
        """The half-width on the side that faces a place."""
        way, off = self.way(chord), towards - self.place(np.array([chord]))[0]
        # Left of travel is where the cross product is below nought, as y points down.
        side = self.left if way[0] * off[1] - way[1] * off[0] < 0.0 else self.right
        return float(np.interp(chord, self.chords, side))

    def arc(self, chord: float) -> float:
        return float(np.interp(chord, self.chords, self.s))


def contacts_between(a: Strand, b: Strand) -> list[Contact]:
    """All contacts of two lines. Linear in the places along them times the logarithm of the other's."""
    import shapely

    if float(shapely.distance(a.line, b.line)) > LOOK_OUT_MM + a.widest + b.widest:
        return []
    found = [*_end_contacts(a, b), *_end_contacts(b, a, skip_ends=True)]
    taken = [np.array(c.at) for c in found]
    for place in _crossings(a, b):
        if all(np.hypot(*(place - other)) > JOINED_MM + a.widest + b.widest for other in taken):
            found.append(_contact(a, b, CROSSING, place, place))
            taken.append(place)
    return found + list(_beside(a, b, taken))


def _end_contacts(a: Strand, b: Strand, skip_ends: bool = False) -> Iterator[Contact]:
    """Ends of a that lie on or near b. skip_ends: those at ends of b are left out, as told already."""
    import shapely

    for end in a.ends:
        here = a.points[end]
        to = b.place(np.array([shapely.line_locate_point(b.line, shapely.Point(here))]))[0]
        contact = _contact(a, b, TEE, here, to)
        if contact.gap > LOOK_OUT_MM:
            continue
        at_end = [k for k in b.ends if np.hypot(*(b.points[k] - to)) <= JOINED_MM + b.widest]
        if at_end and skip_ends:
            continue
        if at_end:
            far = min(at_end, key=lambda k: float(np.hypot(*(b.points[k] - to))))
            yield _contact(a, b, _end_kind(a, end, b, far), here, b.points[far])
        else:
            yield contact


def _end_kind(a: Strand, end: int, b: Strand, far: int) -> str:
    """What two ends that meet are: whether one line goes on as the other."""
    out_of_a = -a.way(0.0) if end == 0 else a.way(float(a.chords[-1]))
    into_b = b.way(0.0) if far == 0 else -b.way(float(b.chords[-1]))
    return RUN_ON if float(out_of_a @ into_b) > np.cos(np.radians(RUN_ON_DEG)) else CORNER


def _crossings(a: Strand, b: Strand) -> np.ndarray:
    """Places (k, 2) where middles cross."""
    import shapely

    meet = shapely.intersection(a.line, b.line)
    return np.array([shapely.get_coordinates(part).mean(axis=0) for part in shapely.get_parts(meet)]).reshape(-1, 2)


def _beside(a: Strand, b: Strand, taken: list[np.ndarray]) -> Iterator[Contact]:
    """The nearest place of each stretch of a that runs near b, away from places that are told already."""
    import shapely

    _, places = a.along
    away = shapely.distance(shapely.points(places), b.line)
    near = away <= LOOK_OUT_MM + a.widest + b.widest
    for other in taken:
        near &= np.hypot(*(places - other).T) > CLEAR_MM
    for run in _runs(near):
        k = run[int(np.argmin(away[run]))]
        to = b.place(np.array([shapely.line_locate_point(b.line, shapely.Point(places[k]))]))[0]
        contact = _contact(a, b, BESIDE, places[k], to)
        if contact.gap <= LOOK_OUT_MM:
            yield contact


def _runs(mask: np.ndarray) -> list[np.ndarray]:
    """Indices of each run of true values."""
    at = np.flatnonzero(mask)
    return np.split(at, np.flatnonzero(np.diff(at) > 1) + 1) if len(at) else []


def _contact(a: Strand, b: Strand, kind: str, here: np.ndarray, there: np.ndarray) -> Contact:
    import shapely

    on_a, on_b = (
        float(shapely.line_locate_point(strand.line, shapely.Point(place)))
        for strand, place in ((a, here), (b, there))
    )
    apart = float(np.hypot(*(there - here)))
    gap = apart - a.half(on_a, there) - b.half(on_b, here)
    dot = min(abs(float(a.way(on_a) @ b.way(on_b))), 1.0)
    x, y = here.tolist()
    return Contact((a.id, b.id), kind, (x, y), (a.arc(on_a), b.arc(on_b)), gap, float(np.degrees(np.arccos(dot))))


class Contacts:
    """The contacts of a drawing by line, kept up to date line by line. Not shared between threads."""

    def __init__(self) -> None:
        self._strands: dict[str, Strand] = {}
        self._rows: dict[str, int] = {}
        self._boxes = np.full((64, 4), np.nan)
        self._free: list[int] = list(range(64))
        self._ids: dict[int, str] = {}
        self._pairs: dict[str, dict[str, tuple[Contact, ...]]] = {}

    def of(self, line: str) -> tuple[Contact, ...]:
        """All contacts of a line."""
        return tuple(contact for found in self._pairs.get(line, {}).values() for contact in found)

    def all(self) -> tuple[Contact, ...]:
        """Each contact once."""
        return tuple(c for line, others in self._pairs.items() for other, found in others.items() if line < other
                     for c in found)  # fmt: skip

    def put(self, strand: Strand) -> None:
        """A line that is new, or another now. Linear in the lines for their boxes, then in those near it."""
        self.drop(strand.id)
        if not self._free:
            self._grow()
        row = self._free.pop()
        self._strands[strand.id], self._rows[strand.id], self._ids[row] = strand, row, strand.id
        for other in self._near(strand.box):
            found = tuple(contacts_between(strand, self._strands[other]))
            if found:
                self._pairs.setdefault(strand.id, {})[other] = found
                self._pairs.setdefault(other, {})[strand.id] = found
        self._boxes[row] = strand.box

    def drop(self, line: str) -> None:
        """A line that is gone."""
        if line not in self._strands:
            return
        row = self._rows.pop(line)
        self._boxes[row] = np.nan
        self._free.append(row)
        del self._strands[line], self._ids[row]
        for other in self._pairs.pop(line, {}):
            del self._pairs[other][line]

    def set(self, strands: Iterable[Strand]) -> None:
        for strand in strands:
            self.put(strand)

    def _near(self, box: np.ndarray) -> list[str]:
        b = self._boxes
        with np.errstate(invalid="ignore"):
            meet = (b[:, 0] <= box[2]) & (b[:, 1] <= box[3]) & (b[:, 2] >= box[0]) & (b[:, 3] >= box[1])
        return [self._ids[row] for row in np.flatnonzero(meet).tolist()]

    def _grow(self) -> None:
        n = len(self._boxes)
        self._boxes = np.vstack([self._boxes, np.full((n, 4), np.nan)])
        self._free = list(range(n, 2 * n))


def frozen(contacts: Contacts) -> Mapping[str, tuple[Contact, ...]]:
    """What is kept of contacts at a moment: by line."""
    return {line: contacts.of(line) for line in contacts._pairs}
