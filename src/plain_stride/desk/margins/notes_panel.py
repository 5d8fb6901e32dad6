"""The right margin: what is in hand, the notes of the station or the list of parts, the ink at arm's length."""

from collections.abc import Iterable

from PySide6.QtCore import QPoint, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import HairLine
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, THEME

WIDTH = 288
FOLD = 18


class _More(Painted, QWidget):
    """At the fold, where there is more below it."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFixedHeight(THEME.px(FOLD))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
        painter.fillRect(0, 0, self.width(), 1, THEME.color("hair"))
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "more below ")


class FoldedArea(QScrollArea):
    """A column that scrolls where it is longer than its room, and says so at the fold."""

    def __init__(self, inner: QWidget) -> None:
        super().__init__()
        self.setWidget(inner)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._more = _More(self)
        bar = self.verticalScrollBar()
        bar.valueChanged.connect(self._show_fold)
        bar.rangeChanged.connect(self._show_fold)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_fold()

    def show_top(self) -> None:
        self.verticalScrollBar().setValue(0)

    def below(self) -> int:
        """Pixels of the column that lie below the fold."""
        bar = self.verticalScrollBar()
        return bar.maximum() - bar.value()

    def _show_fold(self) -> None:
        self._more.setVisible(self.below() > 0)
        at = self.viewport().geometry()
        self._more.setFixedWidth(at.width())
        self._more.move(QPoint(at.x(), at.bottom() + 1 - self._more.height()))
        self._more.raise_()


class NotesPanel(QWidget):
    """Notes scroll where they are longer than the window; what stands above and below them stays. The list of parts
    takes their place while it is asked for."""

    def __init__(self, above: QWidget, notes: Iterable[QWidget], parts: QWidget, below: QWidget) -> None:
        super().__init__()
        self.setObjectName("notes")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(THEME.px(WIDTH))
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(18), THEME.px(4), THEME.px(10), 0)
        column.setSpacing(0)
        column.addWidget(above)
        column.addWidget(HairLine())
        self.fold = FoldedArea(_column_of(notes))
        self.parts = parts
        column.addWidget(self.fold, 1)
        column.addWidget(self.parts, 1)
        column.addWidget(HairLine())
        column.addWidget(below)
        self.show_parts(False)

    def show_parts(self, shown: bool) -> None:
        """The list of parts in the notes' place, or the notes."""
        self.parts.setVisible(shown)
        self.fold.setVisible(not shown)

    def parts_shown(self) -> bool:
        return not self.parts.isHidden()


class _Inner(QWidget):
    """As high as its width makes it: what its sentences would need if they were narrower is not asked."""

    def minimumSizeHint(self) -> QSize:
        return QSize(0, 0)


def _column_of(notes: Iterable[QWidget]) -> QWidget:
    inner = _Inner()
    inner.setObjectName("notesInner")
    inside = QVBoxLayout(inner)
    inside.setContentsMargins(0, THEME.px(4), THEME.px(8), THEME.px(4))
    inside.setSpacing(THEME.px(2))
    for one in notes:
        inside.addWidget(one)
    inside.addStretch(1)
    return inner
