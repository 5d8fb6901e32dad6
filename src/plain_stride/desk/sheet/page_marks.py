"""What the page says of itself, over the drawing: rulers, trim, bleed, margin, frames, areas that need no ink."""

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.theme import RULER, RULER_COLOUR, THEME, sheet_color
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.areas import areas_of
from plain_stride.job.board_facts import edges_of, frames_of
from plain_stride.job.job import Job
from plain_stride.job.pencil_records import FILL, NO_NEED, TO_HATCH
from plain_stride.render.paths import polygon

RULER_STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)
OFF_SHEET, OFF_FRAMES, NO_INK = 0.72, 0.5, 0.55
"""How far the desk covers what lies off the sheet, outside frames, where no ink is needed."""

AREA_LINES = ((NO_NEED, Qt.PenStyle.DotLine), (FILL, Qt.PenStyle.DashLine), (TO_HATCH, Qt.PenStyle.DashDotLine))
"""How areas that are marked are lined."""


def paint_page_marks(painter: QPainter, job: Job, view: BoardView, seen: QRectF, guides: bool = True) -> None:
    """Dims what is not printed or needs no ink, and draws frames; guides: margin, bleed and areas as well; seen: mm
    that are on the screen."""
    w, h = job.page.size_mm
    edges, frames = edges_of(job), [frame.box for frame in frames_of(job).values()]
    sheet = QRectF(0, 0, w, h)
    painter.setTransform(view.transform)
    _veil(painter, seen.adjusted(-1, -1, 1, 1), [sheet], tinted(THEME.color("desk"), OFF_SHEET))
    if frames:
        _veil(painter, sheet, [_rect(box) for box in frames], tinted(THEME.color("paper"), OFF_FRAMES))
    for area in areas_of(job, NO_NEED) if guides else ():
        path = QPainterPath()
        path.addPolygon(polygon(area.outline))
        painter.fillPath(path, tinted(THEME.color("paper"), NO_INK))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if edges.bleed and guides:
        painter.setPen(_hair(tinted(sheet_color("ahead"), 0.6), Qt.PenStyle.DotLine))
        painter.drawRect(sheet.adjusted(-edges.bleed, -edges.bleed, edges.bleed, edges.bleed))
    if edges.margin and guides:
        painter.setPen(_hair(tinted(sheet_color("ahead"), 0.45), Qt.PenStyle.DashLine))
        painter.drawRect(sheet.adjusted(edges.margin, edges.margin, -edges.margin, -edges.margin))
    painter.setPen(_hair(tinted(sheet_color("ink"), 0.55)))
    for box in frames:
        painter.drawRect(_rect(box))
    for kind, style in AREA_LINES:
        painter.setPen(_hair(sheet_color("ahead"), style))
        for area in areas_of(job, kind) if guides else ():
            painter.drawPolygon(polygon(area.outline))
            if kind == FILL:
                _small_x(painter, area.outline)
    painter.resetTransform()


def _rect(box: tuple[float, float, float, float]) -> QRectF:
    return QRectF(QPointF(box[0], box[1]), QPointF(box[2], box[3]))


def _hair(colour: QColor, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(colour, 1.2, style)
    pen.setCosmetic(True)
    return pen


def _small_x(painter: QPainter, outline: np.ndarray) -> None:
    """What a penciller marks an area with that is to be black."""
    import shapely

    spot = shapely.Polygon(outline).representative_point()
    r = min(4.0, float(np.ptp(outline, axis=0).min()) / 6.0)
    for dx in (-r, r):
        painter.drawLine(QLineF(spot.x - dx, spot.y - r, spot.x + dx, spot.y + r))


def _veil(painter: QPainter, over: QRectF, kept: list[QRectF], colour: QColor) -> None:
    outside, inner = QPainterPath(), QPainterPath()
    outside.addRect(over)
    inner.setFillRule(Qt.FillRule.WindingFill)
    for rect in kept:
        inner.addRect(rect)
    painter.fillPath(outside.subtracted(inner), colour)


def paint_rulers(painter: QPainter, size: tuple[float, float], view: BoardView) -> None:
    """Rulers of mm along the upper and the left edge of the sheet."""
    w, h = size
    step = next((s for s in RULER_STEPS if s * view.scale >= 30.0), RULER_STEPS[-1])
    label = next((s for s in RULER_STEPS if s * view.scale >= 90.0 and (s / step) % 1 < 1e-9), step * 5)
    painter.setFont(THEME.font(RULER, bold=True))
    painter.setPen(QPen(THEME.color(RULER_COLOUR), 1))
    corner = view.to_glass(np.array([[w if view.mirror else 0.0, 0.0]]))[0]
    for along, long, vertical in ((0, w, False), (1, h, True)):
        for n in range(int(long / step + 1e-6) + 1):
            mm = n * step
            at = np.zeros((1, 2))
            at[0, along] = mm
            x, y = view.to_glass(at)[0]
            named = abs(mm / label - round(mm / label)) < 1e-6
            reach = 9.0 if named else 6.0
            if vertical:
                _tick_left(painter, corner[0], y, reach, f"{mm:g}" if named else "")
            else:
                _tick_top(painter, x, corner[1], reach, f"{mm:g}" if named else "")


def _tick_left(painter: QPainter, x: float, y: float, reach: float, text: str) -> None:
    painter.drawLine(QLineF(x - reach, y, x - 1, y))
    if text:
        width = QFontMetricsF(painter.font()).horizontalAdvance(text)
        painter.drawText(QPointF(x - 13 - width, y + 4), text)


def _tick_top(painter: QPainter, x: float, y: float, reach: float, text: str) -> None:
    painter.drawLine(QLineF(x, y - reach, x, y - 1))
    if text:
        width = QFontMetricsF(painter.font()).horizontalAdvance(text)
        painter.drawText(QPointF(x - width / 2, y - 13), text)
