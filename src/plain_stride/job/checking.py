"""What makes a job's file a whole job: looked at on opening, before anything is worked out from it.

A file may come from anywhere. Its database is held to a list of our own tables, so that none of its views or triggers
is ever run; each row is held to the kinds of its columns and to what it stands for. What fails is damaged, said in one
sentence, and the file is not touched. A cache that fails is no damage: it is worked out anew.
"""

import math
import sqlite3
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from plain_stride import measure, plain_json
from plain_stride.board.frames import Frame
from plain_stride.board.job_sheet import sheet_from_row
from plain_stride.board.page import Page
from plain_stride.board.targets import target_from_row
from plain_stride.errors import StrideError
from plain_stride.hand.nib import END_KINDS, SCHOOLS, Steadying, nib_from_row
from plain_stride.job.schema import ADDED, BLOBS, NULLABLE, TABLES, Row
from plain_stride.lines.black import RULES
from plain_stride.pencils.cleaning import cleaning_from_row
from plain_stride.pencils.pencil_passes import checked_stroke
from plain_stride.pencils.placing import checked_corners, checked_crop
from plain_stride.weight.plan import Plan, check_role, check_tier

OWN_TABLES = {*TABLES, *BLOBS, "steps", "step_rows", "marks", "state", "log", "fits"}
MOST_TEXT, MOST_EDITS, MOST_JSON = 100_000, 20_000, 64_000_000
MOST_BLOB, MOST_BLOBS = 128_000_000, 2_000_000_000
"""Bytes of one row that never changes, pictures left out, and of all of them."""
MOST_FITS, MOST_FIT = 1_000_000_000, 16_000_000
KINDS = ("rough", "clean-up", "layout", "passes", "reference")
INKS = ("black", "white")


class DamagedError(StrideError):
    """What of a file is no job; the message says which part of it."""


def check_tables(db: sqlite3.Connection) -> None:
    """Raises DamagedError where a database holds anything that is no table of ours, or lacks what every schema has."""
    found = db.execute("SELECT type, name FROM sqlite_master WHERE name NOT LIKE 'sqlite_%'").fetchall()
    strange = [f"a {kind} '{name}'" for kind, name in found if kind != "table" or name not in OWN_TABLES]
    if strange:
        raise DamagedError(f"it holds {strange[0]}, which no job has")
    lacking = {"board", "parts", "lines", "plan", "pulls", "forms", "steps", "state"} - {name for _, name in found}
    if lacking:
        raise DamagedError(f"table '{min(lacking)}' is missing")


def check_columns(db: sqlite3.Connection) -> None:
    """Raises DamagedError where a table of this schema lacks columns, or holds more than any job does."""
    for table in sorted(OWN_TABLES):
        columns = {row[1] for row in db.execute(f"PRAGMA table_info({table})")}
        if not columns:
            raise DamagedError(f"table '{table}' is missing")
        wanted = {"id", *TABLES[table]} if table in TABLES else set(_blob_columns(table))
        if wanted - columns:
            raise DamagedError(f"table '{table}' lacks column '{min(wanted - columns)}'")
    total = 0
    for table in BLOBS:
        for column in _blob_columns(table):
            most, whole = db.execute(f"SELECT MAX(LENGTH({column})), SUM(LENGTH({column})) FROM {table}").fetchone()
            if table != "images" and (most or 0) > MOST_BLOB:
                raise DamagedError(f"a row of '{table}' takes {most:,} bytes")
            total += (whole or 0) if table != "images" else 0
    for table, texts in {**{t: tuple(c) for t, c in TABLES.items()}, "step_rows": ("before", "after")}.items():
        for column in texts:
            most, whole = db.execute(f"SELECT MAX(LENGTH({column})), SUM(LENGTH({column})) FROM {table}").fetchone()
            if (most or 0) > MOST_JSON:
                raise DamagedError(f"a row of '{table}' takes {most:,} bytes")
            total += whole or 0
    if total > MOST_BLOBS:
        raise DamagedError(f"its rows take {total:,} bytes")


def _blob_columns(table: str) -> list[str]:
    return [column.split()[0] for column in BLOBS.get(table, "").split(", ") if column]


def json_of(text: object) -> Any:
    """JSON text of a file as data. Raises DamagedError."""
    try:
        return plain_json.loads(str(text))
    except (ValueError, RecursionError):
        raise DamagedError("a column holds no JSON") from None


def check_row(table: str, key: object, row: Row) -> None:
    """Raises DamagedError where a row of a table that changes is not what its columns say."""
    if not isinstance(key, str) or not 0 < len(key) <= MOST_TEXT:
        raise DamagedError(f"a row of '{table}' has no key")
    columns = TABLES.get(table)
    if columns is None or set(row) != set(columns):
        raise DamagedError(f"row '{key[:40]}' of '{table}' has other columns than a job's")
    for column, kind in columns.items():
        value = row[column]
        if value is None:
            if column not in NULLABLE.get(table, ()):
                raise DamagedError(f"row '{key[:40]}' of '{table}' lacks '{column}'")
        elif not _KINDS[kind](value):
            raise DamagedError(f"'{column}' of row '{key[:40]}' of '{table}' holds no {_WORDS[kind]}")
    try:
        _CHECKS[table](row)
    except (StrideError, KeyError, TypeError, ValueError, IndexError, AttributeError, OverflowError) as fault:
        raise DamagedError(f"row '{key[:40]}' of '{table}': {fault}") from None


def _is_real(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value) and abs(value) < 1e15


_KINDS: dict[str, Callable[[object], bool]] = {
    "text": lambda v: isinstance(v, str) and len(v) <= MOST_TEXT,
    "real": _is_real,
    "int": lambda v: isinstance(v, int) and not isinstance(v, bool) and abs(v) < 10**15,
    "json": lambda v: True,
}
_WORDS = {"text": "text", "real": "number", "int": "whole number", "json": "JSON"}


def _wanted(holds: bool, what: str) -> None:
    if not holds:
        raise DamagedError(what)


def _numbers(values: Iterable[object], most: float = measure.FARTHEST_MM * 20) -> list[float]:
    out = []
    for value in values:
        _wanted(_is_real(value) and abs(value) <= most, "no numbers")  # type: ignore[arg-type]
        out.append(float(value))  # type: ignore[arg-type]
    return out


def _board(row: Any) -> None:
    page = Page((row["width_mm"], row["height_mm"]), row["dpi"], row["enlarge"])
    for column in ("bleed_mm", "margin_mm", "gutter_mm"):
        _wanted(0.0 <= row[column] <= max(page.size_mm), column)
    sheet_from_row(row["sheet"])


def _part(row: Any) -> None:
    check_tier(row["tier"])
    _wanted(row["ink"] in INKS, "its ink")
    _wanted(0.0 <= row["cover_gap"] <= 1000.0, "its cover's gap")
    for ring in row["cover_form"] or ():
        _wanted(len(ring) >= 3, "its cover")
        for point in ring:
            _wanted(len(_numbers(point)) == 2, "its cover")


def _line(row: Any) -> None:
    _wanted((row["pull"] is None) != (row["form"] is None), "it has not one of a pull and a form")
    _wanted(row["school"] in SCHOOLS, "its steadying")
    Steadying(row["school"], row["leeway"], bool(row["less_in_bends"]))
    nib_from_row(row["nib"])
    if row["span"] is not None:
        a, b = _numbers(row["span"], 1e9)
        _wanted(a < b, "its span")
    _wanted(len(row["roles"]) == 1, "its role")
    for first, last, role in row["roles"]:
        check_role(role)
        _numbers([v for v in (first, last) if v is not None])
    _wanted(len(row["edits"]) <= MOST_EDITS, "it has too many swells")
    for first, last, factor, side in row["edits"]:
        _numbers([v for v in (first, last) if v is not None], 1e9)
        _wanted(_is_real(factor) and 1e-3 < factor < 1e3 and side in ("both", "left", "right"), "a swell")
    _wanted(len(row["ends"]) == 2, "its ends")
    for kind, mm in row["ends"]:
        _wanted(kind in END_KINDS and (mm is None or (_is_real(mm) and 0.0 <= mm <= 1e4)), "its ends")
    _shift(row)
    _wanted(row["takes"] is None or all(isinstance(v, str) for v in row["takes"]), "its takes")
    if row["follow"]:
        _wanted(0.0 <= float(row["follow"]["share"]) <= 1.0 and len(row["follow"]["line"]) >= 3, "what it follows")
        for point in row["follow"]["line"]:
            _wanted(len(_numbers(point)) == 2, "what it follows")


def _shift(row: Any) -> None:
    _wanted(row["shift"] is None or len(_numbers(row["shift"])) == 2, "where it was moved")


def _plan(row: Any) -> None:
    plan = Plan(row["name"], row["base"], dict(row["roles"]), dict(row["tiers"]), row["halo"], row["share"])
    _wanted(set(Plan().roles) <= set(plan.roles) and set(Plan().tiers) <= set(plan.tiers), "its rules")
    _numbers([*plan.roles.values(), *plan.tiers.values()], 50.0)
    _wanted(0.0 < plan.halo <= 50.0, "its halo")


def _pencils(row: Any) -> None:
    _wanted(row["kind"] in KINDS and (row["image"] is None) == (row["kind"] == "passes"), "its kind")
    _wanted(0.0 <= row["fade"] <= 1.0 and row["w_mm"] > 0.0 and row["h_mm"] > 0.0, "its fade or size")
    _wanted(0 <= row["px_w"] <= 10**6 and 0 <= row["px_h"] <= 10**6, "its pixels")
    if row["corners"] is not None:
        checked_corners(row["corners"])
    if row["crop"] is not None:
        checked_crop(row["crop"])
    cleaning_from_row(row["clean"])


def _area(row: Any) -> None:
    from plain_stride.job.areas import AREA_KINDS, checked_outline

    _wanted(row["kind"] in AREA_KINDS, "its kind")
    checked_outline(row["outline"])


_CHECKS: dict[str, Callable[[Any], object]] = {
    "board": _board,
    "frames": lambda row: Frame(row["x_mm"], row["y_mm"], row["w_mm"], row["h_mm"]),
    "targets": lambda row: target_from_row(row["target"]),
    "parts": _part,
    "lines": _line,
    "blacks": _shift,
    "plan": _plan,
    "nibs": lambda row: nib_from_row(row["nib"]),
    "pencils": _pencils,
    "passes": lambda row: checked_stroke(row["points"]),
    "areas": _area,
}


def check_blobs(blobs: dict[str, dict[str, Row]]) -> None:
    """Raises DamagedError where a row that never changes is not what its columns say. Whether places lie too far out is
    not looked at here: such lines are set apart (`unfit`)."""
    for table, rows in blobs.items():
        for key, row in rows.items():
            try:
                _BLOB_CHECKS[table](row)
            except (StrideError, KeyError, TypeError, ValueError, OverflowError) as fault:
                raise DamagedError(f"row '{str(key)[:40]}' of '{table}': {fault}") from None


def _table(data: object, kind: str, columns: int) -> np.ndarray:
    _wanted(isinstance(data, bytes) and len(data) > 0, "it is empty")
    out = np.frombuffer(data, kind).reshape(-1, columns)  # type: ignore[call-overload]
    return np.asarray(out)


def _pull(row: Any) -> None:
    from plain_stride.hand.pull import KEPT

    samples = _table(row["samples"], KEPT, 5)
    _wanted(bool(np.isfinite(samples[:, :4]).all()), "its samples are no numbers")
    nib_from_row(json_of(row["nib"]))
    _wanted(_is_real(row["scale"]) and row["scale"] > 0.0 and _is_real(row["turn"]), "its view")
    _wanted(isinstance(row["device"], str) and isinstance(row["clock"], str), "its device")
    _wanted(all(row[c] is None or _is_real(row[c]) for c in ("glass_x", "glass_y")), "its view")


def _form(row: Any) -> None:
    curve, widths = _table(row["curve"], "<f8", 8), _table(row["widths"], "<f8", 3)
    _wanted(bool(np.isfinite(curve).all() and np.isfinite(widths).all()), "it holds what are no numbers")
    _wanted(bool((np.diff(widths[:, 0]) >= 0.0).all() and (widths >= 0.0).all()), "its widths")
    _wanted(row["closed"] in (0, 1), "whether it is closed")


def _outline(row: Any) -> None:
    curve, counts = _table(row["curve"], "<f8", 8), json_of(row["counts"])
    _wanted(bool(np.isfinite(curve).all()), "it holds what are no numbers")
    whole = isinstance(counts, list) and all(isinstance(n, int) and n > 0 for n in counts)
    _wanted(whole and sum(counts) == len(curve) and row["rule"] in RULES, "its outlines")


_BLOB_CHECKS: dict[str, Callable[[Any], None]] = {"pulls": _pull, "forms": _form, "outlines": _outline}


def check_steps(steps: dict[int, Any], head: int, marks: dict[str, int]) -> None:
    """Raises DamagedError where a history is no tree, or stands nowhere in it. steps: by number, each with a parent."""
    for number, step in steps.items():
        if not isinstance(number, int) or number <= 0 or not isinstance(step.parent, int):
            raise DamagedError("a step of its history has no number")
        if step.parent and (step.parent not in steps or step.parent >= number):
            raise DamagedError(
                f"step {number} of its history stands on step {step.parent}, which does not come before it"
            )
    for place in (head, *marks.values()):
        if place and place not in steps:
            raise DamagedError(f"step {place} of its history is missing")


def filled(table: str, row: Any) -> Row:
    """A row of the history with the columns that came after it was made."""
    if not isinstance(row, dict):
        raise DamagedError("a step of its history holds no row")
    return {**ADDED.get(table, {}), **row}
