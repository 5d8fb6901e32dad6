"""Practice: drills on a sheet of their own, a warm-up, speeds and sizes tried, what the hand book says."""

from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.practice_drill import DrillPage
from plain_stride.desk.stations.practice_hand import HandPage
from plain_stride.desk.stations.practice_speed import SpeedPage
from plain_stride.desk.stations.practice_warm import WarmPage
from plain_stride.desk.workers.owned import owned
from plain_stride.job.places import hand_book_path
from plain_stride.texts import counted

DRILL, WARM, SPEED, HAND = "Drill", "Warm up", "Speed", "Hand"


class PracticeNotes(PagedNotes):
    """shows: what the practice sheet is to show; scale: how much larger than it is."""

    name, key = "Practice", "C"
    shows = Signal(str)
    scale = Signal(float)

    def __init__(self, session: Session, book: Path | None = None, person: str = "me") -> None:
        self.practising = Practising(book or hand_book_path(), person)
        self.drill, self.warm = DrillPage(session, self.practising), WarmPage(session, self.practising)
        self.speed, self.hand = SpeedPage(session, self.practising), HandPage(session, self.practising)
        super().__init__(session, {DRILL: self.drill, WARM: self.warm, SPEED: self.speed, HAND: self.hand})
        owned(self, self.practising)
        self.drill.shows.connect(self.shows)
        self.speed.scale_wanted.connect(self.scale)
        self.practising.changed.connect(self.refresh)

    def fact(self) -> str:
        n = self.practising.number
        return counted(n, "pull") if n else ""

    def refresh(self) -> None:
        if self.isVisible():
            super().refresh()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def show_page(self, name: str) -> None:
        super().show_page(name)
        if name == SPEED:
            self.speed.begin()
        self.scale.emit(self.speed.enlarged if name == SPEED else 1.0)
