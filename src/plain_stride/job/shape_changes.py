"""Named changes that draw shapes as lines, make shapes of what was pulled, and lay lines that are made from others."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.hand.nib import Nib
from plain_stride.job.bundle import bundle_of
from plain_stride.job.change_context import ChangeContext, change, line_list, nib_named, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.families import add_members, checked_symmetry, lay_copies
from plain_stride.job.line_changes import line as lay_line
from plain_stride.job.line_changes import pasted
from plain_stride.job.records import PARALLELS, TURNED, FamilyRecord
from plain_stride.lines.affine import Affine, mirrored
from plain_stride.lines.drawn import SHAPES, bow, ellipse
from plain_stride.lines.given import Form, form_from_points
from plain_stride.lines.shape import FixedPath, Shape

DEFAULT_SHARE, TIP_SHARE, TIP_MM = 0.5, 0.15, 6.0
"""How hard a drawn shape is pressed, the share of its width that a tapered tip keeps, and how long a tip is."""
MOST_COPIES, LEAST_GAP_MM, PATH_PLACES = 60, 0.05, 400


@change
def draw(
    m: ChangeContext,
    shape: str,
    points: list[list[float]],
    nib: str = "3",
    part: str = "Lines",
    role: str = "ruled",
    turn: float = 0.0,
    pressure: float = DEFAULT_SHARE,
    taper: bool = False,
    symmetry: dict[str, Any] | None = None,
) -> str:
    """Draws a shape as a line: straight (a chain of two points or more), bow (start, end, a point it goes through),
    ellipse (its middle, then how far it reaches to the right and down), turned by degrees clockwise. pressure: as
    how hard a pull (0..1), the same all along, tapered at its ends if wanted; symmetry: as for a pull.
    Raises JobError."""
    if not isinstance(points, list):
        raise JobError("points are a list of [x, y] in mm")
    at = np.array([place_of(p) for p in points])
    wanted = {"straight": (2, 500), "bow": (3, 3), "ellipse": (2, 2)}
    if shape not in wanted:
        raise JobError(f"a drawn shape is {', '.join(wanted)}, not '{shape}'")
    low, high = wanted[shape]
    if not low <= len(at) <= high:
        raise JobError(f"a {shape} takes {low if low == high else f'{low} to {high}'} points, not {len(at)}")
    tool = nib_named(m.job, nib)
    closed = shape == "ellipse"
    if closed:
        reach = np.abs(at[1] - at[0])
        line = ellipse(at[0], (float(reach[0]), float(reach[1])), number(turn, "a turn", -3600.0, 3600.0))
    else:
        line = bow(*at) if shape == "bow" else at
    form = _drawn(line, tool, number(pressure, "a pressure", 0.0, 1.0), closed, bool(taper))
    key = str(lay_line(m, form, tool, ("round", "round"), part, role))
    if symmetry is not None:
        lay_copies(m, key, checked_symmetry(symmetry))
    return key


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
def beside(m: ChangeContext, line: str, gap: float, count: int = 1) -> list[str]:
    """Draws lines parallel to one, at a gap in mm (above 0 to its left), so many in a series. They go along with it."""
    return add_members(m, line, FamilyRecord(kind=PARALLELS, source=line, gap=_gap(gap)), _how_many(count, 1))


@change
def around(m: ChangeContext, lines: list[str], centre: list[float], count: int) -> list[str]:
    """Draws lines again, turned evenly round a place [x, y], so that there are `count` of each. They go along with
    the line they are made from. centre: [x, y] mm. Raises JobError."""
    x, y = place_of(centre).tolist()
    n = _how_many(count, 2)
    out = []
    for key in line_list(lines):
        out += add_members(m, key, FamilyRecord(kind=TURNED, source=key, count=n, centre=(x, y)), n - 1)
    return out


@change
def symmetric(
    m: ChangeContext, lines: list[str], kind: str, count: int, centre: list[float], angle: float = 0.0
) -> list[str]:
    """Draws lines again by a symmetry: mirrored about `count` axes (1 or 2) through a place, the first by so many
    degrees clockwise from upright, or turned round it so that there are `count` of each. They go along with the line
    they are made from. centre: [x, y] mm. Raises JobError."""
    by = checked_symmetry({"kind": kind, "count": count, "centre": centre, "angle": angle})
    return [copy for key in line_list(lines) for copy in lay_copies(m, key, by)]


@change
def family(m: ChangeContext, line: str, gap: float | None = None, centre: list[float] | None = None) -> None:
    """Lays the family of a line again with another gap (mm) or centre [x, y]; what was done to its lines stays.
    Raises JobError."""
    key = m.line(line).family
    if key is None:
        raise JobError(f"line '{line}' is no line of a family")
    row = m.job.rows.families[key]
    if (gap is None) != (row.kind != PARALLELS) or (centre is None) != (row.kind == PARALLELS):
        raise JobError(f"a family of {row.kind} takes a {'gap' if row.kind == PARALLELS else 'centre'}")
    if gap is not None:
        row = replace(row, gap=_gap(gap))
    else:
        x, y = place_of(centre).tolist()
        row = replace(row, centre=(x, y))
    m.draft.put(key, row)


@change
def release(m: ChangeContext, lines: list[str]) -> None:
    """Makes lines of a family lines of their own: they no longer go along with the line they are made from."""
    for key in line_list(lines):
        if m.line(key).family is not None:
            m.release(key)


@change
def mirror(m: ChangeContext, lines: list[str], axis: list[list[float]]) -> list[str]:
    """Draws lines mirrored about the straight through two points [[x, y], [x, y]]; how they were made stays theirs.
    Raises JobError. All in mm."""
    if not isinstance(axis, list) or len(axis) != 2:
        raise JobError("an axis is two [x, y] in mm")
    by = mirrored(*(place_of(p) for p in axis))
    out = []
    for key in line_list(lines):
        m.line(key)
        (copy,) = pasted(m, bundle_of(m.shapes, [key]), None)
        row = m.job.rows.lines[copy]
        edits = tuple(edit.mirrored() for edit in row.edits)
        m.draft.change("lines", copy, matrix=(row.matrix or Affine()).then(by), edits=edits)
        _ = m.shapes[copy]
        out.append(copy)
    return out


@change
def reshape(m: ChangeContext, lines: list[str], shape: str) -> None:
    """Makes what was pulled straight, round (a circle or its arc) or an ellipse (or its arc); widths stay as far along
    as they were. The pull, its takes and swells stay the line's. Raises JobError."""
    if shape not in SHAPES:
        raise JobError(f"a line is made {', '.join(SHAPES)}, not '{shape}'")
    for key in line_list(lines):
        row = m.line(key)
        if row.family is not None:
            m.release(key)
            row = m.line(key)
        old = m.shapes[key]
        points = old.flat[0]
        if shape == "straight" and old.closed:
            raise JobError(f"line '{key}' goes round: it cannot be made straight")
        made, closed = SHAPES[shape](points)
        path = m.draft.add_path(_path_in_place_of(old, made, closed, row.matrix))
        # A ring has no ends that a trim could have left.
        m.draft.change("lines", key, fixed=path, span=None if closed else row.span)
        _ = m.shapes[key]


def _path_in_place_of(old: Shape, points: np.ndarray, closed: bool, matrix: Affine | None) -> FixedPath:
    """Points as a path whose source parameters are those of a line at the same shares of its length."""
    source_t = np.interp(np.linspace(0.0, old.length, PATH_PLACES), old.s, old.source_t)
    if matrix is not None:
        points = matrix.inverse().of(points)
    none = np.zeros(len(points))
    return FixedPath(form_from_points(points, none, none, closed).curve, closed, source_t)


def _gap(gap: object) -> float:
    value = number(gap, "a gap", -1000.0, 1000.0)
    if abs(value) < LEAST_GAP_MM:
        raise JobError("a gap of less than 0.05 mm would lie on the line itself")
    return value


def _how_many(count: object, least: int) -> int:
    return int(number(count, "how many", least, MOST_COPIES))
