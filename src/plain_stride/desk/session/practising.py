"""Practice beside the open job: the drill in hand, what each pull of it came to, the warm-up; kept in the hand book."""

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

import numpy as np
from PySide6.QtCore import QObject, Signal

from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib
from plain_stride.practice.changing import Change
from plain_stride.practice.drills import DRILLS, PENCILS, SAME_STROKE, Drill, drill_named, drill_of
from plain_stride.practice.figures import HandFigures, figures_of, score_of, what_changed, worst_drills
from plain_stride.practice.hand_book import HandBook, Kept, hand_book, now
from plain_stride.practice.liked import liked
from plain_stride.practice.measuring import measured
from plain_stride.practice.report import LATELY
from plain_stride.practice.targets import Target
from plain_stride.practice.warm_up import EACH, MINUTES, PageFacts, WarmUp, chosen_drills, ended_words

T = TypeVar("T")
LONG = 600
"""Pulls that a hand is held against."""
SHOWN = 10
"""Pulls that are shown beside each other."""


@dataclass(frozen=True)
class HandNow:
    """Figures of a hand, what changed against the pulls before, where it is steadiest in a sentence, and its shake by
    month, mm."""

    figures: HandFigures
    changes: tuple[Change, ...]
    liking: str
    months: Mapping[str, float]


class Practising(QObject):
    """changed: the drill, what was pulled, or what is said; measured: samples (n, 5) of a pull that was made.

    drill, number: what is pulled next; last: the pull that was made last, with its samples; ink: samples and nibs of
    the pulls that still stand on the sheet; said: a sentence on the warm-up; fault: what went wrong."""

    changed = Signal()
    measured = Signal(object)

    def __init__(self, book: Path, person: str) -> None:
        super().__init__()
        self._path, self.person, self.device = book, person, ""
        self.drill: Drill = DRILLS[0]
        self._numbers: dict[str, int] = {}
        self._own: Drill | None = None
        self.last: Kept | None = None
        self.ink: list[tuple[np.ndarray, Nib]] = []
        self.warm: WarmUp | None = None
        self._warm_began, self._warm_pulls = 0.0, 0
        self._shakes: list[float] = []
        self.said, self.fault = "", ""
        self._kept: tuple[tuple[str, str, str], list[Kept]] | None = None

    # What is drilled

    @property
    def number(self) -> int:
        """Of the next pull of the drill in hand, from 0."""
        return self._numbers.get(self.drill.name, 0)

    @property
    def names(self) -> list[str]:
        own = [PENCILS] if self._own is not None else []
        return [drill.name for drill in DRILLS] + own

    def targets(self) -> list[Target]:
        """All that are shown for the next pull."""
        return self.drill.targets(self.number)

    def take(self, name: str) -> None:
        """Takes a drill in hand."""
        self.drill = self._own if name == PENCILS and self._own is not None else drill_named(name)
        self.last, self.ink, self.fault = None, [], ""
        self.changed.emit()

    def use_own(self, curves: Sequence[np.ndarray]) -> None:
        """Lines of the inker's own pages, mm of the practice sheet, become a drill, and it is taken in hand."""
        if curves:
            self._own = drill_of(list(curves))
            self.take(PENCILS)

    def pulled(self, samples: np.ndarray, scale: float, device: str, nib: Nib) -> None:
        """A pull was made along the next target; what is too short for one is said and leaves all as it was."""
        target = self.drill.target(self.number)
        self.device = device
        try:
            found = measured(samples, target, scale, nib)
        except StrideError as fault:
            self._say_fault(f"{fault}: pull it once more.")
            return
        kept = Kept(now(), self.person, device, self.drill.name, self.number, scale, found,
                    score_of(self.drill.name, found), samples)  # fmt: skip
        self.fault = ""
        kept = replace(kept, id=self.read(lambda book: book.add(kept)) or 0)
        self.measured.emit(samples)
        if self.number % self.drill.at_once == 0:
            self.ink = []
        self.ink.append((samples, nib))
        self.last = kept
        if self._kept is not None:
            self._kept[1].append(kept)
        self._numbers[self.drill.name] = self.number + 1
        self._go_on_warming(found.shake)
        self.changed.emit()

    def take_back(self) -> None:
        """The last pull of the drill in hand never was."""
        last = self.last
        if last is None:
            return
        self.read(lambda book: book.forget(last.id))
        self._numbers[self.drill.name] = last.number
        self.ink, self.last, self._kept = self.ink[:-1], None, None
        self.changed.emit()

    # The warm-up

    def warm_up(self, page: PageFacts) -> None:
        """Begins a warm-up for a page and for what went worst lately."""
        worst = worst_drills(self.read(lambda book: book.pulls(self.person, self.device, last=LONG)) or [])
        self.warm = WarmUp(tuple(chosen_drills(page, worst)))
        self._warm_began, self._shakes, self._warm_pulls = time.monotonic(), [], 0
        self.said = ""
        self.take(self.warm.drill(0))

    def stop_warming(self) -> None:
        """Leaves the warm-up; what was pulled is kept."""
        self.warm, self.said = None, ""
        self.changed.emit()

    def warm_share(self) -> float:
        """How much of the least of minutes has gone, 0 to 1."""
        return min(1.0, (time.monotonic() - self._warm_began) / (MINUTES[0] * 60.0))

    @property
    def warm_left(self) -> int:
        """Pulls of the drill in hand before the next one comes."""
        return EACH - self._warm_pulls % EACH

    def _go_on_warming(self, shake: float) -> None:
        if self.warm is None:
            return
        self._shakes.append(shake)
        self._warm_pulls += 1
        over = self.warm.over(self._shakes, time.monotonic() - self._warm_began)
        if over is not None:
            self.warm, self.said = None, ended_words(over)
        elif self._warm_pulls % EACH == 0:
            self.drill = drill_named(self.warm.drill(self._warm_pulls))
            self.last, self.ink = None, []

    # The book

    def _know_device(self) -> None:
        """The device that this person used last, before any pull was made."""
        if not self.device:
            last = self.read(lambda book: book.pulls(self.person, last=1))
            self.device = last[0].device if last else ""

    def pulls(self) -> list[Kept]:
        """All of the drill in hand, by this person with this device."""
        self._know_device()
        key = (self.person, self.device, self.drill.name)
        if self._kept is None or self._kept[0] != key:
            found = self.read(lambda book: book.pulls(*key, last=LATELY * 2))
            self._kept = (key, found or [])
        return self._kept[1]

    def shown_pulls(self) -> tuple[list[tuple[Kept, np.ndarray]], list[tuple[Kept, np.ndarray]]]:
        """(the best, the last) pulls of the drill whose samples are kept, with these."""

        def shown(book: HandBook) -> tuple[list[tuple[Kept, np.ndarray]], list[tuple[Kept, np.ndarray]]]:
            key = (self.person, self.device, self.drill.name)
            groups = book.best(*key, count=SHOWN), list(reversed(book.pulls(*key, last=SHOWN)))
            with_ink = [[(k, s) for k in group if (s := book.samples_of(k.id)) is not None] for group in groups]
            return with_ink[0], with_ink[1]

        return self.read(shown) or ([], [])

    def hand(self) -> HandNow:
        """What the book says of this hand: of its last pulls of any drills."""
        self._know_device()

        def told(book: HandBook) -> HandNow:
            pulls = book.pulls(self.person, self.device, last=2 * LATELY)
            return HandNow(figures_of(pulls[-LATELY:]), what_changed(pulls[:-LATELY], pulls[-LATELY:]),
                           liked(pulls, book.samples_of), book.shake_by_month(self.person, self.device))  # fmt: skip

        return self.read(told) or HandNow(figures_of([]), (), "", {})

    def tried(self) -> list[Kept]:
        """Pulls of the stroke that is tried at several speeds and sizes."""
        self._know_device()
        return self.read(lambda book: book.pulls(self.person, self.device, SAME_STROKE, last=LONG)) or []

    def use_book(self, path: Path) -> None:
        """Another hand book than the one of this machine's user."""
        self._path, self._kept = path, None
        self.be(self.person)

    def be(self, person: str) -> None:
        """Another person sits here."""
        self.person, self.device, self._kept, self.last, self.ink = person, "", None, None, []
        self.changed.emit()

    def in_book(self, work: Callable[[HandBook], T]) -> T | None:
        """Does something with the hand book; what cannot be is said, and None given."""
        self.fault = ""
        out = self.read(work)
        self._kept = None
        self.changed.emit()
        return out

    def read(self, work: Callable[[HandBook], T]) -> T | None:
        """Reads in the hand book, or writes what was pulled; None where that cannot be, with the reason in `fault`."""
        try:
            with hand_book(self._path) as book:
                return work(book)
        except StrideError as fault:
            self.fault = f"{fault}."
            return None

    def _say_fault(self, words: str) -> None:
        self.fault = words
        self.changed.emit()
