"""The owner of what never changes once it is laid: pulls, forms, outlines, scans, and what was made from them.

One owner, so that a row and what was made from it go together when a step fails or the history is forgotten.
"""

from collections.abc import Iterable, Iterator
from typing import Any

from plain_stride.hand.pull import Pull
from plain_stride.job.errors import DamagedError
from plain_stride.job.kept import ImageRow, Kept
from plain_stride.job.pencil_records import PencilRecord
from plain_stride.job.record_fields import Record
from plain_stride.job.records import BlackRecord, LineRecord
from plain_stride.job.store import Store
from plain_stride.lines.black import Black
from plain_stride.lines.given import Form
from plain_stride.lines.shape import FixedPath

ROW_TABLES = ("pulls", "forms", "paths", "outlines")
"""Tables whose rows are held in memory."""
BLOB_TABLES = (*ROW_TABLES, "images")
Key = tuple[str, str]


def blob_keys(row: Record) -> Iterator[Key]:
    """(table, key) of all rows that never change and that a row names, other takes of a line among them."""
    named: tuple[tuple[str, str | None], ...] = ()
    if isinstance(row, LineRecord):
        named = (
            ("pulls", row.pull),
            ("forms", row.form),
            ("paths", row.fixed),
            *(("pulls", take) for take in row.takes or ()),
        )
    elif isinstance(row, BlackRecord):
        named = (("outlines", row.outline),)
    elif isinstance(row, PencilRecord):
        named = (("images", row.image),)
    for table, key in named:
        if key is not None:
            yield table, key


class Blobs:
    """Rows of pulls, forms and outlines by (table, key); scans are read from the file when they are asked for."""

    def __init__(self, store: Store) -> None:
        """Raises DamagedError, JobError."""
        self._rows: dict[Key, Any] = {}
        for table in ROW_TABLES:
            self._rows |= {(table, key): row for key, row in store.kept_rows(table).items()}
        self._store = store
        self._made: dict[Key, Any] = {}
        self._unfit = {key for key, row in self._rows.items() if row.too_far}

    def pull(self, key: str) -> Pull:
        """A pull by its key; KeyError for an unknown one."""
        return self._once(("pulls", key))

    def form(self, key: str) -> Form:
        """A form by its key; KeyError for an unknown one."""
        return self._once(("forms", key))

    def path(self, key: str) -> FixedPath:
        """A fixed path by its key; KeyError for an unknown one."""
        return self._once(("paths", key))

    def outline(self, key: str) -> Black:
        """The outlines of a black by their key; KeyError for an unknown one."""
        return self._once(("outlines", key))

    def image(self, key: str) -> bytes:
        """The bytes of a scan as they came; read from the file the first time."""
        if ("images", key) not in self._made:
            self._made["images", key] = self._store.image_bytes(key)
        found: bytes = self._made["images", key]
        return found

    def row(self, table: str, key: str) -> Any:
        """A row as the file has it, None where there is none."""
        return self._rows.get((table, key))

    def add(self, row: Kept, made: Any = None) -> bool:
        """Takes a new row; made: what it was made of, so that it need not be read from it again. Whether it is new."""
        at = (row.table, row.id)
        new = row.id not in self.known("images") if isinstance(row, ImageRow) else at not in self._rows
        if isinstance(row, ImageRow):
            self._made[at] = row.bytes
        else:
            self._rows[at] = row
            if made is not None:
                self._made[at] = made
        return new

    def known(self, table: str) -> list[str]:
        """Keys of all rows of a table."""
        kept = [key for of, key in (self._made if table == "images" else self._rows) if of == table]
        return list(dict.fromkeys([*kept, *(self._store.image_keys() if table == "images" else ())]))

    def keys(self) -> list[str]:
        """Keys of all but scans."""
        return [key for _, key in self._rows]

    def check(self, row: Record) -> None:
        """Raises DamagedError where a row names something that is not there."""
        for table, key in blob_keys(row):
            if table != "images" and (table, key) not in self._rows:
                raise DamagedError(f"row '{key[:40]}' of '{table}' is missing")

    def unfit(self, row: Record) -> bool:
        """Whether a line or a black lies farther out than any may, as older versions let them come in."""
        return bool(self._unfit) and any(key in self._unfit for key in blob_keys(row))

    def drop(self, keys: Iterable[Key]) -> None:
        """Takes rows away, and what was made from them."""
        for key in keys:
            self._rows.pop(key, None)
            self._made.pop(key, None)

    def all(self) -> Iterator[Kept]:
        """Everything, scans among it. Raises JobError where a scan can no longer be read."""
        yield from self._rows.values()
        for key in self.known("images"):
            yield ImageRow(key, self.image(key))

    def _once(self, key: Key) -> Any:
        if key not in self._made:
            self._made[key] = self._rows[key].made()
        return self._made[key]
