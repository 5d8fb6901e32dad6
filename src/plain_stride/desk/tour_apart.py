"""What the tour shows of Practice and Log: a drill with its pulls, the hand, the order of work, a page of the log."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QCoreApplication

from plain_stride.desk.sheet.practice_sheet import SHOWN_PULLS, TARGET
from plain_stride.desk.stations.log import LogNotes
from plain_stride.desk.stations.practice import PracticeNotes
from plain_stride.hand.simulated import HANDS
from plain_stride.practice.simulated import drawn

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

SHOTS = [("practice", "Practice", "Drill", "day"), ("practice-hand", "Practice", "Hand", "day"),
         ("log-next", "Log", "Next", "day"), ("log-diary", "Log", "Diary", "day")]  # fmt: skip
PULLS = (("circles", 24), ("the same stroke", 12), ("light and firm", 10), ("straight lines", 30), ("S-curves", 26),
         ("arcs", 24))  # fmt: skip
PACES = ("careful", "normal", "fast")


def show_apart(main_window: "MainWindow", shot: str, folder: Path) -> None:
    """What each picture needs; the hand book is one of the tour's own, in `folder`."""
    practice, log = main_window.desk.stations["Practice"], main_window.desk.stations["Log"]
    assert isinstance(practice, PracticeNotes)
    assert isinstance(log, LogNotes)
    if shot == "practice":
        practice.practising.use_book(folder / "hand-book.db")
        _pull(main_window, practice)
        practice.practising.take("S-curves")
        practice.drill.sight.words[SHOWN_PULLS].click()
    elif shot == "practice-hand":
        practice.drill.sight.words[TARGET].click()
        practice.practising.take("hatching")
        _pulls_of(main_window, practice, 11, "normal", 9)
    else:
        _wait(lambda: log.planner.known)
        main_window.desk.sheet.viewport.fit()
        # The tour's own sitting stands first.
        log.diary.pick(1)
        if shot == "log-diary":
            _wait(log.diary.pictured)


def _pull(main_window: "MainWindow", practice: PracticeNotes) -> None:
    for k, (drill, count) in enumerate(PULLS):
        practice.practising.take(drill)
        for n in range(count):
            _pulls_of(main_window, practice, 1, PACES[n % 3] if drill == "the same stroke" else "normal", 100 * k + n)


def _pulls_of(main_window: "MainWindow", practice: PracticeNotes, count: int, pace: str, seed: int) -> None:
    """Pulls of the simulated hand along the targets of the drill in hand."""
    now = practice.practising
    for n in range(count):
        samples = drawn(now.drill.target(now.number), HANDS["average"], pace, [seed, n])
        now.pulled(samples, 1.0, "pen", main_window.session.nib)


def _wait(until: Callable[[], bool]) -> None:
    while not until():
        QCoreApplication.processEvents()
