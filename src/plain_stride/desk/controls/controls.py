"""The few kinds of controls of the margins: words that are pressed, sliders whose track is the effect, sentences."""

import math
import re
from collections.abc import Callable, Collection, Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from plain_stride.desk.look.inked import underline
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.errors import StrideError
from plain_stride.measure import MeasureError
from plain_stride.texts import clean, shortened

ROW, TRACK_STEPS = 28, 1000
LINE_HEIGHT = 19 / 14
MOST_SAID = 900
SHORT_PX = 66


def focus_ring(painter: QPainter, widget: QWidget) -> None:
    if widget.hasFocus():
        painter.setPen(QPen(THEME.color("chosen"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(widget.rect()).adjusted(1, 1, -1, -1))


_WORD_COLOURS = {"verb": "chosen", "choice": "faint", "hand": "text"}


class Word(Painted, QAbstractButton):
    """A word or phrase that is pressed. kind: 'verb' does something, 'choice' is one of a row, 'hand' tells what is in
    hand."""

    def __init__(self, text: str, kind: str = "verb", size: int = BODY) -> None:
        super().__init__()
        self.setText(text)
        self.setAccessibleName(text)
        self.setCheckable(kind == "choice")
        self._kind, self._size = kind, size
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        font = THEME.font(self._size, bold=True)
        return QSize(math.ceil(QFontMetricsF(font).horizontalAdvance(self.text())) + 3, THEME.px(ROW))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        chosen = self.isChecked()
        name = "text" if chosen else _WORD_COLOURS[self._kind]
        font = THEME.font(self._size, bold=chosen or self._kind != "choice")
        painter.setFont(font)
        painter.setPen(THEME.color(name if self.isEnabled() else "faint"))
        painter.drawText(QRectF(0, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignVCenter, self.text())
        width, low = QFontMetricsF(font).horizontalAdvance(self.text()), self.height() / 2 + THEME.px(10)
        if chosen and self.isEnabled():
            painter.translate(0, low)
            painter.fillPath(underline(round(width)), THEME.color("chosen"))
            painter.resetTransform()
        elif self.underMouse() and self.isEnabled():
            # Under the pointer a hair: only what is chosen has the inked wave.
            painter.setPen(QPen(THEME.color("pencil"), 1))
            painter.drawLine(QPointF(0, low), QPointF(width, low))
        focus_ring(painter, self)


class Choice(QWidget):
    """Words in a row of which one is chosen. Arrow keys step through them."""

    chosen = Signal(str)

    def __init__(self, words: Sequence[str], current: str, name: str, apart: int = 9) -> None:
        super().__init__()
        self.setAccessibleName(name)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(THEME.px(apart))
        self.words = {word: Word(word, "choice") for word in words}
        for word, button in self.words.items():
            button.setAutoExclusive(True)
            button.setAccessibleDescription(name)
            button.clicked.connect(lambda _=False, w=word: self.chosen.emit(w))
            row.addWidget(button)
        row.addStretch(1)
        self.show_chosen(current)

    def show_chosen(self, word: str) -> None:
        """Shows a word as chosen without telling anyone."""
        if word in self.words:
            self.words[word].setChecked(True)

    def current(self) -> str:
        """The word that is chosen; '' for none."""
        return next((word for word, button in self.words.items() if button.isChecked()), "")


class Several(QWidget):
    """Words in rows, of which any may be chosen."""

    chosen = Signal(object)

    def __init__(self, rows: Sequence[Sequence[str]], name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.words = {word: Word(word, "choice") for row in rows for word in row}
        grid = QVBoxLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        for words in rows:
            row = QHBoxLayout()
            row.setSpacing(THEME.px(9))
            for word in words:
                self.words[word].setAccessibleDescription(name)
                self.words[word].clicked.connect(self._tell)
                row.addWidget(self.words[word])
            row.addStretch(1)
            grid.addLayout(row)

    def _tell(self) -> None:
        self.chosen.emit(self.current())

    def current(self) -> frozenset[str]:
        """The words that are chosen."""
        return frozenset(word for word, button in self.words.items() if button.isChecked())

    def show_chosen(self, words: Collection[str]) -> None:
        """Shows words as chosen without telling anyone."""
        for word, button in self.words.items():
            button.setChecked(word in words)


class Heading(QLabel):
    """A heading in spaced small capitals."""

    def __init__(self, text: str) -> None:
        super().__init__(text.upper())
        self.setFont(THEME.font(LABEL, bold=True, spaced=True))
        self.setContentsMargins(0, THEME.px(8), 0, 0)
        self._paint()
        THEME.changed.connect(self._paint)

    def _paint(self) -> None:
        self.setStyleSheet(f"color: {THEME.palette.faint}")


class Sentence(QLabel):
    """One fact. Figures written **so** are set in SemiBold; a sentence wraps and is never clipped."""

    def __init__(self, text: str = "", size: int = BODY, colour: str = "text") -> None:
        super().__init__()
        self._colour, self._raw = colour, ""
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setFont(THEME.font(size))
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        THEME.changed.connect(self._repaint)
        self.say(text)

    def _repaint(self) -> None:
        self.say(self._raw)

    def _line_height(self) -> int:
        return round(self.font().pixelSize() * LINE_HEIGHT)

    def say(self, text: str, colour: str | None = None) -> None:
        """Shows a sentence; an empty one takes no room."""
        text = shortened(clean(text), MOST_SAID)
        self._raw, self._colour = text, colour or self._colour
        plain = text.replace("**", "")
        self.setAccessibleName(plain)
        if self.parentWidget() is not None:
            self.setVisible(bool(text))
        else:
            # Shown before it has its place, it would be a window of its own for a moment: it comes with its parent.
            self.setAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide, not text)
        safe = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        marked = re.sub(r"\*\*(.+?)\*\*", r"<span style='font-weight:600'>\1</span>", safe)
        colour_code = getattr(THEME.palette, self._colour)
        self.setText(f"<div style='color:{colour_code};line-height:{self._line_height()}px'>{marked}</div>")


class Track(Painted, QAbstractSlider):
    """The track of a slider: painted by its owner's `draw`, moved by drag, wheel, arrows; double click: default.

    It is a slider to a screen reader as well, in thousandths of its way.
    """

    moved = Signal(float)
    released = Signal(float)

    def __init__(self, name: str, draw: Callable[[QPainter, float, float], None], step: float, default: float) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(THEME.px(ROW))
        self._draw, self._step, self._default = draw, step, default
        self.setRange(0, TRACK_STEPS)
        self.setSingleStep(max(1, round(step * TRACK_STEPS)))
        self.show_share(default)

    def show_share(self, share: float) -> None:
        """Shows a place on the track, 0 to 1, without telling anyone of a move."""
        self.share = min(max(share, 0.0), 1.0)
        self.setValue(round(self.share * TRACK_STEPS))
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        left, wide = 8.0, self.width() - 16.0
        painter.translate(left, self.height() / 2.0)
        self._draw(painter, wide, THEME.px(8))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("margin"))
        painter.drawEllipse(QPointF(self.share * wide, 0.0), 8.5, 8.5)
        painter.setBrush(THEME.color("chosen"))
        painter.drawEllipse(QPointF(self.share * wide, 0.0), 6.5, 6.5)
        painter.resetTransform()
        focus_ring(painter, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._to(self._share_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._to(self._share_at(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.released.emit(self.share)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._to(self._default)

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._to(self.share + self._step * (1 if event.angleDelta().y() > 0 else -1))
        self.released.emit(self.share)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1}
        if event.key() not in ways:
            super().keyPressEvent(event)
            return
        self._to(self.share + self._step * ways[Qt.Key(event.key())])
        self.released.emit(self.share)

    def _share_at(self, x: float) -> float:
        return (x - 8.0) / max(self.width() - 16.0, 1.0)

    def _to(self, share: float) -> None:
        self.show_share(share)
        self.moved.emit(self.share)


class Slider(QWidget):
    """A named setting: words at the left, the value at the right (click it to type), the track beneath.

    to_share and from_share turn the value into the track's 0..1 and back; read turns typed text into a value and
    may raise StrideError, which is said beneath.
    """

    moving = Signal(float)
    settled = Signal(float)

    def __init__(
        self,
        name: str,
        draw: Callable[[QPainter, float, float], None],
        shown: Callable[[float], str],
        read: Callable[[str], float],
        to_share: Callable[[float], float],
        from_share: Callable[[float], float],
        default: float,
        step: float = 0.05,
    ) -> None:
        super().__init__()
        self._shown, self._read, self._to_share, self._from_share = shown, read, to_share, from_share
        self.value = default
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(0, 0, 0, 0)
        self._label = Sentence(name)
        self._figure = Word(shown(default), "choice")
        self._figure.setCheckable(False)
        self._entry = QLineEdit()
        self._entry.setVisible(False)
        self._entry.setFixedWidth(THEME.px(90))
        self._entry.setFont(THEME.font())
        self._entry.setAccessibleName(name)
        head.addWidget(self._label, 1, Qt.AlignmentFlag.AlignVCenter)
        head.addWidget(self._figure)
        head.addWidget(self._entry)
        self._fault = Sentence("", LABEL, "red")
        self.track = Track(name, draw, step, to_share(default))
        self._say()
        column.addLayout(head)
        column.addWidget(self.track)
        column.addWidget(self._fault)
        self.track.moved.connect(self._moved)
        self.track.released.connect(lambda share: self.settled.emit(self.value))
        self._figure.clicked.connect(self._type)
        self._entry.editingFinished.connect(self._typed)

    def show_value(self, value: float) -> None:
        """Shows a value without telling anyone."""
        self.value = value
        self.track.show_share(self._to_share(value))
        self._say()

    def _say(self) -> None:
        self._figure.setText(self._shown(self.value))
        self._figure.setAccessibleName(f"{self.track.accessibleName()}: {self._shown(self.value)}; press to type")
        self.track.setAccessibleDescription(self._shown(self.value))
        self._figure.updateGeometry()

    def _moved(self, share: float) -> None:
        self.value = self._from_share(share)
        self._say()
        self.moving.emit(self.value)

    def _type(self) -> None:
        self._figure.setVisible(False)
        self._entry.setVisible(True)
        self._entry.setText(self._shown(self.value))
        self._entry.selectAll()
        self._entry.setFocus()

    def _typed(self) -> None:
        if not self._entry.isVisible():
            return
        self._entry.setVisible(False)
        self._figure.setVisible(True)
        try:
            value = self._read(self._entry.text())
            self._fault.say("")
        except StrideError as fault:
            self._fault.say(str(fault))
            return
        self.show_value(value)
        self.settled.emit(value)


class Field(QWidget):
    """A typed value with its name: a sentence that can be filled in. `typed` brings the text when it changes."""

    typed = Signal(str)

    def __init__(self, name: str, width: int = 96) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        self._label = Sentence(name)
        self.entry = QLineEdit()
        self.entry.setFont(THEME.font())
        self.entry.setFixedWidth(THEME.px(width))
        self.entry.setMinimumHeight(THEME.px(ROW))
        self.entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.entry.setAccessibleName(name)
        row.addWidget(self._label, 1, Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.entry)
        self._shown = ""
        self.entry.editingFinished.connect(self._done)

    def rename(self, name: str) -> None:
        """Gives it another name."""
        self._label.say(name)
        self.entry.setAccessibleName(name)

    def make_short(self) -> None:
        """So wide that two stand side by side."""
        self.entry.setFixedWidth(THEME.px(SHORT_PX))

    def show_text(self, text: str) -> None:
        self._shown = text
        self.entry.setText(text)
        self.entry.setCursorPosition(0)

    def _done(self) -> None:
        if self.entry.text() != self._shown:
            self._shown = self.entry.text()
            self.typed.emit(self._shown)


def plain_number(text: str) -> float:
    """A number typed by hand, point or comma. Raises MeasureError."""
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is not a number") from None


class HairLine(Painted, QWidget):
    """A one-pixel edge between regions."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(1)
        THEME.changed.connect(self.update)

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("hair"))


def tinted(color: QColor, share: float) -> QColor:
    """A colour at part strength."""
    out = QColor(color)
    out.setAlphaF(share)
    return out
