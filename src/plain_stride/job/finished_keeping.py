"""The finished art and the flats map of a job, kept as long as they are true: a view asks for them often."""

from typing import Any
from weakref import WeakKeyDictionary

from plain_stride.finish.art import Art
from plain_stride.job.covers import Covers
from plain_stride.job.finished import finished_art
from plain_stride.job.flats import Flats, flats_of
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes


class FinishedKeeper:
    """Kept for one state of a job; another state lets go of all."""

    def __init__(self) -> None:
        self._version = -1
        self._kept: dict[object, Any] = {}
        self._covers: Covers | None = None

    def flats(self, job: JobRows, shapes: Shapes) -> Flats:
        """The map with its leaks."""
        # Covers know themselves which of them are others now.
        self._covers = self._covers or Covers(job, shapes)
        covers = self._covers
        return self._once(job, "flats", lambda: flats_of(job, shapes, covers=covers))

    def art(self, job: JobRows, shapes: Shapes, plain: bool, flats: bool) -> Art:
        """The art of the sheet and its bleed, as `finished.finished_art` has it."""
        found = self.flats(job, shapes) if flats else None
        return self._once(job, (plain, flats), lambda: finished_art(job, shapes, plain=plain, flats=flats, found=found))

    def _once(self, job: JobRows, what: object, make: Any) -> Any:
        if self._version != job.version:
            self._version, self._kept = job.version, {}
        if what not in self._kept:
            self._kept[what] = make()
        return self._kept[what]


_KEEPERS: "WeakKeyDictionary[Shapes, FinishedKeeper]" = WeakKeyDictionary()


def keeper_of(shapes: Shapes) -> FinishedKeeper:
    """The keeper of the job that shapes are of."""
    return _KEEPERS.setdefault(shapes, FinishedKeeper())
