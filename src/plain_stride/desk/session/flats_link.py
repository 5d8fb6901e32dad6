"""The flats map beside the window: asked for when nothing changes for a moment, kept as long as it is true."""

from plain_stride.desk.session.asked_later import AskedLater
from plain_stride.desk.session.session import Session
from plain_stride.job.flats import Flat, Flats
from plain_stride.job.hand_over_questions import FlatsNow

FEW_LINES = 60


class FlatsLink(AskedLater):
    """found: the map that was found last, None before; picked: the id of the flat in hand, '' for none. changed: any of
    it is another now."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, FlatsNow, self._take, FEW_LINES)
        self.found: Flats | None = None
        self.picked = ""

    def pick(self, flat: str) -> None:
        """Takes a flat in hand, '' for none."""
        self.picked = flat
        self.changed.emit()

    def in_hand(self) -> Flat | None:
        """The flat in hand."""
        flats = self.found.flats if self.found is not None else ()
        return next((one for one in flats if one.id == self.picked), None)

    def _take(self, found: Flats) -> None:
        self.found = found
        if self.in_hand() is None:
            self.picked = ""
