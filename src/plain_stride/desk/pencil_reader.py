"""The reading of the pencils beside the window: asked for, shown over the sheet, laid as drafts."""

import json
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QPainter, QPen, QPolygonF

from plain_stride.desk.bench import Bench
from plain_stride.desk.errand import Errand
from plain_stride.desk.theme import LABEL, THEME, sheet_color
from plain_stride.errors import StrideError
from plain_stride.job.pencil_reading import draft_changes, reading_from_json
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
        self.shown = False
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
        self.fault, self.shown = fault, self.reading is not None and not fault
        self.changed.emit()

    def paint(self, painter: QPainter, to_glass: Callable[[np.ndarray], np.ndarray]) -> None:
        """What was read, over the sheet: lines in two pale strokes, undecided places in numbered rings."""
        if not self.shown or self.reading is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in self.reading.lines:
            painter.setPen(QPen(sheet_color("chosen"), 0.8 + 1.2 * line.confidence))
            points = polyline(to_glass(line.points))
            if line.closed:
                painter.drawPolygon(points)
            else:
                painter.drawPolyline(points)
        painter.setFont(THEME.font(LABEL, bold=True))
        for n, place in enumerate(self.reading.undecided[:MOST_RINGS], 1):
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
