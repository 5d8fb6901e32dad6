"""The sheet of practice: a pale target, the pulls along it as ink, or the best and the last of them side by side."""

import time

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import (
    QColor,
    QInputDevice,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPointingDevice,
    QPolygonF,
    QResizeEvent,
    QTabletEvent,
)
from PySide6.QtWidgets import QWidget

from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.session.practising import SHOWN, Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.events import made_of_a_pen
from plain_stride.desk.sheet.live_pull import LivePull
from plain_stride.desk.sheet.view import BoardView
from plain_stride.hand.nib import Nib, Steadying
from plain_stride.practice.drills import PENCILS
from plain_stride.practice.hand_book import Kept
from plain_stride.practice.targets import SHEET_MM, Target

TARGET, SHOWN_PULLS = "target", "best and last"
EDGE_PX, DOT_MM, PALE = 18, 0.9, 110
COLUMNS = 5


class PracticeSheet(Painted, QWidget):
    """Its own events make its own pulls: nothing of the open job is touched. scale: of the sheet against its true
    size; at 1 a mm of the target is a mm on the glass, where there is room."""

    def __init__(self, session: Session, practising: Practising, glass_px_per_mm: float) -> None:
        super().__init__()
        self._session, self._practising, self._glass = session, practising, glass_px_per_mm
        self._live: LivePull | None = None
        self._device = "pen"
        self.scale, self.shows = 1.0, TARGET
        self._groups: tuple[list[tuple[Kept, np.ndarray]], list[tuple[Kept, np.ndarray]]] = ([], [])
        self.view = BoardView(glass_px_per_mm, centre=(SHEET_MM[0] / 2.0, SHEET_MM[1] / 2.0))
        self.setAccessibleName("Practice sheet")
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        practising.changed.connect(self._changed)
        THEME.changed.connect(self.update)

    @property
    def glass(self) -> float:
        """mm on the glass for each of the sheet."""
        return self.view.scale / self._glass

    def use_glass(self, glass_px_per_mm: float) -> None:
        self._glass = glass_px_per_mm
        self._lie()

    def enlarge(self, scale: float) -> None:
        """Shows the sheet so much larger than it is."""
        self.scale = scale
        self._lie()

    def show_what(self, what: str) -> None:
        """TARGET, or SHOWN_PULLS: the best and the last side by side."""
        self.shows = what
        self._changed()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._lie()

    def _lie(self) -> None:
        """In the middle, at its size where that fits, else as large as fits."""
        room = min((self.width() - EDGE_PX) / SHEET_MM[0], (self.height() - EDGE_PX) / SHEET_MM[1])
        wanted = self._glass * self.scale
        scale = wanted if self.scale > 1.0 else min(wanted, max(room, 0.5))
        self.view = BoardView(scale, centre=(SHEET_MM[0] / 2.0, SHEET_MM[1] / 2.0)).resized(QSizeF(self.size()))
        self._live = None
        self.update()

    def _changed(self) -> None:
        if self.shows == SHOWN_PULLS:
            self._groups = self._practising.shown_pulls()
        self.update()

    # Pulls

    def tabletEvent(self, event: QTabletEvent) -> None:
        event.accept()
        device = event.pointingDevice()
        tells = device is None or device.hasCapability(QInputDevice.Capability.Pressure)
        pressure = event.pressure() if tells else self._nib().middle_pressure
        stamp = event.timestamp() / 1000.0
        kind = event.type()
        if kind == QTabletEvent.Type.TabletPress and event.button() == Qt.MouseButton.LeftButton:
            eraser = event.pointerType() == QPointingDevice.PointerType.Eraser
            if not eraser:
                self._down("pen", stamp)
                self._device = device.name() if device is not None and device.name() else "pen"
        if self._live is not None and kind in (QTabletEvent.Type.TabletPress, QTabletEvent.Type.TabletMove):
            self._add(event.position(), pressure, stamp)
        elif kind == QTabletEvent.Type.TabletRelease:
            self._up()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event) and event.button() == Qt.MouseButton.LeftButton:
            self._down("mouse", _stamp(event))
            self._device = "mouse"
            self._add(event.position(), self._nib().middle_pressure, _stamp(event))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event) and self._live is not None and self._live.device == "mouse":
            self._add(event.position(), self._nib().middle_pressure, _stamp(event))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event) and self._live is not None and self._live.device == "mouse":
            self._up()

    def give_up(self) -> bool:
        """Drops the pull under way; whether there was one."""
        was, self._live = self._live is not None, None
        self.update()
        return was

    def _nib(self) -> Nib:
        return self._session.nib_now

    def _down(self, device: str, stamp: float) -> None:
        if self.shows != TARGET:
            self.show_what(TARGET)
        # What is measured is the hand: nothing is steadied.
        nib = Nib("practice", self._nib().lightest, self._nib().heaviest, steadying=Steadying("off"),
                  response=self._nib().response)  # fmt: skip
        self._live = LivePull(nib, self.view, self.glass, device, stamp, ratio=self.devicePixelRatioF())

    def _add(self, at: QPointF, pressure: float, stamp: float) -> None:
        if self._live is not None:
            self._live.add(*self.view.to_board(at), pressure, stamp, float("nan"))
            self.update(self._live.advance())

    def _up(self) -> None:
        live, self._live = self._live, None
        if live is not None and len(live.rows) > 1:
            self._practising.pulled(live.samples(), self.glass, self._device, live.nib)
        self.update()

    # Paint

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("desk"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        low, high = (QPointF(*p) for p in self.view.to_glass(np.array([[0.0, 0.0], SHEET_MM])))
        painter.fillRect(QRectF(low, high), sheet_color("paper"))
        if self.shows == SHOWN_PULLS:
            self._paint_groups(painter, QRectF(low, high))
            return
        targets, n = self._practising.targets(), self._practising.number % self._practising.drill.at_once
        if self._practising.drill.at_once == 1 and self._practising.last is not None:
            targets.insert(0, self._practising.drill.target(self._practising.last.number))
            n = 1
        for k, target in enumerate(targets):
            self._paint_target(painter, target, k == n)
        for samples, nib in self._practising.ink:
            painter.fillPath(_inked(self.view.to_glass(samples[:, :2]), samples[:, 2], nib, self.view.scale),
                             sheet_color("ink"))  # fmt: skip
        if self._live is not None:
            self._live.show(painter, self.view)

    def _paint_target(self, painter: QPainter, target: Target, next_: bool) -> None:
        """Pale; the one that is pulled next is darker, with where it begins and ends."""
        colour = QColor(sheet_color("pencil"))
        colour.setAlpha(255 if next_ else PALE)
        to_glass, scale = self.view.to_glass, self.view.scale
        at = to_glass(target.points)
        for edge in target.edges:
            painter.setPen(QPen(sheet_color("hair"), 1.0))
            painter.drawPolyline(_polygon(to_glass(edge)))
        if target.shares is not None and next_:
            nib = self._nib()
            wide = (nib.lightest + (nib.heaviest - nib.lightest) * target.shares) * scale
            painter.fillPath(stroke(at[::4], np.maximum(wide[::4], 1.0)), colour)
        elif not target.dots:
            painter.setPen(QPen(colour, 1.6 if next_ else 1.0))
            painter.drawPolyline(_polygon(at))
        if next_:
            radius = max(3.0, DOT_MM * scale)
            painter.setPen(QPen(sheet_color("chosen"), 1.4))
            painter.setBrush(sheet_color("chosen"))
            painter.drawEllipse(QPointF(*at[0]), radius * 0.6, radius * 0.6)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if not target.closed:
                painter.drawEllipse(QPointF(*at[-1]), radius, radius)

    def _paint_groups(self, painter: QPainter, box: QRectF) -> None:
        rows = -(-SHOWN // COLUMNS)
        high = box.height() / (2 * rows + 1.0)
        wide = box.width() / COLUMNS
        for g, (name, group) in enumerate(zip(("The best", "The last"), self._groups, strict=True)):
            top = box.top() + g * (rows + 0.5) * high
            painter.setFont(THEME.font(LABEL, bold=True))
            painter.setPen(sheet_color("text"))
            words = name if group else f"{name}: none of this drill yet"
            painter.drawText(QRectF(box.left() + 14, top + 4, box.width(), 22), Qt.AlignmentFlag.AlignVCenter, words)
            for n, (kept, samples) in enumerate(group):
                cell = QRectF(box.left() + n % COLUMNS * wide, top + high * 0.3 + n // COLUMNS * high, wide, high)
                self._paint_cell(painter, cell, kept, samples)

    def _paint_cell(self, painter: QPainter, cell: QRectF, kept: Kept, samples: np.ndarray) -> None:
        # Lines of one's own pages are others from day to day: only the ink is still known.
        own = kept.drill == PENCILS
        target = samples[:, :2] if own else self._practising.drill.target(kept.number).points
        both = np.vstack([target, samples[:, :2]])
        low, high = both.min(axis=0), both.max(axis=0)
        scale = min((cell.width() - 34) / max(high[0] - low[0], 1.0), (cell.height() - 34) / max(high[1] - low[1], 1.0))
        middle = (low + high) / 2.0
        centre = np.array([cell.center().x(), cell.center().y() - 8])

        def to_glass(points: np.ndarray) -> np.ndarray:
            out: np.ndarray = (points - middle) * scale + centre
            return out

        painter.setPen(QPen(sheet_color("pencil"), 1.2))
        painter.drawPolyline(_polygon(to_glass(target)))
        path = _inked(to_glass(samples[:, :2]), samples[:, 2], self._nib(), scale)
        painter.fillPath(path, sheet_color("ink"))
        painter.setFont(THEME.font(LABEL))
        painter.setPen(sheet_color("faint"))
        painter.drawText(QRectF(cell.left(), cell.bottom() - 20, cell.width(), 18), Qt.AlignmentFlag.AlignHCenter,
                         f"{kept.score:.2f} mm")  # fmt: skip


def _inked(at: np.ndarray, pressure: np.ndarray, nib: Nib, scale: float) -> QPainterPath:
    step = max(1, len(at) // 160)
    kept = np.append(np.arange(0, len(at) - 1, step), len(at) - 1)
    return stroke(at[kept], np.maximum(nib.width(pressure[kept]) * scale, 0.8))


def _polygon(points: np.ndarray) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points[:: max(1, len(points) // 400)].tolist()] +
                     [QPointF(*points[-1].tolist())])  # fmt: skip


def _stamp(event: QMouseEvent) -> float:
    return event.timestamp() / 1000.0 if event.timestamp() else time.perf_counter()
