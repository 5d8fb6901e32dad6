"""A picture of the whole sheet at some step."""

from PySide6.QtCore import QSize, QSizeF
from PySide6.QtWidgets import QSizePolicy

from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state_view import StateView
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.desk.sheet.sliced import SlicedPicture
from plain_stride.desk.sheet.view import BoardView

SLICE_S, BORDER = 0.008, 8.0


class StatePicture(SlicedPicture):
    """As large as there is room for."""

    def __init__(self, session: Session, step: int, paths: InkLayer) -> None:
        super().__init__(SLICE_S)
        self._session, self._paths = session, paths
        self.mirrored = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(120, 90)
        self.show_step(step)

    def show_step(self, step: int) -> None:
        self._state = StateView(self._session, step)
        self.show_ink(self._state, self._paths)
        self.renew()

    def mirror(self, on: bool) -> None:
        self.mirrored = on
        self.renew()

    def renew(self) -> None:
        view = BoardView(1.0, mirror=self.mirrored).resized(QSizeF(self.size()))
        self.begin(view.fitted(self._state.job.page.size_mm, (BORDER,) * 4))

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(520), THEME.px(380))

    def resizeEvent(self, event: object) -> None:
        self.renew()
