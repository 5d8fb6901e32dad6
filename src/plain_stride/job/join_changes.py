"""Named changes that make one line of several, several of one, or turn lines round."""

import numpy as np

from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import spanned, twin_of
from plain_stride.job.records import LineRecord
from plain_stride.job.shapes import Shapes
from plain_stride.lines.edits import End
from plain_stride.lines.given import Form
from plain_stride.lines.merging import MergeError, Stroke, merged

MOST_JOINED, MOST_PIECES, LEAST_PIECE_MM = 200, 500, 0.2


def stroke_of(shapes: Shapes, line: str) -> Stroke:
    """A line as the hand has it, with its edits, before the plan."""
    by_hand = shapes.by_hand(line)
    return Stroke(by_hand.shape.curve, by_hand.body, by_hand.recipe.ends)


def given_row(row: LineRecord, form: str, ends: tuple[End, End]) -> LineRecord:
    """The row of a line that is made of a form from now on. What was decided about its widths is in that form."""
    return LineRecord(part=row.part, place=row.place, form=form, nib=row.nib, roles=row.roles, ends=ends)


@change
def join(m: ChangeContext, lines: list[str]) -> str:
    """Makes one line of two or more: end to end, or strokes that lie over each other, whose best path it takes; widths
    are merged. It keeps the first one's id, part and role; the pulls stay in the file. Raises JobError."""
    keys = line_list(lines)
    if not 2 <= len(keys) <= MOST_JOINED:
        raise JobError(f"joined are 2 to {MOST_JOINED} lines")
    for key in keys:
        m.line(key)
        if m.shapes[key].closed:
            raise JobError(f"line '{key}' is a ring: it has no end to be joined")
    try:
        form, ends = merged([stroke_of(m.shapes, key) for key in keys])
    except MergeError as fault:
        raise JobError(str(fault)) from None
    first, *others = keys
    for key in others:
        m.remove(key)
    _lay(m, first, form, (_end(ends[0]), _end(ends[1])))
    return first


def _end(end: object) -> End:
    assert isinstance(end, End)
    return end


def _lay(m: ChangeContext, line: str, form: Form, ends: tuple[End, End]) -> None:
    if m.line(line).family is not None:
        m.release(line)
    m.draft.put(line, given_row(m.line(line), m.draft.add_form(form), ends))
    _ = m.shapes[line]


@change
def reverse(m: ChangeContext, lines: list[str]) -> None:
    """Turns lines round: they begin where they ended. Shape, widths and ends stay where they are. Raises JobError."""
    for key in line_list(lines):
        m.line(key)
        back, closed = stroke_of(m.shapes, key).turned(), m.shapes[key].closed
        first, last = (_end(end) for end in back.ends)
        _lay(m, key, Form(back.curve, closed, back.widths), (first, last))


@change
def split(m: ChangeContext, line: str, every: float, gap: float = 0.0, uneven: float = 0.0, seed: int = 1) -> list[str]:
    """Breaks a line into pieces of `every` mm, `gap` mm apart, as if the pen ran dry; uneven: 0 for even pieces, up to
    1 for pieces of any length from none to twice that. Gives their ids. Raises JobError."""
    row, shape = m.line(line), m.shapes[line]
    if shape.closed:
        raise JobError(f"line '{line}' is a ring: cut it first")
    piece = number(every, "a piece", LEAST_PIECE_MM, 1e5)
    apart, spread = number(gap, "a gap", 0.0, 1e4), number(uneven, "unevenness", 0.0, 1.0)
    stretches = _stretches(shape.length, piece, apart, spread, int(number(seed, "a seed", 0, 2**31)))
    if len(stretches) < 2:
        raise JobError(f"line '{line}' is {shape.length:.1f} mm long: it makes one piece only")
    if len(stretches) > MOST_PIECES:
        raise JobError(f"that would make {len(stretches)} pieces: at most {MOST_PIECES}, take longer ones")
    blunt = End("round")
    out = []
    for k, (a, b) in enumerate(stretches):
        ends = (row.ends[0] if k == 0 else blunt, row.ends[1] if k == len(stretches) - 1 else blunt)
        out.append(spanned(m, line, row, shape, a, b, ends) if k == 0 else twin_of(m, row, shape, a, b, ends))
    return out


def _stretches(length: float, piece: float, gap: float, uneven: float, seed: int) -> list[tuple[float, float]]:
    """Arc lengths from and to of the pieces of a line; none is shorter than LEAST_PIECE_MM."""
    random, at, out = np.random.default_rng(seed), 0.0, []
    while at < length - LEAST_PIECE_MM:
        share = 1.0 + uneven * random.uniform(-1.0, 1.0) * 0.95
        end = min(at + max(piece * share, LEAST_PIECE_MM), length)
        if length - end < LEAST_PIECE_MM:
            end = length
        out.append((at, end))
        at = end + gap * (1.0 + uneven * random.uniform(-0.8, 0.8))
        if len(out) > MOST_PIECES:
            break
    return out
