"""Named changes that draw shapes as lines, and make shapes of what was pulled. Each is a form from then on: one undo
brings the hand's own line back. Their widths are the hand's: the plan is laid over them as over any line."""

from typing import Any

import numpy as np

from plain_stride.hand.nib import Nib
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import line as lay_line
from plain_stride.job.making import Making, change, line_list, nib_named, number, place_of
from plain_stride.job.records import LineRecord
from plain_stride.lines.drawn import bow, ellipse, mirrored, parallel, rounded, turned_about
from plain_stride.lines.given import Form, form_from_points
from plain_stride.lines.recipe import End, Shape

DEFAULT_SHARE, TIP_SHARE, TIP_MM = 0.5, 0.15, 6.0
"""How hard a drawn shape is pressed, the share of its width that a tapered tip keeps, and how long a tip is."""
MOST_COPIES = 60


@change
def draw(
    m: Making,
    shape: str,
    points: list[list[float]],
    nib: str = "3",
    part: str = "Lines",
    role: str = "ruled",
    turn: float = 0.0,
    pressure: float = DEFAULT_SHARE,
    taper: bool = False,
) -> str:
    """Draws a shape as a line: straight (a chain of two points or more), bow (start, end, a point it goes through),
    ellipse (its middle, then how far it reaches to the right and down), turned by degrees clockwise. pressure: as how
    hard a pull (0..1), the same all along, tapered at its ends if wanted."""
    if not isinstance(points, list):
        raise JobError("points are a list of [x, y] in mm")
    at = np.array([place_of(p) for p in points])
    wanted = {"straight": (2, 500), "bow": (3, 3), "ellipse": (2, 2)}
    if shape not in wanted:
        raise JobError(f"a drawn shape is {', '.join(wanted)}, not '{shape}'")
    low, high = wanted[shape]
    if not low <= len(at) <= high:
        raise JobError(f"a {shape} takes {low if low == high else f'{low} to {high}'} points, not {len(at)}")
    tool = nib_named(m, nib)
    closed = shape == "ellipse"
    if closed:
        reach = np.abs(at[1] - at[0])
        line = ellipse(at[0], (float(reach[0]), float(reach[1])), number(turn, "a turn", -3600.0, 3600.0))
    else:
        line = bow(*at) if shape == "bow" else at
    form = _drawn(line, tool, number(pressure, "a pressure", 0.0, 1.0), closed, bool(taper))
    return str(lay_line(m, form, tool, ("round", "round"), part, role))


def _drawn(points: np.ndarray, nib: Nib, pressure: float, closed: bool, taper: bool) -> Form:
    full = np.full(len(points), float(nib.width(np.array([pressure]))[0]))
    if taper and not closed:
        points, full = _tapered(points, full[0])
    return form_from_points(points, full / 2.0, full / 2.0, closed)


def _tapered(points: np.ndarray, full: float) -> tuple[np.ndarray, np.ndarray]:
    """More points, and widths (n,) that fall to a tip at both ends."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    tip = min(TIP_MM, s[-1] / 3.0)
    at = np.unique(np.concatenate([s, np.linspace(0.0, tip, 7), s[-1] - np.linspace(0.0, tip, 7)]))
    fine = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    away = np.clip(np.minimum(at, s[-1] - at) / max(tip, 1e-9), 0.0, 1.0)
    return fine, full * (TIP_SHARE + (1.0 - TIP_SHARE) * np.sin(away * np.pi / 2.0))


@change
def beside(m: Making, line: str, gap: float, count: int = 1) -> list[str]:
    """Draws lines parallel to one, at a gap in mm (above 0 to its left), so many in a series."""
    row, shape = m.line(line), m.shapes.hand_only(line)
    number(gap, "a gap", -1000.0, 1000.0)
    if abs(gap) < 0.05:
        raise JobError("a gap of less than 0.05 mm would lie on the line itself")
    points, s = shape.flat
    out = []
    for n in range(1, int(number(count, "how many", 1, MOST_COPIES)) + 1):
        moved = parallel(points, gap * n, shape.closed)
        out.append(_like(m, row, shape, moved, shape.closed, s))
    return out


@change
def mirror(m: Making, lines: list[str], axis: list[list[float]]) -> list[str]:
    """Draws lines mirrored about the straight through two points [[x, y], [x, y]]."""
    if not isinstance(axis, list) or len(axis) != 2:
        raise JobError("an axis is two [x, y] in mm")
    a, b = (place_of(p) for p in axis)
    return _copies(m, lines, lambda p: mirrored(p, a, b), True)


@change
def around(m: Making, lines: list[str], centre: list[float], count: int) -> list[str]:
    """Draws lines again, turned evenly round a place [x, y], so that there are `count` of each."""
    middle, n = place_of(centre), int(number(count, "how many", 2, MOST_COPIES))
    out = []
    for k in range(1, n):
        out += _copies(m, lines, lambda p, by=360.0 * k / n: turned_about(p, middle, by), False)
    return out


def _copies(m: Making, lines: list[str], moved: Any, swap: bool) -> list[str]:
    out = []
    for key in line_list(lines):
        row, shape = m.line(key), m.shapes.hand_only(key)
        points, s = shape.flat
        out.append(_like(m, row, shape, moved(points), shape.closed, s, swap))
    return out


@change
def reshape(m: Making, lines: list[str], shape: str) -> None:
    """Makes what was pulled straight, or round (a circle or its arc); widths stay as far along as they were."""
    if shape not in ("straight", "round"):
        raise JobError(f"a line is made straight or round, not '{shape}'")
    for key in line_list(lines):
        row, old = m.line(key), m.shapes.hand_only(key)
        points, s = old.flat
        closed = old.closed
        if shape == "straight":
            if closed or np.hypot(*(points[-1] - points[0])) < 0.2:
                raise JobError(f"line '{key}' goes round: it cannot be made straight")
            made = points[[0, -1]]
        else:
            made, closed = rounded(points)
        form = m.draft.add_form(_with_widths(made, closed, old, s))
        ends = tuple(End(end.kind, 0.0) for end in row.ends)
        new = {"pull": None, "form": form, "span": None, "edits": (), "shift": None, "takes": None, "follow": None,
               "school": "off", "leeway": None, "less_in_bends": False, "ends": ends}  # fmt: skip
        m.draft.change("lines", key, **new)
        _ = m.shapes[key]


def _like(
    m: Making, row: LineRecord, old: Shape, points: np.ndarray, closed: bool, s: np.ndarray, swap: bool = False
) -> str:
    """A new line along points with the widths, part, role and nib of another. swap: its sides change over."""
    form = _with_widths(points, closed, old, s, swap)
    part, ends = m.job.rows.parts[row.part].name, (row.ends[0].kind, row.ends[1].kind)
    return str(lay_line(m, form, row.nib, ends, part, row.role))


def _with_widths(points: np.ndarray, closed: bool, old: Shape, s: np.ndarray, swap: bool = False) -> Form:
    """A form along points whose widths are those of another line at the same share of its length."""
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    if not closed and len(points) < 30:
        fine = np.linspace(0.0, way[-1], 60)
        points = np.column_stack([np.interp(fine, way, points[:, k]) for k in (0, 1)])
        way = fine
    left, right = old.widths.at(way / max(float(way[-1]), 1e-9) * float(s[-1]))
    return form_from_points(points, right, left, closed) if swap else form_from_points(points, left, right, closed)
