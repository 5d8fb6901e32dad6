"""The simulated pen: plays samples as real tablet events into a widget, as fast as they come or by the clock."""

import time
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QCoreApplication, QEvent, QPointF, Qt
from PySide6.QtGui import QInputDevice, QPointingDevice, QTabletEvent
from PySide6.QtWidgets import QWidget


class PenPlayer:
    """A stand-in for a pen: pressure, tilt and time stamps of its own; or one that cannot tell its pressure."""

    def __init__(self, widget: QWidget, eraser: bool = False, presses: bool = True) -> None:
        self.widget = widget
        end = QPointingDevice.PointerType.Eraser if eraser else QPointingDevice.PointerType.Pen
        can = QInputDevice.Capability
        self.device = QPointingDevice(
            "simulated pen", 4711, QInputDevice.DeviceType.Stylus, end,
            can.Position | (can.Pressure if presses else can.XTilt) | can.XTilt | can.YTilt, 1, 2, "simulated",
        )  # fmt: skip

    def play(self, pixels: np.ndarray, by_clock: bool = False, between: Callable[[], None] | None = None) -> None:
        """Pulls once along rows (n, 5): x, y in pixels of the widget, pressure, seconds, tilt. Press, moves, lift."""
        started = time.perf_counter()
        for k, row in enumerate(pixels):
            if by_clock:
                wait = row[3] - (time.perf_counter() - started)
                if wait > 0:
                    time.sleep(wait)
            self.send(QEvent.Type.TabletPress if k == 0 else QEvent.Type.TabletMove, row)
            if between is not None:
                between()
        last = pixels[-1].copy()
        last[2] = 0.0
        self.send(QEvent.Type.TabletRelease, last)
        if between is not None:
            between()

    def send(
        self,
        kind: QEvent.Type,
        row: np.ndarray,
        button: Qt.MouseButton = Qt.MouseButton.LeftButton,
        keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> bool:
        """One event, delivered at once; whether the widget took it: where none does, a system sends a mouse instead."""
        at = QPointF(float(row[0]), float(row[1]))
        down = Qt.MouseButton.NoButton if kind == QEvent.Type.TabletRelease else button
        if kind == QEvent.Type.TabletMove:
            button = Qt.MouseButton.NoButton
        tilt = 0.0 if np.isnan(row[4]) else float(row[4])
        everywhere = QPointF(self.widget.mapToGlobal(at.toPoint())) + (at - QPointF(at.toPoint()))
        event = QTabletEvent(
            kind, self.device, at, everywhere, float(row[2]), tilt, 0.0, 0.0, 0.0, 0.0, keys, button, down
        )
        event.setTimestamp(round(float(row[3]) * 1000.0) + 1000)
        event.ignore()
        QCoreApplication.sendEvent(self.widget, event)
        return event.isAccepted()


def on_glass(samples: np.ndarray, to_glass: Callable[[np.ndarray], np.ndarray]) -> np.ndarray:
    """Samples in mm of the sheet as rows in pixels of the widget."""
    out = samples.copy()
    out[:, :2] = to_glass(samples[:, :2])
    return out
