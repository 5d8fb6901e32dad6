"""The tables of a `.stride` file. `docs/job-format.md` says the same to people; a test holds the two together."""

SCHEMA_VERSION = 5

Row = dict[str, object]

TABLES: dict[str, dict[str, str]] = {
    "board": {
        "width_mm": "real",
        "height_mm": "real",
        "dpi": "real",
        "enlarge": "real",
        "bleed_mm": "real",
        "margin_mm": "real",
        "gutter_mm": "real",
        "target": "text",
        "sheet": "json",
    },
    "frames": {"x_mm": "real", "y_mm": "real", "w_mm": "real", "h_mm": "real"},
    "targets": {"target": "json"},
    "parts": {
        "name": "text",
        "tier": "text",
        "place": "real",
        "locked": "int",
        "hidden": "int",
        "ink": "text",
        "cover": "int",
        "cover_gap": "real",
        "cover_form": "json",
        "over_frames": "int",
    },
    "lines": {
        "part": "text",
        "place": "real",
        "pull": "text",
        "form": "text",
        "school": "text",
        "leeway": "real",
        "nib": "json",
        "span": "json",
        "roles": "json",
        "edits": "json",
        "ends": "json",
        "shift": "json",
        "draft": "int",
        "takes": "json",
        "follow": "json",
        "less_in_bends": "int",
    },
    "blacks": {"part": "text", "place": "real", "outline": "text", "shift": "json"},
    "plan": {"name": "text", "base": "real", "share": "real", "roles": "json", "tiers": "json", "halo": "real"},
    "nibs": {"nib": "json"},
    "pencils": {
        "name": "text",
        "image": "text",
        "x_mm": "real",
        "y_mm": "real",
        "w_mm": "real",
        "h_mm": "real",
        "px_w": "int",
        "px_h": "int",
        "fade": "real",
        "tint": "text",
        "hidden": "int",
        "place": "real",
        "kind": "text",
        "turn": "real",
        "corners": "json",
        "crop": "json",
        "locked": "int",
        "clean": "json",
    },
    "passes": {"sheet": "text", "points": "json", "place": "real"},
    "areas": {"kind": "text", "outline": "json", "found": "int"},
}
"""Tables whose rows change, each with a text key `id`; 'json' columns hold JSON text. History keeps rows of these."""

ADDED: dict[str, Row] = {
    "board": {"bleed_mm": 0.0, "margin_mm": 0.0, "gutter_mm": 4.0, "target": "fine offset", "sheet": None},
    "parts": {"cover": 0, "cover_gap": 0.0, "cover_form": None, "over_frames": 0},
    "lines": {"shift": None, "draft": 0, "takes": None, "follow": None, "less_in_bends": 0},
    "pencils": {"kind": "rough", "turn": 0.0, "corners": None, "crop": None, "locked": 0, "clean": None},
}
"""Columns that came after schema 1, with what they hold for rows of before; the history keeps such rows."""

NULLABLE: dict[str, tuple[str, ...]] = {
    "board": ("sheet",),
    "parts": ("cover_form",),
    "lines": ("pull", "form", "leeway", "span", "shift", "takes", "follow"),
    "blacks": ("shift",),
    "pencils": ("image", "corners", "crop", "clean"),
}
"""Columns that may hold nothing."""

BLOBS: dict[str, str] = {
    "pulls": "id TEXT PRIMARY KEY, samples BLOB NOT NULL, nib TEXT NOT NULL, scale REAL NOT NULL, turn REAL NOT NULL,"
    " mirror INTEGER NOT NULL, device TEXT NOT NULL, clock TEXT NOT NULL, glass_x REAL, glass_y REAL",
    "forms": "id TEXT PRIMARY KEY, curve BLOB NOT NULL, closed INTEGER NOT NULL, widths BLOB NOT NULL",
    "images": "id TEXT PRIMARY KEY, bytes BLOB NOT NULL",
    "outlines": "id TEXT PRIMARY KEY, curve BLOB NOT NULL, counts TEXT NOT NULL, rule TEXT NOT NULL",
}
"""Tables whose rows never change once written and are never taken away."""

MARKS = "CREATE TABLE marks (name TEXT PRIMARY KEY, step INTEGER NOT NULL, made TEXT NOT NULL)"
"""Moments of the history that have a name. They are no part of it: undo passes them by."""

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
}
"""What brings a file of a schema to the next one."""

_SQL_TYPES = {"text": "TEXT", "real": "REAL", "int": "INTEGER", "json": "TEXT"}


def create_statements() -> list[str]:
    """SQL that makes an empty job."""
    out = []
    for name, columns in TABLES.items():
        body = ", ".join(f"{column} {_SQL_TYPES[kind]}" for column, kind in columns.items())
        out.append(f"CREATE TABLE {name} (id TEXT PRIMARY KEY, {body})")
    out += [f"CREATE TABLE {name} ({body})" for name, body in BLOBS.items()]
    out += [
        "CREATE TABLE steps (id INTEGER PRIMARY KEY, parent INTEGER NOT NULL, name TEXT NOT NULL,"
        " words TEXT NOT NULL, args TEXT NOT NULL, made TEXT NOT NULL)",
        "CREATE TABLE step_rows (step INTEGER NOT NULL REFERENCES steps(id), seq INTEGER NOT NULL, tbl TEXT NOT NULL,"
        " row TEXT NOT NULL, before TEXT, after TEXT, PRIMARY KEY (step, seq))",
        MARKS,
        "CREATE TABLE state (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
        "CREATE TABLE log (id INTEGER PRIMARY KEY, made TEXT NOT NULL, words TEXT NOT NULL)",
        "CREATE TABLE fits (pull TEXT NOT NULL, school TEXT NOT NULL, leeway TEXT NOT NULL, version INTEGER NOT NULL,"
        " curve BLOB NOT NULL, track BLOB NOT NULL, figures BLOB NOT NULL, PRIMARY KEY (pull, school, leeway))",
    ]
    return out
