"""Pencils, page Read: what they say, where they are undecided, what would close up, where black is marked."""

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.board.job_sheet import SCHOOLS
from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.pencil_reader import LINES, PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.strip_picture import picture_of_place
from plain_stride.desk.sheet.pencil_overlay import MOST_RINGS, PencilOverlay
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.sheet.tools.pencil import PencilTool
from plain_stride.desk.stations.base import Page
from plain_stride.job.areas import areas_of
from plain_stride.job.board_facts import sheet_of, target_of
from plain_stride.job.pencil_records import FILL, NO_NEED
from plain_stride.pencils.read.reading import Reading
from plain_stride.pencils.read.undecided import Place
from plain_stride.texts import counted

REASONS = {"passes": "passes lie {m} apart", "two-readings": "two readings, {m} apart",
           "stops": "a line stops {m} short", "empty": "nothing is drawn, {m} across",
           "close-up": "{m} between lines"}  # fmt: skip

RUB, RUB_MM = "**Rub out:** touch the pencil strokes that should go. Esc ends it.", 2.0
LOOK = "**Look into it:** point at a pencil line and it is told. Esc ends it."
EXPLORING = "You explore in ink, by the job sheet: these are notes, nothing more."
SETTLING = "Settle the worst in pencil, or find out in ink: nothing is blocked."


class ReadPage(Page):
    """place_wanted: a place in mm that is to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, reader: PencilReader, overlay: PencilOverlay) -> None:
        super().__init__(session)
        self._reader, self._overlay = reader, overlay
        self._read, self._stop = Word("read the pencils"), Word("stop")
        self._told, self._school = Sentence(), Sentence("", colour="faint")
        self._show, look = Word("hide what was read"), Word("look into a line…")
        self._heading, self._places = Heading("Undecided, the worst first"), PlaceList("Undecided places")
        self._fine_heading, self._fine = Heading("Not worth inking"), Sentence()
        self._fine_places = PlaceList("Places that would close up", 3)
        self._x_heading, self._x = Heading("To be filled"), Sentence()
        self._mark, self._x_off = Word("mark these areas to be filled"), Word("take the marks off")
        rub = Word("rub a pass out…")
        pencil, x_own = Word("pencil a pass"), Word("mark an area to fill…")
        self._none, self._none_off = Word("no need to ink here: draw round…"), Word("ink is needed everywhere")
        behind = Word("no need behind the part in hand")
        self.add(self._read, self._stop, self._told, self._school)
        self.add_verbs(self._show, look)
        self._look = look
        self.add(self._heading, self._places, self._fine_heading, self._fine, self._fine_places)
        self.add(self._x_heading, self._x, self._mark)
        self.add_verbs(x_own, self._x_off)
        self.add(Heading("Settle it"))
        self.add_verbs(pencil, rub)
        self.add(self._none, behind, self._none_off)
        self._read.clicked.connect(self._begin)
        self._stop.clicked.connect(reader.stop)
        self._show.clicked.connect(lambda: reader.show("" if reader.shown == LINES else LINES))
        look.clicked.connect(lambda: self.tool_wanted.emit(PointTool(LOOK, self._tell_line)))
        self._places.picked.connect(self.go)
        self._fine_places.picked.connect(self._go_fine)
        self._mark.clicked.connect(self._mark_found)
        self._x_off.clicked.connect(lambda: self._take_off(FILL))
        self._none_off.clicked.connect(lambda: self._take_off(NO_NEED))
        rub.clicked.connect(lambda: self.tool_wanted.emit(PointTool(RUB, self._rub_pass)))
        pencil.clicked.connect(lambda: self.tool_wanted.emit(PencilTool(self.session)))
        x_own.clicked.connect(lambda: self._draw_area(FILL, "**To be filled:** draw round the area. Esc gives it up."))
        self._none.clicked.connect(
            lambda: self._draw_area(NO_NEED, "**No need to ink:** draw round the area. Esc gives it up.")
        )
        behind.clicked.connect(self._behind)

    def _rub_pass(self, at: np.ndarray) -> None:
        """Takes the pencil stroke nearest to a place away, where one is near."""
        rows = self.session.job.rows.passes
        far = {key: float(np.hypot(*(np.array(row.points, float)[:, :2] - at).T).min()) for key, row in rows.items()}
        key = min(far, key=lambda k: far[k], default=None)
        if key is None or far[key] > RUB_MM:
            self.session.said.emit("No pencil stroke of yours lies there.", False)
        else:
            self.session.make("pass-delete", passes=[key])

    def _begin(self) -> None:
        self._overlay.choose(None)
        self._reader.read(self._overlay.middle)

    def refresh(self) -> None:
        reader, there = self._reader, bool(self.session.job.rows.pencils)
        reading = reader.reading if there else None
        done = reading is not None and not reader.running
        self._read.setVisible(there and not reader.running)
        self._read.setText("read the pencils again" if reading is not None else "read the pencils")
        self._read.updateGeometry()
        self._stop.setVisible(reader.running)
        for word in (self._show, self._look):
            word.setVisible(done)
        self._show.setText("hide what was read" if reader.shown == LINES else "show what was read")
        self._show.updateGeometry()
        self._say_reading(there)
        self._show_places(done)
        self._show_marks(done)

    def _say_reading(self, there: bool) -> None:
        reader, reading = self._reader, self._reader.reading
        if reader.running:
            self._told.say("The pencils are being read; you can go on inking.", "faint")
        elif reader.fault:
            self._told.say(reader.fault, "red")
        elif reading is not None and there:
            old = " The pencils changed since: read them again." if reader.stale else ""
            self._told.say(f"{reading.sentence} **{len(reading.lines)} lines** in {reading.kind} pencils.{old}", "text")
        else:
            words = "Reading finds the lines, and the places that are still undecided." if there else ""
            self._told.say(words or "Place a scan first, or pencil a pass: then it can be read.", "faint")
        exploring = sheet_of(self.session.job).school == SCHOOLS[1]
        told = reading is not None and not reader.running and bool(reading.undecided)
        self._school.say("" if not told else EXPLORING if exploring else SETTLING)

    def _show_places(self, done: bool) -> None:
        reading = self._reader.reading
        undecided = reading.undecided if done and reading is not None else []
        fine = reading.too_fine if done and reading is not None else []
        self._heading.setVisible(bool(undecided))
        rows = [f"{n}  {_words(place)}" for n, place in enumerate(undecided, 1)]
        self._places.show_rows(rows, self._overlay.chosen)
        self._fine_heading.setVisible(bool(fine))
        many = counted(len(fine), "place")
        words = f"**{many}** would close up on {target_of(self.session.job).name}, with the lightest nib."
        self._fine.say(words if fine else "")
        self._fine_places.show_rows([_words(place) for place in fine])

    def _show_marks(self, done: bool) -> None:
        marks, kept = (self._reader.marks if done else []), areas_of(self.session.job, FILL)
        self._x.say(
            f"**{len(kept)} area{'s are' if len(kept) != 1 else ' is'}** marked to be filled black later."
            if kept else f"**{_found(marks, self._reader.reading)}** found in the pencils."
            if marks else "No area is marked to be filled."
        )  # fmt: skip
        self._mark.setVisible(bool(marks) and not any(area.found for area in kept))
        self._x_off.setVisible(bool(kept))
        self._none_off.setVisible(bool(areas_of(self.session.job, NO_NEED)))

    def go(self, row: int) -> None:
        """Brings an undecided place to the middle of the sheet, and its passes on the strip."""
        reading = self._reader.reading
        if reading is None or row >= len(reading.undecided):
            return
        place = reading.undecided[row]
        self._overlay.choose(row if row < MOST_RINGS else None)
        self._reader.show(LINES)
        self.place_wanted.emit(place.x, place.y)
        self.session.show_on_strip(
            picture_of_place(self.session.job, reading, place, f"Undecided {row + 1}", _words(place))
        )

    def _go_fine(self, row: int) -> None:
        if self._reader.reading is not None:
            place = self._reader.reading.too_fine[row]
            self.place_wanted.emit(place.x, place.y)

    def _tell_line(self, at: np.ndarray) -> None:
        line = self._reader.under(at)
        if line is None:
            self.session.said.emit("No pencil line was read there.", False)
            return
        corners = f", {len(line.corners)} corner{'s' if len(line.corners) != 1 else ''}" if line.corners else ""
        what = "a ring" if line.closed else "a line"
        self.session.said.emit(
            f"Sure to **{line.confidence:.0%}**: {what} of **{line.length:.1f} mm**, its pencil"
            f" **{line.rough_width:.2f} mm** across{corners}.",
            False,
        )

    def _mark_found(self) -> None:
        found = [("area", {"kind": FILL, "outline": mark.tolist(), "found": True}) for mark in self._reader.marks]
        self.session.make_several(found, "X marks")

    def _draw_area(self, kind: str, words: str) -> None:
        self.tool_wanted.emit(
            LoopTool(words, lambda points: self.session.make("area", kind=kind, outline=points.tolist()))
        )

    def _behind(self) -> None:
        """What the cover of the part in hand hides needs no ink of the parts behind it."""
        part = self.session.part
        cover = self.session.covers.of(part.id) if part is not None else None
        if part is None or cover is None:
            self.session.said.emit("The part in hand has no outline that closes: it hides nothing yet.", False)
            return
        rings = [ring.tolist() for ring in cover.rings()]
        self.session.make_several([("area", {"kind": NO_NEED, "outline": ring}) for ring in rings], "no need to ink")

    def _take_off(self, kind: str) -> None:
        self.session.make("area-delete", areas=[area.key for area in areas_of(self.session.job, kind)])


def _found(marks: list[np.ndarray], reading: Reading | None) -> str:
    """How many X marks and solid patches there are, in words."""
    solid = len(reading.patches) if reading is not None else 0
    crossed = counted(len(marks) - solid, "X mark") if len(marks) > solid else ""
    return " and ".join(filter(None, (crossed, counted(solid, "solid patch", "solid patches") if solid else "")))


def _words(place: Place) -> str:
    measured = f"{place.measured:.1f} {place.unit}" if place.measured >= 1.0 else f"{place.measured:.2f} {place.unit}"
    return REASONS[place.reason].format(m=measured)
