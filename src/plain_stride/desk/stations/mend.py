"""Mend: lines that are there made better: chosen, reshaped, their ends, their place, joined and broken."""

from PySide6.QtCore import Signal

from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.mend_again import AgainMarksPage
from plain_stride.desk.stations.mend_choose import ChoosePage
from plain_stride.desk.stations.mend_ends import EndsPage
from plain_stride.desk.stations.mend_join import JoinPage
from plain_stride.desk.stations.mend_page import Make, MendPage
from plain_stride.desk.stations.mend_place import PlacePage
from plain_stride.desk.stations.mend_shape import ShapePage
from plain_stride.texts import counted


class MendNotes(PagedNotes):
    """Every verb is one step of all lines it concerns; every number that is dragged can be typed. place_wanted: a
    place in mm that is to be shown; again: the page of marks."""

    place_wanted = Signal(float, float)
    name, key = "Mend", "M"

    def __init__(self, session: Session) -> None:
        ends, self.again = EndsPage(session), AgainMarksPage(session)
        self._mending: dict[str, MendPage] = {
            "Shape": ShapePage(session), "Ends": ends, "Place": PlacePage(session),
            "Join": JoinPage(session), "Pick": ChoosePage(session), "Again": self.again,
        }  # fmt: skip
        super().__init__(session, self._mending)
        ends.place_wanted.connect(self.place_wanted)
        self.again.place_wanted.connect(self.place_wanted)

    def tools(self) -> dict[str, Make]:
        """What makes each tool that mends by dragging or pointing, by what it is called."""
        return {name: make for page in self._mending.values() for name, make in page.tools().items()}

    def fact(self) -> str:
        n = len(self.session.chosen_lines())
        if n:
            return f"{counted(n, 'line')} chosen"
        return "the line in hand" if self.session.shown_line() else "nothing in hand"
