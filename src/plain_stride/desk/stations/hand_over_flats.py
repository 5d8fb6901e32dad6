"""Hand over, page Flats: the areas between lines, their colours and names, where they leak."""

from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.colour import checked_colour
from plain_stride.desk.controls.controls import Field, Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.flats_link import FlatsLink
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.flats import ColourFlat, JoinFlats, PickFlat, SplitFlat
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.stations.mend_page import Make, mm_of
from plain_stride.desk.workers.hand_over_errands import WriteFlats
from plain_stride.job.errors import JobError
from plain_stride.job.flats import Flat
from plain_stride.job.hand_over_records import CUT
from plain_stride.job.inks import hand_over_of
from plain_stride.texts import counted

KINDS = ("svg", "png", "json")


class FlatsPage(ErrandPage):
    """place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, link: FlatsLink) -> None:
        super().__init__(session)
        self._link = link
        self._says, self._what, self._leaks_say = Sentence(), Sentence(), Sentence()
        self._bridge, self._spread = Field("Gaps bridged to"), Field("Under the lines by")
        self._colour = Field("Colour, #rrggbb")
        self._leaks = PlaceList("Where areas leak", 4)
        self._leak, self._last = -1, ""
        pick, lay, join, split = self.tool_words("take in hand", "colour", "join", "part by a line")
        self.add(Heading("Flats"), self._says, self._bridge, self._spread)
        self.add_verbs(pick, lay, join)
        self.add(split)
        self.add(self._what, self._colour)
        self._name = self.verb("of the part in hand", self._name_it, of_lines=False)
        self._clear = self.verb("as it was found", self._clear_it, of_lines=False)
        self._heal = self.verb("take the last parting line away", self._heal_it, of_lines=False)
        self.add_verbs(self._name, self._clear)
        self.add(self._heal, self.fault, Heading("Leaks"), self._leaks_say, self._leaks)
        self._meant = self.verb("open on purpose", self._mean_it, of_lines=False)
        self.add(self._meant, Heading("As a file"))
        self.add_verbs(*(self.verb(f"{kind.upper()}…", partial(self._ask, kind), of_lines=False) for kind in KINDS))
        self.add(self.stop_word)
        self._bridge.typed.connect(lambda _: self.tried(lambda: self._set("bridge", self._bridge)))
        self._spread.typed.connect(lambda _: self.tried(lambda: self._set("spread", self._spread)))
        self._colour.typed.connect(lambda text: self.tried(lambda: self._paint(text)))
        self._leaks.picked.connect(self._pick_leak)
        link.changed.connect(self.refresh)

    def tools(self) -> dict[str, Make]:
        """What makes each of its tools, by what it is called."""
        return {
            "flat": lambda: PickFlat(self._take_in_hand),
            "colour": lambda: ColourFlat(lambda at: self.tried(lambda: self._lay_colour(at))),
            "join": lambda: JoinFlats(lambda a, b: self.tried(lambda: self._join(a, b))),
            "part": lambda: SplitFlat(self._split),
        }

    def refresh(self) -> None:
        super().refresh()
        set_, found = hand_over_of(self.session.job), self._link.found
        self._bridge.show_text(f"{set_.bridge:g} mm")
        self._spread.show_text(f"{set_.spread:g} mm")
        one = self._link.in_hand()
        for widget in (self._what, self._colour, self._name):
            widget.setVisible(one is not None)
        self._clear.setVisible(one is not None and bool(one.says))
        self._heal.setVisible(any(row.kind == CUT for row in self.session.job.rows.flats.values()))
        if found is None:
            nothing = not self.session.job.rows.lines
            self._says.say("Nothing is inked yet: areas lie between lines." if nothing else "Looking for areas…")
            leaks = []
        else:
            filled = [flat for flat in found.flats if not flat.open]
            parts = len({flat.part for flat in filled if flat.part})
            nameless = sum(1 for flat in filled if not flat.part)
            rest = f" **{nameless}** belong to none." if nameless else ""
            self._says.say(f"**{counted(len(filled), 'area')}** in **{counted(parts, 'part')}**, each one colour,"
                           f" meeting under the lines.{rest}")  # fmt: skip
            leaks = [f"{n}  {leak.gap:.2f} mm of white" for n, leak in enumerate(found.leaks, 1)]
        self._leak = min(self._leak, len(leaks) - 1)
        self._leaks.show_rows(leaks, self._leak if self._leak >= 0 else None)
        self._meant.setVisible(self._leak >= 0)
        self._leaks_say.say("" if leaks else "No area leaks where a gap of up to 5 mm would close it.")
        if one is not None:
            self._what.say(_words(one))
            if not self._colour.entry.hasFocus():
                self._colour.show_text(one.colour)

    def _take_in_hand(self, at: np.ndarray) -> None:
        found = self._link.found
        one = found.at(*at.tolist()) if found is not None else None
        self._link.pick(one.id if one is not None else "")

    def _lay_colour(self, at: np.ndarray) -> None:
        """Gives the area that was pressed the colour that was typed last."""
        if not self._link.known:
            raise JobError("the areas are still looked for: press again in a moment")
        self._take_in_hand(at)
        if not self._last:
            raise JobError("type a colour first: take an area in hand, and give it one")
        self._say(colour=self._last)

    def _flat(self) -> Flat:
        one = self._link.in_hand()
        if one is None or not self._link.known:
            raise JobError("no flat is in hand: take one on the sheet first")
        return one

    def _place(self, one: Flat) -> list[float]:
        """A place in a flat, mm."""
        import shapely

        assert self._link.found is not None
        area = self._link.found.map.areas[one.areas[0]].area
        return np.round(shapely.get_coordinates(shapely.point_on_surface(area))[0], 3).tolist()

    def _say(self, **what: object) -> None:
        one = self._flat()
        self.session.make("flat", at=self._place(one), bounds=[list(self._bounds(one))], **what)

    def _bounds(self, one: Flat) -> tuple[str, ...]:
        assert self._link.found is not None
        return self._link.found.map.areas[one.areas[0]].bounds

    def _paint(self, text: str) -> None:
        self._last = checked_colour(text.strip())
        self._say(colour=self._last)

    def _name_it(self) -> None:
        self._say(part=self.session.now.part)

    def _clear_it(self) -> None:
        self.session.make("flat-clear", keys=[self._flat().says])

    def _heal_it(self) -> None:
        cuts = [key for key, row in self.session.job.rows.flats.items() if row.kind == CUT]
        self.session.make("flat-clear", keys=cuts[-1:])

    def _join(self, a: np.ndarray, b: np.ndarray) -> None:
        found = self._link.found
        if found is None or not self._link.known:
            raise JobError("the areas are still looked for: join them in a moment")
        flats = [found.at(*place.tolist()) for place in (a, b)]
        both = [one for one in flats if one is not None]
        if len({one.id for one in both}) < len(flats):
            raise JobError("a drag joins two areas: begin in one and end in another")
        self.session.make("flat", at=[self._place(one) for one in both], colour=both[0].colour,
                          bounds=[list(self._bounds(one)) for one in both])  # fmt: skip

    def _split(self, line: np.ndarray) -> None:
        self.session.make("flat-split", line=np.round(line, 3).tolist())

    def _set(self, name: str, field: Field) -> None:
        self.session.make("hand-over", **{name: mm_of(field)})

    def _pick_leak(self, row: int) -> None:
        self._leak = row
        self._meant.setVisible(True)
        if self._link.found is not None and row < len(self._link.found.leaks):
            self.place_wanted.emit(*self._link.found.leaks[row].at)

    def _mean_it(self) -> None:
        found = self._link.found
        if found is None or not 0 <= self._leak < len(found.leaks):
            raise JobError("no leak is in hand: take one in the list")
        leak = found.leaks[self._leak]
        known = [key for key in leak.lines if self.session.job.inked(key) is not None]
        self.session.make("meant", scope="finding", kind="gap", lines=known, at=list(leak.at), measured=leak.gap,
                          reason="open on purpose")  # fmt: skip

    def _ask(self, kind: str) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} flats.{kind}")
        path = ask_new_file(self, "Write the flats", start, kind)
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Begins to write the map, by the file's ending."""
        self.begin(WriteFlats(self.session.job.path, path), lambda size: self.session.said.emit(
            f"**{path.name}** is written, {size / 1000:,.0f} kB.", False))  # fmt: skip


def _words(one: Flat) -> str:
    name = f"**{one.part}**" if one.part else "of no part"
    kind = "The open sheet" if one.open else f"An area {name}"
    several = f", {len(one.areas)} joined" if len(one.areas) > 1 else ""
    return f"{kind}, **{one.area.area:.1f} mm²**{several}. **{counted(len(one.bounds), 'line')}** bound it."
