"""Proof, page Looks: the ways in which a page is looked at afresh, and what print makes of it."""

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Word
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.print_sight import GLASS, OFF, SHEET
from plain_stride.desk.sheet.viewport import Viewport
from plain_stride.desk.stations.base import Page
from plain_stride.job.board_facts import target_of


class LooksPage(Page):
    """print_wanted: OFF, GLASS or SHEET."""

    print_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._moments: Moments | None = None
        self._says, self._target = Sentence(), Sentence()
        self._pencils, self._across, self._down = (
            Word("pencils off"),
            Word("mirror left to right"),
            Word("mirror top to bottom"),
        )
        self._round, self._size = Word("upside down"), Word("true print size")
        self.print = Choice((OFF, GLASS, SHEET), OFF, "Where what print makes of it is shown")
        self.add(Heading("Seen afresh"), self._says)
        self.add_verbs(self._pencils, self._round)
        self.add(self._across, self._down, self._size)
        self.add(Heading("As it prints"), self._target, self.print)
        self.print.chosen.connect(self.print_wanted)

    def look_with(self, viewport: Viewport, moments: Moments) -> None:
        """What its verbs turn and hide."""
        self._moments = moments
        self._pencils.clicked.connect(lambda: moments.show_ink_alone(not moments.ink_alone()))
        self._pencils.clicked.connect(self.refresh)
        self._across.clicked.connect(viewport.mirror)
        self._down.clicked.connect(viewport.mirror_down)
        self._round.clicked.connect(lambda: viewport.set_view(viewport.view.turned(180.0, viewport.about())))
        self._size.clicked.connect(lambda: moments.show_print(not moments.print_shown()))

    def refresh(self) -> None:
        self._says.say("What one has looked at for hours is seen no more: turn it, mirror it, take the pencils off."
                       " Only the view changes; arm's length stands below.")  # fmt: skip
        off = self._moments is not None and self._moments.ink_alone()
        self._pencils.setText("pencils on" if off else "pencils off")
        self._pencils.updateGeometry()
        target = target_of(self.session.job)
        self._target.say(f"**{target.name}** holds lines of **{target.line_mm:g} mm** and white of"
                         f" **{target.gap_mm:g} mm**. Hatched red is lost, full red closes.")  # fmt: skip
