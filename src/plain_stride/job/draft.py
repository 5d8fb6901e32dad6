"""The rows of a step while it is being made."""

import hashlib
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from plain_stride.hand.pull import Pull
from plain_stride.job.commit import Commit
from plain_stride.job.history import RowChange
from plain_stride.job.kept import ImageRow, Kept, form_row, outline_row, path_row, pull_row
from plain_stride.job.records import (
    Record,
)
from plain_stride.job.rows import JobRows
from plain_stride.lines.black import Black
from plain_stride.lines.given import Form
from plain_stride.lines.shape import FixedPath


class Draft:
    """The rows of a step while it is being made; kept: those of them that never change."""

    def __init__(self, job: JobRows, new_id: Callable[[str], str]) -> None:
        self.job, self.new_id = job, new_id
        self.rows: list[RowChange] = []
        self.kept: list[Kept] = []
        self.commit: Commit | None = None

    def put(self, key: str, row: Record) -> None:
        """Sets a row."""
        self._set(row.table, key, row)

    def remove(self, table: str, key: str) -> None:
        """Takes a row away."""
        self._set(table, key, None)

    def change(self, table: str, key: str, **columns: Any) -> None:
        """Sets some columns of a row."""
        self._set(table, key, replace(self.job.rows.of(table)[key], **columns))

    def _set(self, table: str, key: str, row: Record | None) -> None:
        before = self.job.rows.of(table).get(key)
        if before == row:
            return
        self.rows.append(RowChange(table, key, before, row))
        self.job.put(table, key, row)

    def add_pull(self, pull: Pull) -> str:
        """The key of a new pull, rounded as the file keeps it."""
        kept = pull.as_kept()
        return self._keep(pull_row(self.new_id("p"), kept), kept)

    def add_form(self, form: Form) -> str:
        """The key of a new form."""
        return self._keep(form_row(self.new_id("f"), form), form)

    def add_path(self, path: FixedPath) -> str:
        """The key of a new fixed path."""
        return self._keep(path_row(self.new_id("h"), path), path)

    def add_outline(self, black: Black) -> str:
        """The key of the outlines of a new black."""
        return self._keep(outline_row(self.new_id("o"), black))

    def add_image(self, data: bytes) -> str:
        """The key of a scan's bytes, which are stored once however often they are placed."""
        return self._keep(ImageRow(hashlib.sha256(data).hexdigest(), data))

    def add_known(self, row: Kept) -> str:
        """The key of a row that never changes: one that is here already where it says the same, else a new one."""
        if self.job.kept_row(row.table, row.id) == row:
            return row.id
        return self._keep(replace(row, id=self.new_id(row.table[0])))

    def _keep(self, row: Kept, made: Any = None) -> str:
        if self.job.blobs.add(row, made):
            self.kept.append(row)
        return row.id
