"""Pictures beside the sheet that are painted in slices; the one before stands until the new one is whole."""

from PySide6.QtCore import QTimer
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from plain_stride.desk.look.painted import Painted, draw_whole
from plain_stride.desk.sheet.ink_layer import InkLayer, Look, Shown
from plain_stride.desk.sheet.view import BoardView


class SlicedPicture(Painted, QWidget):
    """Ink alone, of the session or of a state of its job. slice_s: how long it is painted at a stretch."""

    def __init__(self, slice_s: float) -> None:
        super().__init__()
        self._slice_s = slice_s
        self._layer: InkLayer | None = None
        self._slices = QTimer(self)
        self._slices.timeout.connect(self._paint_slice)

    def show_ink(self, of: Shown, paths: InkLayer) -> None:
        """What to paint from now on; paths: another picture of the same job, whose paths serve here too."""
        self._layer = InkLayer(of, paths)
        self._layer.use(Look(pencils_off=True))

    def begin(self, view: BoardView) -> None:
        """Starts to paint a view."""
        assert self._layer is not None
        self._layer.begin(view, self.size(), self.devicePixelRatioF())
        self._slices.start(0)

    def image(self) -> QImage:
        """What is shown now."""
        return self._layer.image if self._layer is not None else QImage()

    @property
    def busy(self) -> bool:
        return self._layer is not None and self._layer.busy

    def hold(self, held: bool) -> None:
        """Waits while the pen is down."""
        if held:
            self._slices.stop()
        elif self.busy:
            self._slices.start(0)

    def _paint_slice(self) -> None:
        if self._layer is not None and self._layer.work(self._slice_s) is not None:
            self.update()
        if not self.busy:
            self._slices.stop()

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self._layer is not None:
            draw_whole(painter, self._layer.image)
