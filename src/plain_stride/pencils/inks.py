"""Finished inks read from a picture: lines with the widths that were measured along them, and blacks.

Centrelines are found as those of pencils are; then each line's two edges are looked for in the picture itself, straight
across it, where the ink covers half a pixel: between two pixels by how dark they are. Where another line meets it, its
edges go on as they do on both sides.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.hand.along import lengths_along
from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.read.flat import resized
from plain_stride.pencils.read.patches import outline_of
from plain_stride.pencils.read.reading import ReadError, ReadLine, read_pencils

STEP_MM, LOOK_PX, MOST_HALF_MM, SOFT_MM = 0.1, 0.25, 1.6, 0.25
"""Apart of the places at which a width is measured, and of those that are looked at across; the widest half of a line;
over how much of it what was measured is evened."""
JUMP, LOCAL_MM, LEAST_HALF_MM = 1.35, 3.0, 0.02
"""An edge that lies so many times as far off as is usual within so many mm is another line's."""
GREY, MOST_GREY, COLOUR, MOST_COLOUR, MOST_DARK = (0.2, 0.8), 0.35, 40, 0.02, 0.6
"""Darkness of what is neither ink nor paper; how much of all that is dark may be so away from edges; by how much
channels differ in colour, and how much of a picture may be coloured; how much of it may be dark."""
BLACK_PER_MM, CORE_MM, SPREAD_MM, CLEAR_MM = 8.0, 0.95, 0.3, 0.4
"""Pixels a mm at which blacks are looked for; half of how wide they are at their narrowest; how far beyond its core's
reach one may still go; how wide a seam round one is no line."""
MOST_PX, LEAST_DPI, MOST_DPI = 120_000_000, 150.0, 2400.0
MANY_CRUMBS, CRUMB_MM = 1500, 1.6
"""So many lines, half of them shorter than that, are no drawing."""
Progress = Callable[[float], bool]


class InksError(PencilsError):
    """A picture that is no finished black-and-white ink."""


@dataclass(frozen=True, eq=False)
class InkLine:
    """points (n, 2) mm of the middle; left, right (n,): halves of its width, mm; ends: their kinds; closed."""

    points: np.ndarray
    left: np.ndarray
    right: np.ndarray
    closed: bool


@dataclass(frozen=True, eq=False)
class InksRead:
    """lines; blacks: outlines (n, 2) mm."""

    lines: list[InkLine]
    blacks: list[np.ndarray]


def check_inks(colours: np.ndarray, dpi: float) -> None:
    """Raises InksError, with what is wrong and what to do, for a picture (h, w, 3) uint8 that is no finished inks in
    black and white."""
    h, w = colours.shape[:2]
    if h * w > MOST_PX:
        raise InksError(f"a picture of {w:,} x {h:,} pixels is too large: {MOST_PX / 1e6:.0f} million at most")
    if not LEAST_DPI <= dpi <= MOST_DPI:
        raise InksError(f"inks are read at {LEAST_DPI:g} to {MOST_DPI:g} dpi, not {dpi:g}: scan them at 300 to 1,200")
    some = colours[:: max(1, h // 1500), :: max(1, w // 1500)].astype(np.int16)
    if float((np.ptp(some, axis=2) > COLOUR).mean()) > MOST_COLOUR:
        raise InksError("this picture is in colour: read the line art alone, in black and white, before its colours")
    dark = 1.0 - some.mean(axis=2) / 255.0
    if float((dark > 0.5).mean()) > MOST_DARK:
        raise InksError("most of this picture is dark: it may be a negative, or a photo; inks are black on white paper")
    marks = dark > GREY[0]
    inner = _inner(marks)
    grey = inner & (dark < GREY[1])
    if inner.any() and float(grey.sum()) / float(inner.sum()) > MOST_GREY:
        raise InksError("this picture is grey and not black: clean it with levels first, or place it as pencils")


def _inner(marks: np.ndarray) -> np.ndarray:
    """Marks (h, w) but for their outermost pixels, which are grey wherever edges are smooth."""
    inner = marks.copy()
    for axis in (0, 1):
        for by in (1, -1):
            inner &= np.roll(marks, by, axis)
    return inner


def read_inks(darkness: np.ndarray, per_mm: float, progress: Progress | None = None) -> InksRead:
    """Lines and blacks of finished inks (uint8 (h, w), 0 paper to 255 black), so many pixels a mm. progress: told the
    share done; False stops. Raises InksError, ReadError."""
    told = progress or (lambda share: True)
    blacks = blacks_of(darkness, per_mm)
    told(0.1)
    try:
        reading = read_pencils(_without(darkness, blacks, per_mm), per_mm, lambda share: told(0.7 * share), clean=True)
    except ReadError as fault:
        raise InksError(f"no inked lines were found: {fault}") from None
    dark = darkness.astype(np.float32) / 255.0
    lines = []
    # What is pale for a pencil is thin for a pen.
    found = [*reading.lines, *reading.guides]
    for k, line in enumerate(found):
        made = _measured(line, dark, per_mm)
        if made is not None:
            lines.append(made)
        if not told(0.7 + 0.3 * (k + 1) / len(found)):
            raise ReadError("stopped: nothing was changed")
    if len(lines) >= MANY_CRUMBS and float(np.median([lengths_along(one.points)[-1] for one in lines])) < CRUMB_MM:
        raise InksError("this picture is full of crumbs: a photo or a raster, and no lines that anybody drew")
    return InksRead(lines, [_on_edge(outline, dark, per_mm) for outline in blacks])


def blacks_of(darkness: np.ndarray, per_mm: float) -> list[np.ndarray]:
    """Outlines (n, 2) mm of what is wider than a line is drawn."""
    from scipy import ndimage

    scale = min(BLACK_PER_MM, per_mm)
    ink = resized(darkness.astype(np.float32), scale / per_mm) >= 128.0
    core = ndimage.distance_transform_edt(ink) >= CORE_MM * scale
    if not core.any():
        return []
    near = ndimage.distance_transform_edt(~core) <= (CORE_MM + SPREAD_MM) * scale
    areas, n = ndimage.label(ink & near)
    out = [outline_of(areas == k, scale) for k in range(1, n + 1)]
    return [outline for outline in out if outline is not None]


def _without(darkness: np.ndarray, outlines: list[np.ndarray], per_mm: float) -> np.ndarray:
    """The picture with paper in the place of blacks."""
    if not outlines:
        return darkness
    from PIL import Image, ImageDraw

    image = Image.fromarray(darkness)
    pen = ImageDraw.Draw(image)
    for outline in outlines:
        places = [tuple(p) for p in np.vstack([outline, outline[:1]]) * per_mm]
        pen.polygon(places, fill=0)
        pen.line(places, fill=0, width=max(1, round(CLEAR_MM * per_mm)), joint="curve")
    return np.asarray(image)


def _measured(line: ReadLine, dark: np.ndarray, per_mm: float) -> InkLine | None:
    """A line with its widths, moved to the middle of its ink; None for one that lies on no ink."""
    points = np.vstack([line.points, line.points[:1]]) if line.closed else line.points
    s = lengths_along(points)
    at = np.linspace(0.0, s[-1], max(4, int(s[-1] / STEP_MM) + 1))
    middle = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    most = min(MOST_HALF_MM, 1.5 * line.rough_width + 0.3)
    for _ in range(2):
        left, right = _halves(middle, line.closed, dark, per_mm, most)
        known = np.isfinite(left) & np.isfinite(right)
        if known.sum() < 3:
            return None
        left, right = _filled(left, known, line.closed), _filled(right, known, line.closed)
        shift = _evened((left - right) / 2.0, line.closed)
        middle = middle + _leftward(middle, line.closed) * shift[:, None]
        half = _evened((left + right) / 2.0, line.closed)
        left, right = half, half
    made = InkLine(middle, np.maximum(left, LEAST_HALF_MM), np.maximum(right, LEAST_HALF_MM), line.closed)
    if line.closed:
        return replace(made, points=made.points[:-1], left=made.left[:-1], right=made.right[:-1])
    return _ended(made, dark, per_mm)


def _leftward(points: np.ndarray, closed: bool) -> np.ndarray:
    """Directions (n, 2) to the left of a line at each of its points; y goes down."""
    way = np.gradient(points, axis=0)
    if closed:
        way[0] = way[-1] = points[1] - points[-2]
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    return np.column_stack([way[:, 1], -way[:, 0]])


def _halves(
    points: np.ndarray, closed: bool, dark: np.ndarray, per_mm: float, most: float
) -> tuple[np.ndarray, np.ndarray]:
    """mm (n,) from a line's middle to the edge of its ink on either side, `most` mm off; nan where it lies on none, or
    where the ink goes on as another line's."""
    across = _leftward(points, closed)
    off = np.arange(0.0, most * per_mm, LOOK_PX)
    out = []
    for side in (1.0, -1.0):
        places = points[:, None] * per_mm + side * across[:, None] * off[None, :, None]
        values = _at(dark, places.reshape(-1, 2)).reshape(len(points), -1)
        below = values < 0.5
        first = below.argmax(axis=1)
        here = np.arange(len(points))
        found = below.any(axis=1) & (first > 0)
        a, b = values[here, np.maximum(first - 1, 0)], values[here, first]
        share = np.clip((a - 0.5) / np.maximum(a - b, 1e-6), 0.0, 1.0)
        edge = np.where(found, (first - 1 + share) * LOOK_PX / per_mm, np.nan)
        out.append(_own(edge, closed))
    return out[0], out[1]


def _own(edge: np.ndarray, closed: bool) -> np.ndarray:
    """Edges without those that lie farther off than is usual there: ink of another line."""
    from scipy import ndimage

    known = np.isfinite(edge)
    if not known.any():
        return edge
    filled = _filled(edge, known, closed)
    size, mode = round(LOCAL_MM / STEP_MM) | 1, "wrap" if closed else "nearest"
    usual = ndimage.percentile_filter(filled, 40, size=size, mode=mode)
    far = ~known | (filled > np.maximum(JUMP * usual, usual + 0.05))
    # What leads up to another line bends towards it already.
    return np.where(ndimage.binary_dilation(far, iterations=2), np.nan, edge)


def _filled(values: np.ndarray, known: np.ndarray, closed: bool) -> np.ndarray:
    """Values (n,) with the unknown ones between their neighbours."""
    at = np.arange(len(values))
    period = len(values) - 1 if closed else None
    return np.interp(at, at[known], values[known], period=period)


def _evened(values: np.ndarray, closed: bool) -> np.ndarray:
    from scipy import ndimage

    return np.asarray(ndimage.gaussian_filter1d(values, SOFT_MM / STEP_MM, mode="wrap" if closed else "nearest"))


def _at(dark: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Darkness (k,) at places (k, 2) in pixels, whose middles lie at halves."""
    from scipy import ndimage

    return np.asarray(ndimage.map_coordinates(dark, [places[:, 1] - 0.5, places[:, 0] - 0.5], order=1, mode="nearest"))


def _ended(line: InkLine, dark: np.ndarray, per_mm: float) -> InkLine:
    """A line carried on, or cut back, so that its round ends come to where its ink does."""
    points, left, right = line.points, line.left, line.right
    for at_end in (False, True):
        if at_end:
            points, left, right = points[::-1], right[::-1], left[::-1]
        way = points[0] - points[min(4, len(points) - 1)]
        way = way / max(float(np.hypot(*way)), 1e-9)
        off = np.arange(0.0, MOST_HALF_MM, LOOK_PX / per_mm)
        ink = _at(dark, (points[0] + off[:, None] * way) * per_mm) >= 0.5
        more = float(off[int(np.argmin(ink))]) if ink[0] and not ink.all() else 0.0
        goes_on = more - float(left[0] + right[0]) / 2.0
        if goes_on > STEP_MM / 2.0:
            points = np.vstack([points[0] + goes_on * way, points])
            left, right = np.concatenate([left[:1], left]), np.concatenate([right[:1], right])
        if at_end:
            points, left, right = points[::-1], right[::-1], left[::-1]
    return InkLine(points, left, right, line.closed)


def _on_edge(outline: np.ndarray, dark: np.ndarray, per_mm: float) -> np.ndarray:
    """An outline drawn to where the ink covers half a pixel."""
    ring = np.vstack([outline, outline[:1]])
    s = lengths_along(ring)
    at = np.linspace(0.0, s[-1], max(8, int(s[-1] / 0.2)))[:-1]
    points = np.column_stack([np.interp(at, s, ring[:, k]) for k in (0, 1)])
    closed = np.vstack([points, points[:1]])
    across = _leftward(closed, True)[:-1]
    off = np.arange(-0.5, 0.5, LOOK_PX / per_mm)
    values = _at(dark, ((points[:, None] + across[:, None] * off[None, :, None]) * per_mm).reshape(-1, 2))
    ink = values.reshape(len(points), -1) >= 0.5
    turns = np.diff(ink.astype(int), axis=1) != 0
    far = np.abs((off[:-1] + off[1:]) / 2.0)
    best = np.where(turns, far, np.inf).argmin(axis=1)
    shift = np.where(turns.any(axis=1), (off[:-1] + off[1:])[best] / 2.0, 0.0)
    return np.asarray(points + across * shift[:, None])
