"""The reading of the pencils beside the window: asked for, shown over the sheet, laid as drafts."""

import json
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QObject, QPointF, QSizeF, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPen, QPolygonF

from plain_stride.desk.bench import Bench
from plain_stride.desk.errand import Errand
from plain_stride.desk.painted import draw_whole
from plain_stride.desk.theme import LABEL, THEME, sheet_color
from plain_stride.desk.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.job.pencil_reading import draft_changes, reading_from_json
from plain_stride.job.store import RowChange
from plain_stride.pencils.read.reading import Reading
from plain_stride.render.paths import polyline

RING_PX, STALK_PX, MOST_RINGS = 10.0, 16.0, 30


class PencilReader(QObject):
    """reading: the newest one, None before there is any. changed: it is another now, or shown otherwise."""

    changed = Signal()

    def __init__(self, bench: Bench, progress: Callable[[float | None], None]) -> None:
        super().__init__()
        self._bench, self._progress = bench, progress
        self.reading: Reading | None = None
        self._picture: tuple[tuple[BoardView, float], QImage] | None = None
        self.shown = False
        bench.changed.connect(self._pencils_changed)
        self.fault = ""
        self._errand = Errand(self, "the reading", "nothing was changed")
        self._errand.progressed.connect(lambda share: self._progress(share))
        self._errand.ended.connect(self._ended)

    @property
    def running(self) -> bool:
        return self._errand.running

    def set_bench(self, bench: Bench) -> None:
        """Another job: what was read is not of it."""
        self._errand.stop()
        self._bench, self.reading, self.shown, self.fault = bench, None, False, ""
        bench.changed.connect(self._pencils_changed)
        self.changed.emit()

    def _pencils_changed(self, rows: tuple[RowChange, ...]) -> None:
        """What was read of pencils that lie otherwise now, or are not there, is no longer true of them."""
        if self.reading is not None and any(_lies_otherwise(row) for row in rows if row.table == "pencils"):
            self.reading, self.shown = None, False
            self.changed.emit()

    def read(self) -> None:
        """Has the pencils read by another process, as the file has them."""
        self.fault = ""
        try:
            self._bench.save_all()
        except StrideError as fault:
            self._ended(str(fault))
            return
        self._errand.start("read", str(self._bench.job.path), "--json")
        self.changed.emit()

    def stop(self) -> None:
        self._errand.stop()

    def close(self) -> None:
        self._errand.close()

    def show(self, on: bool) -> None:
        self.shown = on and self.reading is not None
        self.changed.emit()

    def lay_drafts(self) -> None:
        """Lays what was read as lines of a part of their own, in one step."""
        if self.reading is not None:
            try:
                wanted = draft_changes(self._bench.job, self.reading)
            except StrideError as fault:
                self._bench.said.emit(f"{fault}.", True)
                return
            made = self._bench.make_several(wanted, "draft lines")
            if made is not None:
                self._bench.said.emit(
                    f"**{len(wanted) - 1} draft lines** lie in part **{wanted[0][1]['name']}**: keep what is good, take"
                    " the rest away. They are one step of undo.",
                    False,
                )

    def _ended(self, fault: str) -> None:
        self._progress(None)
        if not fault:
            try:
                self.reading = reading_from_json(json.loads(self._errand.out))
            except (ValueError, KeyError, TypeError):
                fault = "the reading could not be understood: read the pencils again"
        self._picture = None
        self.fault, self.shown = fault, self.reading is not None and not fault
        self.changed.emit()

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """What was read, over the sheet; painted once for a view, so that it costs the pen a copy of pixels."""
        if not self.shown or self.reading is None:
            return
        ratio = painter.device().devicePixelRatioF()
        if self._picture is None or self._picture[0] != (view, ratio):
            image = QImage(QSizeF(*view.size).toSize() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            image.setDevicePixelRatio(ratio)
            image.fill(Qt.GlobalColor.transparent)
            own = QPainter(image)
            own.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._draw(own, self.reading, view.to_glass)
            own.end()
            self._picture = ((view, ratio), image)
        draw_whole(painter, self._picture[1])

    def _draw(self, painter: QPainter, reading: Reading, to_glass: Callable[[np.ndarray], np.ndarray]) -> None:
        """Lines as strokes, the surer the wider; undecided places in numbered rings."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in reading.lines:
            painter.setPen(QPen(sheet_color("chosen"), 0.8 + 1.2 * line.confidence))
            points = polyline(to_glass(line.points))
            if line.closed:
                painter.drawPolygon(points)
            else:
                painter.drawPolyline(points)
        painter.setFont(THEME.font(LABEL, bold=True))
        for n, place in enumerate(reading.undecided[:MOST_RINGS], 1):
            x, y = to_glass(np.array([[place.x, place.y]]))[0]
            self._ring(painter, QPointF(x, y), str(n))

    @staticmethod
    def _ring(painter: QPainter, at: QPointF, number: str) -> None:
        """A ring beside a place, with a stalk that points at it."""
        middle = at + QPointF(STALK_PX, -STALK_PX)
        painter.setPen(QPen(sheet_color("ahead"), 1.4))
        painter.setBrush(sheet_color("paper"))
        painter.drawPolyline(QPolygonF([at, middle]))
        painter.drawEllipse(middle, RING_PX, RING_PX)
        box = painter.boundingRect(0, 0, 100, 100, Qt.AlignmentFlag.AlignCenter, number)
        painter.drawText(middle - QPointF(box.width() / 2.0, -box.height() / 4.0), number)


def _lies_otherwise(change: RowChange) -> bool:
    """Whether pencils came, went, were hidden or moved; a fade or a tint changes nothing of what they say."""
    before, after = change.before, change.after
    told = ("image", "x_mm", "y_mm", "w_mm", "h_mm", "hidden")
    return before is None or after is None or any(before[column] != after[column] for column in told)
