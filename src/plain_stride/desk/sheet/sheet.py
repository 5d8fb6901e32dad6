"""The sheet on its desk: where the pen pulls, and where held keys move the board and work on lines."""

import gc
import math
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QGuiApplication,
    QPainter,
    QPaintEvent,
    QPen,
    QRegion,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy

from plain_stride.desk.controls.controls import focus_ring, tinted
from plain_stride.desk.look.painted import Painted, draw_whole
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state_view import StateView
from plain_stride.desk.sheet.bands import band_of, box_region
from plain_stride.desk.sheet.events import SheetEvents
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.sheet.key_pen import KeyPen
from plain_stride.desk.sheet.line_tools import SwellInHand, Touch, black_at, line_at
from plain_stride.desk.sheet.live_pull import LivePull
from plain_stride.desk.sheet.spring_loaded import SpringLoadedTools
from plain_stride.desk.sheet.tools.base import SheetTool
from plain_stride.desk.sheet.view import BoardView
from plain_stride.form.cover import Cover, changed_boxes
from plain_stride.hand.joining import NONE, SECTION, TAIL, TAKE, Again
from plain_stride.hand.pull import Pull, View
from plain_stride.hand.raster import raster_of
from plain_stride.hand.steady import steady
from plain_stride.job.board_facts import edges_of
from plain_stride.job.history import RowChange
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape
from plain_stride.render.paths import polyline

BORDER = (38.0, 36.0, 34.0, 14.0)
"""Pixels of desk left free round a fitted page: rulers stand in the left and upper ones."""
FRAME_SLICE_S, SLICE_S, PEN_SLICE_S, PEN_REST_MS = 0.012, 0.004, 0.0005, 6
"""How long the board is painted at a stretch: within a frame, between events, under the pen; ms between two
slices under the pen, since a timer that never rests would come before every frame."""
BOX_PX = 24.0
"""Pixels left free round a frame that fills the view."""
AGAIN_PX = 150
"""Pixels round the pen that the word beside it takes."""
PULL_WORDS = {TAKE: "another take", TAIL: "its tail", SECTION: "its next section", NONE: "a new line"}
EVEN_SAMPLES, EVEN_PULLS = 40, 3
"""After so many pulls, of so many samples at least, of one pressure each, a pen is taken to send no other."""
SHOWN_ROWS, THEN_S, LOOK_PX_PER_MM = 64, 0.08, 14.0
TELL_WIDTH_S = 0.03
"""The width under the pen is told no more often: nobody reads it quicker, and each time is a frame's work."""


class SheetView(Painted, SheetEvents):
    """Signals: view_changed; pointed (mm under the pen or None); pulling (True while the pen is down);
    menu_wanted (pixel of a chosen line that was chosen again); resized; tool_changed (another in hand, or none)."""

    view_changed = Signal()
    pointed = Signal(object)
    pulling = Signal(bool)
    menu_wanted = Signal(object)
    resized = Signal()
    tool_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName("The sheet")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 240)
        self.setCursor(Qt.CursorShape.BlankCursor)
        self.session = session
        self.layer = InkLayer(session)
        self.layer.pencils.ready.connect(self.redraw)
        self.view = BoardView(2.0)
        self.glass_px_per_mm = 96 / 25.4
        self.live: LivePull | None = None
        self._lifted: list[LivePull] = []
        self.hold = SpringLoadedTools(self)
        self.key_pen = KeyPen(self)
        self.tool: SheetTool | None = None
        self._even_pulls = 0
        self._again = Again(NONE)
        self.kept_left = self.kept_right = 0
        self._then: InkLayer | None = None
        self._fitted = True
        self._outdated = True
        self._fresh = False
        self._width_told = -math.inf
        self._unshown: list[QRegion] = []
        self._slices = QTimer(self)
        self._slices.timeout.connect(self._paint_slice)
        self.pointer: QPointF | None = None
        self._ring = QRect()
        self._covers_seen: dict[str, Cover] = {}
        self._behind = False
        self._ringed = False
        self.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)
        self.over: Callable[[QPainter, BoardView], object] = lambda painter, view: None
        self.on_first_move: Callable[[], None] = lambda: None
        session.changed.connect(self._job_changed)
        session.state.changed.connect(lambda *_: self._hand_changed())
        session.strokes.tried_changed.connect(lambda _: self.update())
        THEME.changed.connect(self.redraw)

    # What was

    def show_then(self, step: int) -> None:
        """Shows the drawing as it was after a step, until `show_now`. Nothing can be pulled meanwhile."""
        self.session.settle()
        self.session.take(looking_back=True)
        self._then = InkLayer(StateView(self.session, step), self.layer, rulers=True)
        self._then.pencils_off = self.layer.pencils_off
        self._paint_then()

    def show_now(self) -> None:
        self.session.take(looking_back=False)
        self._then = None
        self.update()

    def _paint_then(self) -> None:
        if self._then is not None:
            self._then.begin(self.view, self.size(), self.devicePixelRatioF())
            if self._then.work(THEN_S) is None:
                self._slices.start(0)
            self.update()

    # The view

    def sizeHint(self) -> QSize:
        return QSize(900, 600)

    def set_session(self, session: Session) -> None:
        """Shows another job."""
        self.put_tool_away()
        self.session = session
        self.layer, self._then = InkLayer(session), None
        self.layer.pencils.ready.connect(self.redraw)
        self._lifted = []
        session.changed.connect(self._job_changed)
        session.state.changed.connect(lambda *_: self._hand_changed())
        session.strokes.tried_changed.connect(lambda _: self.update())
        self.fit()

    def set_view(self, view: BoardView, fitted: bool = False) -> None:
        """Shows the board so. Nothing moves while the pen is down: its ink lies where this view had it."""
        if self.live is not None:
            return
        self._fitted = fitted
        self.session.lies_at(view.scale / self.glass_px_per_mm)
        if view != self.view:
            self.view = view
            self.redraw()
            self._paint_then()
            self.view_changed.emit()

    def fit(self) -> None:
        """The whole page, upright."""
        left, top, right, bottom = (float(THEME.px(b)) for b in BORDER)
        border = (left + self.kept_left, top, right + self.kept_right, bottom)
        self.set_view(self.view.fitted(self.session.job.page.size_mm, border), fitted=True)
        self.redraw()

    def upright(self) -> None:
        self.set_view(self.view.turned(-self.view.turn, self.about()))

    def print_size(self) -> None:
        """1 mm on the glass for 1 mm in print, round the pen."""
        self.set_view(self.view.enlarged(self.glass_px_per_mm / self.view.scale, self.about()))

    def show_print_size(self) -> None:
        """The whole page upright, 1 mm on the glass for 1 mm in print."""
        w, h = self.session.job.page.size_mm
        self.set_view(replace(self.view, scale=self.glass_px_per_mm, turn=0.0, centre=(w / 2.0, h / 2.0)))

    def look_at(self, x: float, y: float) -> None:
        """Brings a place in mm to the middle, near enough to see it."""
        self.set_view(replace(self.view, centre=(x, y), scale=max(self.view.scale, LOOK_PX_PER_MM)))

    def show_box(self, box: tuple[float, float, float, float]) -> None:
        """Brings a box in mm up to fill the view, upright."""
        x0, y0, x1, y1 = box
        scale = min((self.width() - 2 * BOX_PX) / (x1 - x0), (self.height() - 2 * BOX_PX) / (y1 - y0))
        self.set_view(replace(self.view, scale=scale, turn=0.0, centre=((x0 + x1) / 2.0, (y0 + y1) / 2.0)))

    def mirror(self) -> None:
        self.set_view(self.view.mirrored(self.about()))

    def mirror_down(self) -> None:
        """Mirrored top to bottom: left to right, and half round."""
        self.set_view(self.view.mirrored(self.about()).turned(180.0, self.about()))

    def per_cent(self) -> float:
        """How large the print is seen: 100 when 1 mm of it takes 1 mm of glass."""
        return self.view.scale / self.glass_px_per_mm * 100.0

    def _hand_changed(self) -> None:
        part = self.session.part
        alone = part.id if part is not None and self.session.now.alone else ""
        if alone != self.layer.alone:
            self.layer.alone = alone
            self.redraw()
        self.update()

    def redraw(self) -> None:
        """Everything is painted anew, from the next frame on; under the pen the picture of before stays until then."""
        self._outdated = True
        if self.live is not None and self.layer.view == self.view:
            self._begin_picture()
            self._go_on_painting()
        else:
            self.update()

    def redraw_region(self, region: QRegion) -> None:
        """Only these pixels are painted anew."""
        self.layer.mend(region)
        if self.layer.busy:
            self._go_on_painting()

    def about(self) -> QPointF:
        return self.pointer if self.pointer is not None else QPointF(self.width() / 2.0, self.height() / 2.0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.view = self.view.resized(QRectF(self.rect()).size())
        if self._fitted:
            self.fit()
        self.redraw()
        self.resized.emit()

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        tables = {change.table for change in rows}
        if tables <= {"lines", "blacks", "families"}:
            self._lines_changed(rows)
        elif tables & {"board"} and self._fitted:
            self.fit()
        elif tables - {"nibs"}:
            self._covers_seen = dict(self.session.covers.now())
            self.redraw()

    def _lines_changed(self, rows: tuple[RowChange, ...]) -> None:
        uncovered = self._uncovered()
        if len(rows) == 1 and rows[0].before is None and uncovered.isEmpty() and not self._outdated:
            laid = self.layer.lay_on(rows[0].id)
            if laid is not None:
                self.update(laid)
                return
        for key in self.session.job.touched(rows):
            uncovered += self._touched(key)
        self.redraw_region(uncovered)

    def _covers_before(self) -> list[Cover]:
        """Covers in front of the part in hand."""
        part = self.session.part
        return self.session.covers.over(part.id) if part is not None else list(self.session.covers.now().values())

    def _uncovered(self) -> QRegion:
        """Where covers hide now what they did not hide when the board was painted last, or the other way round."""
        before, self._covers_seen = self._covers_seen, dict(self.session.covers.now())
        region = QRegion()
        for key in before.keys() | self._covers_seen.keys():
            old, new = before.get(key), self._covers_seen.get(key)
            if old is not new:
                region += box_region(changed_boxes(old, new), self.view)
        return region

    def _touched(self, key: str) -> QRegion:
        """Where a line's ink was when it was last painted, and where it is now."""
        index = self.layer.index
        old, new = index.shape(key), self.layer.shape(key) if self.session.job.inked(key) is not None else None
        index.put(key, new)
        region = QRegion()
        for shape in (old, new):
            if shape is not None:
                region += band_of(shape, self.view)
        return region

    # Painting

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        self._bring_up_to_date()
        if self._then is not None and self._then.view == self.view:
            draw_whole(painter, self._then.image)
            return
        if self.layer.view == self.view:
            draw_whole(painter, self.layer.image)
        else:
            self._paint_old_view(painter)
        self._paint_over(painter)

    def _bring_up_to_date(self) -> None:
        """Starts a new picture of the board where it is needed; small boards are whole in the same frame."""
        if self._outdated:
            self._begin_picture()
            # The window comes first: the very first frame holds the sheet alone.
            slice_s = PEN_SLICE_S if self.live is not None else FRAME_SLICE_S
            if self.layer.work(slice_s if self.layer.view is not None else 0.0) is not None:
                self._renewed()
            else:
                self._go_on_painting()

    def _begin_picture(self) -> None:
        self._outdated, self._fresh = False, True
        self.layer.begin(self.view, self.size(), self.devicePixelRatioF())

    def _go_on_painting(self) -> None:
        self._slices.start(PEN_REST_MS if self.live is not None else 0)

    def _paint_slice(self) -> None:
        if self._unshown:
            self.update(self._unshown.pop(0))
        elif self._then is not None and self._then.busy:
            if self._then.work(SLICE_S) is not None:
                self.update()
        else:
            self._work_on()
        if not self.layer.busy and not self._unshown and not (self._then is not None and self._then.busy):
            self._slices.stop()

    def _work_on(self) -> None:
        region = self.layer.work(PEN_SLICE_S if self.live is not None else SLICE_S)
        if region is not None:
            self._renewed()
            if self.live is None:
                self.update(region)
            else:
                # A whole sheet at once would hold up the pen: it is shown strip by strip.
                tops = range(0, self.height(), SHOWN_ROWS)
                self._unshown = [region.intersected(QRect(0, top, self.width(), SHOWN_ROWS)) for top in tops]
        elif self.layer.view is None:
            self.update()

    def _renewed(self) -> None:
        """The board's picture is whole again."""
        if self.layer.busy:
            return
        if self._fresh:
            # What a board holds stays: left out of the rounds of the garbage collector, which would stall the pen.
            self._fresh = False
            gc.freeze()
        self._drop_laid()

    def _drop_laid(self) -> None:
        """The steadied line takes the place of its live ink in one frame, once the picture holds it."""
        for live in [live for live in self._lifted if live.laid]:
            self._lifted.remove(live)
            self.update(live.inked_region() if live.view == self.view else QRegion(self.rect()))

    def _paint_old_view(self, painter: QPainter) -> None:
        """The picture of the view before, moved, turned and enlarged with the board, until the new one is whole."""
        painter.fillRect(self.rect(), THEME.color("desk"))
        painter.save()
        if self.layer.view is not None:
            painter.setTransform(self.layer.view.transform.inverted()[0] * self.view.transform, True)
        painter.drawImage(0, 0, self.layer.image)
        painter.restore()

    def _paint_over(self, painter: QPainter) -> None:
        for key in self.session.chosen:
            self._trace_ink(painter, self.session.shapes.ink(key))
        self.over(painter, self.view)
        if self.tool is not None:
            self.tool.paint(painter, self.view)
        self.hold.paint(painter)
        self.key_pen.paint(painter)
        if self.session.now.again:
            self._paint_again(painter)
        if self.session.strokes.tried is not None:
            self.trace(painter, self.session.strokes.tried, 1.6)
        for live in self._lifted if self.live is None else [*self._lifted, self.live]:
            live.show(painter, self.view)
        if self.pointer is not None and self.live is None:
            self._paint_ring(painter)
        if self._ringed:
            focus_ring(painter, self)

    def _trace_ink(self, painter: QPainter, shape: Shape | Black) -> None:
        """A chosen line by its middle, a black by its edge."""
        if isinstance(shape, Shape):
            self.trace(painter, shape.flat[0], 1.6)
        else:
            for ring in shape.rings:
                self.trace(painter, np.vstack([ring, ring[:1]]), 1.6)

    def _paint_again(self, painter: QPainter) -> None:
        """Other takes of the line in hand, pale; and beside the pen what a pull from there would be."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("pencil"), 1.4))
        for points in self.session.strokes.other_takes(self.session.shown_line()):
            painter.drawPolyline(polyline(self.view.to_glass(points)))
        if self.pointer is not None and self.live is None:
            found = self.session.what_again(self.view.to_board(self.pointer))
            self.paint_word(painter, self.pointer + QPointF(14.0, -12.0), PULL_WORDS[found.what])

    def paint_word(self, painter: QPainter, at: QPointF, words: str) -> None:
        """A word over the drawing, on a breath of paper so that ink does not run through it."""
        painter.setFont(THEME.font(LABEL, bold=True))
        box = painter.fontMetrics().boundingRect(words).translated(at.toPoint()).adjusted(-4, -1, 4, 1)
        painter.fillRect(box, tinted(sheet_color("paper"), 0.85))
        painter.setPen(sheet_color("chosen"))
        painter.drawText(at, words)

    def trace(self, painter: QPainter, points: np.ndarray, width: float) -> None:
        painter.setPen(QPen(sheet_color("chosen"), width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(polyline(self.view.to_glass(points)))

    def _paint_ring(self, painter: QPainter) -> None:
        """The nib at true size, lightest and heaviest, with a hair cross that leaves its middle free."""
        at, nib = self.pointer, self.session.nib_now
        assert at is not None
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(sheet_color("chosen"), 1))
        for width in (nib.lightest, nib.heaviest):
            painter.drawEllipse(at, width * self.view.scale / 2.0, width * self.view.scale / 2.0)
        reach = nib.heaviest * self.view.scale / 2.0
        for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            painter.drawLine(at + QPointF(dx, dy) * (reach + 3), at + QPointF(dx, dy) * (reach + 8))

    def point(self, at: QPointF | None) -> None:
        self.pointer = at
        reach = math.ceil(
            self.session.nib_now.heaviest * self.view.scale / 2.0 + (AGAIN_PX if self.session.now.again else 11)
        )
        new = QRect() if at is None else QRect(at.toPoint(), at.toPoint()).adjusted(-reach, -reach, reach, reach)
        self.update(QRegion(self._ring).united(new))
        self._ring = new
        self.pointed.emit(None if at is None else self.view.to_board(at))

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The ring shows where the keyboard brought the focus here; a pen or a mouse needs none."""
        self._ringed = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._ringed = False
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.point(None)

    # The pull

    def _down(self, at: QPointF, pressure: float, stamp: float, tilt: float, device: str) -> None:
        # A lift that never came: the pull of before ends where it was seen last.
        self.end_pull()
        self.point(at)
        if self.held:
            self.hold.down(at, bool(QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier))
            return
        if self.tool is not None:
            self.tool.down(self._mm(at), pressure, self.view)
            self.update()
            return
        reason = self.session.guard()
        if reason:
            self.session.said.emit(reason, True)
            return
        self.session.lies_at(self.glass())
        self._again = self.session.what_again(self.view.to_board(at))
        self.live = LivePull(self.session.pulling_nib, self.view, self.glass(), device, stamp, self._covers_before(),
                             self.devicePixelRatioF())  # fmt: skip
        if self.layer.busy:
            self._go_on_painting()
        self._tell_off_board(at)
        self.pulling.emit(True)
        self._feed(at, pressure, stamp, tilt)

    def _move(self, at: QPointF, pressure: float, stamp: float, tilt: float) -> None:
        if self.live is not None:
            self._feed(at, pressure, stamp, tilt)
            return
        self.on_first_move()
        if self.held:
            self.hold.move(at)
        elif self.tool is not None and self.tool.busy:
            self.tool.move(self._mm(at), pressure, self.view)
            self.update()
        self.point(at)

    def _up(self, at: QPointF) -> None:
        if self.live is None:
            if self.hold.busy:
                self.hold.up()
            elif self.tool is not None and self.tool.busy:
                self.tool.up(self._mm(at), self.view)
                if self.tool.done:
                    self.put_tool_away()
                self.update()
            return
        if self._behind:
            self._catch_up()
        live, self.live = self.live, None
        samples, view = live.samples(), self.lay()
        self._tell_even_pen(live.device, samples[:, 2])
        self._lifted.append(live)
        if self.layer.busy:
            self._go_on_painting()
        if self.session.now.rehearsing:
            self._tell_rehearsal(samples)
            self._laid(live, None)
        elif self.session.now.cover_of:
            self.session.strokes.lay_cover(samples, self.session.nib, view)
            self._laid(live, None)
        elif self._again.what:
            found, self._again = self._again, Again(NONE)
            self.session.take(again=False)
            pull = Pull(samples, self.session.nib_now, view, live.device, live.clock)
            self.session.strokes.lay_again(found, self.session.shown_line(), pull, partial(self._laid, live))
        else:
            nib = self.session.pulling_nib
            self.session.strokes.lay(samples, nib, view, live.device, live.clock, partial(self._laid, live))
        self.point(at)
        self.session.live_width.emit(None)
        self.pulling.emit(False)

    def _tell_off_board(self, at: QPointF) -> None:
        """A pull that begins where nothing is printed is said at once, and not hindered."""
        x, y = self.view.to_board(at)
        w, h = self.session.job.page.size_mm
        bleed = edges_of(self.session.job).bleed
        if not (-bleed <= x <= w + bleed and -bleed <= y <= h + bleed):
            self.session.said.emit("This pull begins off the board: what lies there is not printed.", False)

    def _tell_even_pen(self, device: str, pressure: np.ndarray) -> None:
        """Once: that a pen sends the same pressure whatever the hand does."""
        if device == "pen" and len(pressure) >= EVEN_SAMPLES:
            self._even_pulls = self._even_pulls + 1 if np.ptp(pressure) == 0.0 else 0
            if self._even_pulls == EVEN_PULLS:
                self.session.said.emit(
                    f"This pen sends one pressure all along, **{pressure[0]:.0%}**: lines come out even. Weight them"
                    " with the plan, or swell them by hand.", False)  # fmt: skip

    def _tell_rehearsal(self, samples: np.ndarray) -> None:
        """The figures of a pull that is not kept."""
        raster = raster_of(samples[:, :2], self.view.turn)
        steadied = steady(samples, self.session.pulling_nib.steadying, self.glass(), raster)
        length = float(np.hypot(*np.diff(steadied.path, axis=0).T).sum())
        seconds = max(float(samples[-1, 3]), 1e-3)
        self.session.said.emit(
            f"Rehearsed, not kept: **{length:.0f} mm** in **{seconds:.1f} s**, {length / seconds:.0f} mm/s; shake"
            f" **{steadied.tremor_mm:.3f} mm**.",
            False,
        )

    def _mm(self, at: QPointF) -> np.ndarray:
        return np.array(self.view.to_board(at))

    def take_tool(self, tool: SheetTool) -> None:
        """The next drags are this tool's, until it is done or put away."""
        self.put_tool_away()
        self.tool = tool
        self.session.said.emit(tool.words, False)
        self.tool_changed.emit()
        self.update()

    def put_tool_away(self) -> bool:
        """The pen pulls lines again; False where it did already."""
        tool, self.tool = self.tool, None
        if tool is not None:
            self.tool_changed.emit()
            self.update()
        return tool is not None

    def _laid(self, live: LivePull, line: str | None) -> None:
        """A lifted pull has become a line, or could not: its live ink stays until the picture of the board is whole."""
        live.laid = True
        if not self.layer.busy and not self._outdated:
            self._drop_laid()

    def _feed(self, at: QPointF, pressure: float, stamp: float, tilt: float) -> None:
        live = self.live
        assert live is not None
        live.add(*self.view.to_board(at), pressure, stamp, tilt)
        self.pointer = at
        if not self._behind:
            self._behind = True
            QTimer.singleShot(0, self._catch_up)

    def _catch_up(self) -> None:
        """Inks every sample that came since the last time, once, however many the system had kept waiting."""
        self._behind = False
        live = self.live
        if live is None:
            return
        region = live.advance()
        self.update(region)
        now = time.perf_counter()
        if now - self._width_told > TELL_WIDTH_S:
            self._width_told = now
            self.session.live_width.emit(live.width_now())

    def glass(self) -> float:
        """mm on the glass for one mm of the finished sheet."""
        return self.view.scale / self.glass_px_per_mm

    def lay(self) -> View:
        """How the board lies now, as a pull keeps it."""
        x, y = self.view.to_glass(np.zeros((1, 2)))[0]
        corner = self.mapToGlobal(QPointF(x, y)) / self.glass_px_per_mm
        return View(self.glass(), self.view.turn, self.view.mirror, (corner.x(), corner.y()))

    # Held keys

    def begin_hold(self, what: str) -> None:
        """what: move, turn, enlarge, swell, shave, trim, nudge."""
        self.hold.begin(what)

    def end_hold(self) -> None:
        self.hold.end()

    @property
    def held(self) -> str:
        return self.hold.what

    @property
    def swell(self) -> SwellInHand | None:
        return self.hold.swell

    # Lines under the pen

    def line_under(self, at: QPointF | None = None) -> Touch | None:
        at = at if at is not None else self.pointer
        return None if at is None else line_at(self.session, self.view.to_board(at), self.view.scale)

    def open_line_under(self, at: QPointF | None = None) -> Touch | None:
        """The line under a pixel that may be changed; of a locked part's it is said that it is locked."""
        touch = self.line_under(at)
        locked = self.session.locked_part(touch.line) if touch is not None else ""
        if locked:
            self.session.said.emit(f"Part '{locked}' is locked: unlock it to change its lines.", True)
            return None
        return touch

    def choose_at(self, at: QPointF | None, more: bool) -> None:
        """Chooses the line under a pixel; more: adds it, or takes it out again. On empty paper nothing is chosen."""
        key = self._ink_under(at)
        chosen = list(self.session.chosen) if more else []
        if key and not more and key in self.session.chosen:
            self.menu_wanted.emit(at)
            return
        if key in chosen:
            chosen.remove(key)
        elif key:
            chosen.append(key)
        self.session.choose(chosen)

    def _ink_under(self, at: QPointF | None) -> str:
        """The line under a pixel, else the black there, else nothing."""
        touch = self.line_under(at)
        place = at if at is not None else self.pointer
        if touch is not None or place is None:
            return touch.line if touch is not None else ""
        return black_at(self.session, self.view.to_board(place))

    def rub_under(self, how: str, at: QPointF | None = None) -> None:
        """Trims, cuts or takes away the line under a pixel, under the pen by default."""
        touch = self.line_under(at)
        if how == "trim" or touch is None:
            self.trim_under(at)
        elif how == "whole":
            self.session.make("delete", lines=[touch.line])
        else:
            place = self.session.shapes[touch.line].arc.point(np.array([touch.s]))[0]
            self.session.make("cut", line=touch.line, at=[float(v) for v in place])

    def trim_under(self, at: QPointF | None = None) -> None:
        """Trims the stretch under a pixel, under the pen by default."""
        touch = self.line_under(at)
        if touch is None:
            self.session.said.emit("No line is under the pen: point at the stretch that should go.", False)
            return
        place = self.session.shapes[touch.line].arc.point(np.array([touch.s]))[0]
        self.session.make("trim", line=touch.line, at=[float(v) for v in place])
