"""Board, page Sheet: finished size, edges, resolution, enlargement, and what they come to in pixels."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu

from plain_stride import measure
from plain_stride.board.advice import advice
from plain_stride.board.formats import FORMATS
from plain_stride.desk.controls.controls import Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.controls.hints import HINTS, Explained
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.desk.stations.sheet_drawing import SheetDrawing
from plain_stride.errors import StrideError
from plain_stride.job.board_facts import edges_of, floor_of_job, frames_of

SCREEN_MM = (40.0, 250.0)
SAFE = "Size and resolution can be changed at any time: no line is touched, since all lines are in mm."


class SizePage(Page):
    """screen_wanted: show 100 %; screen_measured: what 100 mm of it measure on the glass, mm."""

    screen_wanted = Signal()
    screen_measured = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._drawing = SheetDrawing()
        self._width, self._height = Field("Width"), Field("Height")
        self._bleed, self._margin = Field("Bleed"), Field("Margin")
        self._dpi, self._enlarge = Field("Resolution"), Field("Inked larger by")
        self._fault = Sentence("", colour="red")
        self._pixels, self._working, self._advice = Sentence(), Sentence(), Sentence()
        safe = Explained("Finished sheet", "board", SAFE)
        turn, self._format = Word("turn it on its side"), Word("a common size…")
        show, self._measured = Word("show 100 %"), Field("100 mm are", 72)
        self._screen_fault = Sentence("", colour="red")
        self.add(safe, self._drawing)
        self.add_pair(self._width, self._height)
        self.add_verbs(self._format, turn)
        self.add_pair(self._bleed, self._margin)
        self.add(
            self._dpi,
            self._enlarge,
            self._fault,
            Heading("What that comes to"),
            self._pixels,
            self._working,
            self._advice,
        )
        self.add(Explained("This screen", "screen", "Lay a ruler on the glass, along the one above the sheet."))
        row = QHBoxLayout()
        row.addWidget(show)
        row.addWidget(self._measured, 1)
        self.column.addLayout(row)
        self.add(self._screen_fault)
        for field, column in ((self._width, "width_mm"), (self._height, "height_mm"), (self._bleed, "bleed_mm"),
                              (self._margin, "margin_mm")):  # fmt: skip
            field.typed.connect(partial(self._set, column, self._length))
        self._enlarge.typed.connect(lambda text: self._set("enlarge", measure.parse_times, text))
        self._dpi.typed.connect(lambda text: self._set("dpi", plain_number, text.lower().replace("dpi", "")))
        show.clicked.connect(self.screen_wanted)
        self._measured.show_text("100 mm")
        self._measured.typed.connect(self._measure_screen)
        turn.clicked.connect(self._turn)
        self._format.clicked.connect(
            lambda: self.formats().exec(self._format.mapToGlobal(self._format.rect().bottomLeft()))
        )

    def refresh(self) -> None:
        page, edges = self.session.job.page, edges_of(self.session.job)
        w, h = page.size_mm
        self._drawing.show_board(page, edges, list(frames_of(self.session.job).values()))
        for field, value in ((self._width, w), (self._height, h), (self._bleed, edges.bleed),
                             (self._margin, edges.margin)):  # fmt: skip
            field.show_text(f"{value:g} mm")
        self._dpi.show_text(f"{page.dpi:g} dpi")
        self._enlarge.show_text(f"{page.enlarge:g} times")
        px, py = page.pixels
        inch = measure.MM_PER_INCH
        one = floor_of_job(self.session.job).pixel_mm
        self._pixels.say(
            f"Final art is **{px:,} × {py:,} px**, {w / inch:.2f} × {h / inch:.2f} in; one pixel is **{one:.3f} mm**."
        )
        times = page.enlarge
        work = f"Inked at **{w * times:g} × {h * times:g} mm**, {times:.0%} of print; nibs keep their print widths."
        self._working.say(f"{work} Key **{KEYS.shown('=')}** shows it so." if times != 1.0 else "")
        self._advice.say(" ".join(advice(page)))

    def _set(self, column: str, read: Callable[[str], float], text: str) -> None:
        self._fault.say("")
        try:
            value = read(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self.session.make("board", **{column: value})
        self.refresh()

    def _length(self, text: str) -> float:
        """mm of a length, in pixels of the final art if it is typed so."""
        return measure.parse_length_mm(text, self.session.job.page.dpi)

    def _measure_screen(self, text: str) -> None:
        try:
            measured = measure.parse_length_mm(text)
            if not SCREEN_MM[0] <= measured <= SCREEN_MM[1]:
                raise measure.MeasureError(f"100 mm cannot measure {measured:g} mm: at 100 %, measure from 0 to 100")
        except StrideError as fault:
            self._screen_fault.say(str(fault))
            return
        self._screen_fault.say("")
        HINTS.done("screen")
        self._measured.show_text("100 mm")
        self.screen_measured.emit(measured)

    def formats(self) -> QMenu:
        """Common sizes to choose from; a sheet that lies on its side stays so."""
        menu = QMenu(self.window())
        for name, size in FORMATS.items():
            menu.addAction(name, partial(self._take, size))
        return menu

    def _take(self, size: tuple[float, float]) -> None:
        w, h = self.session.job.page.size_mm
        short, long = sorted(size)
        self.session.make("board", width_mm=long if w > h else short, height_mm=short if w > h else long)

    def _turn(self) -> None:
        w, h = self.session.job.page.size_mm
        self.session.make("board", width_mm=h, height_mm=w)
