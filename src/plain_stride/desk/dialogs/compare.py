"""Two moments of the drawing side by side."""

from functools import partial

from PySide6.QtWidgets import QDialog, QHBoxLayout, QMenu, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Sentence, Word
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.margins.state_picture import StatePicture
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.step_words import step_words
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.texts import counted


class Compare(QDialog):
    """Left a mark, or any step; right the drawing as it is now. Both can be mirrored; Escape closes it."""

    def __init__(self, parent: QWidget, session: Session, paths: InkLayer, step: int) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Then and now")
        self.setStyleSheet(f"QDialog {{ background: {THEME.palette.margin} }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(16), THEME.px(10), THEME.px(16), THEME.px(12))
        head, pictures, foot = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        self._moments = self._choices(step)
        self._step = step
        self.choice = Word("")
        self.choice.setAccessibleDescription("the moment at the left; press for another")
        self.choice.clicked.connect(self._ask)
        left = QHBoxLayout()
        left.addWidget(self.choice)
        left.addStretch(1)
        head.addLayout(left, 1)
        head.addWidget(Sentence("**Now**"), 1)
        self.then = StatePicture(session, step, paths)
        self.now = StatePicture(session, session.job.history.head, paths)
        pictures.addWidget(self.then)
        pictures.addWidget(self.now)
        self._figures = Sentence("", colour="faint")
        mirror = Word("mirror both")
        self.back = Word("go back to then")
        foot.addWidget(self._figures, 1)
        foot.addWidget(mirror)
        foot.addWidget(self.back)
        for layout, stretch in ((head, 0), (pictures, 1), (foot, 0)):
            column.addLayout(layout, stretch)
        mirror.clicked.connect(self._mirror)
        self.back.clicked.connect(self._go_back)
        self.resize(THEME.px(1120), THEME.px(560))
        self._say(step)

    def _choices(self, step: int) -> list[tuple[str, int]]:
        """(words, step) of the marks, the newest first, and of the step that was asked for."""
        job = self._session.job
        marks = [(name, at) for name, at in reversed(job.history.marks.items())]
        if step not in {at for _, at in marks}:
            marks.insert(0, (f"after: {step_words(self._session.job, step)}", step))
        return marks

    @property
    def busy(self) -> bool:
        """Whether pictures are being painted."""
        return self.then.busy or self.now.busy

    def menu(self) -> QMenu:
        """The moments to choose from."""
        menu = QMenu(self.parentWidget())
        for words, step in self._moments:
            menu.addAction(words, partial(self.choose, step))
        return menu

    def _ask(self) -> None:
        self.menu().exec(self.choice.mapToGlobal(self.choice.rect().bottomLeft()))

    def choose(self, step: int) -> None:
        """Shows another moment at the left."""
        self._step = step
        self.then.show_step(step)
        self._say(step)

    def _say(self, step: int) -> None:
        self.choice.setText(f"Then: {next(words for words, at in self._moments if at == step)}")
        self.choice.updateGeometry()
        then, now = self._session.job.as_at(step).rows.lines, self._session.job.rows.lines
        gone, new = len(then.keys() - now.keys()), len(now.keys() - then.keys())
        changed = sum(1 for key in then.keys() & now.keys() if then[key] is not now[key] and then[key] != now[key])
        self._figures.say(
            f"Then **{counted(len(then), 'line')}**, now **{len(now)}**: **{new}** new, **{gone}** gone,"
            f" **{changed}** changed."
        )
        self.back.setVisible(step != self._session.job.history.head and not self._session.read_only)

    def _mirror(self) -> None:
        on = not self.now.mirrored
        self.then.mirror(on)
        self.now.mirror(on)

    def _go_back(self) -> None:
        self._session.timeline.go_to(self._step)
        self.accept()
