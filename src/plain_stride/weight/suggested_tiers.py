"""Depths that a drawing suggests for its parts: by what hides what, whose lines end on whose, how low and how large.

Common practice: what covers another is nearer; a line that ends on another lies behind it; what stands lower on the
sheet and is larger is nearer as a rule. How much each counts is ours. It is a suggestion and nothing more.
"""

from dataclasses import dataclass

import numpy as np

from plain_stride.form.drawing import Drawing
from plain_stride.form.junctions import STEM
from plain_stride.form.known import Known
from plain_stride.weight.plan import TIERS

IN_FRONT, LOW, LARGE = 0.5, 0.3, 0.2
"""How much what lies in front, what stands low, and what is large, count."""
NEAR_FROM, FAR_TO = 0.6, 0.35
CLEAR = 0.65
"""A share from which on something is a reason."""
LEAST_ENDS = 2


@dataclass(frozen=True)
class Suggestion:
    """part: its id; tier: what is suggested; now: what it is; reasons: why, in words."""

    part: str
    tier: str
    now: str
    reasons: tuple[str, ...]


def suggested_tiers(drawing: Drawing, known: Known) -> list[Suggestion]:
    """What is suggested for each part that has lines that are seen, near ones first."""
    places = known.places
    rank = {part.id: k for k, part in enumerate(drawing.parts)}
    part = np.array([rank[drawing.lines[key].part] for key in places.lines], int)
    there = np.unique(part).tolist()
    if len(there) < 2:
        return []
    front, ends = _in_front(drawing, known, part)
    low = _share({k: float(places.points[part[places.line] == k, 1].max()) for k in there})
    large = _share({k: _size(places.points[part[places.line] == k]) for k in there})
    out = []
    for k in there:
        score = IN_FRONT * front[k] + LOW * low[k] + LARGE * large[k]
        tier = TIERS[0] if score >= NEAR_FROM else TIERS[2] if score <= FAR_TO else TIERS[1]
        one = drawing.parts[k]
        out.append((score, Suggestion(one.id, tier, one.tier, _reasons(ends[k], low[k], large[k]))))
    return [one for _, one in sorted(out, key=lambda item: (-item[0], item[1].part))]


def _in_front(drawing: Drawing, known: Known, part: np.ndarray) -> tuple[np.ndarray, list[tuple[int, int]]]:
    """(0..1 for each part: in front of all that it meets, behind all; how many lines end on it, and of its on others).
    What its cover hides counts as lines that end there."""
    count = len(drawing.parts)
    found = known.junctions
    met = found.only(found.joined & (found.kind == STEM) & (part[found.line] != part[found.other]))
    over = np.bincount(part[met.other], minlength=count)
    under = np.bincount(part[met.line], minlength=count)
    places = known.places
    hidden = np.bincount(part[places.line[known.hidden]], minlength=count) > 0
    at = [part_.id for part_ in drawing.parts]
    hides = np.array([key in drawing.covers for key in at]) & bool(hidden.any())
    over, under = over + LEAST_ENDS * hides, under + LEAST_ENDS * hidden
    total = over + under
    share = np.where(total > 0, over / np.maximum(total, 1), 0.5)
    return share, list(zip(over.tolist(), under.tolist(), strict=True))


def _size(points: np.ndarray) -> float:
    wide, high = points.max(axis=0) - points.min(axis=0)
    return float(np.sqrt(max(wide, 0.1) * max(high, 0.1)))


def _share(values: dict[int, float]) -> dict[int, float]:
    low, high = min(values.values()), max(values.values())
    return {key: (value - low) / max(high - low, 1e-9) for key, value in values.items()}


def _reasons(ends: tuple[int, int], low: float, large: float) -> tuple[str, ...]:
    over, under = ends
    out = []
    if over + under >= LEAST_ENDS and over >= CLEAR * (over + under):
        out.append(f"{over} lines of others end on it or go under it")
    if over + under >= LEAST_ENDS and under >= CLEAR * (over + under):
        out.append(f"{under} of its lines end on others or go under them")
    out += ["low on the sheet"] if low >= CLEAR else ["high on the sheet"] if low <= 1.0 - CLEAR else []
    out += ["large"] if large >= CLEAR else ["small"] if large <= 1.0 - CLEAR else []
    return tuple(out) or ("in the middle by all that tells",)
