"""What print makes of the drawing, enlarged in a round glass beside the pen, or all over what is seen of the sheet: ink
black, what is lost hatched red, what closes red."""

import numpy as np
from PySide6.QtCore import QObject, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPen, QTransform

from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.print_seen import PrintSeen, SeenInPrint

OFF, GLASS, SHEET = ("off", "in a glass", "all over")
RADIUS_PX, TIMES, WAIT_MS, AWAY_PX = 96.0, 8.0, 60, 26.0
"""The glass's radius; how many times it enlarges print size; how long the pen must rest; how far from it it stands."""


class PrintSight(QObject):
    """shows: OFF, GLASS or SHEET."""

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context = context
        self.shows = OFF
        self._seen: tuple[SeenInPrint, QImage] | None = None
        self._asked: tuple[object, ...] = ()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(WAIT_MS)
        self._later.timeout.connect(self._ask)

    def show(self, what: str) -> None:
        """Shows OFF, GLASS or SHEET."""
        self.shows, self._seen, self._asked = what, None, ()
        self._context.repaint(None)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self.shows == OFF:
            return
        wanted = (self._box(view), self._context.session.job.version)
        if wanted != self._asked and not self._later.isActive():
            self._later.start()
        if self._seen is not None:
            seen, image = self._seen
            if self.shows == SHEET:
                self._paint_over(painter, view, seen, image)
            else:
                self._paint_glass(painter, view, seen, image)

    def _box(self, view: BoardView) -> tuple[float, float, float, float]:
        """What of the sheet is to be seen, mm, within the page."""
        if self.shows == GLASS:
            at = self._context.viewport.pointer or QPointF(view.size[0] / 2.0, view.size[1] / 2.0)
            x, y = view.to_board(at)
            reach = RADIUS_PX / self._per_mm()
            return _rounded((x - reach, y - reach, x + reach, y + reach))
        wide, high = self._context.session.job.page.size_mm
        corners = np.array([view.to_board(QPointF(x, y)) for x in (0, view.size[0]) for y in (0, view.size[1])])
        low, high_ = np.maximum(corners.min(axis=0), 0.0), np.minimum(corners.max(axis=0), (wide, high))
        return _rounded((low[0], low[1], max(high_[0], low[0] + 1.0), max(high_[1], low[1] + 1.0)))

    def _per_mm(self) -> float:
        return TIMES * self._context.viewport.glass_px_per_mm

    def _ask(self) -> None:
        view = self._context.view
        self._asked = (self._box(view), self._context.session.job.version)
        self._context.session.drawing.ask(PrintSeen(self._asked[0]), self._take)

    def _take(self, seen: SeenInPrint | str) -> None:
        if isinstance(seen, str):
            self._context.say(seen)
            return
        self._seen = (seen, _pictured(seen))
        self._context.repaint(None)

    def _paint_over(self, painter: QPainter, view: BoardView, seen: SeenInPrint, image: QImage) -> None:
        x0, y0, x1, y1 = seen.box
        painter.save()
        painter.setTransform(view.transform, True)
        painter.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), image)
        painter.restore()

    def _paint_glass(self, painter: QPainter, view: BoardView, seen: SeenInPrint, image: QImage) -> None:
        pointer = self._context.viewport.pointer
        reach = RADIUS_PX + AWAY_PX
        middle = QPointF(reach, reach) if pointer is None else pointer - QPointF(reach, reach) * 0.8
        # Near an edge it stands on the other side of the pen.
        aside = [1.6 * reach if far <= RADIUS_PX else 0.0 for far in (middle.x(), middle.y())]
        middle += QPointF(*aside)
        path = QPainterPath()
        path.addEllipse(middle, RADIUS_PX, RADIUS_PX)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipPath(path)
        painter.fillPath(path, sheet_color("paper"))
        at = pointer if pointer is not None else QPointF(view.size[0] / 2.0, view.size[1] / 2.0)
        x, y = view.to_board(at)
        # As the board lies: turned and mirrored with it, the place under the pen in the middle.
        lies, scale = view.transform, self._per_mm() / view.scale
        turned = QTransform(lies.m11(), lies.m12(), lies.m21(), lies.m22(), 0.0, 0.0) * QTransform.fromScale(
            scale, scale
        )
        painter.setTransform(turned * QTransform.fromTranslate(middle.x(), middle.y()), True)
        x0, y0, x1, y1 = seen.box
        painter.drawImage(QRectF(x0 - x, y0 - y, x1 - x0, y1 - y0), image)
        painter.resetTransform()
        painter.setClipping(False)
        painter.setPen(QPen(sheet_color("text"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        words = f"as {seen.target} holds it, {TIMES:.0f} times"
        painter.setFont(THEME.font(LABEL, bold=True))
        box = painter.fontMetrics().boundingRect(words)
        place = middle + QPointF(-box.width() / 2.0, RADIUS_PX + 16.0)
        painter.fillRect(box.translated(place.toPoint()).adjusted(-6, -2, 6, 2), sheet_color("wash"))
        painter.setPen(sheet_color("text"))
        painter.drawText(place, words)
        painter.restore()


def _rounded(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = (round(float(v), 2) for v in box)
    return x0, y0, x1, y1


def _pictured(seen: SeenInPrint) -> QImage:
    """Ink black on paper; closed white red, lost ink hatched red."""
    made = seen.printed
    high, wide = made.ink.shape
    paper, ink, red = (sheet_color(name).rgb() for name in ("paper", "ink", "red"))
    pixels = np.where(made.ink, ink, paper).astype(np.uint32)
    pixels[made.closed] = red
    rows, columns = np.indices((high, wide))
    pixels[made.lost & ((rows + columns) // 2 % 3 != 0)] = red
    pixels |= np.uint32(0xFF000000)
    return QImage(pixels.data, wide, high, 4 * wide, QImage.Format.Format_RGB32).copy()
