"""The job as it was at another step, to be looked at beside what it is now."""

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.session.session import Session
from plain_stride.job.covers import Covers


class StateView(QObject):
    """Stands for the session where a picture of another state is painted. Nothing can be changed through it."""

    said = Signal(str, bool)

    def __init__(self, session: Session, step: int) -> None:
        super().__init__()
        self.step = step
        self.job = session.job.as_at(step)
        self.shapes = session.shapes.of_state(self.job)
        self.covers = Covers(self.job, self.shapes)
        self.said.connect(session.said)
