"""The writer thread: it alone writes the job's file while the window is open, so that nothing waits for the disk."""

import queue
import threading
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from plain_stride.errors import StrideError
from plain_stride.job.commit import Commit, Whole
from plain_stride.job.errors import OverwrittenError
from plain_stride.job.logfile import log_crash
from plain_stride.job.store import Store


class WriterThread(QObject):
    """Writes commits in their order. `saved` tells how many still wait after one is durable; `failed` why one is not;
    `moved` that its file was gone or replaced, and where the job goes on; `overwritten` that only memory holds the job
    any more: it is to `go_on_as` another file.

    After a failure later commits wait unwritten, since they stand on it; `again` tries from there. Whatever goes wrong,
    the thread lives on.
    """

    saved = Signal(int)
    moved = Signal(str)
    packed = Signal(int, int, int)
    sized = Signal(int, int)
    failed = Signal(str)
    overwritten = Signal(str)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._waiting: list[Commit] = []
        self._work: queue.SimpleQueue[Callable[[], object] | None] = queue.SimpleQueue()
        self.stuck = False
        self._thread = threading.Thread(target=self._run, name="writer", daemon=False)
        self._thread.start()

    @property
    def writable(self) -> bool:
        return self._store.writable

    def put(self, commit: Commit) -> None:
        """Takes a commit to write; returns at once."""
        self._waiting.append(commit)
        if not self.stuck:
            self._work.put(self._write_next)

    def again(self) -> None:
        """Tries to write what waits since a failure."""
        self.stuck = False
        for _ in range(len(self._waiting)):
            self._work.put(self._write_next)

    def waiting(self) -> list[Commit]:
        """What is not in the file yet, in its order."""
        return list(self._waiting)

    def pending(self) -> int:
        return len(self._waiting)

    def run(self, work: Callable[[Store], None]) -> None:
        """Does something else with the file, after all that waits; its StrideError comes as `failed`."""
        self._work.put(lambda: self._told(lambda: work(self._store)))

    def do(self, work: Callable[[Store], None]) -> None:
        """Does something with the file after all that waits, which is tried once more, and waits for it. Raises
        StrideError, nothing done; so too when earlier work could not be written."""
        self.again()

        def checked(store: Store) -> None:
            if self._waiting:
                raise StrideError("something is not saved yet: save it first")
            work(store)

        self._wait_for(checked)

    def go_on_as(self, path: Path, whole: Whole) -> None:
        """Writes the whole job to another file, and goes on there; what waits is among it. Waits for it. Raises
        StrideError, all as it was."""

        def gone_on(store: Store) -> None:
            store.go_on_as(path, whole)
            self._waiting.clear()
            self.stuck = False

        self._wait_for(gone_on)

    def _wait_for(self, work: Callable[[Store], None]) -> None:
        done: queue.SimpleQueue[StrideError | None] = queue.SimpleQueue()

        def told() -> None:
            try:
                work(self._store)
                done.put(None)
            except StrideError as fault:
                done.put(fault)
            except Exception as fault:
                done.put(StrideError(f"something went wrong while writing ({fault}). The log: {log_crash()}"))

        if not self._thread.is_alive():
            raise StrideError("the job is closed already")
        self._work.put(told)
        fault = done.get()
        if fault is not None:
            raise fault

    def pack(self) -> None:
        """Packs the file after all that waits; `packed` brings its size before and after, and that of the history."""
        self.run(self._pack)

    def tell_sizes(self) -> None:
        """`sized` brings the bytes of the file, and those that its history takes."""
        self.run(lambda store: self.sized.emit(*store.sizes()))

    def _pack(self, store: Store) -> None:
        before, _ = store.sizes()
        store.pack()
        self.packed.emit(before, *store.sizes())

    def close(self) -> None:
        """Writes all that waits and closes the file. Closing again does nothing."""
        if self._thread.is_alive():
            self._work.put(None)
            self._thread.join()

    def _run(self) -> None:
        while (work := self._work.get()) is not None:
            work()
            if self._work.empty():
                # Where nothing waits the log is folded in at once: a file that takes this one's place finds none.
                self._store.rest()
        self._store.close()

    def _write_next(self) -> None:
        if self.stuck or not self._waiting:
            return
        if self._told(self._commit_next):
            self._waiting.pop(0)
            self.saved.emit(len(self._waiting))
        else:
            self.stuck = True

    def _commit_next(self) -> None:
        if self._store.commit(self._waiting[0]):
            self.moved.emit(str(self._store.path))

    def _told(self, work: Callable[[], None]) -> bool:
        """Whether work was done; what kept it from it is told."""
        try:
            work()
        except OverwrittenError as fault:
            self.overwritten.emit(str(fault))
            return False
        except StrideError as fault:
            self.failed.emit(str(fault))
            return False
        except Exception as fault:
            # Nothing may end this thread: all that is drawn later is saved by it.
            self.failed.emit(f"Something went wrong while writing ({fault}). The log: {log_crash()}")
            return False
        return True
