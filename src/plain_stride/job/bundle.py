"""Lines and blacks with all they are made of, in one piece: what copying puts on the clipboard."""

import base64
import json
from dataclasses import dataclass
from typing import Any

from plain_stride.job.errors import JobError
from plain_stride.job.job import INKED, Job
from plain_stride.job.schema import BLOBS, TABLES, Row

BLOB_COLUMNS = {"lines": {"pull": "pulls", "form": "forms"}, "blacks": {"outline": "outlines"}}
"""Columns that name a row of a table that never changes."""
VERSION = 1


@dataclass(frozen=True)
class Bundle:
    """rows: (table, row) back to front; parts: (name, tier) by the key in rows; blobs: rows by table and key."""

    rows: list[tuple[str, Row]]
    parts: dict[str, tuple[str, str]]
    blobs: dict[str, dict[str, Row]]


def bundle_of(job: Job, keys: list[str]) -> dict[str, Any]:
    """These lines and blacks as plain JSON data, back to front."""
    rows, parts, blobs = [], {}, {"pulls": {}, "forms": {}, "outlines": {}}  # type: ignore[var-annotated]
    for key in job.in_order(keys):
        table = next(t for t in INKED if key in job.rows[t])
        row = dict(job.rows[table][key])
        row.pop("place")
        if table == "lines":
            # A copy is of the line as it is: what else was tried for it stays with it.
            row["takes"] = None
        part = job.rows["parts"][str(row["part"])]
        parts[str(row["part"])] = {"name": part["name"], "tier": part["tier"]}
        for column, name in BLOB_COLUMNS[table].items():
            if row[column] is not None:
                blobs[name][row[column]] = _plain(job.blob_row(name, str(row[column])))
        rows.append([table, row])
    return {"plain-stride": "lines", "version": VERSION, "rows": rows, "parts": parts, "blobs": blobs}


def bundle_text(job: Job, keys: list[str]) -> str:
    return json.dumps(bundle_of(job, keys))


def checked_bundle(data: object) -> Bundle:
    """What a bundle holds. Raises JobError for anything else."""
    try:
        if not isinstance(data, dict) or data["plain-stride"] != "lines" or data["version"] != VERSION:
            raise JobError("these are no lines of Plain Stride, or of a newer one")
        blobs = {t: {k: _blob(t, row) for k, row in data["blobs"][t].items()} for t in ("pulls", "forms", "outlines")}
        rows = [(table, _row(table, row)) for table, row in data["rows"]]
        parts = {key: (str(p["name"]), str(p["tier"])) for key, p in data["parts"].items()}
        for table, row in rows:
            for column, name in BLOB_COLUMNS[table].items():
                if row[column] is not None:
                    _ = blobs[name][str(row[column])]
            _ = parts[str(row["part"])]
    except (KeyError, TypeError, ValueError, AttributeError) as fault:
        raise JobError(f"the copied lines are damaged ({fault}): copy them again") from None
    return Bundle(rows, parts, blobs)


def _row(table: str, row: Any) -> Row:
    return {column: row[column] for column in TABLES[table] if column != "place"}


def _plain(row: Row) -> Row:
    """A row of a table that never changes, without its id, bytes as text."""
    return {c: base64.b64encode(v).decode("ascii") if isinstance(v, bytes) else v for c, v in row.items() if c != "id"}


def _blob(table: str, row: Any) -> Row:
    kinds = {column.split()[0]: column.split()[1] for column in BLOBS[table].split(", ")}
    return {
        c: base64.b64decode(row[c], validate=True) if kind == "BLOB" else row[c]
        for c, kind in kinds.items()
        if c != "id"
    }
