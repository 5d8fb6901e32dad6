"""Strokes that are told one by one, each of its own length: speed lines, dots, motifs."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.hand.along import lengths_along
from plain_stride.lines.centre import DOT_MM
from plain_stride.lines.curve import Arc, straight
from plain_stride.lines.fit import path_directions
from plain_stride.lines.given import Form
from plain_stride.lines.profile import Widths, pointing
from plain_stride.tone.strokes import hermite

LEAST_MM = 0.3
PLACES = np.array([0.0, 0.03, 0.08, 0.18, 0.35, 0.55, 0.75, 0.9, 0.96, 1.0])


@dataclass(frozen=True, eq=False)
class Drawn:
    """points (n, 2) mm; width: mm where it is widest; start, end: shares of its length over which it comes to a
    point."""

    points: np.ndarray
    width: float
    start: float = 0.0
    end: float = 0.0


def forms_of(strokes: Sequence[Drawn]) -> list[Form]:
    """The lines that they are; those that are too short to be seen are left out."""
    return [_form(stroke) for stroke in strokes if lengths_along(stroke.points)[-1] >= LEAST_MM]


def dot(at: np.ndarray, size: float) -> Form:
    """A round dot, mm across."""
    x, y = at.tolist()
    half = np.full(2, size / 2.0)
    curve = straight(np.array([[x - DOT_MM / 2.0, y], [x + DOT_MM / 2.0, y]]))
    return Form(curve, False, Widths(np.array([0.0, DOT_MM]), half, half))


def clipped(strokes: Sequence[Drawn], area: Any) -> list[Drawn]:
    """What of strokes lies in an area (Shapely); where one is cut it ends blunt."""
    import shapely

    if not strokes:
        return []
    counts = [len(one.points) for one in strokes]
    lines = shapely.linestrings(np.concatenate([one.points for one in strokes]),
                                indices=np.repeat(np.arange(len(strokes)), counts))  # fmt: skip
    whole = shapely.covers(area, lines)
    out = []
    for k, one in enumerate(strokes):
        if whole[k]:
            out.append(one)
            continue
        for piece in shapely.get_parts(shapely.intersection(lines[k], area)):
            if piece.geom_type == "LineString" and piece.length >= LEAST_MM:
                points = np.asarray(piece.coords)
                ends = [np.hypot(*(points[n] - one.points[n])) < 1e-6 for n in (0, -1)]
                out.append(Drawn(points, one.width, one.start * ends[0], one.end * ends[1]))
    return out


def _form(stroke: Drawn) -> Form:
    """A smooth curve through its points (Hermite, directions of the parabolas through three), with its widths."""
    p = stroke.points
    curve = straight(p) if len(p) == 2 else hermite(p, path_directions(p, lengths_along(p)))
    arc = Arc(curve)
    at = PLACES if stroke.start or stroke.end else np.array([0.0, 1.0])
    shape = np.ones(len(at))
    for away, reach in ((at, stroke.start), (1.0 - at, stroke.end)):
        if reach > 0.0:
            shape *= pointing(away / reach)
    half = stroke.width * shape / 2.0
    return Form(curve, False, Widths(at * arc.length, half, half))
