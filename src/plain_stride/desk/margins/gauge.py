"""The gauge: the ladder of widths, the nib's bracket, the width under the pen, the ceiling of the part, one pixel."""

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, RULER, THEME
from plain_stride.desk.session.session import Session
from plain_stride.job.board_facts import floor_of_job
from plain_stride.measure import LADDER, mm_from_px

WIDTH = 66
TOP, FOOT = 58, 56
LOW, HIGH = 0.11, 2.4
MOST_SHOWN_PX = 12.0


class Gauge(Painted, QWidget):
    """Painted only; it tells, it does not ask."""

    def __init__(self, session: Session, px_per_mm: float) -> None:
        super().__init__()
        self._session = session
        self._live: float | None = None
        self._figures: dict[str, float | None] = {}
        self._shown: tuple[str, str] | None = None
        self._still: QPixmap | None = None
        self.px_per_mm = px_per_mm
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Gauge of widths")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        session.updates.add(self._refresh)
        session.live_width.connect(self._show_live)
        THEME.changed.connect(self._redraw)
        self._refresh()

    def use_glass(self, px_per_mm: float) -> None:
        """The screen has so many pixels a mm."""
        self.px_per_mm = px_per_mm
        self._redraw()

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(WIDTH), 400)

    def figures(self) -> dict[str, float | None]:
        """mm: the nib's lightest and heaviest, the ceiling of the part in hand, one pixel, the live width."""
        part, nib = self._session.part, self._session.nib_now
        return {
            "lightest": nib.lightest,
            "heaviest": nib.heaviest,
            "ceiling": self._session.shapes.ceiling_of(part.id) if part is not None else None,
            "pixel": mm_from_px(1.0, self._session.job.page.dpi),
            "floor": floor_of_job(self._session.job).mm,
            "live": self._live,
        }

    def _refresh(self) -> None:
        f = self._figures = self.figures()
        ceiling = f"; ceiling {f['ceiling']:.2f} mm" if f["ceiling"] else ""
        floor = f"; print floor {f['floor']:.3f} mm"
        widths = f"{f['lightest']:g} to {f['heaviest']:g} mm{ceiling}; one pixel {f['pixel']:.3f} mm{floor}"
        self.setAccessibleDescription(f"Nib {self._session.now.nib}: {widths}")
        self.setToolTip(self.accessibleDescription())
        shown = self._session.now.nib, self.accessibleDescription()
        if shown != self._shown:
            self._shown = shown
            self._redraw()

    def _redraw(self) -> None:
        self._still = None
        self.update()

    def _show_live(self, width: float | None) -> None:
        self._live = width
        self.update(0, 0, THEME.px(14), self.height())

    def _y(self, mm: float) -> float:
        top, foot = THEME.px(TOP), self.height() - THEME.px(FOOT)
        share = math.log(HIGH / min(max(mm, LOW), HIGH)) / math.log(HIGH / LOW)
        return top + share * (foot - top)

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self._still is None or self._still.size() != self.size() * self.devicePixelRatioF():
            self._still = self._painted_still()
        painter.drawPixmap(0, 0, self._still)
        focus_ring(painter, self)
        if self._live is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._needle(painter, self._y(self._live))

    def _painted_still(self) -> QPixmap:
        """All but the needle, which moves with every sample."""
        still = QPixmap(self.size() * self.devicePixelRatioF())
        still.setDevicePixelRatio(self.devicePixelRatioF())
        still.fill(THEME.color("margin"))
        painter = QPainter(still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._head(painter)
        self._ladder(painter)
        self._bracket(painter)
        self._marks(painter)
        painter.end()
        return still

    def _head(self, painter: QPainter) -> None:
        painter.setPen(THEME.color("text"))
        painter.setFont(THEME.font(BODY, bold=True))
        box = QRectF(0, THEME.px(8), self.width(), THEME.px(20))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"Nib {self._session.now.nib}")
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(box.translated(0, THEME.px(18)), Qt.AlignmentFlag.AlignCenter, "mm")

    def _ladder(self, painter: QPainter) -> None:
        nib, ceiling = self._session.nib_now, self._figures["ceiling"]
        # Words of the marks stand above the ceiling and below the floor: a rung under one keeps only its bar.
        words = [self._y(self._figures["floor"] or 0.0) + THEME.px(8)]
        words += [self._y(ceiling) - THEME.px(8)] if ceiling else []
        for mm in LADDER:
            y = self._y(mm)
            inside = nib.lightest * 0.99 <= mm <= nib.heaviest * 1.01
            painter.setPen(THEME.color("text" if inside else "faint"))
            painter.setFont(THEME.font(LABEL))
            right = self.width() - THEME.px(33)
            high = THEME.px(20)
            if all(abs(y - word) > THEME.px(13) for word in words):
                painter.drawText(
                    QRectF(0, y - high / 2, right, high),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    f"{mm:g}",
                )
            thick = min(mm * self.px_per_mm, MOST_SHOWN_PX)
            bar = QPainterPath()
            bar.addRoundedRect(QRectF(self.width() - THEME.px(29), y - thick / 2, 16, thick), thick / 2, thick / 2)
            painter.fillPath(bar, THEME.color("text" if inside else "hair"))

    def _bracket(self, painter: QPainter) -> None:
        nib = self._session.nib_now
        top, foot, x = self._y(nib.heaviest) - 4, self._y(nib.lightest) + 4, self.width() - 3.0
        middle = self._y(nib.middle)
        painter.setPen(QPen(THEME.color("chosen"), 2))
        path = QPainterPath(QPointF(x, top))
        path.lineTo(x - 4, top + 2)
        path.lineTo(x - 4, middle - 5)
        path.lineTo(x - 8, middle)
        path.lineTo(x - 4, middle + 5)
        path.lineTo(x - 4, foot - 2)
        path.lineTo(x, foot)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)

    def _marks(self, painter: QPainter) -> None:
        f = self._figures
        painter.setFont(THEME.font(RULER, bold=True))
        if f["ceiling"]:
            y = self._y(f["ceiling"])
            painter.setPen(QPen(THEME.color("text"), 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(4, y), QPointF(self.width() - 12, y))
            painter.setPen(THEME.color("text"))
            high = THEME.px(15)
            painter.drawText(QRectF(4, y - high - 1, self.width() - 14, high), Qt.AlignmentFlag.AlignLeft, "ceiling")
        self._floor(painter)
        painter.setFont(THEME.font(RULER, bold=True))
        painter.setPen(THEME.color("faint"))
        box = QRectF(0, self.height() - THEME.px(40), self.width(), THEME.px(16))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "one pixel")
        painter.drawText(box.translated(0, THEME.px(15)), Qt.AlignmentFlag.AlignCenter, f"{f['pixel']:.3f}")

    def _floor(self, painter: QPainter) -> None:
        """The least width that holds where it is printed; below the ladder it stands at its foot."""
        floor = self._figures["floor"] or 0.0
        y = self._y(floor)
        painter.setPen(QPen(THEME.color("red"), 1.2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(2, y), QPointF(self.width() - 12, y))
        painter.setPen(THEME.color("red"))
        painter.setFont(THEME.font(RULER, bold=True))
        box = QRectF(2, y + 1, self.width() - 4, THEME.px(14))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft, f"floor {floor:.2f}")

    def _needle(self, painter: QPainter, y: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("text"))
        painter.drawPolygon(QPolygonF([QPointF(0, y - 5), QPointF(9, y), QPointF(0, y + 5)]))
