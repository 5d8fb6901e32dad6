"""Printing at true size: the ink alone, or the pencils in pale blue, to be inked on paper."""

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QMarginsF, QObject, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QPageLayout, QPainter, QPen
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QWidget

from plain_stride.board.sheets_of_paper import lies_better_on_its_side, pieces
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.pencil_image import to_full_range
from plain_stride.desk.workers.errands import Pictures, PrintPictures
from plain_stride.errors import StrideError
from plain_stride.job.serving import Failed, Progressed, Reply
from plain_stride.measure import MM_PER_INCH
from plain_stride.texts import counted

INK, PENCILS = "the ink alone", "the pencils, in pale blue"
PALE_BLUE = (164, 196, 230)
"""sRGB of the blackest pencil: pale enough to drop out of a scan of the inked page (common practice)."""
TICK_MM = 4.0


@dataclass(frozen=True)
class Printed:
    """What was sent to the printer: sheets of paper, and where on the first one the board begins, mm."""

    sheets: int
    first: tuple[float, float]


class PrintOut(QObject):
    """Asks for a printer, has the pictures made beside the window, prints them. progressed: the share, None: over."""

    progressed = Signal(object)

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self._parent, self._session = parent, session
        self._printer: QPrinter | None = None
        self._what, self._number = INK, 0

    def ask(self, what: str) -> None:
        """Asks which printer, then prints. what: INK or PENCILS."""
        if what == PENCILS and not self._session.job.pencils():
            self._session.said.emit("There are no pencils to print: place a scan at Pencils.", True)
            return
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        dialog = QPrintDialog(printer, self._parent)
        dialog.setWindowTitle(f"Print {what}")
        if dialog.exec():
            self.begin(what, printer)

    def begin(self, what: str, printer: QPrinter) -> bool:
        """Has what is printed made beside the window; False where that cannot begin, which is said."""
        if self._printer is not None:
            self._session.said.emit("Something is being printed already: wait for it.", True)
            return False
        try:
            self._session.saving.save_all()
        except StrideError as fault:
            self._session.said.emit(f"{fault}. Nothing was printed.", True)
            return False
        self._what, self._printer = what, printer
        asked = PrintPictures(self._session.job.path, what == INK, what == PENCILS)
        self._number = self._session.document.errands.ask(asked, self._told)
        words = f"Print {what} is being made ready; you can go on inking."
        self._session.offered.emit(words, "stop", self.stop)
        return True

    def stop(self) -> bool:
        """Nothing is printed after all; whether something was to be."""
        return self._printer is not None and self._session.document.errands.stop(self._number)

    def _told(self, reply: Reply) -> None:
        if isinstance(reply, Progressed):
            self.progressed.emit(reply.share)
            return
        self.progressed.emit(None)
        printer, self._printer = self._printer, None
        if isinstance(reply, Failed):
            if reply.stopped:
                self._session.said.emit("Stopped: nothing was printed.", False)
            else:
                self._session.said.emit(f"Nothing was printed: {reply.words}.", True)
        elif printer is not None:
            self._print(printer, reply.value)

    def _print(self, printer: QPrinter, made: Pictures) -> None:
        size = self._session.job.page.size_mm
        try:
            done = print_pages(printer, size, made)
        except (StrideError, ValueError) as fault:
            self._session.said.emit(f"Nothing was printed: {fault}.", True)
            return
        sheets = counted(done.sheets, "sheet")
        more = ", to be stuck together by the ticks" if done.sheets > 1 else ""
        self._session.said.emit(f"Printed {self._what} at true size, on **{sheets}** of paper{more}.", False)


def print_pages(printer: QPrinter, size_mm: tuple[float, float], made: Pictures) -> Printed:
    """Prints pictures of a board at true size, in the middle of the paper. Raises StrideError where the printer takes
    nothing, ValueError where the paper is too small."""
    layout = printer.pageLayout()
    if lies_better_on_its_side(size_mm, _paper(layout)):
        layout.setOrientation(_other(layout.orientation()))
        printer.setPageLayout(layout)
    paper, margins = _paper(layout), layout.margins(QPageLayout.Unit.Millimeter)
    parts = pieces(size_mm, paper)
    images = [(image, place) for image, place in _images(size_mm, made)]
    painter = QPainter()
    if not painter.begin(printer):
        raise StrideError("the printer, or the file to print to, cannot be written to")
    per_mm = printer.resolution() / MM_PER_INCH
    painter.scale(per_mm, per_mm)
    first = (0.0, 0.0)
    for n, piece in enumerate(parts):
        if n:
            printer.newPage()
        at = ((paper[0] - piece[2]) / 2.0, (paper[1] - piece[3]) / 2.0)
        if n == 0:
            first = (at[0] + margins.left(), at[1] + margins.top())
        _paint_piece(painter, piece, at, images, len(parts) > 1)
    painter.end()
    return Printed(len(parts), first)


def pdf_printer(path: Path) -> QPrinter:
    """A printer that writes a PDF."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(path))
    printer.setPageMargins(QMarginsF(6, 6, 6, 6), QPageLayout.Unit.Millimeter)
    return printer


def _paper(layout: QPageLayout) -> tuple[float, float]:
    """mm of the paper that can be printed on."""
    room = layout.paintRect(QPageLayout.Unit.Millimeter)
    return room.width(), room.height()


def _other(orientation: QPageLayout.Orientation) -> QPageLayout.Orientation:
    kinds = QPageLayout.Orientation
    return kinds.Landscape if orientation == kinds.Portrait else kinds.Portrait


def _images(size_mm: tuple[float, float], made: Pictures) -> list[tuple[QImage, QRectF]]:
    """Pictures with their places in mm on the board."""
    out = []
    if made.pencils is not None:
        dark, (x, y, w, h) = made.pencils
        pale = np.array(PALE_BLUE)
        share = to_full_range(dark).astype(float)[:, :, None] / 255.0
        out.append((_rgb(255.0 + share * (pale - 255.0)), QRectF(x, y, w, h)))
    if made.ink is not None:
        grey = np.repeat(made.ink[:, :, None], 3, axis=2)
        out.append((_rgb(grey), QRectF(0.0, 0.0, *size_mm)))
    return out


def _rgb(pixels: np.ndarray) -> QImage:
    data = np.ascontiguousarray(np.round(pixels).astype(np.uint8))
    h, w = data.shape[:2]
    return QImage(data.data, w, h, 3 * w, QImage.Format.Format_RGB888).copy()


def _paint_piece(
    painter: QPainter, piece: tuple[float, float, float, float], at: tuple[float, float],
    images: list[tuple[QImage, QRectF]], ticks: bool,
) -> None:  # fmt: skip
    """A piece (x, y, w, h) of the board at a place of the paper, mm."""
    x, y, w, h = piece
    painter.save()
    painter.translate(at[0] - x, at[1] - y)
    painter.setClipRect(QRectF(x, y, w, h))
    for image, place in images:
        painter.drawImage(place, image)
    if ticks:
        painter.setPen(QPen(Qt.GlobalColor.black, 0.1))
        for cx, cy in ((x, y), (x + w, y), (x, y + h), (x + w, y + h)):
            dx, dy = math.copysign(TICK_MM, x + w / 2 - cx), math.copysign(TICK_MM, y + h / 2 - cy)
            painter.drawLine(QRectF(cx, cy, dx, 0).topLeft(), QRectF(cx, cy, dx, 0).topRight())
            painter.drawLine(QRectF(cx, cy, 0, dy).topLeft(), QRectF(cx, cy, 0, dy).bottomLeft())
    painter.restore()
