"""The right margin: what was just said, the notes of the station in hand, the parts, the ink at arm's length."""

from collections.abc import Iterable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import HairLine
from plain_stride.desk.look.theme import THEME

WIDTH = 288


class NotesPanel(QWidget):
    """Notes scroll where they are longer than the window; what stands above and below them stays."""

    def __init__(self, above: QWidget, notes: Iterable[QWidget], below: QWidget) -> None:
        super().__init__()
        self.setObjectName("notes")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(THEME.px(WIDTH))
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(18), THEME.px(6), THEME.px(10), 0)
        column.setSpacing(0)
        column.addWidget(above)
        self._scroll = QScrollArea()
        self._scroll.setWidget(_column_of(notes))
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(self._scroll, 1)
        column.addWidget(HairLine())
        column.addWidget(below)

    def show_top(self) -> None:
        self._scroll.verticalScrollBar().setValue(0)


def _column_of(notes: Iterable[QWidget]) -> QWidget:
    inner = QWidget()
    inner.setObjectName("notesInner")
    inside = QVBoxLayout(inner)
    inside.setContentsMargins(0, 0, THEME.px(8), 0)
    inside.setSpacing(THEME.px(2))
    for one in notes:
        inside.addWidget(one)
    inside.addStretch(1)
    return inner
