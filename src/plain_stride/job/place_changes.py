"""Named changes that arrange lines and blacks: lined up, spaced, repeated along a line, put in perspective."""

from typing import Any

import numpy as np

from plain_stride.job.bundle import bundle_of
from plain_stride.job.change_context import ChangeContext, change, flag, line_list, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import line as lay_line
from plain_stride.job.line_changes import move, pasted
from plain_stride.job.point_changes import freeze
from plain_stride.lines import arranging, motifs
from plain_stride.lines.affine import Affine, moved, turned
from plain_stride.lines.bending import places_along, refitted
from plain_stride.lines.curve import Arc
from plain_stride.lines.given import form_from_points

MOST_REPEATED, LEAST_MM = 500, 0.01


@change
def align(m: ChangeContext, lines: list[str], side: str) -> None:
    """Moves lines and blacks so that their left, middle or right, or their top, centre or bottom is where that of
    all of them together is. Raises JobError."""
    if side not in arranging.SIDES:
        raise JobError(f"they are lined up by their {', '.join(arranging.SIDES)}, not '{side}'")
    keys = line_list(lines)
    _move_each(m, keys, arranging.aligned(_boxes(m, keys), side))


@change
def space(m: ChangeContext, lines: list[str], way: str) -> None:
    """Moves lines and blacks so that the gaps between them, across or down, are alike; the outermost stay. Raises
    JobError."""
    if way not in arranging.WAYS:
        raise JobError(f"they are spaced {' or '.join(arranging.WAYS)}, not '{way}'")
    keys = line_list(lines)
    try:
        _move_each(m, keys, arranging.spaced(_boxes(m, keys), way))
    except arranging.ArrangeError as fault:
        raise JobError(str(fault)) from None


def _boxes(m: ChangeContext, keys: list[str]) -> np.ndarray:
    for key in keys:
        m.ink(key)
    return np.array([m.shapes.ink(key).box for key in keys])


def _move_each(m: ChangeContext, keys: list[str], by: np.ndarray) -> None:
    for key, way in zip(keys, by, strict=True):
        if np.hypot(*way) > 1e-9:
            move(m, [key], way.tolist())


@change
def repeat(m: ChangeContext, lines: list[str], along: str, count: int, turn: bool = True) -> list[str]:
    """Lays copies of lines and blacks, evenly along another line, `count` of them; turn: each turned as the line goes
    there. Gives their ids. Raises JobError."""
    keys = line_list(lines)
    n = int(number(count, "how many", 1, MOST_REPEATED))
    if along in keys:
        raise JobError("lines are not repeated along one of themselves")
    if along not in m.job.rows.lines:
        raise JobError(f"there is no line '{along}'")
    boxes, guide = _boxes(m, keys), m.shapes[along]
    middle = (boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0)) / 2.0
    places, degrees = arranging.places_along(guide.arc, n, guide.closed)
    bundle, out = bundle_of(m.shapes, keys), []
    for at, angle in zip(places, degrees, strict=True):
        by = turned(middle, float(angle)) if flag(turn, "turn") else Affine()
        by = by.then(moved(*(at - middle).tolist()))
        for key in pasted(m, bundle, None):
            row = m.job.inked_rows()[key]
            m.draft.change(row.table, key, matrix=(row.matrix or Affine()).then(by))
            out.append(key)
    return out


@change
def motif(
    m: ChangeContext, along: str, kind: str, size: float, width: float = 0.5, part: str | None = None,
    role: str = "inner",
) -> list[str]:  # fmt: skip
    """Lays a chain, rings, a rope or a braid along a line, so many mm across, of strokes of a width; strands pass in
    front of each other and tuck behind. The line stays. part: where it is laid, the line's own by default. Gives their
    ids. Raises JobError."""
    if kind not in motifs.KINDS:
        raise JobError(f"a motif is {', '.join(motifs.KINDS)}, not '{kind}'")
    row, guide = m.line(along), m.shapes[along]
    wide = number(width, "a width", 0.02, 20.0)
    across = number(size, "a size", 4.0 * wide, 500.0)
    try:
        strands = motifs.motif(kind, guide.arc, across, wide)
    except motifs.MotifError as fault:
        raise JobError(str(fault)) from None
    name, nib = part if part is not None else m.job.rows.parts[row.part].name, m.job.nibs()["3"]
    out = []
    for points in strands:
        closed = bool(np.hypot(*(points[-1] - points[0])) < LEAST_MM and len(points) > 4)
        places = points[:-1] if closed else points
        half = np.full(len(places), wide / 2.0)
        out.append(str(lay_line(m, form_from_points(places, half, half, closed), nib, part=name, role=role)))
    return out


@change
def perspective(m: ChangeContext, lines: list[str], corners: Any) -> None:
    """Puts lines in perspective: the corners of the box round them go to four [x, y] mm, clockwise from the upper left.
    Their middles are frozen, their widths stay. Raises JobError."""
    keys = line_list(lines)
    if not isinstance(corners, list) or len(corners) != 4:
        raise JobError("a perspective is four [x, y] in mm, clockwise from the upper left")
    to = np.array([place_of(corner) for corner in corners])
    for key in keys:
        if m.line(key).family is not None:
            raise JobError(f"line '{key}' is made from another one: release it to put it in perspective")
    # Middles alone: widths stay, and would else shift what goes where.
    points = np.vstack([m.shapes[key].flat[0] for key in keys])
    try:
        by = arranging.homography(np.concatenate([points.min(axis=0), points.max(axis=0)]), to)
    except arranging.ArrangeError as fault:
        raise JobError(str(fault)) from None
    for key in keys:
        matrix = m.job.rows.lines[key].matrix or Affine()
        freeze(m, key, lambda curve, matrix=matrix: _seen_in(curve, matrix, by))  # type: ignore[misc]


def _seen_in(curve: np.ndarray, matrix: Affine, by: np.ndarray) -> np.ndarray:
    """A curve in its own place as a projective map of the sheet has it."""
    arc = Arc(curve)
    dense = places_along(arc, 0.0, arc.length)
    return refitted(arc, dense, matrix.inverse().of(arranging.projected(matrix.of(arc.point(dense)), by)))
