"""The application object, which hears of a pen that goes away."""

from PySide6.QtCore import QEvent, Signal
from PySide6.QtWidgets import QApplication


class Application(QApplication):
    """pen_away: a pen has left the tablet's reach; the system tells that to the application, not to a window."""

    pen_away = Signal()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.TabletLeaveProximity:
            self.pen_away.emit()
        return super().event(event)
