"""What was read of the pencils, over the sheet: lines, undecided places, X marks; what has no ink; what ink lost."""

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPen, QPolygonF

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.painted import draw_whole
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.session.pencil_reader import BARE, LINES, LOST, PencilReader
from plain_stride.desk.sheet.view import BoardView
from plain_stride.pencils.lost import SWING
from plain_stride.pencils.read.reading import Reading, ReadLine
from plain_stride.pencils.read.undecided import Place
from plain_stride.render.paths import polygon, polyline

RING_PX, STALK_PX, MOST_RINGS, PAD_PX, LEAST_PX = 10.0, 16.0, 30, 5.0, 14.0
NEAR_PX, NEAR_SHARE = 110.0, 0.35
"""Round the pen at Pull: how far what was read shows, and how strongly."""
ToGlass = Callable[[np.ndarray], np.ndarray]


def _nowhere() -> None:
    """No place."""


class PencilOverlay:
    """Painted once for a view and a state of the reading, so that it costs the pen a copy of pixels. middle: of what is
    looked at, mm."""

    def __init__(self, reader: PencilReader) -> None:
        self._reader = reader
        self._picture: tuple[tuple[BoardView, float, str], QImage] | None = None
        self.chosen: int | None = None
        self._at_work = False
        self._near: Callable[[], QPointF | None] = _nowhere
        self.middle: tuple[float, float] | None = None
        reader.changed.connect(self._drop)

    def _drop(self) -> None:
        self._picture = None

    def choose(self, place: int | None) -> None:
        """The undecided place that is looked at."""
        self.chosen = place
        self._drop()

    def work(self, on: bool) -> None:
        """Whether pencils are worked on: only then does what was read of them lie over the sheet."""
        self._at_work = on

    def show_near(self, pen: Callable[[], QPointF | None] | None) -> None:
        """What was read shows pale round the pen, wherever that is in pixels; None for nowhere."""
        self._near = pen or _nowhere

    def paint(self, painter: QPainter, view: BoardView) -> None:
        reader, pen = self._reader, self._near()
        self.middle = view.centre
        if reader.reading is None:
            if reader.first and self._at_work:
                self._first(painter, view)
            return
        if reader.shown and (self._at_work or reader.shown == LOST):
            draw_whole(painter, self._painted(reader.reading, view, painter.device().devicePixelRatioF(), reader.shown))
        elif pen is not None:
            path = QPainterPath()
            path.addEllipse(pen, NEAR_PX, NEAR_PX)
            painter.save()
            painter.setClipPath(path)
            painter.setOpacity(NEAR_SHARE)
            draw_whole(painter, self._painted(reader.reading, view, painter.device().devicePixelRatioF(), LINES))
            painter.restore()

    def _first(self, painter: QPainter, view: BoardView) -> None:
        """What is there before the whole is read."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(tinted(sheet_color("chosen"), 0.6), 1.2))
        for line in self._reader.first:
            _line(painter, line, view.to_glass)
        painter.restore()

    def _painted(self, reading: Reading, view: BoardView, ratio: float, shown: str) -> QImage:
        """The picture of what is shown, painted once."""
        key = (view, ratio, shown)
        if self._picture is None or self._picture[0] != key:
            image = QImage(QSizeF(*view.size).toSize() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
            image.setDevicePixelRatio(ratio)
            image.fill(Qt.GlobalColor.transparent)
            own = QPainter(image)
            own.setRenderHint(QPainter.RenderHint.Antialiasing)
            {LINES: self._lines, BARE: self._bare, LOST: self._lost}[shown](own, reading, view)
            own.end()
            self._picture = (key, image)
        return self._picture[1]

    def _lines(self, painter: QPainter, reading: Reading, view: BoardView) -> None:
        """Lines as strokes, the surer the wider; construction lines dotted; undecided places boxed and numbered."""
        to_glass = view.to_glass
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in reading.guides:
            painter.setPen(QPen(tinted(sheet_color("chosen"), 0.5), 1.0, Qt.PenStyle.DotLine))
            _line(painter, line, to_glass)
        for line in reading.lines:
            painter.setPen(QPen(sheet_color("chosen"), 0.8 + 1.2 * line.confidence))
            _line(painter, line, to_glass)
        painter.setPen(QPen(sheet_color("ahead"), 1.4, Qt.PenStyle.DashLine))
        for outline in self._reader.marks:
            painter.setBrush(tinted(sheet_color("ink"), 0.12))
            painter.drawPolygon(polygon(to_glass(outline)))
        boxes = [_box(place, view) for place in reading.undecided]
        for n, box in enumerate(boxes):
            painter.setPen(QPen(sheet_color("ahead"), 2.4 if n == self.chosen else 1.4, Qt.PenStyle.DashLine))
            painter.setBrush(tinted(sheet_color("pencil"), 0.32 if n == self.chosen else 0.16))
            painter.drawRoundedRect(box, 5, 5)
        _rings(painter, boxes, "ahead")

    def _bare(self, painter: QPainter, reading: Reading, view: BoardView) -> None:
        """Pencil lines that have no ink yet, and ink that no pencil has."""
        found = self._reader.coverage()
        if found is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("ahead"), 2.4))
        for run in found.bare:
            painter.drawPolyline(polyline(view.to_glass(run)))
        painter.setPen(QPen(sheet_color("chosen"), 2.0, Qt.PenStyle.DotLine))
        for runs in found.own.values():
            for run in runs:
                painter.drawPolyline(polyline(view.to_glass(run)))

    def _lost(self, painter: QPainter, reading: Reading, view: BoardView) -> None:
        """Where the rough was darker, as a tone; where it swung more, as boxes; numbered, the worst first."""
        if self._reader.lost_map is not None:
            image, (x, y), per_mm = self._reader.lost_map
            painter.save()
            painter.setTransform(view.transform)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            rect = QRectF(x, y, image.width() / per_mm, image.height() / per_mm)
            painter.drawImage(rect, _toned(image))
            painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        boxes = []
        for place in self._reader.lost:
            box = _box(place, view)
            if place.kind == SWING:
                painter.setPen(QPen(sheet_color("ahead"), 1.4, Qt.PenStyle.DashLine))
                painter.drawRoundedRect(box, 5, 5)
            else:
                # The tone shows how far it reaches: the ring points at its middle.
                box = QRectF(box.center(), box.center())
            boxes.append(box)
        _rings(painter, boxes, "ahead")


def _toned(grey: QImage) -> QImage:
    """A map of 0 to 255 as a tint of what lies ahead, the more the stronger."""
    out = QImage(grey.size(), QImage.Format.Format_ARGB32_Premultiplied)
    out.fill(tinted(sheet_color("ahead"), 0.75))
    alpha = grey.convertToFormat(QImage.Format.Format_Grayscale8)
    mask = QImage(alpha.constBits(), alpha.width(), alpha.height(), alpha.bytesPerLine(), QImage.Format.Format_Alpha8)
    painter = QPainter(out)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
    painter.drawImage(0, 0, mask)
    painter.end()
    return out


def _line(painter: QPainter, line: ReadLine, to_glass: ToGlass) -> None:
    points = polyline(to_glass(line.points))
    if line.closed:
        painter.drawPolygon(points)
    else:
        painter.drawPolyline(points)


def _box(place: Place | object, view: BoardView) -> QRectF:
    """A place's box in pixels, large enough to be seen."""
    x, y, w, h = (getattr(place, name) for name in "xywh")
    corners = np.array([[x - w / 2, y - h / 2], [x + w / 2, y - h / 2], [x + w / 2, y + h / 2], [x - w / 2, y + h / 2]])
    low, high = view.to_glass(corners).min(axis=0) - PAD_PX, view.to_glass(corners).max(axis=0) + PAD_PX
    box = QRectF(QPointF(*low), QPointF(*high))
    more = max(0.0, LEAST_PX - box.width()) / 2.0, max(0.0, LEAST_PX - box.height()) / 2.0
    return box.adjusted(-more[0], -more[1], more[0], more[1])


def _rings(painter: QPainter, boxes: Sequence[QRectF], colour: str) -> None:
    painter.setFont(THEME.font(LABEL, bold=True))
    for n, box in enumerate(boxes[:MOST_RINGS], 1):
        ring(painter, box.topRight(), str(n), colour)


def ring(painter: QPainter, at: QPointF, number: str, colour: str) -> None:
    """A numbered ring beside a place, with a stalk that points at it."""
    middle = at + QPointF(STALK_PX, -STALK_PX) * 0.6
    painter.setPen(QPen(sheet_color(colour), 1.4))
    painter.setBrush(sheet_color("paper"))
    painter.drawPolyline(QPolygonF([at, middle]))
    painter.drawEllipse(middle, RING_PX, RING_PX)
    box = painter.boundingRect(0, 0, 100, 100, Qt.AlignmentFlag.AlignCenter, number)
    painter.drawText(middle - QPointF(box.width() / 2.0, -box.height() / 4.0), number)
