"""Lines of families, and ink of tones, made lines and blacks of their own."""

from dataclasses import replace

import numpy as np

from plain_stride.job.records import BlackRecord, LineRecord
from plain_stride.job.shapes import Shapes
from plain_stride.lines.edits import Span
from plain_stride.lines.given import Form
from plain_stride.lines.profile import Widths


def released(shapes: Shapes, line: str) -> tuple[LineRecord, Form]:
    """(the row of a line of a family as one of its own, which lacks the key of its form; that form). Trims and swells
    stay where they are: they are kept by arc length from then on."""
    row, member = shapes.job.rows.lines[line], shapes.member(line)
    centre, widths = member.centre, member.widths

    def length_at(source_t: float) -> float:
        return float(np.interp(source_t, centre.source_t, centre.s))

    s = np.interp(widths.s, centre.source_t, centre.s)
    inside = np.concatenate([[True], np.diff(s) > 1e-9])
    form = Form(centre.curve, member.closed, Widths(s[inside], widths.left[inside], widths.right[inside]))
    edits = tuple(edit.placed_by(length_at) for edit in row.edits)
    span = None
    if row.span is not None:
        span = Span(length_at(row.span.start), length_at(row.span.end))
    return replace(row, form="", family=None, member=0, span=span, edits=edits), form


def alone(row: LineRecord | BlackRecord) -> LineRecord | BlackRecord:
    """The row of a line or a black that is no part of a tone; a line keeps its widths, whatever the plan wants."""
    if row.tone is None:
        return row
    if isinstance(row, BlackRecord):
        return replace(row, tone=None)
    return replace(row, tone=None, weight=replace(row.weight, share=0.0))
