"""The next page of a series: a new job with the board, pens, light, depth and rules of one that is there, no line."""

from dataclasses import replace
from pathlib import Path

from plain_stride.job.commit import Commit
from plain_stride.job.creating import create_store
from plain_stride.job.history import RowChange
from plain_stride.job.job import Job
from plain_stride.job.log_records import NoteRecord, OrderRecord, ScheduleRecord
from plain_stride.job.record_fields import Record
from plain_stride.job.records import PartRecord

CARRIED = ("board", "targets", "plan", "nibs", "inks", "manners", "deliveries", "hand_over", "work_order",
           "schedule")  # fmt: skip
"""Tables that go along whole."""


def next_page(job: Job, path: Path) -> None:
    """Makes the file of the next page: parts with their tiers and order, without what they cover; notes that are pinned
    to a part, a rule or to nothing. Raises JobError; never overwrites."""
    rows: list[tuple[str, Record]] = [(key, row) for table in CARRIED for key, row in job.rows.of(table).items()]
    rows += [(key, _bare(row)) for key, row in job.rows.parts.items()]
    rows += [(key, row) for key, row in job.rows.notes.items() if _goes_along(row)]
    changes = tuple(RowChange(row.table, key, None, _for_next(row)) for key, row in rows)
    create_store(path, Commit(changes, {"head": "0", "next": str(job.last_number)}))


def _bare(row: PartRecord) -> PartRecord:
    return replace(row, locked=False, hidden=False, cover_form=None)


def _goes_along(row: NoteRecord) -> bool:
    return row.line is None and row.x_mm is None


def _for_next(row: Record) -> Record:
    """Steps and the deadline of another page stand for nothing here; its school and its hours do."""
    if isinstance(row, OrderRecord):
        return replace(row, sequence=(), aside=(), splits=())
    return replace(row, deadline=None) if isinstance(row, ScheduleRecord) else row
