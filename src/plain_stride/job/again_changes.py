"""Named changes of lines that are pulled again: other takes, tails, sections, and how far they follow the pencils."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.hand.joining import SECTION, TAIL, TAKE, joined_pull, spliced_pull
from plain_stride.hand.pull import Pull, PullError, checked_samples
from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import checked_follow
from plain_stride.job.mend_changes import on_line
from plain_stride.job.point_changes import LEAST_STRETCH_MM, freeze
from plain_stride.job.records import LineRecord
from plain_stride.lines import nodes
from plain_stride.lines.bending import Push
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.edits import Span
from plain_stride.lines.recipe import course_of

MOST_TAKES = 200


@change
def again(m: ChangeContext, line: str, pull: Pull, what: str = TAKE, at: float = 0.0) -> str:
    """Lays a pull as another take of a line; as its tail, from `at` s of its own pull on; or as its next section.
    All takes are kept, the new one is chosen. Raises JobError."""
    row = _pulled(m, line)
    if what not in (TAKE, TAIL, SECTION):
        raise JobError(f"a pull is another {TAKE}, a {TAIL} or a {SECTION} of a line, not '{what}'")
    old = m.job.pull(_pull_of(row))
    new = pull if what == TAKE else joined_pull(old, pull, number(at, "a time", 0.0))
    takes = row.tried
    if len(takes) >= MOST_TAKES:
        raise JobError(f"{MOST_TAKES} takes of one line are kept: delete the line, or pull a new one")
    key = m.draft.add_pull(new)
    m.draft.change("lines", line, **_with_pull(m, row, key), takes=(*takes, key))
    return line


@change
def redraw(m: ChangeContext, line: str, samples: Any) -> str:
    """Draws a stretch of a line anew: a pull, or its samples [x, y, pressure, s], that leaves it and comes back to it
    replaces what lies between; directions and widths go on at both joints. A line that was pulled and neither bent nor
    shaped gets it as another take; any other is frozen, and keeps its widths. Raises JobError."""
    row, shape = m.line(line), m.shapes[line]
    try:
        new = samples if isinstance(samples, Pull) else Pull(checked_samples(samples), row.nib)
    except PullError as fault:
        raise JobError(str(fault)) from None
    if shape.closed or row.family is not None:
        raise JobError(f"line '{line}' is a ring: cut it first" if shape.closed
                       else f"line '{line}' is made from another one: release it first")  # fmt: skip
    a, b = sorted(on_line(shape, new.samples[k, :2], line) for k in (0, -1))
    if b - a < LEAST_STRETCH_MM:
        raise JobError("that pull comes back to where it left the line: nothing lies between")
    if row.pull is None or row.fixed is not None or row.bends:
        freeze(m, line, lambda curve: _redrawn(m, line, curve, new, (a, b)))
        return line
    old = m.job.pull(row.pull)
    at, to = (shape.source_t_at(s) for s in (a, b))
    if row.matrix is not None:
        placed = new.samples.copy()
        placed[:, :2] = row.matrix.inverse().of(placed[:, :2])
        new = replace(new, samples=placed)
    key = m.draft.add_pull(spliced_pull(old, new, at, to))
    m.draft.put(line, _with_stretch(m, row, key, at, to))
    _ = m.shapes[line]
    return line


def _with_stretch(m: ChangeContext, row: LineRecord, key: str, at: float, to: float) -> LineRecord:
    """The row with a pull of which a stretch, from one time to another, takes longer or shorter now."""
    if len(row.tried) >= MOST_TAKES:
        raise JobError(f"{MOST_TAKES} takes of one line are kept: delete the line, or pull a new one")
    before, after = (m.job.pull(k).samples[-1, 3] for k in (_pull_of(row), key))
    longer = float(after - before)

    def place(t: float) -> float:
        return float(np.interp(t, [at - 1e6, at, to, to + 1e6], [at - 1e6, at, to + longer, to + longer + 1e6]))

    edits = tuple(edit.placed_by(place) for edit in row.edits)
    span = None if row.span is None else Span(place(row.span.start), place(row.span.end))
    return replace(row, pull=key, edits=edits, span=span, takes=(*row.tried, key))


def _redrawn(m: ChangeContext, line: str, curve: np.ndarray, new: Pull, stretch: tuple[float, float]) -> np.ndarray:
    """A line's curve in its own place with a stretch (mm along the line as it is seen) that follows a pull."""
    row, shape = m.job.rows.lines[line], m.shapes[line]
    course = course_of(m.shapes.worked(line).recipe)
    a, b = (float(np.interp(shape.source_t_at(s), course.source_t, course.s)) for s in stretch)
    drawn = centreline_of(new, row.nib.steadying).curve
    return nodes.redrawn(curve, a, b, drawn if row.matrix is None else row.matrix.inverse().of(drawn))


@change
def take(m: ChangeContext, line: str, take: Any) -> None:
    """Chooses one of the pulls that were tried for a line, by its number from 1 on or by its key. Raises JobError."""
    row = _pulled(m, line)
    takes = row.tried
    if isinstance(take, int) and not isinstance(take, bool) and 1 <= take <= len(takes):
        key = takes[take - 1]
    elif take in takes:
        key = str(take)
    else:
        raise JobError(f"line '{line}' has {len(takes)} take{'' if len(takes) == 1 else 's'}, no '{take}'")
    if key != row.pull:
        m.draft.change("lines", line, **_with_pull(m, row, key))


@change
def follow(m: ChangeContext, lines: list[str], share: float, along: list[list[float]] | None = None) -> None:
    """Draws lines that came from pulls so far (0 to 1) to a pencil line, [x, y] mm, or to the one they follow.
    Raises JobError."""
    share = number(share, "a share", 0.0, 1.0)
    for key in line_list(lines):
        row = _pulled(m, key)
        points = along if along is not None else row.follow.line if row.follow is not None else None
        if points is None and share > 0.0:
            raise JobError(f"line '{key}' follows no pencil line yet: name one under 'along'")
        wanted = None if points is None else checked_follow({"share": share, "line": points})
        if wanted != row.follow:
            m.draft.change("lines", key, follow=wanted)


def _pulled(m: ChangeContext, line: object) -> LineRecord:
    row = m.line(line)
    if row.pull is None:
        raise JobError(f"line '{line}' came without a pull: there is none to pull again")
    return row


def _pull_of(row: LineRecord) -> str:
    assert row.pull is not None
    return row.pull


def _with_pull(m: ChangeContext, row: LineRecord, key: str) -> dict[str, Any]:
    """The row's columns with another pull: swells, shaves and bends go along with the share of its time, trims and
    growth are lifted."""
    before, after = (m.job.pull(k).samples[-1, 3] for k in (_pull_of(row), key))
    scale = float(after / before) if before > 0.0 else 1.0
    edits = tuple(edit.placed_by(lambda v: v * scale) for edit in row.edits)
    bends = tuple(one if isinstance(one, Push) else replace(one, at=one.at * scale) for one in row.bends)
    return {"pull": key, "span": None, "edits": edits, "bends": bends, "growth": None, "fixed": None}
