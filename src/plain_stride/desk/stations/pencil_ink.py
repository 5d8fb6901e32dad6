"""Pencils, page Ink: what of the pencils is inked, what ink is the inker's own, how far it strays, what it lost."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.pencil_reader import BARE, LOST, PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.pencils.coverage import OWN_MM, Strays
from plain_stride.pencils.lost import DARK, LostPlace
from plain_stride.texts import counted

MOST_STRAYS, LEAST_STRAY_MM = 8, 0.3


class InkPage(Page):
    """place_wanted: a place in mm that is to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, reader: PencilReader) -> None:
        super().__init__(session)
        self._reader = reader
        self._inked, self._own, self._stray = Sentence(), Sentence(), Sentence()
        self._bare = Word("show what has no ink yet")
        self._strays, self._lost_places = PlaceList("Lines that stray farthest", 4), PlaceList("What the ink lost", 5)
        self._lost, self._map, self._again = Sentence(), Word("show it on the sheet"), Word("look again")
        lost = Explained("What the ink lost", "L", "The key L shows it over the ink alone, while it is held.")
        self._headings: list[QWidget] = [Heading("Inked so far"), Heading("Straying"), lost]
        self.add(self._headings[0], self._inked, self._own, self._bare, self._headings[1], self._stray, self._strays)
        self.add(self._headings[2], self._lost, self._lost_places)
        self.add_verbs(self._map, self._again)
        self._bare.clicked.connect(lambda: reader.show("" if reader.shown == BARE else BARE))
        self._map.clicked.connect(lambda: reader.show("" if reader.shown == LOST else LOST))
        self._again.clicked.connect(reader.read)
        self._strays.picked.connect(self._go_stray)
        self._lost_places.picked.connect(self._go_lost)
        self._worst: list[tuple[str, Strays]] = []

    def refresh(self) -> None:
        found = self._reader.coverage()
        for widget in (*self._headings[1:], self._own, self._bare, self._stray, self._lost, self._map, self._again):
            widget.setVisible(found is not None)
        if found is None:
            self._inked.say("Read the pencils first: then this tells what of them has ink, and what the ink lost.")
            self._strays.show_rows([])
            self._lost_places.show_rows([])
            return
        left = (
            f"**{found.bare_mm / 10:.0f} cm** of them have none yet." if found.bare_mm >= 10 else "None is left bare."
        )
        self._inked.say(f"**{found.inked:.0%}** of the pencils' length has ink. {left}")
        own = (
            f"**{found.own_mm / 10:.1f} cm** of ink follows no pencil: your own additions." if found.own_mm >= 5 else ""
        )
        self._own.say(own)
        self._bare.setText("hide what has no ink" if self._reader.shown == BARE else "show what has no ink yet")
        self._bare.updateGeometry()
        self._show_strays()
        self._show_lost()

    def _show_strays(self) -> None:
        found = self._reader.coverage()
        assert found is not None
        every = sorted(found.straying.items(), key=lambda item: (not item[1].over, -item[1].most))
        self._worst = [(key, s) for key, s in every if s.most >= LEAST_STRAY_MM][:MOST_STRAYS]
        if not every:
            self._stray.say("No ink follows the pencils yet.")
        else:
            rms = (sum(s.rms**2 * s.places for _, s in every) / sum(s.places for _, s in every)) ** 0.5
            over = [s for _, s in every if s.over]
            most = f"over {OWN_MM:g} mm" if over else f"{every[0][1].most:.1f} mm"
            self._stray.say(f"Ink lies **{rms:.2f} mm** off the pencils it follows (RMS), {most} at most.")
        self._strays.show_rows([f"{_most(s)} · {self.session.short_words_of(key)}" for key, s in self._worst])

    def _show_lost(self) -> None:
        places = self._reader.lost
        n = len(places)
        words = f"**{counted(n, 'place')}** had darkness or swing that the ink has not."
        told = words if n else "With the pencils off, nothing is missed."
        self._lost.say(f"{told} Where nothing is inked yet is left out." if self._reader.unfinished else told)
        self._lost_places.show_rows([f"{k}  {_words(place)}" for k, place in enumerate(places, 1)])
        self._map.setText("hide it" if self._reader.shown == LOST else "show it on the sheet")
        self._map.updateGeometry()

    def _go_stray(self, row: int) -> None:
        key, strays = self._worst[row]
        if key in self.session.job.rows.lines:
            self.session.choose([key])
            self.place_wanted.emit(*strays.at)

    def _go_lost(self, row: int) -> None:
        place = self._reader.lost[row]
        self._reader.show(LOST)
        self.place_wanted.emit(place.x, place.y)


def _words(place: LostPlace) -> str:
    if place.kind == DARK:
        return f"darkness: {place.rough:.0%} in the rough, {place.ink:.0%} in ink"
    return f"swing: turns {place.rough:.0f}° in the rough, {place.ink:.0f}° in ink"


def _most(strays: Strays) -> str:
    """How far a line strays, in words: beyond OWN_MM it counts as the inker's own."""
    return f"over {OWN_MM:g} mm" if strays.over else f"{strays.most:.1f} mm"
