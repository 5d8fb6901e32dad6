"""What of a job never changes once it is laid: pulls, forms, outlines, scans, and what was read from them.

One owner, so that a row and what was made from it go together when a step fails or the history is forgotten.
"""

import json
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np

from plain_stride.hand.nib import nib_from_row
from plain_stride.hand.pull import KEPT, Pull, View
from plain_stride.job.checking import DamagedError, check_blobs
from plain_stride.job.schema import Row
from plain_stride.job.store import Store
from plain_stride.lines.black import Black, unpacked
from plain_stride.lines.given import Form, GivenError
from plain_stride.lines.profile import Widths
from plain_stride.measure import FARTHEST_MM

BLOB_TABLES = ("pulls", "forms", "outlines", "images")
_COLUMNS = {"pull": "pulls", "form": "forms", "outline": "outlines", "image": "images"}


def blob_keys(table: str, row: Row) -> Iterator[tuple[str, str]]:
    """(table, key) of all rows that never change and that a row of a table names, other takes of a line among them."""
    for column, blobs in _COLUMNS.items():
        if table in ("lines", "blacks", "pencils") and row.get(column) is not None:
            yield blobs, str(row[column])
    takes: Any = row.get("takes") if table == "lines" else None
    for key in takes or ():
        yield "pulls", key


class Blobs:
    """rows: of pulls, forms and outlines, by table and key, as the file has them. Raises DamagedError for others."""

    def __init__(self, rows: dict[str, dict[str, Row]], store: Store) -> None:
        check_blobs(rows)
        self.rows = rows
        self._store = store
        self._made: dict[tuple[str, str], Any] = {}
        self._unfit = {(table, key) for table, of_table in rows.items() for key, row in of_table.items()
                       if _too_far(table, row)}  # fmt: skip

    def pull(self, key: str) -> Pull:
        return self._once("pulls", key, _pull)

    def form(self, key: str) -> Form:
        return self._once("forms", key, _form)

    def outline(self, key: str) -> Black:
        return self._once("outlines", key, _outline)

    def image(self, key: str) -> bytes:
        """The bytes of a scan as they came; read from the file the first time."""
        if ("images", key) not in self._made:
            self._made["images", key] = self._store.image_bytes(key)
        return self._made["images", key]

    def add_image(self, key: str, data: bytes) -> bool:
        """Takes a scan; whether it is new."""
        new = ("images", key) not in self._made and key not in self.known("images")
        self._made["images", key] = data
        return new

    def keep(self, table: str, key: str, made: Any) -> None:
        """What a new row was made of, so that it need not be read from it again."""
        self._made[table, key] = made

    def known(self, table: str) -> list[str]:
        """Keys of all rows of a table."""
        if table != "images":
            return list(self.rows[table])
        kept = [key for of, key in self._made if of == "images"]
        return list(dict.fromkeys([*kept, *self._store.image_keys()]))

    def keys(self) -> Iterator[str]:
        """Keys of pulls, forms and outlines."""
        for rows in self.rows.values():
            yield from rows

    def check(self, table: str, row: Row) -> None:
        """Raises DamagedError where a row names something that is not there."""
        for blobs, key in blob_keys(table, row):
            if blobs != "images" and key not in self.rows[blobs]:
                raise DamagedError(f"row '{key[:40]}' of '{blobs}' is missing")

    def unfit(self, table: str, row: Row) -> bool:
        """Whether a line or a black lies farther out than any may, as older versions let them come in."""
        return bool(self._unfit) and any(key in self._unfit for key in blob_keys(table, row))

    def drop(self, keys: Iterable[tuple[str, str]]) -> None:
        """Takes rows away, and what was made from them."""
        for table, key in keys:
            self.rows.get(table, {}).pop(key, None)
            self._made.pop((table, key), None)

    def all(self) -> Iterator[tuple[str, Row]]:
        """(table, row) of everything, scans among it. Raises JobError where a scan can no longer be read."""
        for table, rows in self.rows.items():
            for row in rows.values():
                yield table, row
        for key in self.known("images"):
            yield "images", {"id": key, "bytes": self.image(key)}

    def _once(self, table: str, key: str, make: Any) -> Any:
        if (table, key) not in self._made:
            self._made[table, key] = make(self.rows[table][key])
        return self._made[table, key]


def _pull(row: Any) -> Pull:
    samples = np.frombuffer(row["samples"], KEPT).reshape(-1, 5).astype(float)
    origin = (row["glass_x"], row["glass_y"]) if row.get("glass_x") is not None else None
    view = View(row["scale"], row["turn"], bool(row["mirror"]), origin)
    return Pull(samples, nib_from_row(json.loads(row["nib"])), view, row["device"], row["clock"])


def _form(row: Any) -> Form:
    widths = np.frombuffer(row["widths"], "<f8").reshape(-1, 3)
    curve = np.frombuffer(row["curve"], "<f8").reshape(-1, 4, 2)
    return Form(curve, bool(row["closed"]), Widths(*widths.T))


def _outline(row: Any) -> Black:
    return unpacked(row["curve"], json.loads(row["counts"]), row["rule"])


def _too_far(table: str, row: Row) -> bool:
    """Whether a row lies beyond what any way in lets by today."""
    if table == "forms":
        try:
            _form(row)
        except GivenError:
            return True
        return False
    places: Any = row["samples"] if table == "pulls" else row["curve"]
    kind, columns = (KEPT, 5) if table == "pulls" else ("<f8", 2)
    return bool(np.abs(np.frombuffer(places, kind).reshape(-1, columns)[:, :2]).max(initial=0.0) > FARTHEST_MM)
