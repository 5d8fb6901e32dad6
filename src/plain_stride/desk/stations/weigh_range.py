"""Weigh, page Range: what lines weigh by depth and by role, in classes of width, and each part's extremes."""

import math
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word, focus_ring
from plain_stride.desk.controls.file_dialogs import ask_file
from plain_stride.desk.look.inked import swelling
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.weigher import FEW_LINES
from plain_stride.desk.stations.base import Page
from plain_stride.job.weight_questions import CLASS_EDGES, Group, LikeJob, Weights
from plain_stride.texts import counted

LOW, HIGH = 0.08, 3.0
"""mm at the ends of the scale that all bars share."""
MOST_PARTS, MOST_APART, ALIKE = 8, 6, 1.1


class MeasureRow(Painted, QAbstractButton):
    """What the lines of a tier or a role measure: a stroke from the thin ones to the heavy ones, on one scale."""

    def __init__(self, group: Group) -> None:
        super().__init__()
        self._group, m = group, group.measured
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(THEME.px(28))
        lines = counted(len(group.lines), "line")
        self.setText(group.name)
        told = f", {m.low:.2f} to {m.high:.2f} mm, mean {m.mean:.2f}, {group.share:.0%} of the length" if m else ""
        self.setAccessibleName(f"{group.name}: {lines}{told}")
        self.setAccessibleDescription("chooses these lines")
        self.setToolTip(f"{lines}{told}. Press to choose them")
        self.setEnabled(bool(group.lines))

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(240), THEME.px(28))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self.underMouse() and self.isEnabled():
            painter.fillRect(self.rect(), THEME.color("wash"))
        painter.setFont(THEME.font(BODY))
        m = self._group.measured
        painter.setPen(THEME.color("text" if m else "faint"))
        box = QRectF(2, 0, self.width() - 6, THEME.px(20))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(box, middle, self._group.name)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        words = f"{m.low:.2f} to {m.high:.2f} mm, {self._group.share:.0%}" if m else "none yet"
        painter.drawText(box, middle | Qt.AlignmentFlag.AlignRight, words)
        if m is not None:
            y, wide = THEME.px(23), self.width() - 8.0
            painter.setPen(THEME.color("hair"))
            painter.drawLine(QPointF(2.0, y), QPointF(2.0 + wide, y))
            a, b, mean = (2.0 + wide * _share(v) for v in (m.low, m.high, m.mean))
            painter.save()
            painter.translate(a, y)
            painter.fillPath(swelling(max(round(b - a), 3), 1.6, 5.0), THEME.color("text"))
            painter.restore()
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(THEME.color("chosen"))
            painter.drawEllipse(QPointF(mean, y), 3.4, 3.4)
        focus_ring(painter, self)


class Classes(Painted, QWidget):
    """How much line there is in each class of width: a stroke of that width, as long as its share."""

    def __init__(self) -> None:
        super().__init__()
        self._lengths: tuple[float, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_lengths(self, lengths: tuple[float, ...]) -> None:
        self._lengths = lengths
        total = max(sum(lengths), 1e-9)
        told = [f"{_class_words(k)}: {mm / total:.0%}" for k, mm in enumerate(lengths) if mm / total >= 0.005]
        self.setAccessibleName("Line by width. " + "; ".join(told))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(240), THEME.px(17) * max(len(self._rows()), 1))

    def _rows(self) -> list[tuple[str, float, float]]:
        """(words, width in mm, share of the length) of each class that is there."""
        total = max(sum(self._lengths), 1e-9)
        return [(_class_words(k), float(CLASS_EDGES[k] or 0.09), mm / total)
                for k, mm in enumerate(self._lengths) if mm / total >= 0.005]  # fmt: skip

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.setFont(THEME.font(LABEL))
        left, right, high = THEME.px(92), THEME.px(42), THEME.px(17)
        rows = self._rows()
        most = max((share for _, _, share in rows), default=1.0)
        for n, (words, mm, share) in enumerate(rows):
            box = QRectF(2, n * high, self.width() - 4, high)
            painter.setPen(THEME.color("faint"))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{share:.0%}")
            wide = (self.width() - left - right) * share / most
            pen = QPen(THEME.color("text"), max(1.0, mm * 6.0), Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
            painter.setPen(pen)
            painter.drawLine(QPointF(left, box.center().y()), QPointF(left + max(wide, 2.0), box.center().y()))


class RangePage(Page):
    """Pressing a row chooses its lines, so that they show on the sheet. place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._rows, self._parts = _column(), _column()
        self._classes = Classes()
        self.add(Heading("By depth and by role"), self._rows[0])
        self.add(Heading("Line by width"), self._classes)
        self.add(Heading("Lightest and heaviest of each part"), self._parts[0])
        self._none = Sentence("Nothing is inked yet.")
        self._compare, self._likeness = Word("compare with another job…"), Sentence()
        self._compare.setToolTip("One of the same series: whether its weights are these")
        self._compare.clicked.connect(self._ask_other)
        self.add(self._none, self._compare, self._likeness)
        self._shown: Any = None

    def refresh(self) -> None:
        self._none.setVisible(not self.session.job.rows.lines)

    def _ask_other(self) -> None:
        path = ask_file(self, "Compare with a job", Path.home(), "Jobs (*.stride)")
        if path is not None:
            self.compare(path)

    def compare(self, path: Path) -> None:
        """Tells how the weights lie against those of another job's file."""
        self._likeness.say("Looking at the other job…")
        self.session.drawing.ask(LikeJob(path), partial(self._show_likeness, path.stem), FEW_LINES)

    def _show_likeness(self, name: str, found: list[dict[str, Any]] | str) -> None:
        if isinstance(found, str):
            self._likeness.say(f"{found}.", "red")
            return
        apart = [one for one in found if not 1.0 / ALIKE <= one["times"] <= ALIKE]
        words = ", ".join(f"{one['of']} **{one['here']:.2f}** to {one['there']:.2f} mm" for one in apart[:MOST_APART])
        told = f"Against {name}: {words}." if apart else f"**{name}** has the same weights, within {ALIKE - 1.0:.0%}."
        self._likeness.say(told if found else f"{name} and this job have no depth or role in common.", "text")

    def show_weights(self, weights: Weights) -> None:
        """Shows what was measured."""
        told = (weights.groups, weights.extremes, weights.lengths)
        if told == self._shown:
            return
        self._shown = told
        _empty(self._rows[1])
        for group in weights.groups:
            row = MeasureRow(group)
            row.clicked.connect(partial(self.session.choose, list(group.lines)))
            self._rows[1].addWidget(row)
        self._classes.show_lengths(weights.lengths)
        self._show_parts(weights)

    def _show_parts(self, weights: Weights) -> None:
        _empty(self._parts[1])
        names = {part.id: part.name for part in self.session.job.parts()}
        shown = [(names[key], ends) for key, ends in weights.extremes.items() if key in names]
        for name, ends in sorted(shown, key=lambda item: -item[1].heaviest)[:MOST_PARTS]:
            word = Word(f"{name}: {ends.lightest:.2f} to {ends.heaviest:.2f} mm")
            word.setToolTip("Show its heaviest place")
            word.clicked.connect(partial(self.place_wanted.emit, *ends.heaviest_at))
            self._parts[1].addWidget(word)
        if len(shown) > MOST_PARTS:
            self._parts[1].addWidget(Sentence(f"and {len(shown) - MOST_PARTS} more, lighter ones"))


def _column() -> tuple[QWidget, QVBoxLayout]:
    widget = QWidget()
    column = QVBoxLayout(widget)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    return widget, column


def _empty(column: QVBoxLayout) -> None:
    while (item := column.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.deleteLater()


def _share(mm: float) -> float:
    return math.log(min(max(mm, LOW), HIGH) / LOW) / math.log(HIGH / LOW)


def _class_words(k: int) -> str:
    low, high = CLASS_EDGES[k], CLASS_EDGES[k + 1]
    if k == 0:
        return f"under {high:g} mm"
    return f"from {low:g} mm" if k == len(CLASS_EDGES) - 2 else f"{low:g} to {high:g}"
