"""Jobs made and opened, by their files."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from plain_stride.board.page import Page
from plain_stride.hand.nib import standard_nibs
from plain_stride.job.commit import Commit
from plain_stride.job.creating import create_store
from plain_stride.job.errors import DamagedError, job_error
from plain_stride.job.history import RowChange
from plain_stride.job.job import Job
from plain_stride.job.opening import open_store
from plain_stride.job.plan_record import plan_row
from plain_stride.job.records import (
    BoardRecord,
    NibRecord,
    Record,
)
from plain_stride.job.rows import BOARD, PLAN
from plain_stride.job.store import Store
from plain_stride.weight.plan import Plan


def new_job(path: Path, page: Page) -> None:
    """Makes the file of an empty job. Raises JobError; never overwrites."""
    w, h = page.size_mm
    plan = Plan()
    rows: list[tuple[str, Record]] = [
        (BOARD, BoardRecord(width_mm=w, height_mm=h, dpi=page.dpi, enlarge=page.enlarge)),
        (PLAN, plan_row(plan)),
    ]
    rows += [(key, NibRecord(nib=nib)) for key, nib in standard_nibs().items()]
    changes = tuple(RowChange(row.table, key, None, row) for key, row in rows)
    create_store(path, Commit(changes, {"head": "0", "next": "0"}))


@contextmanager
def opened(path: Path, write: bool = False) -> Iterator[tuple[Job, Store]]:
    """A job and its open file, closed afterwards. Raises JobError."""
    job, store = open_job(path, write)
    try:
        yield job, store
    finally:
        store.close()


def open_job(path: Path, write: bool) -> tuple[Job, Store]:
    """A job and its open file, to be closed. Raises JobError, a file that is no whole job untouched."""
    store = open_store(path, write, load)
    try:
        return load(store), store
    except BaseException:
        store.close()
        raise


def load(store: Store) -> Job:
    """The job of an open file. Raises JobError where its rows do not make one."""
    try:
        job = Job(store)
        return job if store.settled() else Job(store)
    except DamagedError as fault:
        raise job_error(store.path, fault) from None
    except (KeyError, ValueError, TypeError, OverflowError) as fault:
        raise job_error(store.path, DamagedError(str(fault))) from None
