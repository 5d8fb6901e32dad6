"""Lines and blacks with all they are made of, in one piece: what copying puts on the clipboard."""

import json
from dataclasses import dataclass, replace
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.blobs import ROW_TABLES, blob_keys
from plain_stride.job.checking import record_of
from plain_stride.job.errors import JobError
from plain_stride.job.kept import KEPT_ROWS, Kept, form_row
from plain_stride.job.records import BlackRecord, LineRecord
from plain_stride.job.releasing import alone, released
from plain_stride.job.shapes import Shapes

VERSION = 2
FAMILY_FORM = "of family "
"""How forms are named that are in no file yet."""


@dataclass(frozen=True)
class Bundle:
    """rows: of lines and blacks, back to front; parts: (name, tier) by the key in rows; kept: what rows name that never
    changes."""

    rows: list[LineRecord | BlackRecord]
    parts: dict[str, tuple[str, str]]
    kept: list[Kept]


def bundle_of(shapes: Shapes, keys: list[str]) -> dict[str, Any]:
    """These lines and blacks as plain JSON data, back to front. Lines of a family come as lines of their own."""
    job = shapes.job
    rows, parts = [], {}
    blobs: dict[str, dict[str, Any]] = {table: {} for table in ROW_TABLES}
    for key in job.in_order(keys):
        row = job.inked(key)
        assert row is not None
        row = alone(row)
        if isinstance(row, LineRecord):
            # A copy is of the line as it is: what else was tried for it stays with it.
            row = replace(row, takes=None)
            if row.family is not None:
                row, form = released(shapes, key)
                row = replace(row, form=FAMILY_FORM + key)
                blobs["forms"][FAMILY_FORM + key] = form_row("", form).as_plain()
        part = job.rows.parts[row.part]
        parts[row.part] = {"name": part.name, "tier": part.tier}
        for table, name in blob_keys(row):
            if name not in blobs[table]:
                blobs[table][name] = job.kept_row(table, name).as_plain()
        plain = row.plain()
        del plain["place"]
        rows.append([row.table, plain])
    return {"plain-stride": "lines", "version": VERSION, "rows": rows, "parts": parts, "blobs": blobs}


def bundle_text(shapes: Shapes, keys: list[str]) -> str:
    return json.dumps(bundle_of(shapes, keys))


def checked_bundle(data: object) -> Bundle:
    """What a bundle holds. Raises JobError for anything else."""
    try:
        if not isinstance(data, dict) or data["plain-stride"] != "lines" or data["version"] != VERSION:
            raise JobError("these are no lines of Plain Stride, or of a newer one")
        kept = [KEPT_ROWS[table].from_plain(str(key), row)
                for table in ROW_TABLES for key, row in data["blobs"][table].items()]  # fmt: skip
        rows = [record_of(table, "copied", {**row, "place": 0.0}) for table, row in data["rows"]]
        parts = {key: (str(p["name"]), str(p["tier"])) for key, p in data["parts"].items()}
        known = {(row.table, row.id) for row in kept}
        for row in rows:
            if not isinstance(row, LineRecord | BlackRecord) or not known.issuperset(blob_keys(row)):
                raise JobError("the copied lines are damaged (something of them is missing): copy them again")
            _ = parts[row.part]
    except JobError:
        raise
    except (StrideError, KeyError, TypeError, ValueError, AttributeError) as fault:
        raise JobError(f"the copied lines are damaged ({fault}): copy them again") from None
    return Bundle(rows, parts, kept)
