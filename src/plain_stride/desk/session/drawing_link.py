"""The drawing as a worker beside the window has it: asked of it, and dropped where the job has gone on meanwhile."""

from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject

from plain_stride.desk.session.document import Document
from plain_stride.desk.workers.owned import owned
from plain_stride.desk.workers.standing import StandingWorker
from plain_stride.errors import StrideError
from plain_stride.job.commit import Commit
from plain_stride.job.following import JobAtWork, drawn_of, followed_job
from plain_stride.job.logfile import logger
from plain_stride.job.serving import Answered, Failed, Progressed, Question, Reply, serve

FEW_LINES = 300
"""A job of so many lines is asked here: the answer comes before a worker could have been told of it."""


def serve_drawing(connection: Connection, path: Path) -> None:
    """What the process does."""
    serve(connection, lambda: followed_job(path))


class DrawingLink(QObject):
    """Answers that came too late are dropped, and the question is asked anew."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self._worker = owned(self, StandingWorker(serve_drawing))
        self._sent = 0
        self._open: dict[type, int] = {}
        document.committed.connect(self._follow)

    @property
    def worker(self) -> StandingWorker:
        return self._worker

    def ask(
        self,
        question: Question,
        told: Callable[[Any], object],
        few: int | None = None,
        progressed: Callable[[float], object] = lambda share: None,
    ) -> None:
        """`told` gets the answer of the job as it is, at once where it has few lines, or soon; progressed: told the
        share done meanwhile. Another question of the same kind takes its place."""
        if len(self._document.job.rows.lines) <= (FEW_LINES if few is None else few) or not self._stands_by():
            self._answer_here(question, told)
            return
        self.stop(type(question))

        def reply_came(reply: Reply) -> None:
            if isinstance(reply, Answered) and reply.after == self._sent:
                told(reply.value)
            elif isinstance(reply, Answered):
                self.ask(question, told, few, progressed)
            elif isinstance(reply, Progressed):
                progressed(reply.share)
            elif isinstance(reply, Failed) and not reply.stopped:
                # A worker that ended, or a file that it could not read: the window itself still knows.
                logger().error("the drawing's worker: %s", reply.words)
                self._answer_here(question, told)

        self._open[type(question)] = self._worker.ask(question, reply_came)

    def stop(self, kind: type) -> None:
        """Gives a question of a kind up; who asked is told nothing more."""
        self._worker.stop(self._open.get(kind, 0))

    def rest(self, on: bool) -> None:
        """It rests while the pen is down."""
        self._worker.rest(on)

    def close(self) -> None:
        self._worker.close()

    def _stands_by(self) -> bool:
        """The worker reads the file; what is not written yet is told to it, and all that comes. False where the system
        has no room for it."""
        if self._worker.running:
            return True
        waiting = self._document.writer.waiting()
        try:
            self._worker.start(self._document.job.path)
        except OSError as fault:
            logger().error("the drawing's worker could not be started: %s", fault)
            return False
        self._sent = 0
        for commit in waiting:
            self._follow(commit)
        return True

    def _follow(self, commit: Commit) -> None:
        if self._worker.running:
            self._sent += 1
            self._worker.follow(drawn_of(commit))

    def _answer_here(self, question: Question, told: Callable[[Any], object]) -> None:
        at = JobAtWork(self._document.job, self._document.shapes)
        try:
            told(question.answered(at, lambda share: True))
        except StrideError as fault:
            self._document.said.emit(f"{fault}.", True)
