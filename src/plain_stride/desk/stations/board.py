"""Board: finished size, resolution, enlargement, and what they come to in pixels."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu

from plain_stride import measure
from plain_stride.board.advice import advice
from plain_stride.board.formats import FORMATS
from plain_stride.desk.bench import Bench
from plain_stride.desk.controls import Field, Heading, Sentence, Word
from plain_stride.desk.stations.base import Notes
from plain_stride.errors import StrideError

SCREEN_MM = (40.0, 250.0)


class BoardNotes(Notes):
    """screen_wanted: show 100 %; screen_measured: what 100 mm of it measure on the glass, mm."""

    name, key = "Board", "B"
    screen_wanted = Signal()
    screen_measured = Signal(float)

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._width, self._height = Field("Finished width"), Field("Finished height")
        self._dpi, self._enlarge = Field("Resolution"), Field("Inked larger by")
        self._fault = Sentence("", colour="red")
        self._pixels, self._lines, self._safe = Sentence(), Sentence(), Sentence("", colour="faint")
        turn, self._format = Word("turn the sheet on its side"), Word("a common size…")
        self._advice = Sentence()
        self.column.addWidget(Heading("Finished sheet"))
        for field, column in ((self._width, "width_mm"), (self._height, "height_mm")):
            field.typed.connect(lambda text, c=column: self._set(c, measure.parse_length_mm, text))
            self.column.addWidget(field)
        self.column.addWidget(self._format)
        self.column.addWidget(turn)
        self.column.addWidget(self._dpi)
        self.column.addWidget(self._enlarge)
        self.column.addWidget(self._fault)
        self.column.addWidget(Heading("What that comes to"))
        for sentence in (self._pixels, self._lines, self._advice, self._safe):
            self.column.addWidget(sentence)
        show = Word("show 100 % of print size")
        self._measured = Field("100 mm measure")
        self._screen_fault = Sentence("", colour="red")
        self.column.addWidget(Heading("This screen"))
        self.column.addWidget(Sentence("Lay a ruler on the glass, along the one above the sheet.", colour="faint"))
        for widget in (show, self._measured, self._screen_fault):
            self.column.addWidget(widget)
        show.clicked.connect(self.screen_wanted)
        self._measured.show_text("100 mm")
        self._measured.typed.connect(self._measure_screen)
        self._dpi.typed.connect(lambda text: self._set("dpi", _plain_number, text.lower().replace("dpi", "")))
        self._enlarge.typed.connect(lambda text: self._set("enlarge", _plain_number, text.replace("times", "")))
        turn.clicked.connect(self._turn)
        self._format.clicked.connect(
            lambda: self.formats().exec(self._format.mapToGlobal(self._format.rect().bottomLeft()))
        )
        self.refresh()

    def fact(self) -> str:
        w, h = self.bench.job.page.size_mm
        return f"{w:g} × {h:g} mm"

    def refresh(self) -> None:
        page = self.bench.job.page
        w, h = page.size_mm
        self._width.show_text(f"{w:g} mm")
        self._height.show_text(f"{h:g} mm")
        self._dpi.show_text(f"{page.dpi:g} dpi")
        self._enlarge.show_text(f"{page.enlarge:g} times")
        px, py = page.pixels
        inch = measure.MM_PER_INCH
        self._pixels.say(f"Final art is **{px:,} × {py:,} px**, {w / inch:.2f} × {h / inch:.2f} in.")
        one = measure.mm_from_px(1.0, page.dpi)
        seen = measure.thinnest_visible_mm(300.0)
        self._lines.say(f"One pixel is **{one:.3f} mm**. An eye at 300 mm sees lines from **{seen:.3f} mm**.")
        self._advice.say(" ".join(advice(page)))
        self._safe.say("Size and resolution can be changed at any time: no line is touched, since all lines are in mm.")

    def _set(self, column: str, read: object, text: str) -> None:
        self._fault.say("")
        try:
            value = read(text)  # type: ignore[operator]
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self.bench.make("board", **{column: value})
        self.refresh()

    def _measure_screen(self, text: str) -> None:
        try:
            measured = measure.parse_length_mm(text)
            if not SCREEN_MM[0] <= measured <= SCREEN_MM[1]:
                raise measure.MeasureError(f"100 mm cannot measure {measured:g} mm: at 100 %, measure from 0 to 100")
        except StrideError as fault:
            self._screen_fault.say(str(fault))
            return
        self._screen_fault.say("")
        self._measured.show_text("100 mm")
        self.screen_measured.emit(measured)

    def formats(self) -> QMenu:
        """Common sizes to choose from; a sheet that lies on its side stays so."""
        menu = QMenu(self.window())
        for name, size in FORMATS.items():
            menu.addAction(name, partial(self._take, size))
        return menu

    def _take(self, size: tuple[float, float]) -> None:
        w, h = self.bench.job.page.size_mm
        short, long = sorted(size)
        self.bench.make("board", width_mm=long if w > h else short, height_mm=short if w > h else long)

    def _turn(self) -> None:
        w, h = self.bench.job.page.size_mm
        self.bench.make("board", width_mm=h, height_mm=w)


def _plain_number(text: str) -> float:
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise measure.MeasureError(f"'{text.strip()}' is not a number") from None
