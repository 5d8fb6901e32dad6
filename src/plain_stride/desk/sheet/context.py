"""What gestures work on: the session, the board as it lies, its picture, and what lies under a place."""

from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QRegion

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.compositor import Compositor
from plain_stride.desk.sheet.hit_test import HitTest, Touch
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.sheet.viewport import Viewport


def _for_nobody(region: QRegion | None) -> None:
    """There is no window to show it in."""


@dataclass(eq=False)
class SheetContext:
    """repaint: shows a region of pixels anew, or all."""

    session: Session
    viewport: Viewport
    compositor: Compositor
    repaint: Callable[[QRegion | None], None] = field(default=_for_nobody)

    @cached_property
    def hits(self) -> HitTest:
        return HitTest(self.session)

    @property
    def view(self) -> BoardView:
        return self.viewport.view

    def say(self, words: str, fault: bool = False) -> None:
        self.session.said.emit(words, fault)

    def refuses(self) -> bool:
        """Whether no pull can begin now, which is said."""
        reason = self.session.guard()
        if reason:
            self.say(reason, True)
        return bool(reason)

    def line_under(self, at: QPointF | None = None, first: Collection[str] = ()) -> Touch | None:
        """The line under a pixel, under the pen by default. first: lines that go before all others."""
        at = at if at is not None else self.viewport.pointer
        return None if at is None else self.hits.line_at(self.view.to_board(at), self.view.scale, first)

    def open_line_under(self, at: QPointF | None = None, first: Collection[str] = ()) -> Touch | None:
        """The line under a pixel that may be changed; of a locked part's it is said that it is locked."""
        touch = self.line_under(at, first)
        locked = self.session.locked_part(touch.line) if touch is not None else ""
        if locked:
            self.say(f"Part '{locked}' is locked: unlock it to change its lines.", True)
            return None
        return touch

    def ink_under(self, at: QPointF | None = None) -> str:
        """The line under a pixel, else the black there, else nothing."""
        touch = self.line_under(at)
        place = at if at is not None else self.viewport.pointer
        if touch is not None or place is None:
            return touch.line if touch is not None else ""
        return self.hits.black_at(self.view.to_board(place))

    def place_of(self, touch: Touch) -> np.ndarray:
        """(2,) mm of a place on a line."""
        return self.session.shapes[touch.line].arc.point(np.array([touch.s]))[0]
