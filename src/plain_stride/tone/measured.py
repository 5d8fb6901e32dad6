"""What hatching measures: pitch and width with their evenness, cells, what it covers, what print makes of it.

Strokes are taken as they lie, whoever laid them. The pitch is measured from the middle of each stroke to the next one.
Where it is known what was asked, and how the form spreads strokes, both are divided out; of hatching that was pulled by
hand a smooth trend is, as a ramp or a form has.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.board.targets import PrintTarget
from plain_stride.hand.along import lengths_along, places_at
from plain_stride.measure import MM_PER_INCH
from plain_stride.tone.covered import Box, covered
from plain_stride.tone.printed import INK, N_FACTOR, PAPER, printed, reflectance

EXPORT_DPI = 600.0
GRID_DEG = 0.2
"""A pitch seen under more than this reads as lines and no longer as a grey: 5 of them a degree, near which the eye sees
contrast best (3 to 5 cycles a degree, from memory)."""
TREND, LEAST_TREND, NEIGHBOURS = 3, 8, 2.5
MOST_FOUND, LOOK = 0.8, 2.5
MOST_PRINT_PX = 400_000


@dataclass(frozen=True)
class Evenness:
    """pitch, width: means, mm; cv_pitch, cv_width: their coefficients of variation, what was asked and what the form
    does divided out; pairs: how many pitches were measured."""

    pitch: float
    cv_pitch: float
    width: float
    cv_width: float
    pairs: int


@dataclass(frozen=True)
class Cells:
    """The rhombs between two sets: mm2 of each, and how many times as long as wide."""

    area: float
    elongation: float


@dataclass(frozen=True)
class Prints:
    """What the print target makes of a field. coverage: share of ink; reads: the share of ink that the same reflectance
    has with light that spreads in the paper; lost, closed: shares of the field."""

    coverage: float
    reflectance: float
    reads: float
    lost: float
    closed: float


@dataclass(frozen=True, eq=False)
class Wanted:
    """What was asked of the strokes of a set: rows (m,): of which course each is; apart (m, 2): mm from its middle to
    the courses before and after, as the form spreads them there; widths (m,): mm at its middle."""

    rows: np.ndarray
    apart: np.ndarray
    widths: np.ndarray

    def between(self, strokes: np.ndarray, beside: np.ndarray) -> np.ndarray:
        """mm (k,) from strokes to others beside them."""
        steps = self.rows[beside] - self.rows[strokes]
        one = self.apart[strokes, (steps > 0).astype(int)]
        return np.asarray(one * np.maximum(np.abs(steps), 1))


def evenness_of(
    centres: Sequence[np.ndarray],
    widths: np.ndarray,
    wanted: Wanted | None = None,
) -> Evenness:
    """How even strokes of one set lie. centres: (n, 2) mm each; widths (m,): mm at their middles. What was wanted of
    them is divided out; where that is not known, smooth trends across the set stand for it."""
    width = float(np.mean(widths)) if len(centres) else 0.0
    if len(centres) < 3:
        return Evenness(0.0, 0.0, width, 0.0, 0)
    across = _across(centres)
    order = np.argsort(across, kind="stable")
    wide = widths[order] / (wanted.widths[order] if wanted is not None else _trend(widths[order]))
    strokes, beside, pitch = pitches_of(centres)
    if not len(strokes):
        return Evenness(0.0, 0.0, width, _cv(wide), 0)
    row = np.argsort(across[strokes], kind="stable")
    strokes, beside, pitch = strokes[row], beside[row], pitch[row]
    rest = pitch / (wanted.between(strokes, beside) if wanted is not None else _trend(pitch))
    return Evenness(float(pitch.mean()), _cv(rest), width, _cv(wide), len(strokes))


def _cv(values: np.ndarray) -> float:
    return float(values.std() / max(abs(float(values.mean())), 1e-12))


def _trend(values: np.ndarray) -> np.ndarray:
    """The smooth course of values (m,) from one side to the other: a cubic of their logarithms, robust to a few that
    are far off."""
    y = np.log(np.maximum(values, 1e-6))
    if len(y) < LEAST_TREND:
        return np.full(len(y), float(np.exp(np.median(y))))
    x = np.linspace(-1.0, 1.0, len(y))
    keep = np.ones(len(y), bool)
    fit = np.zeros(len(y))
    for _ in range(3):
        fit = np.polynomial.Polynomial.fit(x[keep], y[keep], TREND)(x)
        off = np.abs(y - fit)
        keep = off <= max(4.0 * float(np.median(off)), 1e-9)
    return np.asarray(np.exp(fit))


def _common_way(centres: Sequence[np.ndarray]) -> np.ndarray:
    """(2,) the direction that strokes have in common, whichever end they begin at."""
    chords = np.array([p[-1] - p[0] for p in centres])
    # Directions without sense: doubled angles are averaged, long strokes count for more.
    turns = np.exp(2j * np.arctan2(chords[:, 1], chords[:, 0])) * np.hypot(*chords.T)
    angle = 0.5 * float(np.angle(turns.sum()))
    return np.array([np.cos(angle), np.sin(angle)])


def _across(centres: Sequence[np.ndarray]) -> np.ndarray:
    """Where the middles of strokes lie across their common direction (m,), mm."""
    x, y = _common_way(centres)
    return np.array([_middle(p) for p in centres]) @ np.array([-y, x])


def _middle(points: np.ndarray) -> np.ndarray:
    s = lengths_along(points)
    return places_at(points, s, s[-1:] / 2.0)[0]


def pitches_of(centres: Sequence[np.ndarray]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(strokes (k,), the next one on the right of each (k,), mm (k,) to it from its middle), where one runs beside
    it. centres: (n, 2) mm each."""
    import shapely

    lines = shapely.linestrings(np.concatenate(centres), indices=np.repeat(np.arange(len(centres)),
                                                                           [len(p) for p in centres]))  # fmt: skip
    places = np.array([_middle(p) for p in centres])
    middles, tree = shapely.points(places), shapely.STRtree(lines)
    of, other = _neighbours(tree, middles, float(np.median(shapely.length(lines))))
    of, other = of[of != other], other[of != other]
    at = shapely.line_locate_point(lines[other], middles[of])
    beside = (at > 1e-6) & (at < shapely.length(lines[other]) - 1e-6)
    to = shapely.get_coordinates(shapely.line_interpolate_point(lines[other], at)) - places[of]
    x, y = _common_way(centres)
    right = to @ np.array([-y, x]) > 0.0
    of, other, far = of[beside & right], other[beside & right], np.hypot(*to[beside & right].T)
    order = np.lexsort((far, of))
    first = np.concatenate([[True], np.diff(of[order]) > 0]) if len(order) else np.zeros(0, bool)
    strokes, others, pitch = (v[order][first] for v in (of, other, far))
    near = pitch <= NEIGHBOURS * np.median(pitch) if len(pitch) else np.zeros(0, bool)
    return strokes[near], others[near], pitch[near]


def _neighbours(tree: Any, middles: Any, length: float) -> tuple[np.ndarray, np.ndarray]:
    """(strokes, others near their middles), looked for as far as most have one on either side."""
    far = max(length / 100.0, 1e-3)
    while True:
        of, other = tree.query(middles, predicate="dwithin", distance=far)
        found = np.bincount(of[of != other], minlength=len(middles)) > 0
        if found.mean() >= MOST_FOUND or far > 100.0 * length:
            return tree.query(middles, predicate="dwithin", distance=LOOK * far)
        far *= 1.5


def coverage(rings: Sequence[np.ndarray], area: Any, dpi: float = EXPORT_DPI) -> float:
    """The share of an area (shapely's own, mm) that ink covers, from the pixels of an export at a resolution."""
    per_mm, box = dpi / MM_PER_INCH, _whole(area.bounds, dpi / MM_PER_INCH)
    inside = covered(_rings_of(area), box, per_mm)
    return float((covered(rings, box, per_mm) * inside).sum() / max(float(inside.sum()), 1e-12))


def shares_along(
    rings: Sequence[np.ndarray], area: Any, way: tuple[float, float], low: float, high: float, dpi: float = EXPORT_DPI
) -> tuple[float, float]:
    """What ink covers at both ends of a ramp: the straight through the shares of all pixels along a direction, from
    `low` to `high` mm (least squares), as linear ramps are asked."""
    per_mm, box = dpi / MM_PER_INCH, _whole(area.bounds, dpi / MM_PER_INCH)
    inside, ink = covered(_rings_of(area), box, per_mm), covered(rings, box, per_mm)
    rows, columns = (np.arange(n) + 0.5 for n in inside.shape)
    along = (box[0] + columns[None, :] / per_mm) * way[0] + (box[1] + rows[:, None] / per_mm) * way[1]
    share = (along - low) / max(high - low, 1e-9)
    some = inside > 0.0
    slope, start = np.polyfit(share[some], ink[some], 1, w=np.sqrt(inside[some]))
    return float(start), float(start + slope)


def prints(rings: Sequence[np.ndarray], area: Any, target: PrintTarget) -> Prints:
    """What a print target makes of an area."""
    per_mm = target.dpi / MM_PER_INCH
    x0, y0, x1, y1 = area.bounds
    most = MOST_PRINT_PX / max((x1 - x0) * (y1 - y0) * per_mm**2, 1e-9)
    if most < 1.0:
        # A large field is told by its middle.
        rest = (1.0 - np.sqrt(most)) / 2.0
        x0, x1, y0, y1 = x0 + (x1 - x0) * rest, x1 - (x1 - x0) * rest, y0 + (y1 - y0) * rest, y1 - (y1 - y0) * rest
    box = _whole((x0, y0, x1, y1), per_mm)
    made = printed(covered(rings, box, per_mm), target)
    inside = covered(_rings_of(area), box, made.per_mm)[: len(made.ink), : made.ink.shape[1]] >= 0.5
    whole = max(int(inside.sum()), 1)
    ink, lost, closed = (float((bits & inside).sum()) / whole for bits in (made.ink, made.lost, made.closed))
    return Prints(ink, reflectance(ink), _reads(ink), lost, closed)


def _reads(coverage: float) -> float:
    """The share of ink that has the same reflectance by Murray and Davies as this one by Yule and Nielsen."""
    return float((PAPER - reflectance(coverage, N_FACTOR)) / (PAPER - INK))


def cells_of(pitches: Sequence[float], crossing: float) -> Cells | None:
    """The cells of the first two sets. crossing: degrees between them. A rhomb of heights p1, p2 and an angle c has the
    area p1 p2 / sin c; of equal heights its diagonals are as cot (c / 2)."""
    if len(pitches) < 2:
        return None
    angle = np.radians(abs((crossing + 90.0) % 180.0 - 90.0))
    return Cells(float(pitches[0] * pitches[1] / np.sin(angle)), float(1.0 / np.tan(angle / 2.0)))


def reads_as_grid(pitch: float, distance: float) -> bool:
    """Whether strokes so many mm apart are seen one by one from a distance, mm."""
    return bool(np.degrees(np.arctan2(pitch, distance)) > GRID_DEG)


def _rings_of(area: Any) -> list[np.ndarray]:
    """The edges of an area, outer ones and holes turning opposite ways."""
    import shapely

    parts = [shapely.orient_polygons(part) for part in shapely.get_parts(area) if part.geom_type == "Polygon"]
    return [np.asarray(ring.coords)[:-1] for part in parts for ring in (part.exterior, *part.interiors)]


def _whole(box: Box, per_mm: float) -> Box:
    """A box grown to whole pixels of the page."""
    low, high = np.floor(np.array(box[:2]) * per_mm) / per_mm, np.ceil(np.array(box[2:]) * per_mm) / per_mm
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
