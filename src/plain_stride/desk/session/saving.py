"""The open job on its way to the disk: what waits, what went wrong, and where the job goes on."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.session.document import Document
from plain_stride.errors import StrideError
from plain_stride.job.store import beside


class Saving(QObject):
    """waiting: how many changes are not in the file yet; moved: the job goes on in another file. why_unsaved: what
    kept the last one from it."""

    waiting = Signal(int)
    moved = Signal()

    def __init__(self, document: Document, coming: Callable[[], int]) -> None:
        """coming: how many pulls are not lines yet."""
        super().__init__()
        self._document, self._job, self._writer = document, document.job, document.writer
        self._said, self._coming = document.said, coming
        self.why_unsaved = ""
        document.put.connect(self.tell)
        self._writer.saved.connect(self.tell)
        self._writer.failed.connect(self._say_unsaved)
        self._writer.moved.connect(self._moved)
        self._writer.overwritten.connect(self._go_on_beside)
        self._writer.packed.connect(self._say_packed)
        self._writer.sized.connect(self._say_sizes)

    def tell(self) -> None:
        """Tells how many changes wait."""
        self.waiting.emit(self._writer.pending() + self._coming())

    def save_all(self) -> None:
        """Waits until all is in the file. Raises StrideError when it cannot be written."""
        self._document.settle()
        self._writer.do(lambda store: None)

    def save_as(self, path: Path) -> None:
        """Writes the whole job to another file and goes on there. Raises StrideError, all as it was."""
        self._writer.go_on_as(path, self._job.whole())
        self._job.moved_to(path)
        self.moved.emit()
        self.tell()

    def save_copy(self, path: Path) -> None:
        """Writes a complete copy, after all that waits to be saved."""
        self._document.settle()
        self._writer.run(lambda store: store.save_copy(path))
        self._said.emit(f"A copy is being saved as **{path.name}**.", False)

    def unsaved(self) -> int:
        """How many changes are in memory alone, after all was tried to write them."""
        if self._document.read_only:
            return 0
        try:
            self.save_all()
        except StrideError:
            return self._writer.pending()
        return 0

    def _say_unsaved(self, words: str) -> None:
        self.why_unsaved = words
        self._said.emit(f"{words}. What you drew is still here: try again.", True)

    def _moved(self, path: str) -> None:
        old = self._job.path
        self._job.moved_to(Path(path))
        if self._job.path == old:
            words = f"{old.name} was deleted or moved: it has been put back whole, and you go on in it."
        else:
            words = f"Another file has taken the place of {old.name}: this job goes on as {self._job.path.name}."
        self.moved.emit()
        self._said.emit(words, True)

    def _go_on_beside(self, words: str) -> None:
        """The file holds another program's work now: what is here goes into a file beside it."""
        old, to = self._job.path, beside(self._job.path)
        try:
            self.save_as(to)
        except StrideError as fault:
            self._said.emit(f"{words}. What you drew is still here, and could not be saved beside it: {fault}.", True)
            return
        self._said.emit(f"Another program has written into {old.name}: this job goes on, whole, as {to.name}.", True)

    def _say_packed(self, before: int, after: int, history: int) -> None:
        mb = [f"**{size / 1e6:.1f} MB**" for size in (before, after, history)]
        self._said.emit(f"The file took {mb[0]} and takes {mb[1]} now, {mb[2]} of it history, all there.", False)

    def _say_sizes(self, whole: int, history: int) -> None:
        mb = [f"**{size / 1e6:.1f} MB**" for size in (whole, history)]
        self._said.emit(f"The file takes {mb[0]}; the steps of its history take {mb[1]} of it.", False)
