"""Parts under Near, Middle, Far, in the order in which they stand before each other; rows are dragged to reorder."""

from collections import Counter
from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Word, focus_ring
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.look.inked import sample_stroke
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.desk.margins.cover_menu import cover_menu
from plain_stride.desk.margins.in_hand import elided
from plain_stride.desk.margins.notes_panel import FOLD, FoldedArea
from plain_stride.desk.margins.part_menu import part_menu
from plain_stride.desk.margins.part_pictures import PICTURE, PartPictures
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.ink_layer import part_ink
from plain_stride.desk.workers.owned import owned
from plain_stride.errors import StrideError
from plain_stride.job.rows import Part
from plain_stride.measure import parse_length_mm
from plain_stride.texts import counted
from plain_stride.weight.plan import TIERS

DRAG_PX = 8
LATELY_PX = 72
INSIDE_PX = 14
HINT = "Drag a part up to bring it nearer, under another heading to give it that depth."
_STROKES = {"near": 5.0, "middle": 3.2, "far": 1.8}


class PartRow(Painted, QAbstractButton):
    """A part: its name, how many lines, and words for its state."""

    dragged = Signal(object, int)
    dropped = Signal(object, int)

    def __init__(self, part: Part, pictures: PartPictures) -> None:
        super().__init__()
        self.part, self._lines, self._pictures = part, -1, pictures
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(THEME.px(28))
        states = [
            word
            for word, on in (
                ("locked", part.locked),
                ("hidden", part.hidden),
                ("white", part.ink == "white"),
                ("covers", part.cover),
            )
            if on
        ]
        self._state = ", ".join(states)
        self.setText(part.name)
        self.setToolTip(part.name)
        self._press: QPoint | None = None
        self._coloured = False
        self._moving = False

    def show_count(self, lines: int) -> None:
        if lines != self._lines:
            self._lines = lines
            told = [
                self.part.name,
                "inside another" if self.part.inside else "",
                self.part.tier,
                counted(lines, "line"),
                self._state,
            ]
            self.setAccessibleName(", ".join(filter(None, told)))
            self.update()

    def show_colour(self, on: bool) -> None:
        """Whether its ink is shown in a colour of its own."""
        if on != self._coloured:
            self._coloured = on
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, THEME.px(28))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self.isChecked():
            painter.fillRect(self.rect(), THEME.color("wash"))
        painter.setFont(THEME.font(LABEL))
        words_wide = painter.fontMetrics().horizontalAdvance(self._state) if self._state else 0
        state_room = min(words_wide + THEME.px(10), THEME.px(104)) if self._state else 0
        count_room = THEME.px(58)
        if self._coloured:
            painter.fillRect(0, 3, 3, self.height() - 6, QColor(part_ink(self.part)))
        indent = THEME.px(INSIDE_PX) if self.part.inside else 0
        picture = self._pictures.of(self.part.id)
        if picture is not None:
            painter.drawImage(QPointF(THEME.px(4) + indent, (self.height() - PICTURE[1]) / 2.0), picture)
        left = THEME.px(12) + PICTURE[0] + indent
        box = QRectF(left, 0, self.width() - left - THEME.px(4) - state_room - count_room, self.height())
        painter.setFont(THEME.font(BODY))
        painter.setPen(THEME.color("text"))
        name = painter.fontMetrics().elidedText(self.part.name, Qt.TextElideMode.ElideMiddle, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        middle = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        right = self.width() - THEME.px(4)
        words = counted(self._lines, "line")
        painter.drawText(QRectF(right - state_room - count_room, 0, count_room, self.height()), middle, words)
        state = painter.fontMetrics().elidedText(self._state, Qt.TextElideMode.ElideRight, state_room - 4)
        painter.drawText(QRectF(right - state_room, 0, state_room, self.height()), middle, state)
        focus_ring(painter, self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press, self._moving = event.position().toPoint(), False
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        if self._press is not None and (self._moving or abs(at.y() - self._press.y()) > DRAG_PX):
            self._moving = True
            self.dragged.emit(self, self.mapToParent(at).y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._moving:
            self.dropped.emit(self, self.mapToParent(event.position().toPoint()).y())
            self.setDown(False)
        else:
            super().mouseReleaseEvent(event)
        self._press, self._moving = None, False


class TierHeading(Painted, QAbstractButton):
    """Near, Middle or Far with a stroke of that weight; pressed, its parts fold away or come back."""

    def __init__(self, tier: str, folded: int) -> None:
        """folded: how many parts are folded away under it, 0 for none."""
        super().__init__()
        self.tier, self._folded = tier, folded
        self.setText(f"{tier.capitalize()}: {f'{folded} folded' if folded else 'fold'}")
        self.setAccessibleName(self.text())
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(THEME.px(28))

    def sizeHint(self) -> QSize:
        return QSize(200, THEME.px(28))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.setFont(THEME.font(BODY))
        painter.setPen(THEME.color("faint"))
        painter.drawText(
            QRectF(0, 0, THEME.px(60), self.height()), Qt.AlignmentFlag.AlignVCenter, self.tier.capitalize()
        )
        if self._folded:
            painter.drawText(QRectF(THEME.px(104), 0, THEME.px(120), self.height()), Qt.AlignmentFlag.AlignVCenter,
                             f"{counted(self._folded, 'part')} folded")  # fmt: skip
        focus_ring(painter, self)
        painter.translate(THEME.px(58), self.height() / 2 + 1)
        painter.fillPath(sample_stroke(34, _STROKES[self.tier]), THEME.color("faint"))


class _Rows(Painted, QWidget):
    """The column of headings and rows, with a line where a row would be dropped."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notesInner")
        self._line: int | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(0)

    def show_drop(self, y: int | None) -> None:
        self._line = y
        self.update()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self._line is not None:
            painter.fillRect(0, self._line - 1, self.width(), 2, THEME.color("chosen"))


class PartsList(QWidget):
    """Choosing a row takes the part in hand; the words above change it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._pictures = owned(self, PartPictures(session))
        self._folded: set[str] = set()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, THEME.px(8), 0)
        self._column.setSpacing(0)
        self._column.addWidget(Explained("Parts, near to far", "part", HINT))
        self._add_verbs()
        self._lately = QHBoxLayout()
        self._lately.setSpacing(THEME.px(9))
        self._column.addLayout(self._lately)
        self._find = QLineEdit()
        self._find.setPlaceholderText("find a part")
        self._find.setAccessibleName("Find a part")
        self._find.setFont(THEME.font())
        self._find.setMinimumHeight(THEME.px(28))
        self._find.textChanged.connect(self._fill_anew)
        self._find.returnPressed.connect(self._take_found)
        self._column.addWidget(self._find)
        self._rows = _Rows()
        self._row_column = self._rows.column
        self._area = FoldedArea(self._rows)
        self._column.addWidget(self._area, 1)
        session.updates.add(self.refresh)
        session.state.changed.connect(lambda before, now: self._state_changed(before.part, now.part))
        self._pictures.painted.connect(self._rows.update)
        self._shown: Any = None
        self.refresh()

    def _add_verbs(self) -> None:
        self._entry = QLineEdit()
        self._entry.setVisible(False)
        self._entry.setFont(THEME.font())
        self._entry.editingFinished.connect(self._typed)
        self._answered: Callable[[str], None] = lambda text: None
        verbs = QHBoxLayout()
        verbs.setSpacing(THEME.px(6))
        self._lock, self._hide = Word("lock"), Word("hide")
        rename, new, self._cover = Word("rename"), Word("new"), Word("cover")
        new.setToolTip("A new part")
        self._cover.setToolTip("Whether this part hides what lies behind it, and its edge")
        for word, work in (
            (self._lock, self._toggle_lock),
            (self._hide, self._toggle_hide),
            (rename, self._rename),
            (new, self._new),
            (self._cover, self._open_cover_menu),
        ):
            word.clicked.connect(work)
            verbs.addWidget(word)
        verbs.addStretch(1)
        self._column.addLayout(verbs)
        self._column.addWidget(self._entry)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()
        QTimer.singleShot(0, self, self._show_in_hand)

    def _show_in_hand(self) -> None:
        """The row of the part in hand is in sight."""
        for row in self.rows():
            if row.isChecked():
                self._area.ensureWidgetVisible(row, 0, THEME.px(FOLD))

    def _state_changed(self, before: str, now: str) -> None:
        if before != now:
            self.refresh()

    def _take_found(self) -> None:
        """Takes the first part that was found."""
        rows = self.rows()
        if rows:
            self._session.take(part=rows[0].part.name)
            self._find.clear()

    def _toggle_fold(self, tier: str) -> None:
        self._folded ^= {tier}
        self._fill_anew()

    def _fill_anew(self) -> None:
        self._shown = None
        self.refresh()

    def refresh(self) -> None:
        """Shows the parts as they are now; rows are made anew only when something of them changed."""
        session = self._session
        parts = session.job.parts()
        counts = Counter(line.part for line in session.job.rows.lines.values())
        shown = (parts, session.now.part, session.parts_lately())
        if shown != self._shown:
            self._shown = shown
            self._fill(parts)
            self._fill_lately()
        if self.isVisible():
            self._pictures.want([row.part.id for row in self.rows()])
        for row in self.rows():
            row.show_count(counts.get(row.part.id, 0))
            row.show_colour(session.now.by_part)
        part = session.part
        self._lock.setText("unlock" if part is not None and part.locked else "lock")
        self._hide.setText("show" if part is not None and part.hidden else "hide")
        self._cover.setEnabled(part is not None)
        for word in (self._lock, self._hide):
            word.setAccessibleName(word.text())
            word.updateGeometry()
            word.setEnabled(part is not None)

    def rows(self) -> list[PartRow]:
        return [w for w in self._shown_widgets() if isinstance(w, PartRow)]

    def _shown_widgets(self) -> list[QWidget]:
        """Headings and rows from the top down."""
        items = (self._row_column.itemAt(k) for k in range(self._row_column.count()))
        return [w for item in items if item is not None and (w := item.widget()) is not None]

    def _fill(self, parts: list[Part]) -> None:
        while (item := self._row_column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        wanted = self._find.text().strip().casefold()
        found = [part for part in parts if wanted in part.name.casefold()]
        for tier in TIERS:
            here = [part for part in found if part.tier == tier]
            folded = len(here) if tier in self._folded and not wanted else 0
            heading = TierHeading(tier, folded)
            heading.clicked.connect(partial(self._toggle_fold, tier))
            self._row_column.addWidget(heading)
            for part in here[folded:]:
                self._row_column.addWidget(self._row(part))
        self._row_column.addStretch(1)

    def _row(self, part: Part) -> PartRow:
        row = PartRow(part, self._pictures)
        row.setChecked(part.name == self._session.now.part)
        row.clicked.connect(lambda _=False, name=part.name: self._session.take(part=name))
        row.dragged.connect(self._drag)
        row.dropped.connect(self._drop)
        return row

    def _fill_lately(self) -> None:
        """The parts that were in hand last, each one press away."""
        while (item := self._lately.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for name in self._session.parts_lately():
            word = Word(elided(name, THEME.px(LATELY_PX)), "hand")
            word.setAccessibleName(f"take {name} in hand again")
            word.setToolTip(name)
            word.clicked.connect(lambda _=False, name=name: self._session.take(part=name))
            self._lately.addWidget(word)
        self._lately.addStretch(1)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        part = self._session.part
        if part is not None:
            part_menu(self, self._session, part).exec(event.globalPos())

    def _drag(self, row: PartRow, y: int) -> None:
        self._rows.show_drop(self._gap(y)[2])
        row.raise_()

    def _drop(self, row: PartRow, y: int) -> None:
        self._rows.show_drop(None)
        tier, before, _ = self._gap(y)
        rows = [r for r in self.rows() if r is not row and r.part.inside != row.part.id]
        nearer = [r for r in rows if TIERS.index(r.part.tier) < TIERS.index(tier)]
        peers = [r for r in rows if r.part.tier == tier and r.y() + r.height() / 2 < before]
        self._session.make("part", name=row.part.name, tier=tier, order=len(nearer) + len(peers) + 1)

    def _gap(self, y: int) -> tuple[str, int, int]:
        """(tier, y as dropped, where to draw the line) for a row let go at y."""
        tier, line = TIERS[0], 0
        for widget in self._shown_widgets():
            if isinstance(widget, TierHeading) and y >= widget.y():
                tier = widget.tier
            if y >= widget.y() + widget.height() / 2:
                line = widget.y() + widget.height()
        return tier, y, line

    def _toggle_lock(self) -> None:
        if (part := self._session.part) is not None:
            self._session.make("part", name=part.name, locked=not part.locked)

    def _toggle_hide(self) -> None:
        if (part := self._session.part) is not None:
            self._session.make("part", name=part.name, hidden=not part.hidden)

    def _open_cover_menu(self) -> None:
        cover_menu(self, self._session, self._ask_gap).popup(self._cover.mapToGlobal(self._cover.rect().bottomLeft()))

    def _ask_gap(self) -> None:
        if (part := self._session.part) is not None:
            self._ask(f"{part.cover_gap:g} mm", "White round it", self._gap_typed)

    def _gap_typed(self, text: str) -> None:
        try:
            gap = parse_length_mm(text)
        except StrideError as fault:
            self._session.said.emit(str(fault), True)
            return
        if (part := self._session.part) is not None:
            self._session.make("cover", name=part.name, gap=gap)

    def _rename(self) -> None:
        old = self._session.now.part
        self._ask(old, "Name of the part", lambda name: self._renamed(old, name))

    def _renamed(self, old: str, name: str) -> None:
        if name != old and (
            self._session.part is None or self._session.make("part", name=old, rename=name) is not None
        ):
            self._session.take(part=name)

    def _new(self) -> None:
        names = {part.name for part in self._session.job.parts()}
        n = next(n for n in range(1, 10_000) if f"Part {n}" not in names)
        self._ask(f"Part {n}", "Name of the part", self._made)

    def _made(self, name: str) -> None:
        if self._session.job.part_named(name) is not None:
            self._session.said.emit(f"There is a part **{name}** already: it is in hand now.", False)
        elif self._session.make("part", name=name) is None:
            return
        self._session.take(part=name)

    def _ask(self, shown: str, what: str, answered: Callable[[str], None]) -> None:
        """Dialogs for a text under the list; an empty one is no answer."""
        self._answered = answered
        self._entry.setAccessibleName(what)
        self._entry.setText(shown)
        self._entry.setVisible(True)
        self._entry.selectAll()
        self._entry.setFocus()

    def _typed(self) -> None:
        if not self._entry.isVisible():
            return
        self._entry.setVisible(False)
        text = self._entry.text().strip()
        if text:
            self._answered(text)
