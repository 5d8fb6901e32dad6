"""How the board lies behind the window and where the pointer is over it."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QObject, QPointF, QSize, QSizeF, Signal

from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.view import BoardView
from plain_stride.hand.pull import View

BORDER = (38.0, 36.0, 34.0, 14.0)
"""Pixels of desk left free round a fitted page: rulers stand in the left and upper ones."""
BOX_PX = 24.0
"""Pixels left free round a frame that fills the view."""
LOOK_PX_PER_MM = 14.0
PLAIN_PX_PER_MM = 96 / 25.4


def _as_it_is(at: QPointF) -> QPointF:
    return at


class Viewport(QObject):
    """view: the board as it lies; pointer: pixel under the pen, None where there is none; glass_px_per_mm: of the
    screen. Signals: changed (the board lies otherwise), pointed (the pointer is elsewhere), fitted (to the page anew).

    Places of the widget are brought to the screen, and back, by what it is given.
    """

    changed = Signal()
    pointed = Signal()
    fitted = Signal()

    def __init__(
        self,
        session: Session,
        glass_px_per_mm: float = PLAIN_PX_PER_MM,
        to_screen: Callable[[QPointF], QPointF] = _as_it_is,
        from_screen: Callable[[QPointF], QPointF] = _as_it_is,
    ) -> None:
        super().__init__()
        self._session = session
        self.view = BoardView(2.0)
        self.glass_px_per_mm = glass_px_per_mm
        self._to_screen, self._from_screen = to_screen, from_screen
        self.pointer: QPointF | None = None
        self._is_fitted, self._frozen = True, False
        self._kept = (0, 0)

    # How the board lies

    def set_view(self, view: BoardView, fitted: bool = False) -> None:
        """Shows the board so. Nothing moves while it is frozen: ink under the pen lies where this view had it."""
        if self._frozen:
            return
        self._is_fitted = fitted
        self._session.lies_at(view.scale / self.glass_px_per_mm)
        if view != self.view:
            self.view = view
            self.changed.emit()

    def freeze(self, on: bool) -> None:
        """The pen is down, or up again."""
        self._frozen = on

    def resize(self, size: QSize) -> None:
        """Another size, in pixels; a board that was fitted is fitted again."""
        self.view = self.view.resized(QSizeF(size))
        if self._is_fitted:
            self.fit()

    def fit(self) -> None:
        """The whole page, upright."""
        left, top, right, bottom = (float(THEME.px(b)) for b in BORDER)
        border = (left + self._kept[0], top, right + self._kept[1], bottom)
        self.set_view(self.view.fitted(self._session.job.page.size_mm, border), fitted=True)
        self.fitted.emit()

    def fit_again(self) -> None:
        """The page has another size: fitted again if it was."""
        if self._is_fitted:
            self.fit()

    def keep_free(self, left: int, right: int) -> None:
        """So many pixels at the sides are taken by something else: a board that is fitted leaves them room."""
        if (left, right) != self._kept:
            self._kept = (left, right)
            self.fit_again()

    def upright(self) -> None:
        self.set_view(self.view.turned(-self.view.turn, self.about()))

    def print_size(self) -> None:
        """1 mm on the glass for 1 mm in print, round the pen."""
        self.set_view(self.view.enlarged(self.glass_px_per_mm / self.view.scale, self.about()))

    def working_size(self) -> None:
        """Print size times the enlargement it is inked at, round the pen."""
        scale = self.glass_px_per_mm * self._session.job.page.enlarge
        self.set_view(self.view.enlarged(scale / self.view.scale, self.about()))

    def show_print_size(self) -> None:
        """The whole page upright, 1 mm on the glass for 1 mm in print."""
        w, h = self._session.job.page.size_mm
        self.set_view(replace(self.view, scale=self.glass_px_per_mm, turn=0.0, centre=(w / 2.0, h / 2.0)))

    def look_at(self, x: float, y: float) -> None:
        """Brings a place in mm to the middle, near enough to see it."""
        self.set_view(replace(self.view, centre=(x, y), scale=max(self.view.scale, LOOK_PX_PER_MM)))

    def show_box(self, box: tuple[float, float, float, float]) -> None:
        """Brings a box in mm up to fill the view, upright."""
        (x0, y0, x1, y1), (w, h) = box, self.view.size
        scale = min((w - 2 * BOX_PX) / (x1 - x0), (h - 2 * BOX_PX) / (y1 - y0))
        self.set_view(replace(self.view, scale=scale, turn=0.0, centre=((x0 + x1) / 2.0, (y0 + y1) / 2.0)))

    def go_back(self, view: BoardView) -> None:
        """Shows the board as an earlier view had it, at the size of now."""
        self.set_view(view.resized(QSizeF(*self.view.size)))

    def mirror(self) -> None:
        self.set_view(self.view.mirrored(self.about()))

    def mirror_down(self) -> None:
        """Mirrored top to bottom: left to right, and half round."""
        self.set_view(self.view.mirrored(self.about()).turned(180.0, self.about()))

    # The pointer

    def point(self, at: QPointF | None) -> None:
        self.pointer = at
        self.pointed.emit()

    def carry(self, at: QPointF) -> None:
        """The pointer goes with a pull, and nothing is shown of it."""
        self.pointer = at

    def about(self) -> QPointF:
        """The pixel under the pen, else the middle."""
        return self.pointer if self.pointer is not None else QPointF(self.view.size[0] / 2.0, self.view.size[1] / 2.0)

    def place(self) -> tuple[float, float]:
        """mm on the sheet under the pen, else in the middle."""
        return self.view.to_board(self.about())

    # Against the screen

    def measured(self, glass_px_per_mm: float) -> None:
        """The screen has so many pixels a mm."""
        self.glass_px_per_mm = glass_px_per_mm

    def glass(self) -> float:
        """mm on the glass for one mm of the finished sheet."""
        return self.view.scale / self.glass_px_per_mm

    def per_cent(self) -> float:
        """How large the print is seen: 100 when 1 mm of it takes 1 mm of glass."""
        return self.glass() * 100.0

    def lay(self) -> View:
        """How the board lies now, as a pull keeps it."""
        x, y = self.view.to_glass(np.zeros((1, 2)))[0]
        corner = self._to_screen(QPointF(x, y)) / self.glass_px_per_mm
        return View(self.glass(), self.view.turn, self.view.mirror, (corner.x(), corner.y()))

    def from_glass(self, x: float, y: float) -> QPointF:
        """The pixel at a place in mm of the screen's glass."""
        return self._from_screen(QPointF(x, y) * self.glass_px_per_mm)
