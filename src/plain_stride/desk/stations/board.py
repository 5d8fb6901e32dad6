"""Board: the sheet, its frames, what it is printed on, and what the job is for."""

from PySide6.QtCore import Signal

from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.board_frames import FramesPage
from plain_stride.desk.stations.board_job import JobPage
from plain_stride.desk.stations.board_print import PrintPage
from plain_stride.desk.stations.board_size import SizePage


class BoardNotes(PagedNotes):
    """screen_wanted: show 100 %; screen_measured: what 100 mm of it measure on the glass, mm."""

    name, key = "Board", "B"
    screen_wanted = Signal()
    screen_measured = Signal(float)

    def __init__(self, session: Session) -> None:
        size = SizePage(session)
        pages = {"Sheet": size, "Frames": FramesPage(session), "Print": PrintPage(session), "Job": JobPage(session)}
        super().__init__(session, pages)
        size.screen_wanted.connect(self.screen_wanted)
        size.screen_measured.connect(self.screen_measured)

    def fact(self) -> str:
        w, h = self.session.job.page.size_mm
        return f"{w:g} × {h:g} mm"
