"""Which lines of a job meet where: those that were found, and those that are held together."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from plain_stride.form.contacts import CORNER, RUN_ON, RUN_ON_DEG, TEE
from plain_stride.form.drawing import Drawing
from plain_stride.form.meetings import CROSSING, END, Meeting, meetings_of
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.holding import end_of
from plain_stride.job.records import HoldRecord
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.shape import Shape

SAME_MM = 1.0
"""So near a meeting that was found lies one of the same lines that is held."""


@dataclass(frozen=True)
class ToldMeeting:
    """held: whether its lines are held together there."""

    meeting: Meeting
    held: bool


def told_meetings(job: JobRows, shapes: Shapes) -> list[ToldMeeting]:
    """All meetings of lines that are seen, found and held. Linear in the lines and their contacts."""
    return with_holds(drawn_meetings(JobDrawing(job, shapes).now()), job, shapes)


def drawn_meetings(drawing: Drawing) -> list[Meeting]:
    """The meetings of a drawing, found anew."""
    contacts = (contact for found in drawing.contacts.values() for contact in found)
    return meetings_of(contacts, {key: line.path.arc.length for key, line in drawing.lines.items()})


def with_holds(found: list[Meeting], job: JobRows, shapes: Shapes) -> list[ToldMeeting]:
    """Meetings that were found, with which of them are held, and what is held besides."""
    lines, held, out = job.rows.lines, set(), []
    holds = {key: hold for key, hold in job.rows.holds.items() if hold.line in lines and hold.other in lines}
    by_line: dict[str, list[str]] = {}
    for key, hold in holds.items():
        by_line.setdefault(hold.line, []).append(key)
    for meeting in found:
        keys = {key for line in meeting.lines for key in by_line.get(line, ())
                if _is_of(holds[key], meeting, shapes)}  # fmt: skip
        held |= keys
        out.append(ToldMeeting(meeting, bool(keys)))
    return out + [ToldMeeting(held_meeting(hold, shapes), True) for key, hold in holds.items() if key not in held]


def _is_of(hold: HoldRecord, meeting: Meeting, shapes: Shapes) -> bool:
    if not {hold.line, hold.other} <= set(meeting.lines) or meeting.kind == CROSSING:
        return False
    return bool(np.hypot(*(end_of(shapes[hold.line], hold.line_end) - meeting.at)) <= SAME_MM)


def held_meeting(hold: HoldRecord, shapes: Shapes) -> Meeting:
    """A hold as the meeting that it is."""
    x, y = end_of(shapes[hold.line], hold.line_end).tolist()
    kind = TEE
    if hold.other_end:
        ways = [_out(shapes[line], end) for line, end in ((hold.line, hold.line_end), (hold.other, hold.other_end))]
        kind = RUN_ON if float(ways[0] @ -ways[1]) > np.cos(np.radians(RUN_ON_DEG)) else CORNER
    return Meeting(kind, (hold.line, hold.other), (hold.line_end, hold.other_end), (x, y))


def _out(shape: Shape, end: str) -> np.ndarray:
    """The way (2,) in which a line leaves its end."""
    at = shape.arc.direction(np.array([shape.length if end == END else 0.0]))[0]
    return at if end == END else -at


def by_line(told: list[ToldMeeting]) -> Mapping[str, list[ToldMeeting]]:
    """Meetings by the lines that meet."""
    out: dict[str, list[ToldMeeting]] = {}
    for one in told:
        for line in dict.fromkeys(one.meeting.lines):
            out.setdefault(line, []).append(one)
    return out
