"""The opening sheet: a new board, one from a scan, jobs to try things on, the jobs worked on last with their pictures.
It lies over the window until something is chosen; one press skips it for ever."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word, focus_ring
from plain_stride.desk.job_pictures import HIGH, WIDE, picture_of
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import LABEL, NAME, THEME

MOST_SHOWN, COLUMNS, LEFT_PX = 6, 3, 270


@dataclass(frozen=True)
class Beginnings:
    """What can be begun. open: a job's file; examples: jobs by what they are, each drawn when it is asked for; skip:
    for ever."""

    new: Callable[[], object]
    from_scan: Callable[[], object]
    open_file: Callable[[], object]
    open: Callable[[Path], object]
    examples: dict[str, Callable[[], Path]]
    skip: Callable[[], object]


def _open_made(open_job: Callable[[Path], object], make: Callable[[], Path]) -> None:
    open_job(make())


class JobCard(Painted, QAbstractButton):
    """A job worked on lately: its ink, and its name."""

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._name, self._image = path.stem, picture_of(path)
        self.setAccessibleName(f"open {path.stem}")
        self.setToolTip(str(path))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(WIDE), THEME.px(HIGH + 26))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        sheet = QRectF(0, 0, self.width(), THEME.px(HIGH))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.fillRect(sheet, THEME.color("wash" if self.underMouse() else "desk"))
        if self._image is not None:
            size = QSize(self._image.size()).scaled(sheet.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
            place = QRectF((sheet.width() - size.width()) / 2, (sheet.height() - size.height()) / 2, size.width(),
                           size.height())  # fmt: skip
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(place, self._image)
        else:
            painter.setFont(THEME.font(LABEL))
            painter.setPen(THEME.color("text"))
            painter.drawText(sheet, Qt.AlignmentFlag.AlignCenter, "no picture yet")
        painter.setFont(THEME.font())
        painter.setPen(THEME.color("text"))
        name = painter.fontMetrics().elidedText(self._name, Qt.TextElideMode.ElideMiddle, self.width())
        painter.drawText(QRectF(0, sheet.bottom(), self.width(), THEME.px(26)), Qt.AlignmentFlag.AlignVCenter, name)
        focus_ring(painter, self)


class OpeningSheet(Painted, QWidget):
    """Closes itself once something was chosen, or by Escape."""

    def __init__(self, window: QWidget, shown: str, recent: Iterable[Path], begin: Beginnings) -> None:
        """shown: the name of the job that lies under it."""
        super().__init__(window)
        self.setAccessibleName("Opening sheet")
        self._recent = list(recent)[:MOST_SHOWN]
        whole = QHBoxLayout(self)
        whole.setContentsMargins(THEME.px(110), THEME.px(80), THEME.px(80), THEME.px(50))
        whole.setSpacing(THEME.px(70))
        left = QWidget()
        left.setFixedWidth(THEME.px(LEFT_PX))
        left.setLayout(self._left(shown, begin))
        whole.addWidget(left)
        right = QWidget()
        right.setLayout(self._right(begin))
        whole.addWidget(right, 1)
        window.installEventFilter(self)
        self.setGeometry(window.rect())
        self.show()
        self.raise_()
        self.setFocus()

    def _left(self, shown: str, begin: Beginnings) -> QVBoxLayout:
        column = QVBoxLayout()
        title = Sentence("Plain Stride, an inking bench", NAME)
        column.addWidget(title)
        column.addSpacing(THEME.px(12))
        column.addWidget(Heading("Begin"))
        for words, work in (("a new board", begin.new), ("a board from a scan…", begin.from_scan),
                            ("open a job…", begin.open_file)):  # fmt: skip
            column.addWidget(self._verb(words, work))
        column.addSpacing(THEME.px(10))
        column.addWidget(Heading("To try things on"))
        for words, make in begin.examples.items():
            column.addWidget(self._verb(words, partial(_open_made, begin.open, make)))
        column.addSpacing(THEME.px(10))
        column.addWidget(Heading("Or"))
        column.addWidget(self._verb(f"go on with {shown}", lambda: None))
        column.addStretch(1)
        column.addWidget(self._verb("never show this sheet again", begin.skip))
        column.addWidget(Sentence("It stays in the Job menu.", LABEL, "faint"))
        return column

    def _right(self, begin: Beginnings) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addSpacing(THEME.px(34))
        column.addWidget(Heading("Worked on lately"))
        column.addSpacing(THEME.px(6))
        if not self._recent:
            column.addWidget(Sentence("Jobs that you open stand here, each with a picture of its ink.", colour="faint"))
        grid = QGridLayout()
        grid.setSpacing(THEME.px(18))
        for n, path in enumerate(self._recent):
            card = JobCard(path)
            card.clicked.connect(partial(self._choose, partial(begin.open, path)))
            grid.addWidget(card, n // COLUMNS, n % COLUMNS, Qt.AlignmentFlag.AlignLeft)
        column.addLayout(grid)
        column.addStretch(1)
        return column

    def _verb(self, words: str, work: Callable[[], object]) -> Word:
        verb = Word(words)
        verb.clicked.connect(partial(self._choose, work))
        return verb

    def _choose(self, work: Callable[[], object], checked: bool = False) -> None:
        self.close_sheet()
        work()

    def close_sheet(self) -> None:
        """Takes it away."""
        self.hide()
        self.deleteLater()

    def event(self, event: QEvent) -> bool:
        # Escape is the desk's as well: here it is the sheet's.
        asked = event.type() == QEvent.Type.ShortcutOverride
        if asked and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close_sheet()
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and isinstance(watched, QWidget):
            self.setGeometry(watched.rect())
        return False

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(self.rect(), THEME.color("margin"))
