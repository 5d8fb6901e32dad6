"""The picture of the sheet: the board painted in slices beside the pen, and over it the ink of pulls that are no lines
yet. What the job changes is painted anew, and nothing else."""

import gc
from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, QRect, QSize, QTimer, Signal
from PySide6.QtGui import QPainter, QRegion

from plain_stride.desk.look.painted import draw_whole
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state_view import StateView
from plain_stride.desk.sheet.bands import band_of, box_region
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.sheet.live_pull import LivePull
from plain_stride.desk.sheet.viewport import Viewport
from plain_stride.desk.workers.owned import owned
from plain_stride.form.cover import Cover, changed_boxes
from plain_stride.job.history import RowChange

FRAME_SLICE_S, SLICE_S, PEN_SLICE_S, PEN_REST_MS = 0.012, 0.004, 0.0005, 6
"""How long the board is painted at a stretch: within a frame, between events, under the pen; ms between two
slices under the pen, since a timer that never rests would come before every frame."""
SHOWN_ROWS, THEN_S, MANY_ROWS = 64, 0.08, 300


class Compositor(QObject):
    """layer: the board; ratio: pixels of the screen for one of the window; live: the pull under the pen, None with it
    up. shown: a region of pixels is another now, None for all of them."""

    shown = Signal(object)

    def __init__(self, session: Session, viewport: Viewport) -> None:
        super().__init__()
        self._session, self._viewport = session, viewport
        self.layer = InkLayer(session)
        owned(self, self.layer.pencils).ready.connect(self.redraw)
        self._then: InkLayer | None = None
        self.live: LivePull | None = None
        self._lifted: list[LivePull] = []
        self.ratio = 1.0
        self._outdated, self._fresh = True, False
        self._unshown: list[QRegion] = []
        self._covers_seen: dict[str, Cover] = {}
        self._slices = QTimer(self)
        self._slices.timeout.connect(self._paint_slice)
        session.changed.connect(self._job_changed)
        session.state.changed.connect(lambda before, now: self._dim())
        viewport.changed.connect(self._view_changed)
        viewport.fitted.connect(self.redraw)

    @property
    def busy(self) -> bool:
        """Whether the picture is not whole yet, or not shown whole."""
        return self.layer.busy or bool(self._unshown)

    # What is asked of it

    def redraw(self) -> None:
        """Everything is painted anew, from the next frame on; under the pen the picture of before stays until then."""
        self._outdated = True
        if self.live is not None and self.layer.view == self._viewport.view:
            self._begin_picture()
            self._go_on_painting()
        else:
            self.shown.emit(None)

    def redraw_region(self, region: QRegion) -> None:
        """Only these pixels are painted anew."""
        self.layer.mend(region)
        if self.layer.busy:
            self._go_on_painting()

    def look(self, **what: Any) -> None:
        """Shows the board in another way for a moment."""
        now = replace(self.layer.look, **what)
        if now != self.layer.look:
            self.layer.use(now)
            self.redraw()

    def leave_out(self, lines: frozenset[str]) -> None:
        """Leaves lines out of the picture, which are shown otherwise; only where they lie it is painted anew."""
        before = self.layer.look.left_out
        self.layer.use(replace(self.layer.look, left_out=lines))
        if len(before ^ lines) > MANY_ROWS:
            self.redraw()
            return
        region = QRegion()
        for key in before ^ lines:
            if self._session.job.inked(key) is not None:
                region += band_of(self.layer.shape(key), self._viewport.view)
        self.redraw_region(region)

    def show_then(self, step: int) -> None:
        """Shows the drawing as it was after a step, until `show_now`. Nothing can be pulled meanwhile."""
        self._session.settle()
        self._session.take(looking_back=True)
        self._then = InkLayer(StateView(self._session, step), self.layer, rulers=True)
        self._then.use(replace(self._then.look, pencils_off=self.layer.look.pencils_off))
        self._paint_then()

    def show_now(self) -> None:
        self._session.take(looking_back=False)
        self._then = None
        self.shown.emit(None)

    def use_ratio(self, ratio: float) -> None:
        """The window lies on another screen."""
        self.ratio = ratio

    # The pull under the pen

    def begin_pull(self, live: LivePull) -> None:
        """The ink of a pull is shown over the board."""
        self.live = live
        if self.layer.busy:
            self._go_on_painting()

    def lift(self) -> None:
        """The pen is up: the ink stays until the line has taken its place."""
        if self.live is not None:
            self._lifted.append(self.live)
            self.live = None
        if self.layer.busy:
            self._go_on_painting()

    def line_laid(self, live: LivePull) -> None:
        """A lifted pull has become a line, or could not: its ink stays until the picture of the board is whole."""
        live.end()
        if not self.layer.busy and not self._outdated:
            self._drop_laid()

    # Painting

    def paint(self, painter: QPainter, size: QSize) -> None:
        """The board as it is, or was; where it lies otherwise now, the picture of before, moved with it."""
        view = self._viewport.view
        self._bring_up_to_date()
        if self._then is not None and self._then.view == view:
            draw_whole(painter, self._then.image)
        elif self.layer.view == view:
            draw_whole(painter, self.layer.image)
        else:
            painter.fillRect(QRect(0, 0, size.width(), size.height()), THEME.color("desk"))
            painter.save()
            if self.layer.view is not None:
                painter.setTransform(self.layer.view.transform.inverted()[0] * view.transform, True)
            painter.drawImage(0, 0, self.layer.image)
            painter.restore()

    def paint_pulls(self, painter: QPainter) -> None:
        """Ink of pulls that are no lines yet."""
        for live in self._lifted if self.live is None else [*self._lifted, self.live]:
            live.show(painter, self._viewport.view)

    def shows_then(self) -> bool:
        """Whether what is seen is the drawing as it was."""
        return self._then is not None and self._then.view == self._viewport.view

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
        self.layer.begin(self._viewport.view, self._size(), self.ratio)

    def _size(self) -> QSize:
        w, h = self._viewport.view.size
        return QSize(round(w), round(h))

    def _go_on_painting(self) -> None:
        self._slices.start(PEN_REST_MS if self.live is not None else 0)

    def _paint_slice(self) -> None:
        if self._unshown:
            self.shown.emit(self._unshown.pop(0))
        elif self._then is not None and self._then.busy:
            if self._then.work(SLICE_S) is not None:
                self.shown.emit(None)
        else:
            self._work_on()
        if not self.busy and not (self._then is not None and self._then.busy):
            self._slices.stop()

    def _work_on(self) -> None:
        # Under the pen, and while a drag edits lines, what lies behind may wait.
        short = self.live is not None or bool(self.layer.look.left_out)
        region = self.layer.work(PEN_SLICE_S if short else SLICE_S)
        if region is not None:
            self._renewed()
            if self.live is None:
                self.shown.emit(region)
            else:
                # A whole sheet at once would hold up the pen: it is shown strip by strip.
                size = self._size()
                rows = (QRect(0, top, size.width(), SHOWN_ROWS) for top in range(0, size.height(), SHOWN_ROWS))
                self._unshown = [region.intersected(row) for row in rows]
        elif self.layer.view is None:
            self.shown.emit(None)

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
            self.shown.emit(live.inked_region() if live.view == self._viewport.view else None)

    def _paint_then(self) -> None:
        if self._then is not None:
            self._then.begin(self._viewport.view, self._size(), self.ratio)
            if self._then.work(THEN_S) is None:
                self._slices.start(0)
            self.shown.emit(None)

    # What the job changes

    def _view_changed(self) -> None:
        self.redraw()
        self._paint_then()

    def _dim(self) -> None:
        part = self._session.part
        now = self._session.now
        alone = part.id if part is not None and now.alone else ""
        self.look(alone=alone, by_part=now.by_part, grey_ground=now.grey_ground)

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        tables = {change.table for change in rows}
        if len(rows) > MANY_ROWS:
            # To ask each of hundreds of strokes where it lies takes longer than to paint all anew, slice by slice.
            self._covers_seen = dict(self._session.covers.now())
            self.redraw()
        elif tables <= {"lines", "blacks", "families", "holds", "tones"}:
            self._lines_changed(rows)
        elif tables & {"board"}:
            self._viewport.fit_again()
            self.redraw()
        elif tables - {"nibs"}:
            self._covers_seen = dict(self._session.covers.now())
            self.redraw()

    def _lines_changed(self, rows: tuple[RowChange, ...]) -> None:
        uncovered = self._uncovered()
        if len(rows) == 1 and rows[0].before is None and uncovered.isEmpty() and not self._outdated:
            laid = self.layer.lay_on(rows[0].id)
            if laid is not None:
                self.shown.emit(laid)
                return
        for key in self._session.job.touched(rows):
            uncovered += self._touched(key)
        self.redraw_region(uncovered)

    def covers_before(self) -> list[Cover]:
        """Covers in front of the part in hand."""
        part = self._session.part
        covers = self._session.covers
        return covers.over(part.id) if part is not None else list(covers.now().values())

    def _uncovered(self) -> QRegion:
        """Where covers hide now what they did not hide when the board was painted last, or the other way round."""
        before, self._covers_seen = self._covers_seen, dict(self._session.covers.now())
        region = QRegion()
        for key in before.keys() | self._covers_seen.keys():
            old, new = before.get(key), self._covers_seen.get(key)
            if old is not new:
                region += box_region(changed_boxes(old, new), self._viewport.view)
        return region

    def _touched(self, key: str) -> QRegion:
        """Where a line's ink was when it was last painted, and where it is now."""
        index = self.layer.index
        old, new = index.shape(key), self.layer.shape(key) if self._session.job.inked(key) is not None else None
        index.put(key, new)
        region = QRegion()
        for shape in (old, new):
            if shape is not None:
                region += band_of(shape, self._viewport.view)
        return region
