"""The writer thread: it alone writes the job's file while the window is open, so that nothing waits for the disk."""

import queue
import threading
from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from plain_stride.errors import StrideError
from plain_stride.job.store import Commit, Store


class Keeper(QObject):
    """Writes commits in their order. `saved` tells how many still wait after one is durable; `failed` why one is not;
    `moved` that its file was gone or replaced, and where the job goes on.

    After a failure later commits wait unwritten, since they stand on it; `again` tries from there.
    """

    saved = Signal(int)
    moved = Signal(str)
    packed = Signal(int, int, int)
    sized = Signal(int, int)
    failed = Signal(str)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self._store = store
        self._waiting: list[Commit] = []
        self._work: queue.SimpleQueue[Callable[[], object] | None] = queue.SimpleQueue()
        self.stuck = False
        self._thread = threading.Thread(target=self._run, name="keeper", daemon=False)
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

    def pending(self) -> int:
        return len(self._waiting)

    def run(self, work: Callable[[Store], None]) -> None:
        """Does something else with the file, after all that waits; its StrideError comes as `failed`."""
        self._work.put(lambda: self._told(lambda: work(self._store)))

    def do(self, work: Callable[[Store], None]) -> None:
        """Does something with the file after all that waits, and waits for it. Raises StrideError, nothing done; so
        too when earlier work could not be written."""
        done: queue.SimpleQueue[StrideError | None] = queue.SimpleQueue()

        def told() -> None:
            try:
                if self._waiting:
                    raise StrideError("something is not saved yet: save it first")
                work(self._store)
                done.put(None)
            except StrideError as fault:
                done.put(fault)

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
        try:
            work()
        except StrideError as fault:
            self.failed.emit(str(fault))
            return False
        return True
