"""A short list of places or sheets to pick from, as high as what it holds."""

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QSizePolicy

from plain_stride.desk.look.inked import tapered
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color

ROW, MOST_ROWS = 24, 6
STROKE_PX = (34, 16)


class PlaceList(QListWidget):
    """picked: the number of the row that was chosen by pen, mouse or keys."""

    picked = Signal(int)

    def __init__(self, name: str, most: int = MOST_ROWS) -> None:
        super().__init__()
        self._most = most
        self.setAccessibleName(name)
        self.setFont(THEME.font(LABEL))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setUniformItemSizes(True)
        self.setIconSize(QSize(*STROKE_PX))
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._telling = False
        self._shown: tuple[str, ...] = ()
        self.currentRowChanged.connect(self._tell)

    def show_rows(self, rows: Sequence[str], chosen: int | None = None, colours: Sequence[str] = ()) -> None:
        """Shows rows without telling anyone; colours: of a stroke before each."""
        self._telling = True
        if (*rows, *colours) != self._shown:
            self._shown = (*rows, *colours)
            self.clear()
            self.addItems(list(rows))
            for n, colour in enumerate(colours):
                self.item(n).setIcon(_stroke(colour))
            for n, words in enumerate(rows):
                self.item(n).setToolTip(words)
            self.setFixedHeight(THEME.px(ROW) * max(1, min(len(rows), self._most)) + 6)
        self.setCurrentRow(-1 if chosen is None or chosen >= len(rows) else chosen)
        self.setVisible(bool(rows))
        self._telling = False

    def _tell(self, row: int) -> None:
        if not self._telling and row >= 0:
            self.picked.emit(row)


def _stroke(colour: str) -> QIcon:
    """A short tapered stroke in a colour, on paper."""
    picture = QPixmap(*STROKE_PX)
    picture.fill(sheet_color("paper"))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(2.0, STROKE_PX[1] / 2.0)
    path = tapered(STROKE_PX[0] - 4, 1.0, STROKE_PX[1] - 6.0)
    painter.fillPath(path, QColor(colour))
    # White ink is seen by its edge.
    painter.strokePath(path, QPen(sheet_color("hair"), 1.0))
    painter.end()
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon
