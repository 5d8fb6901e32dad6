"""The library: what is kept for every job, such as sets of nibs; what was there before stays, numbered by day."""

import shutil
from datetime import date, timedelta
from pathlib import Path

from plain_stride.desk.settings import library_folder

KEPT_DAYS = 30


def kept(kind: str) -> list[Path]:
    """Things of a kind, such as "nibs", by name."""
    return sorted(library_folder(kind).glob("*.json"))


def place_for(kind: str, name: str) -> Path:
    """Where a thing of this name is to be written; what is there now is kept as of today. Raises OSError."""
    folder = library_folder(kind)
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{name}.json"
    if path.exists():
        path.replace(folder / f"{name}, before.json")
    return path


def copies(kind: str) -> list[tuple[str, list[Path]]]:
    """(day, things as they were then), the newest day first."""
    days = sorted((library_folder(kind) / "copies").glob("????-??-??"), reverse=True)
    return [(day.name, sorted(day.glob("*.json"))) for day in days]


def back_up(kind: str, today: date | None = None) -> Path | None:
    """A copy of all things of a kind, once a day, in a folder of that day beside them; copies older than KEPT_DAYS go,
    the newest one never. None where there is nothing to copy or today's is there. Raises OSError."""
    today = today or date.today()
    folder = library_folder(kind) / "copies" / today.isoformat()
    if folder.exists() or not kept(kind):
        return None
    part = folder.with_name(f"{folder.name} unfinished")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True)
    for path in kept(kind):
        shutil.copy2(path, part / path.name)
    part.replace(folder)
    for old in sorted(folder.parent.iterdir())[:-1]:
        if old.name < (today - timedelta(days=KEPT_DAYS)).isoformat():
            shutil.rmtree(old, ignore_errors=True)
    return folder
