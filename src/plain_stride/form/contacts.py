"""Contacts: where two inks touch or come near each other. Meetings, junction rules, the clearance cap, gaps, overshoots
and tangents all read this one list.

A contact is looked for to LOOK_OUT_MM between the edges of two lines. Ends come first: one that lies on or beside
another line is a corner, a run-on or a tee. Then places where middles cross. What is left, line beside line, is told
once for each stretch over which they are near, at its nearest place.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.compiled.ready import floats, kernels

LOOK_OUT_MM, JOINED_MM = 1.5, 0.4
"""How far between edges contacts are looked for; how near an end counts as joined."""
RUN_ON_DEG = 35.0
"""Lines whose ends meet and turn by less run on into each other."""
STEP_MM, CLEAR_MM, NEARER_MM, THIN_MM = 0.4, 2.0, 0.05, 0.01
FINER = 17
"""Apart of places that are looked at along a line; so near an end or a crossing no 'beside' is told, unless the inks
are nearer there by so much; middles are thinned to this."""
CORNER, RUN_ON, TEE, CROSSING, BESIDE = KINDS = ("corner", "run-on", "tee", "crossing", "beside")
_SETTINGS = np.array([LOOK_OUT_MM, JOINED_MM, np.cos(np.radians(RUN_ON_DEG)), STEP_MM, CLEAR_MM, NEARER_MM, FINER])


@dataclass(frozen=True, slots=True)
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
        """The line as a geometry."""
        import shapely

        return shapely.LineString(self.points)

    @cached_property
    def chords(self) -> np.ndarray:
        """Lengths (n,) along the straights between its points."""
        return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.points, axis=0).T))])

    @cached_property
    def arrays(self) -> list[np.ndarray]:
        """As the compiled loops take it."""
        return floats(self.points, self.chords, self.left, self.right)

    @cached_property
    def widest(self) -> float:
        """The largest half-width, mm."""
        return float(max(self.left.max(), self.right.max()))

    @cached_property
    def box(self) -> np.ndarray:
        """(4,): x0, y0, x1, y1 of its ink and of how far contacts are looked for, halved: boxes of two that may meet
        overlap."""
        reach = self.widest + LOOK_OUT_MM / 2.0
        return np.concatenate([self.points.min(axis=0) - reach, self.points.max(axis=0) + reach])

    @cached_property
    def by_place(self) -> tuple[object, ...]:
        """An order of lines that tells of their names only where they lie the same."""
        return (*self.points[0].tolist(), float(self.s[-1]), *self.points[-1].tolist(), self.id)

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

    def tangent(self, chord: float) -> np.ndarray:
        """Unit tangent (2,) at a length along its straights."""
        k = int(np.clip(np.searchsorted(self.chords, chord, side="right") - 1, 0, len(self.points) - 2))
        d = self.points[k + 1] - self.points[k]
        out: np.ndarray = d / max(float(np.hypot(*d)), 1e-12)
        return out

    def wide(self, chord: np.ndarray) -> np.ndarray:
        """The larger half-width (k,) at lengths along its straights."""
        return np.maximum(np.interp(chord, self.chords, self.left), np.interp(chord, self.chords, self.right))

    def half(self, chord: float, towards: np.ndarray) -> float:
        """The half-width on the side that faces a place."""
        tangent, off = self.tangent(chord), towards - self.place(np.array([chord]))[0]
        # Left of travel is where the cross product is below nought, as y points down.
        side = self.left if tangent[0] * off[1] - tangent[1] * off[0] < 0.0 else self.right
        return float(np.interp(chord, self.chords, side))

    def arc(self, chord: float) -> float:
        """mm along the true line, of mm along its chords."""
        return float(np.interp(chord, self.chords, self.s))


def contacts_between(a: Strand, b: Strand) -> list[Contact]:
    """All contacts of two lines, whichever comes first. Grows with the product of their points."""
    # Which is told of first is seen from where they lie: of two places near each other, one is told.
    a, b = sorted((a, b), key=lambda strand: strand.by_place)
    compiled = kernels()
    if compiled is None:
        return _contacts_between(a, b)
    rows = compiled.touching(*a.arrays, *b.arrays, np.array([a.closed, b.closed]), _SETTINGS)
    out = []
    for kind, x, y, on_first, on_second, gap, angle, swapped in rows.tolist():
        one, two = (b, a) if swapped else (a, b)
        places = (one.arc(on_first), two.arc(on_second))
        out.append(Contact((one.id, two.id), KINDS[int(kind)], (x, y), places, gap, angle))
    return out


def _contacts_between(a: Strand, b: Strand) -> list[Contact]:
    import shapely

    if float(shapely.distance(a.line, b.line)) > LOOK_OUT_MM + a.widest + b.widest:
        return []
    crossings = _crossings(a, b)
    open_ends = set(range(len(crossings)))
    found = [*_end_contacts(a, b, crossings, open_ends), *_end_contacts(b, a, crossings, open_ends, skip_ends=True)]
    for k in sorted(open_ends):
        place = crossings[k]
        if all(c.gap > 0.0 or np.hypot(*(place - c.at)) > JOINED_MM + a.widest + b.widest for c in found):
            found.append(_contact(a, b, CROSSING, place, place))
    return found + list(_beside(a, b, found))


def _end_contacts(
    a: Strand, b: Strand, crossings: np.ndarray, unused: set[int], skip_ends: bool = False
) -> Iterator[Contact]:
    """Ends of a that lie on or near b. An end that only just crosses b meets it where it crosses; such a crossing is no
    longer unused. skip_ends: those at ends of b are left out, as told already."""
    import shapely

    for end in a.ends:
        here = a.points[end]
        k = _crossing_at(a, end, crossings, JOINED_MM + b.widest)
        if k is not None:
            here = crossings[k]
            unused.discard(k)
        to = b.place(np.array([shapely.line_locate_point(b.line, shapely.Point(here))]))[0]
        contact = _contact(a, b, TEE, here, to)
        if contact.gap > LOOK_OUT_MM:
            continue
        at_end = [j for j in b.ends if np.hypot(*(b.points[j] - to)) <= JOINED_MM + b.widest]
        if at_end and skip_ends:
            continue
        if at_end:
            far = min(at_end, key=lambda j: float(np.hypot(*(b.points[j] - to))))
            kind, there = _end_kind(a, end, b, far), b.points[far]
            near = a.place(np.array([shapely.line_locate_point(a.line, shapely.Point(there))]))[0]
            # The ink of two ends is nearest where either of them comes nearest to the other line.
            yield min(_contact(a, b, kind, here, to), _contact(a, b, kind, near, there), key=lambda c: c.gap)
        else:
            yield contact


def _crossing_at(a: Strand, end: int, crossings: np.ndarray, reach: float) -> int | None:
    """The crossing that lies nearest to an end of a, along it, within reach."""
    import shapely

    if not len(crossings):
        return None
    away = np.abs(shapely.line_locate_point(a.line, shapely.points(crossings)) - a.chords[end])
    k = int(np.argmin(away))
    return k if away[k] <= reach else None


def _end_kind(a: Strand, end: int, b: Strand, far: int) -> str:
    """What two ends that meet are: whether one line goes on as the other."""
    out_of_a = -a.tangent(0.0) if end == 0 else a.tangent(float(a.chords[-1]))
    into_b = b.tangent(0.0) if far == 0 else -b.tangent(float(b.chords[-1]))
    return RUN_ON if float(out_of_a @ into_b) > _SETTINGS[2] else CORNER


def _crossings(a: Strand, b: Strand) -> np.ndarray:
    """Places (k, 2) where middles cross, in order along a."""
    import shapely

    meet = shapely.intersection(a.line, b.line)
    parts = [part for part in shapely.get_parts(meet) if not part.is_empty]
    places = np.array([shapely.get_coordinates(part).mean(axis=0) for part in parts]).reshape(-1, 2)
    return places[np.argsort(shapely.line_locate_point(a.line, shapely.points(places)))]


def _beside(a: Strand, b: Strand, taken: list[Contact]) -> Iterator[Contact]:
    """The nearest place of each stretch of a that runs near b, away from places that are told already, but where it
    lies nearer than those."""
    import shapely

    at, places = a.along
    on_b = shapely.line_locate_point(b.line, shapely.points(places))
    gaps = np.hypot(*(b.place(on_b) - places).T) - a.wide(at) - b.wide(on_b)
    near = gaps <= LOOK_OUT_MM
    clear = np.ones(len(near), bool)
    for told in taken:
        nearer = gaps + NEARER_MM < told.gap
        clear &= (np.hypot(*(places - told.at).T) > CLEAR_MM) | nearer
    for run in runs(near & clear):
        k = run[int(np.argmin(gaps[run]))]
        # Lines that come nearer towards what is told already belong to it.
        if any(0 <= j < len(near) and not clear[j] for j in (k - 1, k + 1)):
            continue
        fine = np.linspace(at[max(k - 1, 0)], at[min(k + 1, len(at) - 1)], FINER)
        here = a.place(fine)
        there = b.place(shapely.line_locate_point(b.line, shapely.points(here)))
        j = int(np.argmin(np.hypot(*(there - here).T)))
        yield _contact(a, b, BESIDE, here[j], there[j])


def runs(mask: np.ndarray) -> list[np.ndarray]:
    """Indices of each run of true values."""
    at = np.flatnonzero(mask)
    return np.split(at, np.flatnonzero(np.diff(at) > 1) + 1) if len(at) else []


def _contact(a: Strand, b: Strand, kind: str, here: np.ndarray, there: np.ndarray) -> Contact:
    import shapely

    on_a, on_b = (
        float(shapely.line_locate_point(strand.line, shapely.Point(place))) for strand, place in ((a, here), (b, there))
    )
    apart = float(np.hypot(*(there - here)))
    gap = apart - a.half(on_a, there) - b.half(on_b, here)
    dot = min(abs(float(a.tangent(on_a) @ b.tangent(on_b))), 1.0)
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
        self._told: dict[str, tuple[Contact, ...]] = {}
        self._stale: set[str] = set()

    def of(self, line: str) -> tuple[Contact, ...]:
        """All contacts of a line."""
        self._bring_up_to_date()
        return self._told.get(line, ())

    def all(self) -> tuple[Contact, ...]:
        """Each contact once."""
        return tuple(c for line, others in self._pairs.items() for other, found in others.items() if line < other
                     for c in found)  # fmt: skip

    def frozen(self) -> Mapping[str, tuple[Contact, ...]]:
        """Contacts by line as they are now; lines without any are left out."""
        self._bring_up_to_date()
        return dict(self._told)

    def _bring_up_to_date(self) -> None:
        for line in self._stale:
            self._tell(line)
        self._stale.clear()

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
                self._stale.add(other)
        self._stale.add(strand.id)
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
            self._stale.add(other)
        self._stale.add(line)

    def _tell(self, line: str) -> None:
        found = self._pairs.get(line)
        if found:
            self._told[line] = tuple(contact for contacts in found.values() for contact in contacts)
        else:
            self._told.pop(line, None)

    def _near(self, box: np.ndarray) -> list[str]:
        b = self._boxes
        with np.errstate(invalid="ignore"):
            meet = (b[:, 0] <= box[2]) & (b[:, 1] <= box[3]) & (b[:, 2] >= box[0]) & (b[:, 3] >= box[1])
        return [self._ids[row] for row in np.flatnonzero(meet).tolist()]

    def _grow(self) -> None:
        n = len(self._boxes)
        self._boxes = np.vstack([self._boxes, np.full((n, 4), np.nan)])
        self._free = list(range(n, 2 * n))
