"""All lines of the sheet as a list: every one can be reached, and is told in words to a screen reader."""

from PySide6.QtCore import (
    QAbstractListModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    Qt,
)
from PySide6.QtWidgets import QAbstractItemView, QListView, QSizePolicy

from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.desk.session.session import Session

HIGH = 132
Index = QModelIndex | QPersistentModelIndex


class Lines(QAbstractListModel):
    """Lines and blacks from the front to the back; ink of tones, which comes by the hundred, after all other."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.keys: list[str] = []
        self.refresh()

    def refresh(self) -> None:
        job = self._session.job
        toned = {key for tone in job.rows.tones for key in job.tone_ink(tone)}
        front = job.ink_ids()[::-1]
        keys = [key for key in front if key not in toned] + [key for key in front if key in toned]
        if keys != self.keys:
            self.beginResetModel()
            self.keys = keys
            self.endResetModel()
        elif keys:
            self.dataChanged.emit(self.index(0), self.index(len(keys) - 1))

    def rowCount(self, parent: Index | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.keys)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        known = index.isValid() and index.row() < len(self.keys)
        wanted = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole)
        if not known or role not in wanted or self._session.job.inked(self.keys[index.row()]) is None:
            return None
        key = self.keys[index.row()]
        return self._session.short_words_of(key) if role == wanted[0] else self._session.words_of(key)


class LinesList(QListView):
    """What is chosen here is chosen on the sheet, and the other way round."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._lines = Lines(session)
        self.setModel(self._lines)
        self.setAccessibleName("Lines and blacks, front to back, strokes of tones last")
        self.setFont(THEME.font(LABEL))
        self.setFixedHeight(THEME.px(HIGH))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setUniformItemSizes(True)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._telling = False
        self.selectionModel().selectionChanged.connect(self._chosen)

    def refresh(self) -> None:
        """Shows the lines as they are now; nothing is told of it to the sheet."""
        self._telling = True
        self._lines.refresh()
        rows = {key: n for n, key in enumerate(self._lines.keys)}
        wanted = QItemSelection()
        for key in self._session.chosen:
            if key in rows:
                at = self._lines.index(rows[key])
                wanted.select(at, at)
        model = self.selectionModel()
        model.select(wanted, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        if self._session.chosen and self._session.chosen[-1] in rows and not self.hasFocus():
            last = self._lines.index(rows[self._session.chosen[-1]])
            model.setCurrentIndex(last, QItemSelectionModel.SelectionFlag.NoUpdate)
        self._telling = False

    def _chosen(self) -> None:
        if not self._telling:
            rows = sorted(index.row() for index in self.selectedIndexes())
            self._session.choose([self._lines.keys[row] for row in rows])
