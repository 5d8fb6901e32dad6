"""Small pictures of parts for their list: each part's own ink, as large as it fits. Painted one after the other."""

import numpy as np
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPen
from PySide6.QtWidgets import QApplication

from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.job.history import RowChange
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import path_of, polyline

PICTURE = (36, 24)
MOST_LINES = 300
"""Of a part's lines, so many are drawn: more are not told apart at this size."""
INSET_PX, LEAST_PX, MOST_PX = 1.5, 0.9, 1.8


class PartPictures(QObject):
    """painted: another picture is whole."""

    painted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._whole: dict[str, QImage] = {}
        self._wanted: list[str] = []
        self._turn = QTimer(self)
        self._turn.timeout.connect(self._paint_next)
        session.changed.connect(self._job_changed)
        THEME.changed.connect(self._whole.clear)

    def of(self, part: str) -> QImage | None:
        """The picture of a part by its id; None until it is painted."""
        return self._whole.get(part)

    def want(self, parts: list[str]) -> None:
        """Paints those that are not whole, soon, one in a turn of the event loop."""
        self._wanted = [part for part in parts if part not in self._whole]
        if self._wanted:
            self._turn.start(0)

    def close(self) -> None:
        self._turn.stop()

    def _paint_next(self) -> None:
        if not self._wanted:
            self._turn.stop()
            return
        part = self._wanted.pop(0)
        self._whole[part] = self._picture(part)
        self.painted.emit()

    def _picture(self, part: str) -> QImage:
        app = QApplication.instance()
        ratio = app.devicePixelRatio() if isinstance(app, QApplication) else 1.0
        image = QImage(round(PICTURE[0] * ratio), round(PICTURE[1] * ratio), QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(ratio)
        image.fill(Qt.GlobalColor.transparent)
        keys = [key for key, row in self._session.job.inked_rows().items() if row.part == part]
        inks = [self._session.shapes.ink(key) for key in keys[:: 1 + len(keys) // MOST_LINES]]
        if inks:
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            _draw(painter, inks)
            painter.end()
        return image

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        job = self._session.job
        if any(change.table in ("plan", "parts") for change in rows):
            self._whole.clear()
            return
        for change in rows:
            for row in (change.before, change.after):
                if (part := getattr(row, "part", None)) is not None:
                    self._whole.pop(part, None)
        for key in job.touched(rows):
            if job.inked(key) is not None:
                self._whole.pop(job.inked_rows()[key].part, None)


def _draw(painter: QPainter, inks: list[Shape | Black]) -> None:
    points = np.concatenate([ink.flat[0] if isinstance(ink, Shape) else np.concatenate(ink.rings) for ink in inks])
    low, high = points.min(axis=0), points.max(axis=0)
    room = np.array(PICTURE) - 2.0 * INSET_PX
    scale = float((room / np.maximum(high - low, 1e-6)).min())
    shift = np.array(PICTURE) / 2.0 - scale * (low + high) / 2.0
    ink = THEME.color("text")
    for one in inks:
        if isinstance(one, Shape):
            wide = float(np.clip(one.body.full.mean() * scale, LEAST_PX, MOST_PX))
            painter.setPen(QPen(ink, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawPolyline(polyline(one.flat[0] * scale + shift))
        else:
            painter.fillPath(path_of([ring * scale + shift for ring in one.rings]), ink)
