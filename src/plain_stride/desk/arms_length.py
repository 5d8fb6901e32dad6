"""Arm's length: the ink alone, small, as it is seen from a distance. Its scale is said; pencils are never on it."""

from PySide6.QtCore import QRectF, QSize, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from plain_stride.desk.bench import Bench
from plain_stride.desk.controls import Sentence, Word
from plain_stride.desk.ink_layer import InkLayer
from plain_stride.desk.painted import Painted
from plain_stride.desk.theme import LABEL, THEME, sheet_color

BOX = (126, 84)
LATER_MS = 250


class _Small(Painted, QWidget):
    def __init__(self, owner: "ArmsLength") -> None:
        super().__init__()
        self._owner = owner
        self.setFixedSize(THEME.px(BOX[0]), THEME.px(BOX[1]))
        self.setAccessibleName("The ink at arm's length")

    def scale(self) -> float:
        """Pixels for one mm."""
        w, h = self._owner.bench.job.page.size_mm
        return min(self.width() / w, self.height() / h)

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        w, h = self._owner.bench.job.page.size_mm
        scale = self.scale()
        painter.translate(self.width() - w * scale, 0)
        painter.scale(scale, scale)
        if self._owner.mirrored:
            painter.translate(w, 0)
            painter.scale(-1, 1)
        painter.fillRect(QRectF(0, 0, w, h), THEME.color("paper"))
        painter.setClipRect(QRectF(0, 0, w, h))
        inks = {"black": sheet_color("ink"), "white": THEME.color("paper")}
        for _, ink, shape in self._owner.layer.visible_shapes():
            painter.fillPath(self._owner.layer.path(shape, scale), inks[ink])


class ArmsLength(QWidget):
    """The picture with its scale beside it; one word mirrors it."""

    def __init__(self, bench: Bench, layer: InkLayer, glass_px_per_mm: float) -> None:
        super().__init__()
        self.bench, self.layer, self._glass = bench, layer, glass_px_per_mm
        self.mirrored = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, THEME.px(8), THEME.px(8), THEME.px(10))
        words = QVBoxLayout()
        words.setSpacing(0)
        self._scale = Sentence("", LABEL, "faint")
        mirror = Word("mirror")
        mirror.clicked.connect(self._mirror)
        title = Sentence("Arm's length")
        for sentence in (title, self._scale):
            sentence.setWordWrap(False)
        words.addWidget(title)
        words.addWidget(self._scale)
        words.addWidget(mirror)
        words.addStretch(1)
        row.addLayout(words)
        row.addStretch(1)
        self._small = _Small(self)
        row.addWidget(self._small)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER_MS)
        self._later.timeout.connect(self._refresh)
        self.set_bench(bench, layer)
        THEME.changed.connect(self._small.update)

    def set_bench(self, bench: Bench, layer: InkLayer) -> None:
        self.bench, self.layer = bench, layer
        bench.changed.connect(self._wait)
        self._refresh()

    def _wait(self) -> None:
        self._later.start()

    def _refresh(self) -> None:
        self._scale.say(f"**{self._small.scale() / self._glass:.2f}** of print size")
        self._small.setAccessibleDescription(f"{self._small.scale() / self._glass:.2f} of print size")
        self._small.update()

    def _mirror(self) -> None:
        self.mirrored = not self.mirrored
        self._small.update()

    def sizeHint(self) -> QSize:
        return QSize(248, THEME.px(BOX[1] + 18))
