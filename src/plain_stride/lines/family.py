"""Lines that are made from another one: what a member of a family has before its own edits."""

from dataclasses import dataclass

import numpy as np

from plain_stride.lines.affine import Affine
from plain_stride.lines.centre import Centreline
from plain_stride.lines.drawn import parallel
from plain_stride.lines.given import curve_through
from plain_stride.lines.profile import Widths
from plain_stride.lines.recipe import Worked

APART_MM = 1e-3


@dataclass(frozen=True, eq=False)
class Member:
    """centre: with the source parameters of the line it is made from; widths: that line's, the hand's and its edits, at
    source parameters."""

    centre: Centreline
    widths: Widths
    closed: bool


def mapped_member(source: Worked, by: Affine) -> Member:
    """A copy that was moved, turned or mirrored. source: the line as the hand alone has it. by: keeps lengths."""
    path = source.path
    centre = Centreline(by.of(path.curve), path.s, path.source_t, np.ones(len(path.s)))
    widths = _by_source(source, source.body.s)
    return Member(centre, Widths(widths.s, widths.right, widths.left) if by.mirrors else widths, path.closed)


def parallel_member(source: Worked, gap: float) -> Member:
    """A line beside another at a gap, mm, to its left above 0. Raises DrawnError where nothing is left of it."""
    path, (points, s) = source.path, source.shape.flat
    beside = parallel(points, gap, path.closed)
    at = _places_on(points, s, beside)
    if path.closed:
        first = int(np.argmin(at))
        beside, at = np.roll(beside, -first, axis=0), np.roll(at, -first)
        if np.median(np.diff(at)) < 0.0:
            beside, at = np.roll(beside[::-1], 1, axis=0), np.roll(at[::-1], 1)
    apart = np.concatenate([[True], np.hypot(*np.diff(beside, axis=0).T) > APART_MM])
    beside, at = beside[apart], at[apart]
    curve, along = curve_through(beside, path.closed)
    if path.closed:
        at = np.concatenate([at, [float(s[-1])]])
        at[0] = 0.0
    source_t = np.interp(np.maximum.accumulate(at), path.s, path.source_t) + np.arange(len(at)) * 1e-9
    return Member(
        Centreline(curve, along, source_t, np.ones(len(source_t))), _by_source(source, source.body.s), path.closed
    )


def _places_on(points: np.ndarray, s: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Arc lengths (n,) of a line, (points, s), nearest to places (n, 2)."""
    import shapely

    whole = shapely.LineString(points)
    at = shapely.line_locate_point(whole, shapely.points(places))
    chords = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return np.interp(at, chords, s)


def _by_source(source: Worked, s: np.ndarray) -> Widths:
    source_t = np.interp(s, source.path.s, source.path.source_t)
    return Widths(source_t + np.arange(len(source_t)) * 1e-9, source.body.left, source.body.right)
