"""The hand book's file: every pull of practice with its figures, by person and device, on this machine only.

Samples are kept of the last and of the best pulls of each drill, to be seen again; figures of all. What is deleted is
overwritten (SQLite's secure_delete) and the file is made small again.
"""

import json
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass, fields
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from plain_stride.practice.errors import PracticeError
from plain_stride.practice.measuring import Measures

BOOK_ID, VERSION = 0x48425053, 1
KEPT_LAST, KEPT_BEST = 30, 10
"""Pulls of each drill whose samples are kept."""
MOST_WORDS = 2000
_PULLS = (
    "CREATE TABLE pulls (id INTEGER PRIMARY KEY, made TEXT NOT NULL, person TEXT NOT NULL, device TEXT NOT NULL,"
    " drill TEXT NOT NULL, number INTEGER NOT NULL, scale REAL NOT NULL, measures TEXT NOT NULL, score REAL NOT NULL,"
    " samples BLOB)",
    "CREATE INDEX by_drill ON pulls (person, device, drill, id)",
    "CREATE TABLE pages (id INTEGER PRIMARY KEY, made TEXT NOT NULL, person TEXT NOT NULL, kind TEXT NOT NULL,"
    " words TEXT NOT NULL, told TEXT NOT NULL, picture BLOB)",
)
_OF_PULL = "id, made, person, device, drill, number, scale, measures, score"
PRINCIPLE, SETTING = PAGES = ("principle", "setting")
"""What the inker writes into the book: principles of one's own, and settings that worked."""


@dataclass(frozen=True, eq=False)
class Kept:
    """A pull of practice. made: UTC; number: of the drill's target; scale: mm on the tablet for each of the sheet;
    score: what it was judged by, mm (see `drills`); samples: (n, 5) of the practice sheet, None where they were let
    go."""

    made: str
    person: str
    device: str
    drill: str
    number: int
    scale: float
    measures: Measures
    score: float
    samples: np.ndarray | None = None
    id: int = 0


@dataclass(frozen=True)
class BookPage:
    """Words that the inker keeps. kind: principle or setting; told: where it is from (job, place, nib ..), as JSON;
    picture: a PNG, None for none."""

    made: str
    person: str
    kind: str
    words: str
    told: Mapping[str, Any]
    picture: bytes | None = None
    id: int = 0

    def __post_init__(self) -> None:
        if self.kind not in PAGES or not self.words.strip() or len(self.words) > MOST_WORDS:
            raise PracticeError(f"a page of the hand book is a principle or a setting of 1 to {MOST_WORDS} letters")


class HandBook:
    """An open hand book."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self._db = db

    # Pulls

    def add(self, kept: Kept) -> int:
        """Keeps a pull; gives its number. Samples of older and worse ones of the drill are let go."""
        with self._db:
            number = self._put(kept)
            self._let_go(kept.person, kept.device, kept.drill)
        return number

    def forget(self, number: int) -> None:
        """Takes a pull away for good."""
        with self._db:
            self._db.execute("DELETE FROM pulls WHERE id = ?", [number])

    def _put(self, kept: Kept) -> int:
        blob = None if kept.samples is None else np.ascontiguousarray(kept.samples, "<f4").tobytes()
        row = self._db.execute(
            "INSERT INTO pulls (made, person, device, drill, number, scale, measures, score, samples)"
            " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (kept.made, kept.person, kept.device, kept.drill, kept.number, kept.scale,
             json.dumps(asdict(kept.measures), allow_nan=False), kept.score, blob),
        )  # fmt: skip
        return int(row.lastrowid or 0)

    def _let_go(self, person: str, device: str, drill: str) -> None:
        mine, kept = "person = ? AND device = ? AND drill = ?", "samples IS NOT NULL"
        args = (person, device, drill)
        self._db.execute(
            f"UPDATE pulls SET samples = NULL WHERE {mine} AND {kept}"
            f" AND id NOT IN (SELECT id FROM pulls WHERE {mine} ORDER BY id DESC LIMIT {KEPT_LAST})"
            f" AND id NOT IN (SELECT id FROM pulls WHERE {mine} AND {kept} ORDER BY score LIMIT {KEPT_BEST})",
            args * 3,
        )

    def pulls(self, person: str = "", device: str = "", drill: str = "", last: int | None = None) -> list[Kept]:
        """Pulls in the order in which they were made, of some of them where these are named, the last so many. Their
        samples are left out: `samples_of` has them. Raises PracticeError."""
        where, args = _where(person=person, device=device, drill=drill)
        rows = self._all(f"SELECT {_OF_PULL} FROM pulls WHERE {where} ORDER BY id DESC LIMIT ?",
                         [*args, -1 if last is None else last])  # fmt: skip
        return [_kept(row) for row in reversed(rows)]

    def shake_by_month(self, person: str, device: str) -> dict[str, float]:
        """RMS of the shake's amplitude, mm, by month as YYYY-MM, the earliest first. Raises PracticeError."""
        where, args = _where(person=person, device=device)
        rows = self._all("SELECT substr(made, 1, 7), avg(json_extract(measures, '$.shake')"
                         f" * json_extract(measures, '$.shake')) FROM pulls WHERE {where} GROUP BY 1 ORDER BY 1",
                         args)  # fmt: skip
        return {str(month): float(square or 0.0) ** 0.5 for month, square in rows}

    def best(self, person: str, device: str, drill: str, count: int = KEPT_BEST) -> list[Kept]:
        """The best pulls of a drill whose samples are kept, the best first. Raises PracticeError."""
        where, args = _where(person=person, device=device, drill=drill)
        rows = self._all(f"SELECT {_OF_PULL} FROM pulls WHERE {where} AND samples IS NOT NULL ORDER BY score LIMIT ?",
                         [*args, count])  # fmt: skip
        return [_kept(row) for row in rows]

    def samples_of(self, number: int) -> np.ndarray | None:
        """(n, 5) samples of a pull, None where they were let go. Raises PracticeError."""
        rows = self._all("SELECT samples FROM pulls WHERE id = ?", [number])
        if not rows or rows[0][0] is None:
            return None
        blob = rows[0][0]
        if not isinstance(blob, bytes) or len(blob) % 20:
            raise PracticeError("a pull in the hand book is damaged")
        return np.frombuffer(blob, "<f4").reshape(-1, 5).astype(float)

    def devices(self, person: str = "") -> list[tuple[str, str]]:
        """(person, device) of all that was kept."""
        where, args = _where(person=person)
        return [(str(p), str(d)) for p, d in
                self._all(f"SELECT DISTINCT person, device FROM pulls WHERE {where} ORDER BY 1, 2", args)]  # fmt: skip

    # Pages

    def write(self, page: BookPage) -> int:
        """Keeps a page; gives its number."""
        with self._db:
            return self._write(page)

    def _write(self, page: BookPage) -> int:
        row = self._db.execute("INSERT INTO pages (made, person, kind, words, told, picture) VALUES (?, ?, ?, ?, ?, ?)",
                               (page.made, page.person, page.kind, page.words,
                                json.dumps(dict(page.told), allow_nan=False), page.picture))  # fmt: skip
        return int(row.lastrowid or 0)

    def pages(self, kind: str = "", words: str = "") -> list[BookPage]:
        """Pages, the newest first; words: that they hold, in any case. Raises PracticeError."""
        where, args = _where(kind=kind)
        rows = self._all("SELECT id, made, person, kind, words, told, picture FROM pages"
                         f" WHERE {where} ORDER BY id DESC", args)  # fmt: skip
        found = [BookPage(m, p, k, w, _object(t), pic, int(n)) for n, m, p, k, w, t, pic in rows]
        return [page for page in found if words.casefold() in page.words.casefold()]

    def tear_out(self, number: int) -> None:
        """Takes a page away for good."""
        with self._db:
            self._db.execute("DELETE FROM pages WHERE id = ?", [number])

    # As a whole

    def as_json(self) -> dict[str, Any]:
        """All of it but samples and pictures, to be taken elsewhere."""
        return {
            "hand book": VERSION,
            "units": "mm",
            "pulls": [{**{name: getattr(k, name) for name in ("made", "person", "device", "drill", "number", "scale",
                                                              "score")}, "measures": asdict(k.measures)}
                      for k in self.pulls()],
            "pages": [{"made": p.made, "person": p.person, "kind": p.kind, "words": p.words, "told": dict(p.told)}
                      for p in reversed(self.pages())],
        }  # fmt: skip

    def take_in(self, told: Any) -> int:
        """Adds what `as_json` gave, all or nothing; what is there already is left out. Gives how much was added.
        Raises PracticeError."""
        if not isinstance(told, dict) or told.get("hand book") != VERSION:
            raise PracticeError("that is no hand book of this version: nothing was taken in")
        try:
            pulls = [_from_json(row) for row in told.get("pulls", [])]
            pages = [BookPage(str(p["made"]), str(p["person"]), str(p["kind"]), str(p["words"]),
                              dict(p.get("told", {}))) for p in told.get("pages", [])]  # fmt: skip
        except (KeyError, TypeError, ValueError, AttributeError, PracticeError):
            raise PracticeError("a pull or a page of that hand book is damaged: nothing was taken in") from None
        known = {(k.made, k.person, k.device, k.drill, k.number) for k in self.pulls()}
        written = {(p.made, p.words) for p in self.pages()}
        fresh = [k for k in pulls if (k.made, k.person, k.device, k.drill, k.number) not in known]
        new = [p for p in pages if (p.made, p.words) not in written]
        with self._db:
            for kept in fresh:
                self._put(kept)
            for page in new:
                self._write(page)
        return len(fresh) + len(new)

    def delete_all(self, person: str = "") -> None:
        """Deletes all that is kept of a person, or of everybody, for good."""
        where, args = _where(person=person)
        with self._db:
            for table in ("pulls", "pages"):
                self._db.execute(f"DELETE FROM {table} WHERE {where}", args)
        self._db.execute("VACUUM")

    def _all(self, sql: str, args: Sequence[Any]) -> list[tuple[Any, ...]]:
        try:
            return self._db.execute(sql, args).fetchall()
        except sqlite3.DatabaseError as fault:
            raise PracticeError(f"the hand book cannot be read ({fault}): it was left as it is") from None


@contextmanager
def hand_book(path: Path) -> Iterator[HandBook]:
    """The hand book of a file, made where there is none. Raises PracticeError: for a file that is none, one of a newer
    version, a folder that cannot be written; the file is left as it is."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        db = sqlite3.connect(path, timeout=5.0)
    except (OSError, sqlite3.Error) as fault:
        raise PracticeError(f"the hand book cannot be opened ({fault}): pulls can be practised, none is kept") from None
    try:
        _prepare(db)
        yield HandBook(db)
    except sqlite3.DatabaseError as fault:
        full = "full" in str(fault)
        words = "there is no room on the disk" if full else str(fault)
        raise PracticeError(f"the hand book was not written ({words}): what it held is safe") from None
    finally:
        db.close()


def _prepare(db: sqlite3.Connection) -> None:
    (owner,), (version,) = db.execute("PRAGMA application_id").fetchone(), db.execute("PRAGMA user_version").fetchone()
    if owner == BOOK_ID and version > VERSION:
        raise PracticeError("this hand book is of a newer version of Plain Stride: it was left as it is")
    db.execute("PRAGMA secure_delete = ON")
    if owner == BOOK_ID:
        return
    if db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]:
        raise PracticeError("the file in the hand book's place is none: it was left as it is. Move it, then practise")
    with db:
        db.execute("BEGIN")
        for sql in _PULLS:
            db.execute(sql)
        db.execute(f"PRAGMA application_id = {BOOK_ID}")
        db.execute(f"PRAGMA user_version = {VERSION}")


def now() -> str:
    """UTC to the millisecond: pulls follow each other fast."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _where(**wanted: str) -> tuple[str, list[Any]]:
    told = {name: value for name, value in wanted.items() if value}
    return " AND ".join(f"{name} = ?" for name in told) or "1", list(told.values())


def _kept(row: tuple[Any, ...]) -> Kept:
    number, made, person, device, drill, n, scale, measures, score = row
    return Kept(made, person, device, drill, int(n), float(scale), _measures(_object(measures)), float(score), None,
                int(number))  # fmt: skip


def _object(text: Any) -> dict[str, Any]:
    try:
        told = json.loads(text)
    except (TypeError, ValueError):
        told = None
    if not isinstance(told, dict):
        raise PracticeError("a page of the hand book is damaged")
    return told


def _measures(told: Mapping[str, Any]) -> Measures:
    try:
        values = {f.name: told[f.name] for f in fields(Measures)}
        numbers = {name: None if v is None else float(v) for name, v in values.items() if name != "pressure"}
        light, firm = map(float, values["pressure"])
        if not np.isfinite([v for v in (*numbers.values(), light, firm) if v is not None]).all():
            raise ValueError
        return Measures(**numbers, pressure=(light, firm))  # type: ignore[arg-type]
    except (KeyError, TypeError, ValueError):
        raise PracticeError("a pull in the hand book is damaged") from None


def _from_json(row: Mapping[str, Any]) -> Kept:
    return Kept(str(row["made"]), str(row["person"]), str(row["device"]), str(row["drill"]), int(row["number"]),
                float(row["scale"]), _measures(row["measures"]), float(row["score"]))  # fmt: skip
