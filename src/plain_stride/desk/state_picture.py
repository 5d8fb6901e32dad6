"""A picture of the whole sheet at some step, painted in slices."""

from PySide6.QtCore import QSize, QSizeF, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plain_stride.desk.bench import Bench
from plain_stride.desk.ink_layer import InkLayer
from plain_stride.desk.painted import Painted, draw_whole
from plain_stride.desk.state_view import StateView
from plain_stride.desk.theme import THEME
from plain_stride.desk.view import BoardView

SLICE_S, BORDER = 0.008, 8.0


class StatePicture(Painted, QWidget):
    """Ink alone, as large as there is room for. paths: another picture of the same job whose paths serve here too."""

    def __init__(self, bench: Bench, step: int, paths: InkLayer) -> None:
        super().__init__()
        self._bench, self._paths = bench, paths
        self.mirrored = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(120, 90)
        self._slices = QTimer(self)
        self._slices.timeout.connect(self._paint_slice)
        self.show_step(step)

    def show_step(self, step: int) -> None:
        self._state = StateView(self._bench, step)
        self._layer = InkLayer(self._state, self._paths)
        self._layer.pencils_off = True
        self.renew()

    def mirror(self, on: bool) -> None:
        self.mirrored = on
        self.renew()

    def renew(self) -> None:
        view = BoardView(1.0, mirror=self.mirrored).resized(QSizeF(self.size()))
        page = self._state.job.page.size_mm
        self._layer.begin(view.fitted(page, (BORDER,) * 4), self.size(), self.devicePixelRatioF())
        self._slices.start(0)

    @property
    def busy(self) -> bool:
        return self._layer.busy

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(520), THEME.px(380))

    def resizeEvent(self, event: object) -> None:
        self.renew()

    def _paint_slice(self) -> None:
        if self._layer.work(SLICE_S) is not None:
            self.update()
        if not self._layer.busy:
            self._slices.stop()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        draw_whole(painter, self._layer.image)
