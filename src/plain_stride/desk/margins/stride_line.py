"""The stride line: the stations in working order on an inked line, the job's name, and whether all is saved."""

from collections.abc import Callable, Collection
from datetime import datetime

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring
from plain_stride.desk.look.inked import stroke
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, NAME, STATION, THEME

HEIGHT = 66
LEFT, RIGHT = 178, 96
APART = 78
"""How wide each word that stands apart is."""


class StationWord(Painted, QAbstractButton):
    """A station's name with one fact under it."""

    def __init__(self, name: str, key: str) -> None:
        super().__init__()
        self.setText(name)
        self.setAccessibleName(name)
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setShortcut(f"Alt+{key}")
        self.setToolTip(f"Alt+{key}")
        self.key, self.fact, self.reached = key, "", False

    def reach(self, reached: bool) -> None:
        """Whether the work has come so far."""
        self.reached = reached

    def tell(self, fact: str) -> None:
        """The one fact under the name."""
        self.fact = fact
        self.setAccessibleDescription(fact)
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.setFont(THEME.font(STATION, bold=self.isChecked()))
        colour = "text" if self.reached else "chosen" if self.underMouse() else "ahead"
        painter.setPen(THEME.color(colour))
        box = QRectF(0, THEME.px(4), self.width(), THEME.px(22))
        painter.drawText(box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        fact = painter.fontMetrics().elidedText(self.fact, Qt.TextElideMode.ElideMiddle, self.width() - 4)
        painter.drawText(box.translated(0, THEME.px(19)), Qt.AlignmentFlag.AlignHCenter, fact)
        focus_ring(painter, self)


class StrideLine(Painted, QWidget):
    """chosen: a station's name. The line is inked up to the station in hand and pencilled beyond it."""

    chosen = Signal(str)
    menu_wanted = Signal()

    def __init__(self, stations: list[tuple[str, str]], apart: Collection[str] = ()) -> None:
        """stations: names and letters, in working order; apart: of those that stand beside the line."""
        super().__init__()
        self._apart, self._come_to = set(apart), ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._name, self._saved, self._fault = "", "", False
        self.progress: float | None = None
        self.words: dict[str, StationWord] = {}
        for name, key in stations:
            word = StationWord(name, key)
            word.setParent(self)
            word.clicked.connect(self._picker(name))
            self.words[name] = word
        self.menu = StationWord("Job", "J")
        self.menu.setParent(self)
        self.menu.setCheckable(False)
        self.menu.reach(True)
        self.menu.clicked.connect(self.menu_wanted.emit)
        self.setAccessibleName("Stations")
        THEME.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(900, THEME.px(HEIGHT))

    def show_job(self, name: str) -> None:
        self._name = name
        self.update()

    def show_saving(self, waiting: int, read_only: bool = False) -> None:
        """Says whether everything is on disk; 'saved' only when it is."""
        before, self._fault = (self._saved, self._fault), False
        if read_only:
            self._saved = "for reading only"
        elif waiting:
            self._saved = "saving"
        else:
            self._saved = f"all saved {datetime.now():%H:%M}"
        if (self._saved, False) != before:
            self.setAccessibleDescription(f"{self._name}: {self._saved}")
            # The words alone: this comes while a pen is at work.
            self.update(0, 0, THEME.px(LEFT) - 12, self.height())

    def show_unsaved(self) -> None:
        self._saved, self._fault = "not saved", True
        self.update()

    def show_station(self, name: str) -> None:
        self.words[name].setChecked(True)
        if name not in self._apart:
            self._come_to = name
        reached = True
        for word in self.words.values():
            word.reach(reached or word.text() in self._apart)
            reached = reached and word.text() != self._come_to
        self.update()

    def shown(self) -> str:
        """The station in hand, '' before there is one."""
        return next((name for name, word in self.words.items() if word.isChecked()), "")

    def show_fact(self, name: str, fact: str) -> None:
        self.words[name].tell(fact)

    def show_progress(self, share: float | None) -> None:
        """Long work: the pencilled line fills with ink."""
        self.progress = share
        self.update()

    def saved_words(self) -> str:
        return self._saved

    def _picker(self, name: str) -> Callable[[], None]:
        return lambda: self.chosen.emit(name)

    def resizeEvent(self, event: QResizeEvent) -> None:
        left, end = THEME.px(LEFT), self.width() - self._right()
        line = [word for name, word in self.words.items() if name not in self._apart]
        room = (end - left) / len(line)
        for n, word in enumerate(line):
            word.setGeometry(round(left + n * room), THEME.px(20), round(room), THEME.px(44))
        for n, name in enumerate(name for name in self.words if name in self._apart):
            at = end + THEME.px(10) + n * THEME.px(APART)
            self.words[name].setGeometry(at, THEME.px(20), THEME.px(APART), THEME.px(44))
        self.menu.setGeometry(self.width() - THEME.px(72), THEME.px(20), THEME.px(60), THEME.px(44))

    def _right(self) -> int:
        """Pixels right of the line."""
        return THEME.px(RIGHT) + len(self._apart) * THEME.px(APART)

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        painter.setPen(THEME.color("text"))
        painter.setFont(THEME.font(NAME, bold=True))
        room = THEME.px(LEFT) - 30
        name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideMiddle, room)
        painter.drawText(QRectF(18, THEME.px(10), room, THEME.px(26)), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("red" if self._fault else "faint"))
        painter.drawText(QRectF(18, THEME.px(34), room, THEME.px(18)), Qt.AlignmentFlag.AlignVCenter, self._saved)
        if event.rect().right() >= THEME.px(LEFT) - 12:
            self._paint_line(painter)

    def _paint_line(self, painter: QPainter) -> None:
        left, right = THEME.px(LEFT), self.width() - self._right()
        current = self.words.get(self._come_to)
        done = current.geometry().center().x() + THEME.px(24) if current is not None else left
        x = np.linspace(left, right, 160)
        y = THEME.px(16) + 2.6 * np.sin(x / 47.0) + 1.3 * np.sin(x / 21.0 + 1.0)
        ahead = x >= done - 2
        if ahead.sum() > 3:
            for off in (-1.0, 1.0):
                path = stroke(
                    np.column_stack([x[ahead], y[ahead] + off + 0.6 * np.sin(x[ahead] / 33.0 + off)]),
                    np.full(int(ahead.sum()), 1.1),
                )
                painter.fillPath(path, THEME.color("pencil"))
        upto = done if self.progress is None else left + (right - left) * self.progress
        inked = x <= upto
        if inked.sum() > 3:
            xs, ys = x[inked], y[inked]
            u = np.linspace(0.0, 1.0, len(xs))
            width = (1.2 + 2.6 * np.abs(np.sin(u * np.pi * 2.4))) * np.minimum(1.0, np.minimum(u, 1.0 - u) * 14 + 0.15)
            painter.fillPath(stroke(np.column_stack([xs, ys]), width), THEME.color("text"))
