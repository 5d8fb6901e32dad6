"""The history as a list with small pictures: every step of every way, also of ways that were left."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QPoint, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from plain_stride.desk.controls.controls import Sentence, Word
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state_view import StateView
from plain_stride.desk.session.step_words import step_words
from plain_stride.desk.sheet.ink_layer import InkLayer, Look
from plain_stride.desk.sheet.view import BoardView

ROW, PICTURE = 56, (72, 48)
SLICE_S = 0.01
INDENT, MOST_INDENT = 14, 6
Index = QModelIndex | QPersistentModelIndex


class Moments(QAbstractListModel):
    """Steps, the newest first, the beginning last. ways: how many ways lie between a step and the one in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.refresh()

    def refresh(self) -> None:
        self.beginResetModel()
        job = self._session.job
        self.steps = [*sorted(job.history.steps, reverse=True), 0]
        self.here = job.history.head
        self._before = {step.id for step in job.history.way_to(job.history.head)} | {0}
        self._after = self._taken_back()
        self._marks: dict[int, list[str]] = {}
        for name, step in job.history.marks.items():
            self._marks.setdefault(step, []).append(name)
        self.endResetModel()

    def _taken_back(self) -> set[int]:
        """Steps that were taken back on this very way."""
        out, step = set(), self._session.job.history.next_step()
        while step is not None:
            out.add(step)
            step = self._session.job.history.next_step(step)
        return out

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.steps)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        step = self.steps[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return ", ".join(filter(None, (self.words(step), self.state(step), self.made(step))))
        return None

    def words(self, step: int) -> str:
        names = ", ".join(self._marks.get(step, []))
        words = step_words(self._session.job, step)
        return f"{names}: {words}" if names else words

    def marked(self, step: int) -> bool:
        return step in self._marks

    def state(self, step: int) -> str:
        """Where a step lies: now, before it, taken back, or on a way that was left."""
        if step == self.here:
            return "now"
        if step in self._before:
            return ""
        return "taken back" if step in self._after else "a way not taken"

    def made(self, step: int) -> str:
        """When it was made, in local time."""
        if not step:
            return ""
        try:
            return (
                datetime.fromisoformat(self._session.job.history.steps[step].made).astimezone().strftime("%d %b %H:%M")
            )
        except ValueError:
            return ""


class _Row(QStyledItemDelegate):
    """A small picture of the drawing after the step, what it did, where it lies."""

    def __init__(self, moments: Moments, picture: Callable[[int], QImage | None]) -> None:
        super().__init__()
        self._moments, self._picture = moments, picture

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(THEME.px(300), THEME.px(ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        step = self._moments.steps[index.row()]
        box = QRectF(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.fillRect(box, THEME.color("wash" if chosen else "margin"))
        image = self._picture(step)
        frame = QRectF(box.left() + THEME.px(8), box.top() + THEME.px(4), THEME.px(PICTURE[0]), THEME.px(PICTURE[1]))
        if image is not None:
            painter.drawImage(frame, image)
        else:
            painter.fillRect(frame, THEME.color("wash"))
        room = box.right() - frame.right() - THEME.px(20)
        words = QRectF(frame.right() + THEME.px(12), box.top() + THEME.px(6), room, THEME.px(22))
        state = self._moments.state(step)
        painter.setFont(THEME.font(BODY, bold=state == "now" or self._moments.marked(step)))
        painter.setPen(THEME.color("ahead" if state in ("taken back", "a way not taken") else "text"))
        shown = painter.fontMetrics().elidedText(
            self._moments.words(step), Qt.TextElideMode.ElideRight, int(words.width())
        )
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        below = ", ".join(filter(None, (state, self._moments.made(step))))
        painter.drawText(words.translated(0, THEME.px(21)), Qt.AlignmentFlag.AlignVCenter, below)
        painter.restore()


class History(QDialog):
    """Going to a step is no new step: what is left stays, and can be gone back to."""

    def __init__(self, parent: QWidget, session: Session, paths: InkLayer, compare: Callable[[int], object],
                 ask_mark: Callable[[], object]) -> None:  # fmt: skip
        super().__init__(parent)
        self._session, self._paths, self._compare = session, paths, compare
        self._kept: dict[int, QImage] = {}
        self._wanted: list[int] = []
        self._painting: tuple[int, InkLayer] | None = None
        self.setWindowTitle("History")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        p = THEME.palette
        self.setStyleSheet(f"QDialog, QListView {{ background: {p.margin}; border: none }}"
                           f"QListView:focus {{ border: 2px solid {p.chosen} }}")  # fmt: skip
        self.moments = Moments(session)
        self.list = QListView()
        self.list.setAccessibleName("Steps, the newest first")
        self.list.setModel(self.moments)
        self._row = _Row(self.moments, self._picture)
        self.list.setItemDelegate(self._row)
        self.list.setUniformItemSizes(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(14), THEME.px(10), THEME.px(14), THEME.px(12))
        column.addWidget(Sentence("What was taken back stays here, also after new lines were pulled."))
        column.addWidget(self.list, 1)
        foot = QHBoxLayout()
        self.go, compare_word, mark = Word("go there"), Word("compare with now"), Word("mark this moment")
        for word in (self.go, compare_word, mark):
            foot.addWidget(word)
        foot.addStretch(1)
        column.addLayout(foot)
        self.go.clicked.connect(self._go)
        compare_word.clicked.connect(lambda: self._compare(self.chosen_step()))
        mark.clicked.connect(ask_mark)
        self.list.activated.connect(self._go)
        session.changed.connect(self._refresh)
        session.timeline.marked.connect(self._refresh)
        self._slices = QTimer(self)
        self._slices.timeout.connect(self._paint_slice)
        self.resize(THEME.px(400), THEME.px(620))
        self._refresh()

    @property
    def busy(self) -> bool:
        """Whether pictures are being painted."""
        return bool(self._wanted)

    def chosen_step(self) -> int:
        return self.moments.steps[max(self.list.currentIndex().row(), 0)]

    def choose(self, step: int) -> None:
        self.list.setCurrentIndex(self.moments.index(self.moments.steps.index(step)))

    def _refresh(self) -> None:
        self.moments.refresh()
        self.choose(self.moments.here)

    def _go(self) -> None:
        self._session.timeline.go_to(self.chosen_step())

    def _picture(self, step: int) -> QImage | None:
        """The small picture of a step; one that is not there yet is painted soon."""
        if step not in self._kept and step not in self._wanted:
            self._wanted.append(step)
            self._slices.start(0)
        return self._kept.get(step)

    def _next_wanted(self) -> int:
        """The uppermost of those that are in sight."""
        top = self.list.indexAt(QPoint(4, 4)).row()
        rows = {step: row for row, step in enumerate(self.moments.steps[max(top, 0) :])}
        return min(self._wanted, key=lambda step: rows.get(step, len(self.moments.steps)))

    def _paint_slice(self) -> None:
        if self._painting is None:
            self._wanted = [step for step in self._wanted if step == 0 or step in self._session.job.history.steps]
            if not self._wanted:
                self._slices.stop()
                return
            step = self._next_wanted()
            layer = InkLayer(StateView(self._session, step), self._paths)
            layer.use(Look(pencils_off=True))
            size = QSize(THEME.px(PICTURE[0]), THEME.px(PICTURE[1]))
            view = BoardView(1.0).resized(size.toSizeF()).fitted(self._session.job.page.size_mm, (1.0,) * 4)
            layer.begin(view, size, self.devicePixelRatioF())
            self._painting = (step, layer)
        step, layer = self._painting
        if layer.work(SLICE_S) is not None:
            self._kept[step] = layer.image
            if step in self._wanted:
                self._wanted.remove(step)
            self._painting = None
            self.list.viewport().update()
