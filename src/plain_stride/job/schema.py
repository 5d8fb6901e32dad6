"""The tables of a `.stride` file; those whose rows change come from their records (`job.records`).

`docs/job-format.md` says the same to people; a test holds the two together.
"""

from plain_stride.job.record_fields import Column
from plain_stride.job.records import RECORDS

SCHEMA_VERSION = 14

BLOBS: dict[str, str] = {
    "pulls": "id TEXT PRIMARY KEY, samples BLOB NOT NULL, nib TEXT NOT NULL, scale REAL NOT NULL, turn REAL NOT NULL,"
    " mirror INTEGER NOT NULL, device TEXT NOT NULL, clock TEXT NOT NULL, glass_x REAL, glass_y REAL",
    "forms": "id TEXT PRIMARY KEY, curve BLOB NOT NULL, closed INTEGER NOT NULL, widths BLOB NOT NULL",
    "paths": "id TEXT PRIMARY KEY, curve BLOB NOT NULL, closed INTEGER NOT NULL, own BLOB NOT NULL",
    "outlines": "id TEXT PRIMARY KEY, curve BLOB NOT NULL, counts TEXT NOT NULL, rule TEXT NOT NULL",
    "images": "id TEXT PRIMARY KEY, bytes BLOB NOT NULL",
}
"""Tables whose rows never change once written and are never taken away."""

MARKS = "CREATE TABLE marks (name TEXT PRIMARY KEY, step INTEGER NOT NULL, made TEXT NOT NULL)"
"""Moments of the history that have a name. They are no part of it: undo passes them by."""

DELIVERED = (
    "CREATE TABLE delivered (id INTEGER PRIMARY KEY, made TEXT NOT NULL, name TEXT NOT NULL, step INTEGER NOT NULL,"
    " manifest TEXT NOT NULL)"
)
"""Deliveries that were made. No part of the history: what has gone out is not undone."""

UPDATES: dict[int, tuple[str, ...]] = {
    1: (
        "ALTER TABLE parts ADD COLUMN cover INTEGER DEFAULT 0",
        "ALTER TABLE parts ADD COLUMN cover_gap REAL DEFAULT 0.0",
        "ALTER TABLE parts ADD COLUMN cover_form TEXT",
        MARKS,
    ),
    2: (
        "ALTER TABLE lines ADD COLUMN shift TEXT",
        "CREATE TABLE blacks (id TEXT PRIMARY KEY, part TEXT, place REAL, outline TEXT, shift TEXT)",
        f"CREATE TABLE outlines ({BLOBS['outlines']})",
    ),
    3: (
        "ALTER TABLE board ADD COLUMN bleed_mm REAL DEFAULT 0.0",
        "ALTER TABLE board ADD COLUMN margin_mm REAL DEFAULT 0.0",
        "ALTER TABLE board ADD COLUMN gutter_mm REAL DEFAULT 4.0",
        "ALTER TABLE board ADD COLUMN target TEXT DEFAULT 'fine offset'",
        "ALTER TABLE board ADD COLUMN sheet TEXT",
        "CREATE TABLE frames (id TEXT PRIMARY KEY, x_mm REAL, y_mm REAL, w_mm REAL, h_mm REAL)",
        "CREATE TABLE targets (id TEXT PRIMARY KEY, target TEXT)",
        "ALTER TABLE parts ADD COLUMN over_frames INTEGER DEFAULT 0",
        "ALTER TABLE lines ADD COLUMN draft INTEGER DEFAULT 0",
        "ALTER TABLE lines ADD COLUMN takes TEXT",
        "ALTER TABLE lines ADD COLUMN follow TEXT",
        "ALTER TABLE pencils ADD COLUMN kind TEXT DEFAULT 'rough'",
        "ALTER TABLE pencils ADD COLUMN turn REAL DEFAULT 0.0",
        "ALTER TABLE pencils ADD COLUMN corners TEXT",
        "ALTER TABLE pencils ADD COLUMN crop TEXT",
        "ALTER TABLE pencils ADD COLUMN locked INTEGER DEFAULT 0",
        "ALTER TABLE pencils ADD COLUMN clean TEXT",
        "CREATE TABLE passes (id TEXT PRIMARY KEY, sheet TEXT, points TEXT, place REAL)",
        "CREATE TABLE areas (id TEXT PRIMARY KEY, kind TEXT, outline TEXT, found INTEGER)",
    ),
    4: (
        "ALTER TABLE pulls ADD COLUMN glass_x REAL",
        "ALTER TABLE pulls ADD COLUMN glass_y REAL",
        "ALTER TABLE lines ADD COLUMN less_in_bends INTEGER DEFAULT 0",
    ),
    5: (
        f"CREATE TABLE paths ({BLOBS['paths']})",
        "CREATE TABLE lines_6 (id TEXT PRIMARY KEY, part TEXT, place REAL, pull TEXT REFERENCES pulls(id),"
        " form TEXT REFERENCES forms(id), school TEXT, leeway REAL, nib TEXT, span TEXT, roles TEXT, edits TEXT,"
        " ends TEXT, matrix TEXT, draft INTEGER, takes TEXT, follow TEXT, less_in_bends INTEGER, scale_widths INTEGER,"
        " fixed TEXT REFERENCES paths(id), family TEXT, member INTEGER)",
        "INSERT INTO lines_6 SELECT id, part, place, pull, form, school, leeway, nib, span, roles, edits, ends, shift,"
        " draft, takes, follow, less_in_bends, 0, NULL, NULL, 0 FROM lines ORDER BY rowid",
        "DROP TABLE lines",
        "ALTER TABLE lines_6 RENAME TO lines",
        "CREATE TABLE blacks_6 (id TEXT PRIMARY KEY, part TEXT, place REAL, outline TEXT REFERENCES outlines(id),"
        " matrix TEXT)",
        "INSERT INTO blacks_6 SELECT id, part, place, outline, shift FROM blacks ORDER BY rowid",
        "DROP TABLE blacks",
        "ALTER TABLE blacks_6 RENAME TO blacks",
        "CREATE TABLE families (id TEXT PRIMARY KEY, kind TEXT, source TEXT, gap REAL, count INTEGER, centre TEXT)",
    ),
    6: (
        "ALTER TABLE families ADD COLUMN angle REAL DEFAULT 0.0",
        "ALTER TABLE lines ADD COLUMN bends TEXT DEFAULT '[]'",
        "ALTER TABLE lines ADD COLUMN growth TEXT",
    ),
    7: (
        "CREATE TABLE holds (id TEXT PRIMARY KEY, line TEXT, line_end TEXT, other TEXT, other_end TEXT, at REAL,"
        " other_at REAL, sink REAL, corner TEXT)",
    ),
    8: (
        "ALTER TABLE parts ADD COLUMN inside TEXT",
        "ALTER TABLE plan ADD COLUMN light REAL",
        "ALTER TABLE plan ADD COLUMN bends INTEGER DEFAULT 0",
    ),
    9: (
        "ALTER TABLE parts ADD COLUMN share REAL",
        "ALTER TABLE plan ADD COLUMN rules TEXT",
        "ALTER TABLE lines ADD COLUMN weight TEXT DEFAULT '{}'",
    ),
    10: (
        "CREATE TABLE tones (id TEXT PRIMARY KEY, kind TEXT, told TEXT, gone TEXT, area REAL)",
        "ALTER TABLE lines ADD COLUMN tone TEXT",
        "ALTER TABLE blacks ADD COLUMN tone TEXT",
    ),
    11: (
        "CREATE TABLE meant (id TEXT PRIMARY KEY, scope TEXT, kind TEXT, ink TEXT, x_mm REAL, y_mm REAL,"
        " measured REAL, reason TEXT)",
        "CREATE TABLE manners (id TEXT PRIMARY KEY, manners TEXT)",
        "CREATE TABLE remarks (id TEXT PRIMARY KEY, x_mm REAL, y_mm REAL, words TEXT, strokes TEXT, author TEXT,"
        " answer TEXT, done INTEGER)",
    ),
    12: (
        "ALTER TABLE parts ADD COLUMN colour TEXT",
        "ALTER TABLE lines ADD COLUMN colour TEXT",
        "ALTER TABLE blacks ADD COLUMN colour TEXT",
        "CREATE TABLE inks (id TEXT PRIMARY KEY, name TEXT, colour TEXT, roles TEXT)",
        "CREATE TABLE finishes (id TEXT PRIMARY KEY, place REAL, told TEXT)",
        "CREATE TABLE flats (id TEXT PRIMARY KEY, kind TEXT, places TEXT, bounds TEXT, colour TEXT, part TEXT)",
        "CREATE TABLE deliveries (id TEXT PRIMARY KEY, name TEXT, told TEXT)",
        "CREATE TABLE hand_over (id TEXT PRIMARY KEY, bridge REAL, spread REAL, step REAL)",
        DELIVERED,
    ),
    13: (
        "CREATE TABLE notes (id TEXT PRIMARY KEY, words TEXT, made TEXT, x_mm REAL, y_mm REAL, line TEXT, part TEXT,"
        " rule TEXT)",
        "CREATE TABLE work_order (id TEXT PRIMARY KEY, school TEXT, sequence TEXT, aside TEXT, splits TEXT,"
        " first TEXT)",
        "CREATE TABLE schedule (id TEXT PRIMARY KEY, deadline TEXT, hours REAL, days TEXT)",
    ),
}
"""What brings a file of a schema to the next one."""

_SQL_TYPES = {"text": "TEXT", "real": "REAL", "int": "INTEGER", "json": "TEXT"}


def _column(name: str, how: Column) -> str:
    return f"{name} {_SQL_TYPES[how.kind]}" + (f" REFERENCES {how.refers}(id)" if how.refers else "")


def create_statements() -> list[str]:
    """SQL that makes an empty job."""
    out = []
    for name, record in RECORDS.items():
        body = ", ".join(_column(column, how) for column, how in record.columns().items())
        out.append(f"CREATE TABLE {name} (id TEXT PRIMARY KEY, {body})")
    out += [f"CREATE TABLE {name} ({body})" for name, body in BLOBS.items()]
    out += [
        "CREATE TABLE steps (id INTEGER PRIMARY KEY, parent INTEGER NOT NULL, name TEXT NOT NULL,"
        " words TEXT NOT NULL, args TEXT NOT NULL, made TEXT NOT NULL)",
        "CREATE TABLE step_rows (step INTEGER NOT NULL REFERENCES steps(id), seq INTEGER NOT NULL, tbl TEXT NOT NULL,"
        " row TEXT NOT NULL, before TEXT, after TEXT, PRIMARY KEY (step, seq))",
        MARKS,
        DELIVERED,
        "CREATE TABLE state (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
        "CREATE TABLE log (id INTEGER PRIMARY KEY, made TEXT NOT NULL, words TEXT NOT NULL)",
        "CREATE TABLE fits (pull TEXT NOT NULL, school TEXT NOT NULL, leeway TEXT NOT NULL, version INTEGER NOT NULL,"
        " curve BLOB NOT NULL, track BLOB NOT NULL, figures BLOB NOT NULL, PRIMARY KEY (pull, school, leeway))",
    ]
    return out
