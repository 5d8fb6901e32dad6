"""What is left to ink, as the window plans by it: asked of the drawing's worker, kept as long as it is true."""

from datetime import datetime

from plain_stride.desk.session.asked_later import AskedLater
from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.job_forecast import JobForecast, forecast_of, hours_by_step
from plain_stride.job.log_changes import order_row
from plain_stride.job.log_questions import WorkLeft
from plain_stride.job.work_order import steps_of_job
from plain_stride.job.worked import Worked, worked
from plain_stride.order.pauses import PAUSE_S
from plain_stride.order.pieces import Piece
from plain_stride.order.steps import Step, next_step
from plain_stride.pencils.read.reading import Reading

FEW_LINES = 40


class Planner(AskedLater):
    """pieces: as they were found last; pause: seconds that do not count as work. changed: any of it is another now."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, lambda: WorkLeft(self.reading), self._take, FEW_LINES, lambda: self.reading)
        self._reader: PencilReader | None = None
        self.pieces: tuple[Piece, ...] = ()
        self.pause = PAUSE_S
        self._worked: tuple[tuple[int, int, float], Worked] | None = None
        self._steps: tuple[int, list[Step]] | None = None

    def hold_against(self, reader: PencilReader) -> None:
        """The pencils that it plans by."""
        self._reader = reader
        reader.changed.connect(self.wake)

    @property
    def reading(self) -> Reading | None:
        return self._reader.reading if self._reader is not None else None

    @property
    def can_read(self) -> bool:
        """Whether there are pencils that nobody has read yet."""
        return self.reading is None and bool(self._session.job.rows.pencils)

    def read(self) -> None:
        """Has the pencils read."""
        if self._reader is not None and not self._reader.running:
            self._reader.read()

    @property
    def reading_now(self) -> bool:
        return self._reader is not None and self._reader.running

    def count_pauses(self, longer: float) -> None:
        """Pauses that are longer do not count as work from now on, s."""
        self.pause = longer
        self.changed.emit()

    def steps(self) -> list[Step]:
        """In their order; none where that cannot be told, which is said."""
        version = self._session.job.version
        if self._steps is None or self._steps[0] != version:
            try:
                self._steps = (version, steps_of_job(self._session.job, list(self.pieces)))
            except StrideError as fault:
                self._session.said.emit(f"{fault}.", True)
                self._steps = (version, [])
        return self._steps[1]

    def next(self) -> Step | None:
        return next_step(self.steps(), order_row(self._session.job).aside)

    def to_do(self) -> list[Step]:
        """Steps that are neither ticked nor set aside, in their order."""
        aside = order_row(self._session.job).aside
        return [step for step in self.steps() if not step.ticked and step.id not in aside]

    def worked(self) -> Worked:
        """What was done; read off the history once for each step of it."""
        history = self._session.job.history
        key = (len(history.steps), history.head, self.pause)
        if self._worked is None or self._worked[0] != key:
            self._worked = (key, worked(self._session.job, self.pause))
        return self._worked[1]

    def forecast(self) -> JobForecast:
        """Of what is left, as the pace so far has it."""
        return forecast_of(self._session.job, self.worked(), list(self.pieces), datetime.now().astimezone())

    def hours(self) -> dict[str, float | None]:
        """Hours of work by step."""
        return hours_by_step(self.forecast(), self.steps())

    def _take(self, found: tuple[Piece, ...]) -> None:
        self.pieces, self._steps = found, None
