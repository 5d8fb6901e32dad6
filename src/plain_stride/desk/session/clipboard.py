"""Copying lines: with all they are made of for other jobs, and as SVG for everything else."""

import atexit
import json

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QGuiApplication

from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.bundle import bundle_text
from plain_stride.job.reading import svg_changes
from plain_stride.texts import counted

OWN, SVG = "application/x-plain-stride-lines+json", "image/svg+xml"
DUPLICATE_MM = 2.0


def copy_chosen(session: Session) -> bool:
    """Puts the chosen lines and blacks on the clipboard; False where nothing is chosen."""
    if not session.chosen:
        session.said.emit("Nothing is chosen yet: the right button chooses a line, drawn round it chooses many.", False)
        return False
    session.settle()
    QGuiApplication.clipboard().setMimeData(mime_of(session, session.chosen))
    # What lies there when Python ends would be let go after it: the program died at its end.
    atexit.unregister(_empty)
    atexit.register(_empty)
    session.said.emit(f"**{counted(len(session.chosen), 'line')}** copied, as SVG as well.", False)
    return True


def _empty() -> None:
    if QGuiApplication.instance() is not None:
        QGuiApplication.clipboard().clear()


def mime_of(session: Session, keys: list[str]) -> QMimeData:
    """Lines and blacks in both forms."""
    # Not needed to open a window.
    from plain_stride.finish.svg import svg_text
    from plain_stride.job.art import art_of_some

    svg = svg_text(art_of_some(session.job, session.shapes, keys))
    data = QMimeData()
    data.setData(OWN, QByteArray(bundle_text(session.shapes, keys).encode()))
    data.setData(SVG, QByteArray(svg.encode()))
    data.setText(svg)
    return data


def cut_chosen(session: Session) -> None:
    if copy_chosen(session):
        session.make("delete", lines=list(session.chosen))


def duplicate_chosen(session: Session) -> None:
    """A second of each chosen line, a little beside it; the copies are chosen."""
    if session.chosen:
        made = session.make("duplicate", lines=list(session.chosen), by=[DUPLICATE_MM, DUPLICATE_MM])
        if made is not None:
            session.choose(made.results[0])


def can_paste(data: QMimeData) -> bool:
    return data.hasFormat(OWN) or data.hasFormat(SVG) or "<svg" in data.text()[:2000]


def paste(session: Session, data: QMimeData) -> None:
    """Lays what is on a clipboard, where it lay; what was pasted is chosen."""
    if data.hasFormat(OWN):
        _paste_own(session, bytes(data.data(OWN).data()))
    elif can_paste(data):
        text = bytes(data.data(SVG).data()) if data.hasFormat(SVG) else data.text().encode()
        lay_svg(session, text, "pasted drawing")
    else:
        session.said.emit("There are no lines and no SVG drawing on the clipboard.", False)


def _paste_own(session: Session, data: bytes) -> None:
    try:
        bundle = json.loads(data)
    except ValueError:
        session.said.emit("The copied lines are damaged: copy them again. The job is as it was.", True)
        return
    made = session.make("paste", bundle=bundle)
    if made is not None:
        session.choose(made.results[0])
        n = len(made.results[0])
        session.said.emit(f"**{counted(n, 'line')}** pasted where {'it' if n == 1 else 'they'} lay.", False)


def lay_svg(session: Session, data: bytes, what: str) -> bool:
    """Lays the lines and blacks of an SVG file as one step, and says what could not be read."""
    session.settle()
    try:
        nib, parts = session.nib, {part.name: part.tier for part in session.job.parts()}
        wanted, told = session.aside.worked(lambda: svg_changes(data, nib, parts))
    except StrideError as fault:
        session.said.emit(f"{fault}. The job is as it was.", True)
        return False
    made = session.document.lay_import(wanted, f"import of {what}")
    if made is None:
        return False
    keys = [r for (name, _), r in zip(wanted, made.results, strict=True) if name in ("line", "black")]
    session.choose(keys)
    session.said.emit(
        f"**{counted(len(keys), 'line or black', 'lines and blacks')}** came from {what}. {told}".strip(), False
    )
    return True
