"""A finished line: its centreline, its widths, its ends, and the edge of its ink."""

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from plain_stride.compiled.ready import floats, kernels
from plain_stride.lines.curve import Arc, direction, flat_counts, parameters, point
from plain_stride.lines.edge_curves import edge_curves
from plain_stride.lines.edges import CRISP, Edge
from plain_stride.lines.loose_ends import GAPPED, rings_of
from plain_stride.lines.outline import BrushDiscs, discs_along, outline
from plain_stride.lines.profile import Widths, joined
from plain_stride.lines.uniting import united

JSON_MM, LEAST_FULL_MM = 0.004, 1e-3
STRIP_MM = 0.3

OUTLINES = ("smooth_rings", "rings", "edge_curves")
"""What of a line takes longest to work out."""


@dataclass(frozen=True, eq=False)
class Path:
    """The centreline of what trims have left: curve (m, 4, 2), arc its lengths; s, source_t (k,): arc length against
    the line's source parameter, both rising, ends exact."""

    curve: np.ndarray
    closed: bool
    s: np.ndarray
    source_t: np.ndarray
    arc: Arc = field(repr=False)


def plain_path(curve: np.ndarray, closed: bool) -> Path:
    """The path of a curve (m, 4, 2) mm that is its own source: its parameter is its arc length."""
    arc = Arc(curve)
    ends = np.array([0.0, arc.length])
    return Path(curve, closed, ends, ends, arc)


@dataclass(frozen=True, eq=False)
class FixedPath:
    """A centreline that stands instead of a pulled one. source_t (k,): the line's source parameters at even shares of
    its length, rising."""

    curve: np.ndarray
    closed: bool
    source_t: np.ndarray


@dataclass(frozen=True, eq=False)
class Shape:
    """The finished line. widths along it, body: widths before ends; ends: their kinds; edge: what its ink is like
    there; corners: rings (n, 2) mm of ink that it has besides, where it makes a corner with another line."""

    path: Path
    widths: Widths
    body: Widths
    ends: tuple[str, str]
    edge: Edge = CRISP
    corners: tuple[np.ndarray, ...] = ()

    @property
    def curve(self) -> np.ndarray:
        """Its middle as cubics (m, 4, 2), mm."""
        return self.path.curve

    @property
    def closed(self) -> bool:
        """Whether its end is its start."""
        return self.path.closed

    @property
    def s(self) -> np.ndarray:
        """Arc lengths (n,), mm, at which its source parameter is known."""
        return self.path.s

    @property
    def source_t(self) -> np.ndarray:
        """The source parameter (n,) at each of `s`: s of its pull, or mm of its form."""
        return self.path.source_t

    @property
    def arc(self) -> Arc:
        """Arc lengths along its middle."""
        return self.path.arc

    @property
    def length(self) -> float:
        """mm along its middle."""
        return self.arc.length

    @property
    def middle(self) -> np.ndarray:
        """(2,) mm: the place half-way along it."""
        return np.asarray(self.arc.point(np.array([self.length / 2.0]))[0])

    @property
    def middle_width(self) -> float:
        """mm half-way along it."""
        left, right = self.widths.at(np.array([self.length / 2.0]))
        return float(left[0] + right[0])

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1) that holds the ink: control points and the widest half-width."""
        reach = float(max(self.widths.left.max(), self.widths.right.max()))
        p = self.curve.reshape(-1, 2)
        (x0, y0), (x1, y1) = p.min(axis=0) - reach, p.max(axis=0) + reach
        for ring in self.corners:
            (u0, v0), (u1, v1) = ring.min(axis=0), ring.max(axis=0)
            x0, y0, x1, y1 = min(x0, u0), min(y0, v0), max(x1, u1), max(y1, v1)
        return float(x0), float(y0), float(x1), float(y1)

    @cached_property
    def _hulls(self) -> tuple[np.ndarray, np.ndarray]:
        return self.curve.min(axis=1), self.curve.max(axis=1)

    def at_least(self, place: np.ndarray) -> float:
        """mm that a place (2,) lies from the line's middle at least: from the boxes round its pieces. Told at once."""
        low, high = self._hulls
        return float(np.hypot(*np.maximum(np.maximum(low - place, place - high), 0.0).T).min())

    @cached_property
    def flat(self) -> tuple[np.ndarray, np.ndarray]:
        """(points (n, 2), arc lengths (n,)) of the centreline within 0.002 mm."""
        k, u = parameters(flat_counts(self.curve, 0.002))
        return point(self.curve, k, u), self.arc.length_at(k, u)

    @property
    def flat_ring(self) -> np.ndarray:
        """The points (n, 2) of `flat`; a closed line repeats its first."""
        points = self.flat[0]
        return np.vstack([points, points[:1]]) if self.closed else points

    def discs(self, scale: float = 1.0) -> BrushDiscs:
        """The discs that the brush lays along it, in units of 1 / scale mm."""
        return discs_along(self.curve, self.arc.at_piece_ends(), self.widths, scale)

    @cached_property
    def smooth_rings(self) -> list[np.ndarray]:
        """The line's edge as rings of points, without its grain; see `outline.outline`. (n, 2) mm each."""
        flat = (self.ends[0] == "flat", self.ends[1] == "flat")
        rings = rings_of(self.arc, self.widths, flat) if self.broken else outline(self.discs(), self.closed, flat)
        return united([*rings, *self.corners]) if self.corners else rings

    @property
    def broken(self) -> bool:
        """Whether it has gaps at an end."""
        return any(kind in GAPPED for kind in self.ends) and not self.closed

    def outlines(self) -> dict[str, list[np.ndarray]]:
        """What has been worked out of `OUTLINES`, by name. (n, 2) or (m, 4, 2) mm each."""
        return {name: self.__dict__[name] for name in OUTLINES if name in self.__dict__}

    def take_outlines(self, known: dict[str, list[np.ndarray]]) -> None:
        """Takes over what was worked out of the very same line. (n, 2) or (m, 4, 2) mm each."""
        self.__dict__.update(known)

    @cached_property
    def rings(self) -> list[np.ndarray]:
        """The edge of its ink as rings of points, its grain taken out. (n, 2) mm each."""
        return self.smooth_rings if self.edge is CRISP else self.edge.rings(self.smooth_rings, self.discs())

    @cached_property
    def edge_curves(self) -> list[np.ndarray]:
        """The edge of its ink as closed chains of cubics (m, 4, 2), mm."""
        return edge_curves(self.rings, len(self.curve))

    def strip(self, tolerance: float) -> np.ndarray:
        """One ring (n, 2) for the eye: both edges straight out from a centreline within `tolerance` mm. Where the line
        is tight it crosses itself; `rings` is the truth."""
        compiled = kernels()
        joints, w = self.arc.at_piece_ends(), self.widths
        if compiled is not None:
            out: np.ndarray = compiled.strip(*floats(self.curve, joints, w.s, w.left, w.right), tolerance)
            return out
        by_length = np.ceil(np.diff(joints) / STRIP_MM).astype(int)
        k, u = parameters(np.maximum(flat_counts(self.curve, tolerance), by_length))
        at, tangent = point(self.curve, k, u), direction(self.curve, k, u)
        left, right = w.at(self.arc.length_at(k, u))
        normal = np.column_stack([tangent[:, 1], -tangent[:, 0]])
        return np.vstack([at + normal * left[:, None], (at - normal * right[:, None])[::-1]])

    def source_t_at(self, s: float) -> float:
        """The source parameter (s of a pull, mm of a form) at an arc length, mm."""
        return float(np.interp(s, self.s, self.source_t))

    def width_points(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(points, left, right): the centreline within 0.01 mm with half-widths that are read linearly between.

        A closed line does not repeat its first point.
        """
        thin = self.widths.thinned(JSON_MM)
        k, u = parameters(flat_counts(self.curve, JSON_MM))
        at = joined(self.arc.length_at(k, u), thin.s)
        at = at[np.concatenate([[True], np.diff(at) > 1e-6])]
        if self.closed:
            at = at[at < self.length - 1e-6]
        return self.arc.point(at), *self.widths.at(at)


def overdone(shape: Shape, base: float, times: float) -> Shape:
    """A line whose widths lie so many times as far from a base (mm), in powers of two, as they do."""
    full = np.maximum(shape.body.full, LEAST_FULL_MM)
    gain = np.interp(shape.widths.s, shape.body.s, (full / base) ** (times - 1.0))
    return Shape(shape.path, shape.widths.scaled(gain), shape.body, shape.ends, shape.edge)
