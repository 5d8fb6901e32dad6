"""Back and forth in the history of the open job: undo, redo, marks, ways that were left, forgetting."""

from datetime import datetime

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.session.document import Document
from plain_stride.desk.session.step_words import step_words
from plain_stride.errors import StrideError
from plain_stride.texts import counted


class Timeline(QObject):
    """marked: a moment has got a name."""

    marked = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document, self._job, self._said = document, document.job, document.said
        self._opened_at = self._job.history.head

    def _ready(self) -> bool:
        """Whether the job can be changed; all that was pulled is laid then."""
        if not self._document.writable():
            return False
        self._document.settle()
        return True

    def undo(self) -> None:
        if not self._ready():
            return
        step = self._job.history.steps.get(self._job.history.head)
        commit = self._job.undo()
        if commit is None:
            self._said.emit("Nothing is left to take back: this is the empty job.", False)
            return
        self._document.moved(commit)
        self._said.emit(f"Taken back: {step_words(self._job, step.id) if step else ''}.", False)

    def redo(self) -> None:
        if not self._ready():
            return
        commit = self._job.redo()
        if commit is None:
            self._said.emit("There is nothing to do again.", False)
            return
        self._document.moved(commit)
        self._said.emit(f"Done again: {step_words(self._job, self._job.history.head)}.", False)

    def go_to(self, step: int) -> None:
        """Goes to a step of any way; the way that is left stays."""
        if not self._ready():
            return
        try:
            commit = self._job.go_to(step)
        except StrideError as fault:
            self._said.emit(str(fault), True)
            return
        if commit is not None:
            self._document.moved(commit)
            self._said.emit("You are there now; the way you left is in the history.", False)

    def mark(self, name: str) -> None:
        """Names this moment of the history."""
        if not self._ready():
            return
        try:
            step = self._job.history.set_mark(name)
        except StrideError as fault:
            self._said.emit(str(fault), True)
            return
        self._document.writer.run(lambda store: store.mark(name, step))
        self._said.emit(f"Marked as **{name}**.", False)
        self.marked.emit()

    def mark_now(self) -> None:
        """Marks this moment by a name of its own, once however often it is asked for."""
        marks = self._job.history.marks
        here = next((name for name, step in marks.items() if step == self._job.history.head), None)
        if here is not None:
            self._said.emit(f"This moment is marked already, as **{here}**.", False)
            return
        base = f"{datetime.now():%d %B %H:%M}, {counted(len(self._job.rows.lines), 'line')}"
        names = (base if n == 1 else f"{base} ({n})" for n in range(1, 10_000))
        self.mark(next(name for name in names if name not in marks))

    def step_before(self) -> int:
        """What the drawing is compared with: the last mark that is not now, else how it was when it was opened."""
        history = self._job.history
        marks = [step for step in history.marks.values() if step != history.head]
        return marks[-1] if marks else self._opened_at if self._opened_at in (*history.steps, 0) else 0

    def forget_before(self, mark: str) -> None:
        """Lets the history begin at a mark, in the file first; the file is packed by it."""
        self._document.settle()
        before = len(self._job.history.steps)
        try:
            forgetting = self._job.forgetting(mark)
            self._document.writer.do(lambda store: store.forget(forgetting))
        except StrideError as fault:
            self._said.emit(f"{fault}. Nothing was forgotten.", True)
            return
        self._job.forget(forgetting)
        self._document.writer.pack()
        forgotten = before - len(self._job.history.steps)
        self._said.emit(f"**{forgotten}** steps are forgotten; undo ends at **{mark}**.", False)
