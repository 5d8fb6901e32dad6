"""Hold-spots: the words of held keys laid over the desk, for the free hand on a touch screen and for the mouse."""

from PySide6.QtCore import QEvent, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from plain_stride.desk.keys.key_hand import KeyHand
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, THEME

SPOTS = {"D": "move", "F": "turn", "G": "enlarge", "A": "ink alone", "X": "mirror", "S": "swell", "E": "shave",
         "W": "choose, nudge", "Y": "trim", "Z": "last one off", "Q": "before", "U": "print size"}  # fmt: skip
HIGH, WIDE = 40, 112


class HoldSpot(Painted, QAbstractButton):
    """A finger holds it, and a short touch taps it; a mouse or a pen latches it with a click."""

    def __init__(self, keys: KeyHand, use: str, words: str) -> None:
        super().__init__()
        self._keys, self.use = keys, use
        self.setText(words)
        self.setCheckable(True)
        self.setAccessibleName(f"Hold: {words}")
        self.setAccessibleDescription(keys.uses[use].key_words)
        self.setToolTip(self.accessibleDescription())
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.clicked.connect(lambda: keys.latch(use))

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(WIDE), THEME.px(HIGH))

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.TouchBegin:
            self._keys.press(self.use)
        elif event.type() in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self._keys.release(self.use)
        elif event.type() != QEvent.Type.TouchUpdate:
            return super().event(event)
        event.accept()
        return True

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        held = self._keys.held == self.use
        painter.fillRect(self.rect(), THEME.color("wash" if held else "margin"))
        painter.setFont(THEME.font(BODY, bold=held))
        painter.setPen(THEME.color("chosen" if held else "text"))
        box = QRectF(self.rect()).adjusted(THEME.px(10), 0, -4, 0)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setPen(THEME.color("hair"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class HoldSpots(QWidget):
    """The column, laid over the sheet beside the gauge; as many spots as there is room for."""

    def __init__(self, sheet: QWidget, keys: KeyHand, right: bool) -> None:
        super().__init__(sheet)
        self._right = right
        self.setAccessibleName("Hold-spots")
        self.setCursor(Qt.CursorShape.ArrowCursor)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(THEME.px(3))
        self.spots = [HoldSpot(keys, use, words) for use, words in SPOTS.items() if use in keys.uses]
        for spot in self.spots:
            column.addWidget(spot)
        keys.changed.connect(self._show_held)
        self.hide()

    def show_side(self, right: bool) -> None:
        """The side of the gauge: left, or right for a left-handed inker."""
        self._right = right

    def place(self, area: QSize) -> None:
        """Takes its place beside the gauge."""
        most = max(1, (area.height() - THEME.px(60)) // (THEME.px(HIGH) + THEME.px(3)))
        for n, spot in enumerate(self.spots):
            spot.setVisible(n < most)
        self.adjustSize()
        self.move(area.width() - self.width() - 6 if self._right else 6, THEME.px(48))
        self.raise_()

    def _show_held(self) -> None:
        for spot in self.spots:
            spot.setChecked(spot._keys.held == spot.use)
            spot.update()
