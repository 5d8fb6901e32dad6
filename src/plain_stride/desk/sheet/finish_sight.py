"""The finished art over the sheet: inks in their colours, finishes, flats, as files will hold them."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QObject, QPointF, QRectF, QTimer
from PySide6.QtGui import QImage, QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.workers.finished_seen import FinishedSeen, SeenFinished
from plain_stride.job.finished import differs_from_ink

INKED, FINISHED, FLATS = SIGHTS = ("as inked", "finished", "with flats")
WAIT_MS, MOST_PX, FEW_LINES = 60, 4_000_000, 40
"""How long the view must rest; the largest picture; a job of so few lines is finished here."""


class FinishSight(QObject):
    """shows: one of SIGHTS. It is shown only while its station is worked at, and not while it is held back."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context = context
        self.shows = INKED
        self._at_work = self._held = False
        self._version, self._ratio = -1, 1.0
        self._seen: tuple[SeenFinished, QImage] | None = None
        self._asked: tuple[object, ...] = ()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(WAIT_MS)
        self._later.timeout.connect(self._ask)

    def show(self, what: str) -> None:
        """Shows one of SIGHTS."""
        self.shows, self._seen, self._asked = what, None, ()
        self._context.repaint(None)

    def work(self, on: bool) -> None:
        """Whether its station is looked at."""
        self._at_work = on
        if not on:
            self._seen, self._asked = None, ()

    def hold_back(self, on: bool) -> None:
        """The drawing as it is inked, while a key is held."""
        self._held = on
        self._context.repaint(None)

    def is_true(self) -> bool:
        """Whether the picture is of the job as it is."""
        return self._seen is not None and self._version == self._context.session.job.version

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.shows == INKED or not self._at_work:
            return
        if self.shows == FINISHED and not differs_from_ink(self._context.session.job):
            return
        self._ratio = painter.device().devicePixelRatio()
        wanted = self._wanted(view)
        if wanted != self._asked and not self._later.isActive():
            self._later.start()
        # What is inked meanwhile is seen at once: a picture of another state would lie over it.
        if self._seen is not None and self.is_true() and not self._held:
            seen, image = self._seen
            x0, y0, x1, y1 = seen.box
            painter.save()
            painter.setTransform(view.transform, True)
            painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), image)
            painter.restore()

    def _wanted(self, view: BoardView) -> tuple[object, ...]:
        return (*_seen_box(view, self._context.session.job.page.size_mm), round(view.scale, 4), self.shows,
                self._context.session.job.version)  # fmt: skip

    def _ask(self) -> None:
        view = self._context.view
        self._asked = self._wanted(view)
        box = _seen_box(view, self._context.session.job.page.size_mm)
        if box[2] - box[0] < 0.5 or box[3] - box[1] < 0.5:
            return
        area = (box[2] - box[0]) * (box[3] - box[1])
        per_mm = min(view.scale * self._ratio, float(np.sqrt(MOST_PX / area)))
        question = FinishedSeen(box, per_mm, False, self.shows == FLATS)
        asked, version = self._asked, self._context.session.job.version
        self._context.session.drawing.ask(question, lambda seen: self._take(seen, asked, version), FEW_LINES)

    def _take(self, seen: SeenFinished, asked: Sequence[object], version: int) -> None:
        if asked != self._asked:
            return
        high, wide = seen.pixels.shape[:2]
        pixels = np.ascontiguousarray(seen.pixels)
        self._version = version
        self._seen = (seen, QImage(pixels.data, wide, high, 3 * wide, QImage.Format.Format_RGB888).copy())
        self._context.repaint(None)


def _seen_box(view: BoardView, size: tuple[float, float]) -> tuple[float, float, float, float]:
    """What of the page is seen, mm."""
    corners = np.array([view.to_board(QPointF(x, y)) for x in (0, view.size[0]) for y in (0, view.size[1])])
    low, high = np.maximum(corners.min(axis=0), 0.0), np.minimum(corners.max(axis=0), size)
    x0, y0, x1, y1 = (round(float(v), 2) for v in (*low, *high))
    return x0, y0, x1, y1
