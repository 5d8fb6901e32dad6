"""Everything on the board that does not move: desk, sheet, rulers, pencils, finished lines. Kept as one picture of
the view; only regions that changed are painted anew."""

from collections.abc import Iterable

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPolygonF, QRegion

from plain_stride.desk.bench import Bench
from plain_stride.desk.pencil_image import PencilImage
from plain_stride.desk.theme import RULER, THEME, sheet_color
from plain_stride.desk.view import BoardView
from plain_stride.lines.recipe import Shape
from plain_stride.render.paths import path_of

RULER_STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)


class InkLayer:
    """pencils_off and hand_only are views of a moment: pencils gone, the plan lifted off."""

    def __init__(self, bench: Bench) -> None:
        self._bench = bench
        self._paths: dict[int, tuple[Shape, QPainterPath]] = {}
        self._pencils: dict[str, PencilImage] = {}
        self.image = QImage(1, 1, QImage.Format.Format_RGB32)
        self.pencils_off = False
        self.hand_only = False
        self.left_out: set[str] = set()

    def render(self, view: BoardView, size: QSize, ratio: float, region: QRegion | None = None) -> None:
        """Paints the view into `image`, all of it or a region of logical pixels."""
        if self.image.size() != size * ratio or self.image.devicePixelRatio() != ratio:
            self.image = QImage(size * ratio, QImage.Format.Format_RGB32)
            self.image.setDevicePixelRatio(ratio)
            region = None
        painter = QPainter(self.image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if region is not None:
            painter.setClipRegion(region)
        box = QRectF(region.boundingRect() if region is not None else QRect(0, 0, size.width(), size.height()))
        painter.fillRect(box, THEME.color("desk"))
        self._sheet(painter, view)
        painter.setTransform(view.transform, True)
        page = self._bench.job.page.size_mm
        painter.save()
        if not self.pencils_off:
            self._draw_pencils(painter, view.scale * ratio)
        painter.restore()
        seen = view.transform.inverted()[0].mapRect(box)
        self._lines(painter, seen)
        painter.resetTransform()
        painter.setTransform(view.transform)
        _dim_outside(painter, page, seen)
        painter.resetTransform()
        if view.turn == 0.0:
            self._rulers(painter, view)
        painter.end()

    def path(self, shape: Shape) -> QPainterPath:
        """The outline of a shape in mm, made once."""
        kept = self._paths.get(id(shape))
        if kept is None or kept[0] is not shape:
            if len(self._paths) > 20_000:
                self._paths.clear()
            self._paths[id(shape)] = kept = (shape, path_of(shape.rings))
        return kept[1]

    def visible_shapes(self) -> Iterable[tuple[str, str, Shape]]:
        """(line, ink, shape) of all that is seen, back to front."""
        job, shapes = self._bench.job, self._bench.shapes
        parts = {part.id: part for part in job.parts()}
        for key in job.line_ids():
            part = parts[str(job.rows["lines"][key]["part"])]
            if not part.hidden and key not in self.left_out:
                yield key, part.ink, shapes.hand_only(key) if self.hand_only else shapes[key]

    def _sheet(self, painter: QPainter, view: BoardView) -> None:
        w, h = self._bench.job.page.size_mm
        sheet = view.transform.map(QPolygonF(QRectF(0, 0, w, h)))
        painter.setPen(Qt.PenStyle.NoPen)
        if THEME.variant == "day":
            painter.setBrush(QColor(0, 0, 0, 38))
            painter.drawPolygon(sheet.translated(3, 3))
        painter.setBrush(THEME.color("paper"))
        painter.drawPolygon(sheet)

    def _draw_pencils(self, painter: QPainter, scale: float) -> None:
        for _, row in self._bench.job.pencils():
            if row["hidden"]:
                continue
            key = str(row["image"])
            if key not in self._pencils:
                self._pencils[key] = PencilImage(self._bench.job.image(key))
            x, y, w, h = (float(row[c]) for c in ("x_mm", "y_mm", "w_mm", "h_mm"))  # type: ignore[arg-type]
            self._pencils[key].draw(painter, QRectF(x, y, w, h), scale, float(row["fade"]), str(row["tint"]))  # type: ignore[arg-type]

    def _lines(self, painter: QPainter, seen: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        colours = {"black": sheet_color("ink"), "white": THEME.color("paper")}
        x0, y0, x1, y1 = seen.left(), seen.top(), seen.right(), seen.bottom()
        for _, ink, shape in self.visible_shapes():
            bx0, by0, bx1, by1 = shape.box
            if bx0 <= x1 and bx1 >= x0 and by0 <= y1 and by1 >= y0:
                painter.setBrush(colours[ink])
                painter.drawPath(self.path(shape))

    def _rulers(self, painter: QPainter, view: BoardView) -> None:
        w, h = self._bench.job.page.size_mm
        step = next((s for s in RULER_STEPS if s * view.scale >= 30.0), RULER_STEPS[-1])
        label = next((s for s in RULER_STEPS if s * view.scale >= 90.0 and (s / step) % 1 < 1e-9), step * 5)
        painter.setFont(THEME.font(RULER, bold=True))
        painter.setPen(QPen(THEME.color("faint"), 1))
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


def _dim_outside(painter: QPainter, page: tuple[float, float], seen: QRectF) -> None:
    """What lies off the sheet is not printed: it is covered by the desk, thinly."""
    outside = QPainterPath()
    outside.addRect(seen.adjusted(-1, -1, 1, 1))
    inner = QPainterPath()
    inner.addRect(QRectF(0, 0, *page))
    veil = THEME.color("desk")
    veil.setAlphaF(0.72)
    painter.fillPath(outside.subtracted(inner), veil)
