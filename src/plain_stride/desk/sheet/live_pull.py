"""The pull in progress: its samples, its ink under the pen, and which pixels each sample touched."""

from collections.abc import Sequence
from datetime import UTC, datetime

import numpy as np
from PySide6.QtCore import QLineF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QRegion, QTransform

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.painted import draw_whole
from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.bands import SHOWN_BOXES, band
from plain_stride.desk.sheet.view import BoardView
from plain_stride.form.cover import Cover
from plain_stride.hand.live import LiveInk
from plain_stride.hand.nib import Nib
from plain_stride.hand.rails import Rail, led
from plain_stride.lines.affine import Affine
from plain_stride.lines.profile import limit_slope

PALE = 0.28
Stroke = list[float]
"""x0, y0, x1, y1, width in pixels; 1 where a cover hides it."""


class LivePull:
    """Rows x, y mm, pressure, seconds, tilt as the pen gave them, and the ink that stands for them now.

    settled: strokes that change no more, in pixels of the view; they are kept inked on a picture of their own.
    laid: whether it has become a line.
    """

    def __init__(
        self,
        nib: Nib,
        view: BoardView,
        glass: float,
        device: str,
        start: float,
        covers: list[Cover] | None = None,
        ratio: float = 1.0,
        copies: Sequence[Affine] = (),
        rail: Rail | None = None,
    ) -> None:
        """covers: those in front of the part in hand, what lies behind them is shown pale; ratio: the screen's;
        copies: where its ink is shown as well; rail: what its ink is led along."""
        self.nib, self.view, self.device = nib, view, device
        self._covers = covers or []
        there, back = view.transform, view.transform.inverted()[0]
        self._rail = rail
        self._line: np.ndarray | None = None
        self._copies = [back * QTransform(*by.row) * there for by in copies]
        self.clock = datetime.now(UTC).isoformat(timespec="milliseconds")
        self.rows: list[tuple[float, float, float, float, float]] = []
        self._start = start
        self._ink = LiveInk(nib.steadying, glass)
        self._tail: list[Stroke] = []
        self._joint: np.ndarray | None = None
        self.settled: list[Stroke] = []
        self.laid = False
        self._picture = QImage(QSizeF(*view.size).toSize() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
        self._picture.setDevicePixelRatio(ratio)
        self._picture.fill(Qt.GlobalColor.transparent)
        self._drawn = QRegion()

    def add(self, x: float, y: float, pressure: float, stamp: float, tilt: float) -> None:
        """Takes a sample; costs next to nothing."""
        self.rows.append((x, y, pressure, stamp - self._start, tilt))
        if self._rail is not None:
            x, y = self._led(x, y)
        self._ink.add(x, y, pressure, stamp - self._start)

    def _led(self, x: float, y: float) -> tuple[float, float]:
        """Where the rail leads the pen, once it is known which way is meant."""
        if self._line is None and self._rail is not None:
            self._line = self._rail.line_for(np.array(self.rows)[:, :2])
        if self._line is None:
            return x, y
        at = led(np.array([[x, y]]), self._line)[0]
        return float(at[0]), float(at[1])

    def advance(self) -> QRegion:
        """Inks all samples so far; gives the region to repaint. What settles is added to `settled`."""
        fresh = self._ink.advance()
        strokes = self._strokes(np.vstack([fresh, self._ink.tail]))
        cut = max(0, len(fresh) - (self._joint is None)) if len(fresh) else 0
        settled, tail = strokes[:cut], strokes[cut:]
        if len(fresh):
            self._joint = fresh[-1]
        old, self._drawn = self._drawn, band(strokes)
        self._tail = tail.tolist()
        fresh_strokes: list[Stroke] = settled.tolist()
        self.settled += fresh_strokes
        painter = QPainter(self._picture)
        paint_strokes(painter, fresh_strokes)
        painter.end()
        return self._with_copies(old.united(self._drawn))

    def _with_copies(self, region: QRegion) -> QRegion:
        """Pixels, and those where the copies of them lie."""
        box = QRectF(region.boundingRect())
        for by in self._copies:
            region = region.united(by.mapRect(box).toAlignedRect().adjusted(-2, -2, 2, 2))
        return region

    def width_now(self) -> float:
        """The width under the pen, mm."""
        pressure = self._ink.tail[-1, 2] if len(self._ink.tail) else 0.0
        return float(self.nib.width(np.array([pressure]))[0])

    def samples(self) -> np.ndarray:
        out = np.array(self.rows)
        out[:, 3] -= out[0, 3]
        return out

    def show(self, painter: QPainter, view: BoardView) -> None:
        """All its ink so far, as another view of the board has it where that has been turned or moved since."""
        painter.save()
        if view != self.view:
            painter.setTransform(self.view.transform.inverted()[0] * view.transform, True)
        self._show_once(painter)
        for by in self._copies:
            painter.save()
            painter.setTransform(by, True)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            self._show_once(painter)
            painter.restore()
        painter.restore()

    def _show_once(self, painter: QPainter) -> None:
        draw_whole(painter, self._picture)
        paint_strokes(painter, self._tail)

    def end(self) -> None:
        """It has become a line, or could not."""
        self.laid = True

    def inked_region(self) -> QRegion:
        """All pixels that its ink may have touched."""
        return self._with_copies(band(np.array(self.settled + self._tail).reshape(-1, 6), SHOWN_BOXES))

    def _strokes(self, rows: np.ndarray) -> np.ndarray:
        """Pieces (n, 6) in pixels: x0, y0, x1, y1, width, hidden (0 or 1); a single place becomes a dot."""
        if self._joint is not None:
            rows = np.vstack([self._joint, rows])
        width = self.nib.width(rows[:, 2])
        leg = np.diff(rows[:, :2], axis=0)
        s = np.append(0.0, np.cumsum(np.hypot(leg[:, 0], leg[:, 1])))
        width = (limit_slope(width, s) if self.nib.limited else width) * self.view.scale
        at, hidden = self.view.to_glass(rows[:, :2]), self._hidden(rows[:, :2])
        if len(at) == 1:
            return np.array([[*at[0], at[0, 0] + 0.01, at[0, 1], width[0], hidden[0]]])
        return np.column_stack([at[:-1], at[1:], (width[1:] + width[:-1]) / 2.0, hidden[1:]])

    def _hidden(self, places: np.ndarray) -> np.ndarray:
        hidden = np.zeros(len(places), bool)
        for cover in self._covers:
            hidden |= cover.holds(places)
        return hidden


def paint_strokes(painter: QPainter, strokes: list[Stroke]) -> None:
    """Ink of a moment: round strokes between neighbouring places, in pixels; pale where it is hidden."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    colours = (sheet_color("ink"), tinted(sheet_color("ink"), PALE))
    pens = [QPen(colour, 1.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap) for colour in colours]
    for x0, y0, x1, y1, width, hidden in strokes:
        pen = pens[int(hidden)]
        pen.setWidthF(max(width, 0.3))
        painter.setPen(pen)
        painter.drawLine(QLineF(x0, y0, x1, y1))
