"""Pen, mouse, fingers and wheel over the sheet, read into plain events for the gestures."""

import math
import time
from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import (
    QInputDevice,
    QMouseEvent,
    QPointingDevice,
    QPointingDeviceUniqueId,
    QTabletEvent,
    QTouchEvent,
    QWheelEvent,
)

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.two_fingers import TwoFingers

WHEEL_STEP, TURN_STEP = 1.18, 5.0
PALM_S = 0.6
"""Touches this soon after the pen was seen are a palm."""
TOUCHES = (QEvent.Type.TouchBegin, QEvent.Type.TouchUpdate, QEvent.Type.TouchEnd, QEvent.Type.TouchCancel)
_PRESS, _MOVE, _RELEASE = QEvent.Type.TabletPress, QEvent.Type.TabletMove, QEvent.Type.TabletRelease


class EventReader(QObject):
    """pen_button: the pen's own button goes down (True) or up."""

    pen_button = Signal(bool)

    def __init__(self, context: SheetContext, gestures: Gestures, shift_held: Callable[[], bool]) -> None:
        """shift_held: whether the key is down, which events of a pen do not tell."""
        super().__init__()
        self._context, self._gestures, self._shift_held = context, gestures, shift_held
        self._known_pens: list[QPointingDeviceUniqueId] = []
        self._pen_seen = -math.inf
        self._fingers = TwoFingers()

    # The pen

    def tablet(self, event: QTabletEvent) -> None:
        event.accept()
        kind, button = event.type(), event.button()
        self._pen_seen = time.perf_counter()
        if event.pointerType() == QPointingDevice.PointerType.Eraser and self._erases(kind, button, event):
            return
        if button == Qt.MouseButton.RightButton and kind in (_PRESS, _RELEASE):
            if kind == _PRESS:
                self._context.viewport.point(event.position())
            self.pen_button.emit(kind == _PRESS)
        elif kind == _PRESS and button == Qt.MouseButton.LeftButton:
            self._watch(event.pointingDevice())
            self._gestures.down(self._of_pen(event))
        elif kind == _MOVE:
            self._gestures.move(self._of_pen(event))
        elif kind == _RELEASE and button == Qt.MouseButton.LeftButton:
            self._gestures.up(self._of_pen(event))

    def _erases(self, kind: QEvent.Type, button: Qt.MouseButton, event: QTabletEvent) -> bool:
        """Whether the event was the eraser's at work."""
        if kind == _PRESS and button:
            self._gestures.other_down(self._gestures.rubbing, self._of_pen(event))
            return True
        if kind == _RELEASE:
            self._gestures.other_up(self._of_pen(event))
            return True
        return self._gestures.other_move(self._of_pen(event))

    def _of_pen(self, event: QTabletEvent) -> PointerEvent:
        """A pen that cannot tell its pressure draws as a mouse does, with the middle of the nib."""
        device = event.pointingDevice()
        tells = device is None or device.hasCapability(QInputDevice.Capability.Pressure)
        pressure = event.pressure() if tells else self._context.session.nib_now.middle_pressure
        more = event.type() == _PRESS and self._shift_held()
        tilt = math.hypot(event.xTilt(), event.yTilt())
        stamp = event.timestamp() / 1000.0
        return PointerEvent(event.position(), self._context.view, pressure, stamp, tilt, "pen", more)

    def _watch(self, device: QPointingDevice | None) -> None:
        """A tablet that is pulled out in the middle of a pull ends it."""
        if device is not None and device.uniqueId() not in self._known_pens:
            self._known_pens.append(device.uniqueId())
            device.destroyed.connect(self.pen_gone)

    def pen_gone(self) -> None:
        """Ends the pull of a pen that went away."""
        live = self._gestures.pull.live
        if live is not None and live.device == "pen":
            self._gestures.end_pull()
            self._context.say("The pen went away in mid-pull: the line is kept as far as it came.")

    # Fingers

    def touch(self, event: QTouchEvent) -> None:
        event.accept()
        if self._gestures.pull.live is not None or time.perf_counter() - self._pen_seen < PALM_S:
            self._fingers.let_go()
            if event.type() == QEvent.Type.TouchBegin:
                self._context.say("A touch beside the pen was left out: fingers count once the pen is away.")
        elif event.type() in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self._fingers.let_go()
        else:
            viewport = self._context.viewport
            viewport.set_view(self._fingers.moved([p.position() for p in event.points()], viewport.view))

    # The mouse

    def mouse_down(self, event: QMouseEvent) -> None:
        gestures, plain = self._gestures, self._of_mouse(event)
        if event.button() == Qt.MouseButton.LeftButton:
            gestures.down(plain)
        elif event.button() == Qt.MouseButton.RightButton:
            gestures.other_down(gestures.choosing, plain)
        elif event.button() == Qt.MouseButton.MiddleButton:
            gestures.other_down(gestures.dragging, plain)

    def mouse_moved(self, event: QMouseEvent) -> None:
        plain = self._of_mouse(event)
        others = Qt.MouseButton.MiddleButton | Qt.MouseButton.RightButton
        if not (event.buttons() & others and self._gestures.other_move(plain)):
            self._gestures.move(plain)

    def mouse_up(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._gestures.up(self._of_mouse(event))
        else:
            self._gestures.other_up(self._of_mouse(event))

    def _of_mouse(self, event: QMouseEvent) -> PointerEvent:
        stamp = event.timestamp() / 1000.0 if event.timestamp() else time.perf_counter()
        pressure = self._context.session.nib_now.middle_pressure
        more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        return PointerEvent(event.position(), self._context.view, pressure, stamp, device="mouse", more=more)

    def wheel(self, event: QWheelEvent) -> None:
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120.0
        viewport, at = self._context.viewport, QPointF(event.position())
        if self._gestures.wheel_in_tool(turns):
            event.accept()
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            viewport.set_view(viewport.view.turned(TURN_STEP * turns, at))
        else:
            viewport.set_view(viewport.view.enlarged(WHEEL_STEP**turns, at))
        event.accept()


def made_of_a_pen(event: QMouseEvent) -> bool:
    """Mouse events that a system makes of pen or touch events are dropped: the pen came by itself."""
    device = event.pointingDevice()
    kinds = (QInputDevice.DeviceType.Stylus, QInputDevice.DeviceType.TouchScreen)
    return isinstance(device, QPointingDevice) and device.type() in kinds
