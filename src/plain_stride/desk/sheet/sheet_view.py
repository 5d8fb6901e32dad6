"""The sheet on its desk: the widget that shows the board and takes pen, mouse, fingers and keys."""

from dataclasses import replace

from PySide6.QtCore import QEvent, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QRegion,
    QResizeEvent,
    QTabletEvent,
    QTouchEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state import State
from plain_stride.desk.sheet.compositor import Compositor
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.events import TOUCHES, EventReader, made_of_a_pen
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.gestures.key_points import KeyPoints
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.sheet.overlay import Overlay
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.sheet.viewport import PLAIN_PX_PER_MM, Viewport
from plain_stride.desk.workers.owned import owned

_SHIFT, _CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def _shift_held() -> bool:
    return bool(QGuiApplication.keyboardModifiers() & _SHIFT)


class SheetView(Painted, QWidget):
    """viewport: how the board lies; compositor: its picture; gestures: what drags do; key_points: pulling by keys;
    overlay: what lies over the picture; reader: of events. resized: it has another size."""

    resized = Signal()

    def __init__(self, session: Session, glass_px_per_mm: float = PLAIN_PX_PER_MM) -> None:
        super().__init__()
        self.setAccessibleName("The sheet")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        for attribute in (Qt.WidgetAttribute.WA_OpaquePaintEvent, Qt.WidgetAttribute.WA_AcceptTouchEvents):
            self.setAttribute(attribute)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 240)
        self.setCursor(Qt.CursorShape.BlankCursor)
        self.viewport = owned(self, Viewport(session, glass_px_per_mm, self.mapToGlobal, self.mapFromGlobal))
        self.compositor = owned(self, Compositor(session, self.viewport))
        context = SheetContext(session, self.viewport, self.compositor, self.show_anew)
        self.gestures = owned(self, Gestures(context))
        self.key_points = KeyPoints(context, lambda: self.gestures.held == "nudge", self.setAccessibleDescription)
        self.overlay = Overlay(context)
        self.overlay.add(self.gestures.paint, self.key_points.paint)
        self.overlay.tell(self._tool_word, lambda: self.shows_near, self.gestures.moves_chosen)
        self.shows_near = False
        self.reader = owned(self, EventReader(context, self.gestures, _shift_held))
        self.context = context
        self._ringed = False
        self.compositor.shown.connect(self.show_anew)
        self.viewport.pointed.connect(lambda: self.update(self.overlay.pointed()))
        session.state.changed.connect(self._state_changed)
        session.strokes.tried_changed.connect(lambda centre: self.update())
        THEME.changed.connect(self.compositor.redraw)

    def _tool_word(self) -> str:
        """What a drag does, where that is not to pull a line."""
        word = self.gestures.word()
        return "" if word.startswith("pull") else word

    def show_near(self, on: bool) -> None:
        """Whether something is shown round the pen that goes with it."""
        self.shows_near = on
        self.update()

    @property
    def view(self) -> BoardView:
        """The board as it lies."""
        return self.viewport.view

    @property
    def layer(self) -> InkLayer:
        """The picture of the board."""
        return self.compositor.layer

    def show_anew(self, region: QRegion | None) -> None:
        """Shows some pixels anew, or all."""
        if region is None:
            self.update()
        else:
            self.update(region)

    def _state_changed(self, before: State, now: State) -> None:
        """What is in hand and chosen is shown over the board. What each lift and each zoom set is not, and the whole
        sheet painted for it would hold up the next pull."""
        if now.again or replace(before, glass=now.glass, last_line=now.last_line) != now:
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, 600)

    # Painting

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        self.compositor.use_ratio(self.devicePixelRatioF())
        self.compositor.paint(painter, self.size())
        if self.compositor.shows_then():
            return
        self.overlay.paint(painter, self.view)
        if self._ringed:
            focus_ring(painter, self)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.viewport.resize(self.size())
        self.compositor.redraw()
        self.resized.emit()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """The ring shows where the keyboard brought the focus here; a pen or a mouse needs none."""
        self._ringed = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._ringed = False
        self.update()

    def is_ringed(self) -> bool:
        """Whether the ring of the keyboard's focus is shown."""
        return self._ringed

    # Events

    def tabletEvent(self, event: QTabletEvent) -> None:
        if event.type() == QEvent.Type.TabletPress:
            # What was typed in before keeps its text, and gets no more keys: they are the free hand's again.
            self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.reader.tablet(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event):
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self.reader.mouse_down(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event):
            self.reader.mouse_moved(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not made_of_a_pen(event):
            self.reader.mouse_up(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.reader.wheel(event)

    def event(self, event: QEvent) -> bool:
        if event.type() not in TOUCHES:
            return super().event(event)
        assert isinstance(event, QTouchEvent)
        self.reader.touch(event)
        return True

    def leaveEvent(self, event: QEvent) -> None:
        self.viewport.point(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = event.modifiers()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.gestures.finish_tool():
            return
        if event.key() == Qt.Key.Key_Backspace and self.gestures.take_back_in_tool():
            return
        if not self.key_points.key(Qt.Key(event.key()), bool(keys & _SHIFT), bool(keys & _CONTROL)):
            super().keyPressEvent(event)
