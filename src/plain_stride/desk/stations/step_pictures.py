"""Pictures of the page as it was at steps of the history: made by another process, one at a time, the last kept."""

from PySide6.QtCore import QObject, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QLabel

from plain_stride.desk.look.theme import THEME, sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.log_errands import PictureAt
from plain_stride.job.serving import Failed, Progressed, Reply

_WAYS = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
HIGH = 1.25
"""At most so many times as high as wide."""
REST_MS, MOST = 400, 40
"""For how long nothing else must be asked: who pulls while a page is seen changes its last step all the time; how many
pictures are kept."""


class StepPictures(QObject):
    """changed: one more is there, or cannot be had; failed: why."""

    changed = Signal()
    failed = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._made: dict[int, QPixmap | None] = {}
        self._at_work = self._rested = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(REST_MS)
        self._later.timeout.connect(self._tell)

    @property
    def page_mm(self) -> tuple[float, float]:
        """Width and height of the page as it is now."""
        return self._session.job.page.size_mm

    def at(self, step: int) -> QPixmap | None:
        """None where there is none: it is made once nothing else was asked for a moment, and the one before is done."""
        if step not in self._made and not self._at_work:
            if self._rested:
                self._ask(step)
            else:
                self._later.start()
        return self._made.get(step)

    def _tell(self) -> None:
        """Who shows pictures asks again for what is not there."""
        self._rested = True
        self.changed.emit()
        self._rested = False

    def _ask(self, step: int) -> None:
        try:
            # It is made from the file.
            self._session.saving.save_all()
        except StrideError as fault:
            self.failed.emit(f"{fault}. No picture was made.")
            return
        self._at_work = True
        self._session.document.errands.ask(
            PictureAt(self._session.job.path, step), lambda reply: self._told(step, reply)
        )

    def _told(self, step: int, reply: Reply) -> None:
        if isinstance(reply, Progressed):
            return
        self._at_work = False
        self._made[step] = None if isinstance(reply, Failed) else _read(reply.value)
        if isinstance(reply, Failed):
            self.failed.emit(reply.words)
        while len(self._made) > MOST:
            del self._made[next(iter(self._made))]
        self._tell()


def _read(png: bytes) -> QPixmap:
    picture = QPixmap()
    picture.loadFromData(png)
    return picture


def _bare(size: QSize) -> QPixmap:
    paper = QPixmap(size)
    paper.fill(sheet_color("paper"))
    return paper


class StepPicture(QLabel):
    """The page at a step, at most so many pixels wide. there: whether it is made; until then it is bare paper, as large
    as it will be."""

    def __init__(self, pictures: StepPictures, name: str, wide: int) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._pictures, self._wide, self._step = pictures, wide, -1
        self.there = False
        pictures.changed.connect(self._show)

    def show_step(self, step: int) -> None:
        """Shows another step of the history."""
        self._step, self.there = step, False
        w, h = self._pictures.page_mm
        per_mm = THEME.px(self._wide) / max(w, h / HIGH)
        self.setFixedSize(round(w * per_mm), round(h * per_mm))
        self._show()

    def _show(self) -> None:
        if not self.isVisible() or self._step < 0:
            return
        made = self._pictures.at(self._step)
        self.there = made is not None
        self.setPixmap(made.scaled(self.size(), *_WAYS) if made is not None else _bare(self.size()))

    def showEvent(self, event: object) -> None:
        self._show()
