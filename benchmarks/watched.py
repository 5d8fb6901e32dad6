"""A window whose stretches of work are timed: how long one event held its thread, and when frames were flushed."""

import time
from collections.abc import Callable

from PySide6.QtCore import QEvent

from plain_stride.desk.main_window import MainWindow
from plain_stride.desk.session.strokes import Strokes
from plain_stride.desk.sheet.compositor import Compositor
from plain_stride.desk.sheet.gestures.pulling import PullGesture
from plain_stride.desk.sheet.sheet_view import SheetView
from plain_stride.desk.workers.update_scheduler import UpdateScheduler

held: list[tuple[float, float]] = []
"""(when it ended, s; how long it took, s) of every stretch of work on the window's thread."""


class WatchedShell(MainWindow):
    """Knows when a frame has been painted and flushed."""

    flushed = staticmethod(lambda: None)

    def event(self, event: QEvent) -> bool:
        begun = time.perf_counter()
        done = super().event(event)
        if event.type() == QEvent.Type.UpdateRequest:
            held.append((time.perf_counter(), time.perf_counter() - begun))
            self.flushed()
        return done


def watch() -> None:
    """Has every stretch of work timed that a pen or a change brings to the window's thread."""
    for kind, name in (
        (SheetView, "tabletEvent"),
        (PullGesture, "_catch_up"),
        (Compositor, "_paint_slice"),
        (Strokes, "_lay_worked"),
        (Strokes, "_tell_laid"),
        (UpdateScheduler, "_next"),
    ):
        setattr(kind, name, _timed(getattr(kind, name)))


def longest(since: float, until: float) -> float:
    """The longest stretch (s) that ended between two times."""
    return max((spent for at, spent in held if since <= at <= until), default=0.0)


def _timed(work: Callable[..., object]) -> Callable[..., object]:
    def timed(*arguments: object) -> object:
        begun = time.perf_counter()
        try:
            return work(*arguments)
        finally:
            held.append((time.perf_counter(), time.perf_counter() - begun))

    return timed
