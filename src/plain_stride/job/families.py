"""Lays families of lines: the lines that are made from another one and go along with it."""

from dataclasses import replace

from plain_stride.job.change_context import ChangeContext, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.records import FamilyRecord, LineRecord
from plain_stride.job.rows import MOST_DEEP
from plain_stride.lines.edits import End
from plain_stride.lines.symmetry import Symmetry, SymmetryError

KEYS = {"kind", "count", "centre", "angle"}


def add_members(m: ChangeContext, line: str, family: FamilyRecord, count: int) -> list[str]:
    """Lays the members of a new family, on top of the part of the line they are made from. Raises JobError."""
    row = m.line(line)
    if m.job.depth(line) >= MOST_DEEP:
        raise JobError(f"line '{line}' is made from {MOST_DEEP} others already: release it first")
    key = m.job.new_id("y")
    m.draft.put(key, family)
    ends = (End(row.ends[0].kind), End(row.ends[1].kind))
    plain = LineRecord(part=m.open_part(m.job.rows.parts[row.part].name), family=key, nib=row.nib, roles=row.roles,
                       ends=ends)  # fmt: skip
    return [m.add_line(replace(plain, member=n)) for n in range(1, count + 1)]


def checked_symmetry(told: object) -> Symmetry:
    """A symmetry as JSON tells it. Raises JobError."""
    if not isinstance(told, dict) or not {"kind", "count", "centre"} <= set(told) <= KEYS:
        raise JobError("a symmetry is {kind, count, centre [x, y] in mm, angle in degrees}")
    x, y = place_of(told["centre"]).tolist()
    angle = number(told.get("angle", 0.0), "an angle", -3600.0, 3600.0)
    try:
        return Symmetry(str(told["kind"]), int(number(told["count"], "a count", 0, 1000)), (x, y), angle)
    except SymmetryError as fault:
        raise JobError(str(fault)) from None


def lay_copies(m: ChangeContext, line: str, by: Symmetry) -> list[str]:
    """Lays the copies of a line by a symmetry, a family that goes along with it. Raises JobError."""
    row = FamilyRecord(kind=by.kind, source=line, count=by.count, centre=by.centre, angle=by.angle)
    return add_members(m, line, row, len(by.maps()))
