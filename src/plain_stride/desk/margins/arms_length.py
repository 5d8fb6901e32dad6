"""Arm's length: the ink alone, small, as it is seen from a distance. Its scale is said; pencils are never on it."""

from PySide6.QtCore import QSize, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Sentence, Word
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.theme import LABEL, THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.sheet.sliced import SlicedPicture
from plain_stride.desk.sheet.view import BoardView

BOX = (126, 84)
LATER_MS, SLICE_S = 250, 0.003


class _Small(SlicedPicture):
    """The picture itself. A touch mirrors it."""

    touched = Signal()

    def __init__(self, session: Session, paths: InkLayer) -> None:
        super().__init__(SLICE_S)
        self.setToolTip("A touch mirrors it")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFixedSize(THEME.px(BOX[0]), THEME.px(BOX[1]))
        self.setAccessibleName("The ink at arm's length")
        self._page = lambda: session.job.page.size_mm
        self.show_ink(session, paths)

    def scale(self) -> float:
        """Pixels for one mm."""
        w, h = self._page()
        return min(self.width() / w, self.height() / h)

    def renew(self, mirrored: bool) -> None:
        size = QSizeF(self.size())
        self.begin(BoardView(1.0, mirror=mirrored).resized(size).fitted(self._page(), (0.0, 0.0, 0.0, 0.0)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.touched.emit()


class ArmsLength(QWidget):
    """The picture with its scale beside it, and the key that shows it at true print size on the sheet."""

    def __init__(self, session: Session, layer: InkLayer, glass_px_per_mm: float) -> None:
        super().__init__()
        self._glass = glass_px_per_mm
        self.mirrored = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, THEME.px(8), THEME.px(8), THEME.px(10))
        words = QVBoxLayout()
        words.setSpacing(0)
        self._scale = Sentence("", LABEL, "faint")
        mirror = Word("mirror")
        mirror.clicked.connect(self._mirror)
        self._key = Sentence("", LABEL, "faint")
        self._key.setWordWrap(False)
        title = Sentence("Arm's length")
        for sentence in (title, self._scale):
            sentence.setWordWrap(False)
        words.addWidget(title)
        words.addWidget(self._scale)
        words.addWidget(self._key)
        words.addWidget(mirror)
        words.addStretch(1)
        row.addLayout(words)
        row.addStretch(1)
        self._small = _Small(session, layer)
        row.addWidget(self._small)
        self._small.touched.connect(self._mirror)
        self._put_off = False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER_MS)
        self._later.timeout.connect(self._refresh)
        session.changed.connect(self._wait)
        self._refresh()
        THEME.changed.connect(self._refresh)

    def hold(self, pulling: bool) -> None:
        """Nothing is painted here while the pen is down."""
        if pulling and self._later.isActive():
            self._later.stop()
            self._put_off = True
        elif not pulling and self._put_off:
            self._put_off = False
            self._later.start()
        self._small.hold(pulling)

    def picture(self) -> QImage:
        """The ink as it is shown, unmirrored or not."""
        return self._small.image()

    def set_glass(self, px_per_mm: float) -> None:
        self._glass = px_per_mm
        self._refresh()

    def _wait(self) -> None:
        self._later.start()

    def _refresh(self) -> None:
        self._scale.say(f"**{self._small.scale() / self._glass:.2f}** of print size")
        self._key.say(f"print size: **{KEYS.shown('U')}**")
        self._small.setAccessibleDescription(f"{self._small.scale() / self._glass:.2f} of print size")
        self._small.renew(self.mirrored)

    def _mirror(self) -> None:
        self.mirrored = not self.mirrored
        self._small.renew(self.mirrored)

    def sizeHint(self) -> QSize:
        return QSize(248, THEME.px(BOX[1] + 18))
