"""What can be dropped on the window: jobs, scans, drawings, lines."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMimeData

from plain_stride.desk.session.clipboard import OWN, can_paste, lay_svg, paste
from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.reading import import_changes, read_bytes, read_json

SCANS = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp")
KINDS = (".stride", ".svg", ".json", *SCANS)


def can_drop(data: QMimeData) -> bool:
    return bool(dropped_files(data)) or data.hasFormat(OWN) or can_paste(data)


def dropped_files(data: QMimeData) -> list[Path]:
    """Local files of a kind that is known, in their order."""
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    return [path for path in paths if path.suffix.lower() in KINDS]


def drop(
    session: Session, data: QMimeData, open_job: Callable[[Path], object], place: Callable[[Path], object]
) -> None:
    """Opens, places or lays what was dropped; a job among several files is opened last."""
    files = dropped_files(data)
    if not files:
        paste(session, data)
        return
    for path in sorted(files, key=lambda path: path.suffix.lower() == ".stride"):
        kind = path.suffix.lower()
        if kind == ".stride":
            open_job(path)
        elif kind in SCANS:
            place(path)
        else:
            lay_file(session, path)


def lay_file(session: Session, path: Path) -> bool:
    """Lays the lines of an SVG or JSON file as one step."""
    try:
        if path.suffix.lower() == ".svg":
            return lay_svg(session, read_bytes(path), path.name)
        nib = session.nib
        wanted = session.aside.worked(lambda: import_changes(read_json(path), nib))
    except StrideError as fault:
        session.said.emit(f"{fault}. The job is as it was.", True)
        return False
    made = session.document.lay_import(wanted, f"import of {path.name}")
    return made is not None
