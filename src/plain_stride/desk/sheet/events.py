"""Pen, mouse, fingers and wheel over the sheet, as what they mean: down, move, up, choose, rub, move the board."""

import math
import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import (
    QInputDevice,
    QKeyEvent,
    QMouseEvent,
    QPointingDevice,
    QPointingDeviceUniqueId,
    QTabletEvent,
    QTouchEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.key_pen import KeyPen
from plain_stride.desk.sheet.live_pull import LivePull
from plain_stride.desk.sheet.spring_loaded import SpringLoadedTools
from plain_stride.desk.sheet.two_fingers import TwoFingers
from plain_stride.desk.sheet.view import BoardView

WHEEL_STEP, TURN_STEP = 1.18, 5.0
LOOP_PX = 6.0
PALM_S, RUB_PX = 0.6, 5.0
"""Touches this soon after the pen was seen are a palm; an eraser that moves farther than RUB_PX strokes."""
RUBS = ("trim", "cut", "whole")
"""What a touch of the pen's other end takes away: back to the nearest crossings, nothing but the join, the line."""
TOUCHES = (QEvent.Type.TouchBegin, QEvent.Type.TouchUpdate, QEvent.Type.TouchEnd, QEvent.Type.TouchCancel)


class SheetEvents(QWidget):
    """What the sheet is built on: it turns events into calls of the sheet's own `_down`, `_move`, `_up` and so on."""

    session: Session
    view: BoardView
    live: LivePull | None
    pointer: QPointF | None
    hold: SpringLoadedTools
    key_pen: KeyPen

    def __init__(self) -> None:
        super().__init__()
        self._rubbed: QPointF | None = None
        self._chooses: QPointF | None = None
        self._watched: list[QPointingDeviceUniqueId] = []
        self._pen_seen = -math.inf
        self._fingers = TwoFingers()
        self.on_pen_button: Callable[[bool], None] = lambda down: None
        self.rub_how = RUBS[0]

    if TYPE_CHECKING:

        def _down(self, at: QPointF, pressure: float, stamp: float, tilt: float, device: str) -> None: ...
        def _move(self, at: QPointF, pressure: float, stamp: float, tilt: float) -> None: ...
        def _up(self, at: QPointF) -> None: ...
        def point(self, at: QPointF | None) -> None: ...
        def begin_hold(self, what: str) -> None: ...
        def end_hold(self) -> None: ...
        def rub_under(self, how: str, at: QPointF | None = None) -> None: ...
        def choose_at(self, at: QPointF | None, more: bool) -> None: ...
        def set_view(self, view: BoardView, fitted: bool = False) -> None: ...

    def tabletEvent(self, event: QTabletEvent) -> None:
        event.accept()
        at, stamp = event.position(), event.timestamp() / 1000.0
        tilt = math.hypot(event.xTilt(), event.yTilt())
        kind = event.type()
        self._pen_seen = time.perf_counter()
        if kind == QEvent.Type.TabletPress:
            # What was typed in before keeps its text, and gets no more keys: they are the free hand's again.
            self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.pointerType() == QPointingDevice.PointerType.Eraser and (self._rubbed is not None or event.button()):
            self._rub(kind, at)
        elif kind == QEvent.Type.TabletPress:
            if event.button() == Qt.MouseButton.RightButton:
                self.point(at)
                self.on_pen_button(True)
            elif event.button() == Qt.MouseButton.LeftButton:
                self._watch(event.pointingDevice())
                self._down(at, self._pressure(event), stamp, tilt, "pen")
        elif kind == QEvent.Type.TabletMove:
            self._move(at, self._pressure(event), stamp, tilt)
        elif kind == QEvent.Type.TabletRelease and event.button() == Qt.MouseButton.LeftButton:
            self._up(at)
        elif kind == QEvent.Type.TabletRelease and event.button() == Qt.MouseButton.RightButton:
            self.on_pen_button(False)

    def _pressure(self, event: QTabletEvent) -> float:
        """A pen that cannot tell its pressure draws as a mouse does, with the middle of the nib."""
        device = event.pointingDevice()
        tells = device is None or device.hasCapability(QInputDevice.Capability.Pressure)
        return event.pressure() if tells else self.session.nib_now.middle_pressure

    def _rub(self, kind: QEvent.Type, at: QPointF) -> None:
        """The eraser end: a touch trims the stretch under it, a stroke shaves the line, up is lighter."""
        if kind == QEvent.Type.TabletPress:
            self._rubbed = at
            self.point(at)
            self.begin_hold("shave")
        elif self._rubbed is not None and kind == QEvent.Type.TabletMove:
            if (at - self._rubbed).manhattanLength() > RUB_PX:
                self._move(at, 0.0, 0.0, 0.0)
        elif self._rubbed is not None:
            touched = self._rubbed if (at - self._rubbed).manhattanLength() <= RUB_PX else None
            self._rubbed = None
            self.end_hold()
            if touched is not None:
                self.point(touched)
                self.rub_under(self.rub_how)

    def _watch(self, device: QPointingDevice | None) -> None:
        """A tablet that is pulled out in the middle of a pull ends it."""
        if device is not None and device.uniqueId() not in self._watched:
            self._watched.append(device.uniqueId())
            device.destroyed.connect(self.finish_pull)

    def end_pull(self) -> None:
        """Ends the pull in hand as if the pen had been lifted where it was seen last."""
        if self.live is not None and self.pointer is not None:
            self._up(self.pointer)

    def finish_pull(self) -> None:
        """Ends the pull of a pen that went away."""
        if self.live is not None and self.live.device == "pen":
            self.end_pull()
            self.session.said.emit("The pen went away in mid-pull: the line is kept as far as it came.", False)

    def event(self, event: QEvent) -> bool:
        if event.type() not in TOUCHES:
            return super().event(event)
        assert isinstance(event, QTouchEvent)
        event.accept()
        if self.live is not None or time.perf_counter() - self._pen_seen < PALM_S:
            self._fingers.let_go()
            if event.type() == QEvent.Type.TouchBegin:
                self.session.said.emit(
                    "A touch beside the pen was left out: fingers count once the pen is away.", False
                )
        elif event.type() in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self._fingers.let_go()
        else:
            self.set_view(self._fingers.moved([p.position() for p in event.points()], self.view))
        return True

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._from_pen(event):
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.button() == Qt.MouseButton.LeftButton:
            self._down(event.position(), self.session.nib_now.middle_pressure, _stamp(event), math.nan, "mouse")
        elif event.button() == Qt.MouseButton.RightButton:
            self._chooses = event.position()
        elif event.button() == Qt.MouseButton.MiddleButton:
            self.hold.drag_from(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from_pen(event):
            return
        if event.buttons() & Qt.MouseButton.MiddleButton:
            self.hold.drag_board("move", event.position())
            return
        if event.buttons() & Qt.MouseButton.RightButton and self._chooses is not None:
            self._draw_round(event)
            return
        self._move(event.position(), self.session.nib_now.middle_pressure, _stamp(event), math.nan)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._from_pen(event):
            return
        if event.button() == Qt.MouseButton.LeftButton:
            self._up(event.position())
        elif event.button() == Qt.MouseButton.RightButton and self._chooses is not None:
            at, self._chooses = self._chooses, None
            if self.hold.loop:
                self.hold.up()
            else:
                self.choose_at(at, _more(event))

    def _draw_round(self, event: QMouseEvent) -> None:
        """The right button moved: a loop round lines to choose."""
        assert self._chooses is not None
        if self.hold.loop:
            self.hold.move(event.position())
        elif (event.position() - self._chooses).manhattanLength() > LOOP_PX:
            self.hold.begin_loop(self._chooses, _more(event))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.key_pen.key(event):
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.set_view(self.view.turned(TURN_STEP * turns, event.position()))
        else:
            self.set_view(self.view.enlarged(WHEEL_STEP**turns, event.position()))
        event.accept()

    def _from_pen(self, event: QMouseEvent) -> bool:
        """Mouse events that a system makes of pen or touch events are dropped: the pen came by itself."""
        device = event.pointingDevice()
        kinds = (QInputDevice.DeviceType.Stylus, QInputDevice.DeviceType.TouchScreen)
        return isinstance(device, QPointingDevice) and device.type() in kinds


def _more(event: QMouseEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)


def _stamp(event: QMouseEvent) -> float:
    return event.timestamp() / 1000.0 if event.timestamp() else time.perf_counter()
