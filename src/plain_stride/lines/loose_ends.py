"""Loose ends: broken, as a pen that leaves the paper and comes back; dotted, as one that only touches it any more; and
stuttering, as one that runs dry. All are laid out over the last stretch of a line, the same every time."""

import numpy as np

from plain_stride.lines.curve import Arc, between
from plain_stride.lines.outline import BrushDiscs, discs_along, outline
from plain_stride.lines.profile import Widths, joined, with_knots

TIMES, LEAST_REACH_MM, REACH_WIDTHS = 4.0, 6.0, 14.0
"""A loose end is so many times as long as the nib's pointed one, so many widths long, and no shorter than that, where
its length is not set."""
GAPS = ((0.74, 0.65), (0.48, 0.37), (0.24, 0.10))
"""Shares of the end's length, from the body to the tip, between which a broken end has no ink: ever longer gaps between
ever shorter dashes (common practice)."""
TIP, CUT = 0.3, 0.4
"""Shares of the width that are left at the tip, and on both sides of a gap."""
LEAST_GAP = 1.4
"""Widths that a gap is long at least: the round ends of its dashes reach into it."""
STUTTERS = (
    (0.10, 0.3, "left"),
    (0.24, 0.4, "right"),
    (0.33, 0.5, "left"),
    (0.45, 0.55, "right"),
    (0.52, 0.4, "left"),
    (0.61, 0.65, "both"),
    (0.70, 0.75, "left"),
    (0.76, 0.7, "right"),
    (0.84, 0.85, "both"),
    (0.93, 0.9, "both"),
)
"""Shares of a stuttering end, from the body to the tip, at which a pen that runs dry thins, by how much of the width,
and on which edge: uneven, ever closer and deeper (common practice)."""
NOTCH, DRY_TIP, LEAST = 0.022, 0.55, 0.1
"""How long such a thinning is, as a share of the end; what is left of the width at the tip, and anywhere at least."""
BARE_MM, LEAST_WIDE_MM = 1e-9, 0.1
EDGE_MM, KNOTS = 1e-5, 160
GAPPED = ("broken", "dotted")
DOT, DOT_GAP, DOT_SPREAD, DOT_SHARE, MOST_DOTS = 0.15, 1.7, 1.0, 0.5, 24
"""Widths that a dot is long between its round ends; how far apart dots lie at the body, and more towards the tip; what
share of the width the last one has."""


def reach_of(mm: float | None, nib_end_mm: float, width: float) -> float:
    """mm of a loose end: as it was set, or by the nib's own and the line's width, mm."""
    return mm if mm is not None else max(TIMES * nib_end_mm, LEAST_REACH_MM, REACH_WIDTHS * width)


def loosened(widths: Widths, kinds: tuple[str, str], reaches: tuple[float, float]) -> Widths:
    """Widths with broken and stuttering ends, each over so many mm, a third of the line at most; 0 for none."""
    for k, (kind, mm) in enumerate(zip(kinds, reaches, strict=True)):
        length = float(widths.s[-1])
        reach = min(mm, length / 3.0)
        if reach <= 0.0:
            continue
        if kind in GAPPED:
            gaps = _gaps(widths, reach, bool(k)) if kind == "broken" else _between_dots(widths, reach, bool(k))
            widths = _broken(widths, reach, bool(k), gaps, whole=kind == "dotted")
        elif kind == "stutter":
            widths = _stuttered(widths, reach, bool(k))
    return widths


def inked(widths: Widths) -> list[tuple[float, float]]:
    """Stretches, mm along the line, that have ink: all but the gaps of broken ends."""
    ink = widths.full > BARE_MM
    if ink.all():
        return [(float(widths.s[0]), float(widths.s[-1]))]
    starts = np.flatnonzero(ink & ~np.concatenate([[False], ink[:-1]]))
    ends = np.flatnonzero(ink & ~np.concatenate([ink[1:], [False]]))
    return [(float(widths.s[a]), float(widths.s[b])) for a, b in zip(starts, ends, strict=True) if b > a]


def discs_of(arc: Arc, widths: Widths, stretch: tuple[float, float]) -> BrushDiscs:
    """The brush's discs along a stretch of a line, mm."""
    a, b = stretch
    curve = between(arc, a, b)
    part = Arc(curve)
    inside = widths.s[(widths.s > a) & (widths.s < b)]
    at = joined(inside, np.array([a, b]))
    left, right = widths.at(at)
    s = (at - a) * (part.length / max(b - a, BARE_MM))
    return discs_along(curve, part.at_piece_ends(), Widths(s, left, right), 1.0)


def rings_of(arc: Arc, widths: Widths, flat: tuple[bool, bool]) -> list[np.ndarray]:
    """The edges of all stretches that have ink, as rings (n, 2) mm."""
    stretches, out = inked(widths), []
    for n, stretch in enumerate(stretches):
        ends = (flat[0] and n == 0, flat[1] and n == len(stretches) - 1)
        out += outline(discs_of(arc, widths, stretch), False, ends)
    return out


def _broken(widths: Widths, reach: float, at_end: bool, gaps: list[tuple[float, float]], whole: bool) -> Widths:
    """Widths with gaps (far, near) mm from the tip. whole: what lies between keeps its width; else ink thins towards
    each gap."""
    length = float(widths.s[-1])
    edges = [v + d for a, b in gaps for v in (a, b) for d in (-EDGE_MM, 0.0, EDGE_MM)]
    fade = [v + d for a, b in gaps for v, sign in ((a, 1), (b, -1)) for d in sign * np.linspace(0.05, 1.0, 6)]
    near = np.array([*edges, *fade, reach])
    fine = with_knots(widths, length - near if at_end else near)
    away = length - fine.s if at_end else fine.s
    factor = TIP + (1.0 - TIP) * np.clip(away / reach, 0.0, 1.0)
    if whole:
        factor = np.maximum(factor, DOT_SHARE)
    else:
        factor *= _faded(away, LEAST_WIDE_MM * 4.0)
    for a, b in gaps:
        beside = np.where(away >= a, away - a, np.where(away <= b, b - away, 0.0))
        wide = max(_full_at(widths, length - a if at_end else a), LEAST_WIDE_MM)
        if not whole:
            factor *= _faded(beside, wide)
        factor[(away < a - EDGE_MM / 2.0) & (away > b + EDGE_MM / 2.0)] = 0.0
    return fine.scaled(factor)


def _gaps(widths: Widths, reach: float, at_end: bool) -> list[tuple[float, float]]:
    """(far, near) mm from the tip of each gap; one that has no room is left out."""
    length, out, bound = float(widths.s[-1]), [], reach
    for far, near in GAPS:
        a, b = far * reach, near * reach
        b = min(b, a - LEAST_GAP * _full_at(widths, length - a if at_end else a))
        if a < bound and b > EDGE_MM * 4.0:
            out.append((a, b))
            bound = b
    return out


def _between_dots(widths: Widths, reach: float, at_end: bool) -> list[tuple[float, float]]:
    """(far, near) mm from the tip of the gaps between dots, which lie ever farther apart."""
    length, at = float(widths.s[-1]), reach
    out: list[tuple[float, float]] = []
    while len(out) < MOST_DOTS:
        wide = max(_full_at(widths, length - at if at_end else at), LEAST_WIDE_MM)
        near = at - wide * (DOT_GAP + DOT_SPREAD * (1.0 - at / reach))
        if near < DOT * wide:
            # What is left beyond the last dot has no ink.
            return [*out, (at, -1.0)]
        out.append((at, near))
        at = near - DOT * wide
    return out


def _faded(beside: np.ndarray, wide: float) -> np.ndarray:
    """From CUT to 1 over a little more than a width, mm from where ink ends: steeper, its edge would fold."""
    u = np.clip(beside / (1.1 * wide), 0.0, 1.0)
    out: np.ndarray = CUT + (1.0 - CUT) * u * u * (3.0 - 2.0 * u)
    return out


def _full_at(widths: Widths, s: float) -> float:
    left, right = widths.at(np.array([s]))
    return float(left[0] + right[0])


def _stuttered(widths: Widths, reach: float, at_end: bool) -> Widths:
    length = float(widths.s[-1])
    near = np.linspace(0.0, reach, KNOTS)
    fine = with_knots(widths, length - near if at_end else near)
    away = length - fine.s if at_end else fine.s
    u = np.clip(1.0 - away / reach, 0.0, 1.0)
    dry = (1.0 - (1.0 - DRY_TIP) * u) * _faded(away, NOTCH * 2.0 * reach)
    sides = {}
    for side in ("left", "right"):
        factor = dry.copy()
        for at, depth, where in STUTTERS:
            if where in (side, "both"):
                factor *= 1.0 - depth * np.exp(-(((u - at) / NOTCH) ** 2))
        sides[side] = np.maximum(factor, LEAST)
    return Widths(fine.s, fine.left * sides["left"], fine.right * sides["right"])
