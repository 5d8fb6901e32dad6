"""The rules of a plan in the order in which they win: dragged into another, switched on and off."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.controls.controls import focus_ring
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.textures import SWATCH, swatch
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import RULES

ROW, SLIP_PX = 24, 6
_UP, _DOWN = Qt.Key.Key_Up, Qt.Key.Key_Down


class RuleList(Painted, QWidget):
    """moved: all rules in their new order; switched: a rule and whether it is on; picked: the rule in hand. A press on
    the square at its left switches a rule; Up and Down go through them, with Ctrl they move one, Space switches."""

    moved = Signal(object)
    switched = Signal(str, bool)
    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._rules: tuple[tuple[str, bool, str], ...] = ()
        self._at, self._drag, self._to = 0, -1, -1
        self._down = QPointF()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Which rule wins")
        self.setToolTip("Drag a rule to where it wins; press its square to switch it")

    def show_plan(self, plan: Plan) -> None:
        """Shows a plan's rules. A rule that guarantees something says by how much."""
        rules = tuple((rule.name, rule.on, _guarantee(plan, rule.name)) for rule in plan.rules)
        if rules != self._rules:
            self._rules = rules
            self._tell()
            self.setFixedHeight(self.sizeHint().height())
            self.update()

    @property
    def rule(self) -> str:
        """The rule in hand."""
        return self._rules[self._at][0] if self._rules else ""

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(240), THEME.px(ROW) * max(len(self._rules), 1) + 2)

    def pick(self, name: str) -> None:
        """Takes a rule in hand."""
        names = [rule for rule, _, _ in self._rules]
        if name in names:
            self._at = names.index(name)
            self._tell()
            self.picked.emit(name)
            self.update()

    def row_at(self, y: float) -> int:
        """Which row lies at so many pixels."""
        return min(max(int(y // THEME.px(ROW)), 0), len(self._rules) - 1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._down = event.position()
        self._drag, self._to = self.row_at(self._down.y()), -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag >= 0 and abs(event.position().y() - self._down.y()) > SLIP_PX:
            self._to = self.row_at(event.position().y())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, to, self._drag, self._to = self._drag, self._to, -1, -1
        if drag < 0:
            return
        if to >= 0:
            self._move(drag, to)
        elif self._down.x() <= THEME.px(44):
            self.pick(self._rules[drag][0])
            self._switch()
        else:
            self.pick(self._rules[drag][0])
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, step = event.key(), {_UP: -1, _DOWN: 1}.get(Qt.Key(event.key()), 0)
        to = min(max(self._at + step, 0), len(self._rules) - 1)
        if step and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._move(self._at, to)
        elif step:
            self.pick(self._rules[to][0])
        elif key == Qt.Key.Key_Space and self._rules:
            self._switch()
        else:
            super().keyPressEvent(event)

    def _switch(self) -> None:
        name, on, _ = self._rules[self._at]
        self.switched.emit(name, not on)

    def _move(self, row: int, to: int) -> None:
        names = [name for name, _, _ in self._rules]
        name = names.pop(row)
        names.insert(to, name)
        self._at = to
        if row != to:
            self.moved.emit(names)

    def _tell(self) -> None:
        if self._rules:
            name, on, guarantee = self._rules[self._at]
            state = "on" if on else "off"
            self.setAccessibleDescription(f"{self._at + 1} of {len(self._rules)}: {RULES[name].says}, {state}"
                                          f"{', ' if guarantee else ''}{guarantee}")  # fmt: skip

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        high = THEME.px(ROW)
        for row, (name, on, guarantee) in enumerate(self._rules):
            y = row * high
            if row == self._at and self.hasFocus():
                painter.fillRect(QRectF(0, y, self.width(), high), THEME.color("wash"))
            self._paint_row(painter, QRectF(0, y, self.width(), high), row, name, on, guarantee)
        if self._to >= 0:
            y = (self._to + (1 if self._to > self._drag else 0)) * high
            painter.setPen(QPen(THEME.color("chosen"), 2))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        focus_ring(painter, self)

    def _paint_row(self, painter: QPainter, box: QRectF, row: int, name: str, on: bool, guarantee: str) -> None:
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(2, box.y(), THEME.px(18), box.height()), middle, f"{row + 1}")
        x, y = THEME.px(22), box.y() + (box.height() - SWATCH) / 2.0
        if on:
            swatch(painter, name, x, y)
        else:
            painter.setPen(QPen(THEME.color("faint"), 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(x, y, SWATCH, SWATCH))
        painter.setFont(THEME.font(BODY, bold=row == self._at))
        painter.setPen(THEME.color("text" if on else "faint"))
        words = QRectF(THEME.px(44), box.y(), box.width() - THEME.px(44), box.height())
        painter.drawText(words, middle, RULES[name].says)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        painter.drawText(QRectF(0, box.y(), box.width() - 4, box.height()), middle | Qt.AlignmentFlag.AlignRight,
                         guarantee if on else "off")  # fmt: skip


def _guarantee(plan: Plan, name: str) -> str:
    margin = plan.rule(name)["margin"] if "margin" in RULES[name].figures else 1.0
    return f"≥ {margin:g} ×" if RULES[name].promise else ""
