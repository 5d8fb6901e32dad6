"""The board drawn to scale with its measures, and the ladder of widths, as the Board station shows them."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.board.frames import Frame
from plain_stride.board.ladder import LOST, MARKS, SAFE, Step
from plain_stride.board.page import Page
from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.job.board_facts import Edges

HIGH, WIDE, ROOM = 118, 116, 22
ROW, BAR_PX = 21, 34.0
Box = tuple[float, float, float, float]


class SheetDrawing(Painted, QWidget):
    """The trim with its bleed, margin and frames, and the sizes along them."""

    def __init__(self) -> None:
        super().__init__()
        self._page, self._edges = Page((100.0, 100.0), 300.0), Edges(0.0, 0.0, 0.0)
        self._frames: list[Frame] = []
        self.setFixedHeight(THEME.px(HIGH))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        THEME.changed.connect(self.update)

    def show_board(self, page: Page, edges: Edges, frames: Sequence[Frame]) -> None:
        self._page, self._edges, self._frames = page, edges, list(frames)
        w, h = page.size_mm
        # A sheet that lies on its side needs less room.
        self.setFixedHeight(min(THEME.px(HIGH), round(THEME.px(WIDE) * h / w) + 2 * THEME.px(ROOM)))
        told = [f"The sheet to scale: {w:g} by {h:g} mm", f"bleed {edges.bleed:g} mm", f"margin {edges.margin:g} mm"]
        told += [f"frame {k}: {f.w:.1f} by {f.h:.1f} mm" for k, f in enumerate(self._frames, 1)]
        self.setAccessibleName(", ".join(told))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(220, THEME.px(HIGH))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        w, h = self._page.size_mm
        bleed, room = self._edges.bleed, THEME.px(ROOM)
        scale = min((self.width() - 2.0 * room) / (w + 2 * bleed), (self.height() - 2.0 * room) / (h + 2 * bleed))
        x0, y0 = (self.width() - w * scale) / 2.0, (self.height() - h * scale) / 2.0 - THEME.px(4)

        def rect(box: Box) -> QRectF:
            return QRectF(QPointF(x0 + box[0] * scale, y0 + box[1] * scale),
                          QPointF(x0 + box[2] * scale, y0 + box[3] * scale))  # fmt: skip

        if bleed:
            painter.setPen(QPen(THEME.color("ahead"), 1, Qt.PenStyle.DotLine))
            painter.setBrush(tinted(THEME.color("desk"), 0.5))
            painter.drawRect(rect((-bleed, -bleed, w + bleed, h + bleed)))
        painter.setPen(QPen(THEME.color("text"), 1.2))
        painter.setBrush(THEME.color("paper"))
        painter.drawRect(rect((0, 0, w, h)))
        m = self._edges.margin
        if m:
            painter.setPen(QPen(sheet_color("ahead"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(rect((m, m, w - m, h - m)))
        self._paint_frames(painter, rect)
        self._paint_sizes(painter, rect((0, 0, w, h)))

    def _paint_frames(self, painter: QPainter, rect: object) -> None:
        painter.setFont(THEME.font(LABEL))
        for frame in self._frames:
            box = rect(frame.box)  # type: ignore[operator]
            painter.setPen(QPen(sheet_color("ink"), 1.2))
            painter.setBrush(tinted(sheet_color("pencil"), 0.16))
            painter.drawRect(box)
            words = f"{frame.w:.0f} × {frame.h:.0f}"
            if painter.fontMetrics().horizontalAdvance(words) < box.width() - 4 and box.height() > THEME.px(16):
                painter.setPen(sheet_color("ink"))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_sizes(self, painter: QPainter, sheet: QRectF) -> None:
        """The sheet's own sizes beside their arrows."""
        w, h = self._page.size_mm
        painter.setPen(QPen(THEME.color("faint"), 1))
        off = max(self._edges.bleed * sheet.width() / w, 0.0) + THEME.px(7)
        x, y = sheet.left() - off, sheet.bottom() + off
        for a, b in ((QPointF(sheet.left(), y), QPointF(sheet.right(), y)),
                     (QPointF(x, sheet.top()), QPointF(x, sheet.bottom()))):  # fmt: skip
            painter.drawLine(a, b)
            tick = QPointF(0, 3) if a.y() == b.y() else QPointF(3, 0)
            for end in (a, b):
                painter.drawLine(end - tick, end + tick)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("text"))
        below = QRectF(0, y + 2, self.width(), THEME.px(18))
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop, f"{w:g} mm")
        painter.save()
        painter.translate(x - 2, sheet.center().y())
        painter.rotate(-90)
        beside = QRectF(-200, -THEME.px(18), 400, THEME.px(18))
        painter.drawText(beside, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom, f"{h:g} mm")
        painter.restore()


class LadderDrawing(Painted, QWidget):
    """Each width as a bar, in mm, pt, px and as a pen at larger sizes, with the word for whether it holds."""

    def __init__(self) -> None:
        super().__init__()
        self._steps: list[Step] = []
        self._px_per_mm = 96 / 25.4
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        THEME.changed.connect(self.update)

    def show_ladder(self, steps: Sequence[Step], px_per_mm: float) -> None:
        self._steps, self._px_per_mm = list(steps), px_per_mm
        self.setFixedHeight(THEME.px(ROW) * (len(steps) + 1) + 2)
        self.setAccessibleName("The ladder: " + ", ".join(f"{s.mm:g} mm {s.verdict}" for s in steps))
        self.setToolTip("Pens that come to each width when the drawing is inked 1, 1.5 and 2 times as large, in px:\n"
                        + "\n".join(f"{s.mm:g} mm: " + ", ".join(f"{px:.1f}" for px in s.pen_px)
                                    for s in steps))  # fmt: skip
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(220, self.height())

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        high = THEME.px(ROW)
        columns = _columns(self.width())
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        for words, (x, wide) in zip(("mm", "pt", "px", "at 2×"), columns, strict=True):
            painter.drawText(QRectF(x, 0, wide, high), _RIGHT, words)
        for n, step in enumerate(self._steps, 1):
            self._row(painter, step, n * high, high, columns)

    def _row(self, painter: QPainter, step: Step, y: float, high: float, columns: list[tuple[float, float]]) -> None:
        lost = step.verdict == LOST
        thick = min(step.mm * self._px_per_mm, 12.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("hair" if lost else "text"))
        painter.drawRoundedRect(QRectF(0, y + (high - thick) / 2, THEME.px(BAR_PX), thick), thick / 2, thick / 2)
        painter.setPen(THEME.color("faint" if lost else "text"))
        painter.setFont(THEME.font(LABEL))
        figures = (f"{step.mm:g}", f"{step.pt:.2f}", f"{step.px:.1f}", f"{step.pen_px[-1]:.1f}")
        for words, (x, wide) in zip(figures, columns, strict=True):
            painter.drawText(QRectF(x, y, wide, high), _RIGHT, words)
        painter.setFont(THEME.font(LABEL, bold=step.verdict != SAFE))
        painter.setPen(THEME.color("red" if lost else "text"))
        x = columns[-1][0] + columns[-1][1] + THEME.px(10)
        painter.drawText(QRectF(x, y, self.width() - x, high), Qt.AlignmentFlag.AlignVCenter,
                         f"{MARKS[step.verdict]} {step.verdict}")  # fmt: skip


_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def _columns(width: float) -> list[tuple[float, float]]:
    """(left, width) of the four columns of figures, between the bars and the words."""
    left, words = THEME.px(BAR_PX) + 2.0, THEME.px(62)
    each = (width - left - words) / 4.0
    return [(left + k * each, each) for k in range(4)]
