"""Pencils: placing a scan, fading and tinting it, putting it away."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import Signal
from PySide6.QtGui import QPainter

from plain_stride import measure
from plain_stride.desk.bench import Bench
from plain_stride.desk.controls import Choice, Field, Heading, Sentence, Slider, Word, tinted
from plain_stride.desk.file_dialogs import ask_file
from plain_stride.desk.inked import stroke
from plain_stride.desk.pencil_reader import PencilReader
from plain_stride.desk.stations.base import Notes
from plain_stride.desk.theme import THEME
from plain_stride.errors import StrideError
from plain_stride.job.changes import TINTS
from plain_stride.job.reading import read_bytes
from plain_stride.pencils.read.reading import Reading

PICTURES = "Scans (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"
DEFAULT_FADE = 0.15


REASONS = {"passes": "passes lie apart", "two-readings": "there is a second reading", "stops": "a line stops short",
           "empty": "nothing is drawn"}  # fmt: skip


class PencilsNotes(Notes):
    """place_wanted: a place in mm that is to be shown."""

    place_wanted = Signal(float, float)
    name, key = "Pencils", "P"

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._what, self._where = Sentence(), Sentence("", colour="faint")
        self._place, self._away = Word("place a scan"), Word("hide the pencils")
        self._remove = Word("take this scan off the board")
        self._fade = Slider("Fade", _draw_fade, lambda v: f"{v * 100:.0f} %", _per_cent, lambda v: v, lambda s: s,
                            DEFAULT_FADE, 0.01)  # fmt: skip
        self._schools = Sentence("", colour="faint")
        self._tint = Choice(TINTS, TINTS[0], "Tint of the pencils")
        self._x, self._y, self._w = Field("From the left"), Field("From the top"), Field("Width")
        self._fault = Sentence("", colour="red")
        self.reader = PencilReader(bench, lambda share: self.progress(share))
        self.progress: Callable[[float | None], None] = lambda share: None
        self._read, self._stop = Word("read the pencils"), Word("stop")
        self._told, self._next = Sentence(), Word("the worst place, then the next")
        self._drafts, self._overlay = Word("lay the lines as drafts"), Word("hide what was read")
        self._at = -1
        self._fade_heading, self._place_heading = Heading("Fade and tint"), Heading("Where it lies")
        self._read_heading = Heading("What they say")
        self.column.addWidget(Heading("Pencils"))
        for widget in (
            self._what,
            self._place,
            self._fade_heading,
            self._fade,
            self._schools,
            self._tint,
            self._away,
            self._place_heading,
            self._x,
            self._y,
            self._w,
            self._where,
            self._remove,
            self._fault,
            self._read_heading,
            self._read,
            self._stop,
            self._told,
            self._next,
            self._overlay,
            self._drafts,
        ):
            self.column.addWidget(widget)
        self._read.clicked.connect(self._begin_reading)
        self._stop.clicked.connect(self.reader.stop)
        self._next.clicked.connect(self._go_on)
        self._overlay.clicked.connect(lambda: self.reader.show(not self.reader.shown))
        self._drafts.clicked.connect(self.reader.lay_drafts)
        self.reader.changed.connect(self.refresh)
        self._place.clicked.connect(self._ask_scan)
        self._away.clicked.connect(self._toggle)
        self._remove.clicked.connect(lambda: self._change_sheet("pencils-remove"))
        self._fade.settled.connect(lambda v: self._change_sheet("pencils", fade=v))
        self._fade.moving.connect(self._say_fade)
        self._tint.chosen.connect(lambda word: self._change_sheet("pencils", tint=word))
        for field, k in ((self._x, 0), (self._y, 1), (self._w, 2)):
            field.typed.connect(lambda text, n=k: self._move(n, text))
        self.refresh()

    def fact(self) -> str:
        row = self._row()
        return "none yet" if row is None else "hidden" if row["hidden"] else f"faded to {row['fade'] * 100:.0f} %"

    def place_scan(self, path: Path) -> None:
        """Places a scan from a file."""
        self._fault.say("")
        try:
            data = read_bytes(path)
        except StrideError as fault:
            self._fault.say(f"{fault}. The board is as it was.")
            return
        self.bench.make("pencils-add", data=data, name=path.stem)

    def set_bench(self, bench: Bench) -> None:
        self.reader.set_bench(bench)
        super().set_bench(bench)

    def close_down(self) -> None:
        """Stops a reading that is under way."""
        self.reader.close()

    def _begin_reading(self) -> None:
        self._at = -1
        self.reader.read()

    def _go_on(self) -> None:
        """Brings the next undecided place to the middle of the sheet, the worst first."""
        reading = self.reader.reading
        if reading is not None and reading.undecided:
            self._at = (self._at + 1) % len(reading.undecided)
            place = reading.undecided[self._at]
            self.place_wanted.emit(place.x, place.y)
            self.reader.show(True)

    def _show_reading(self, there: bool) -> None:
        reader, reading = self.reader, self.reader.reading
        self._read_heading.setVisible(there)
        self._read.setVisible(there and not reader.running)
        self._stop.setVisible(reader.running)
        for word in (self._overlay, self._drafts):
            word.setVisible(there and reading is not None and not reader.running)
        self._next.setVisible(there and reading is not None and bool(reading.undecided) and not reader.running)
        self._overlay.setText("hide what was read" if reader.shown else "show what was read")
        self._overlay.updateGeometry()
        if reader.running:
            self._told.say("The pencils are being read; you can go on inking.", "faint")
        elif reader.fault:
            self._told.say(reader.fault, "red")
        elif reading is not None and there:
            self._told.say(self._reading_words(reading), "text")
        else:
            self._told.say(
                "Reading finds the lines, and the places that are still undecided." if there else "", "faint"
            )

    def _reading_words(self, reading: Reading) -> str:
        words = f"**{len(reading.lines)} lines** in {reading.kind} pencils. {reading.sentence}"
        if 0 <= self._at < len(reading.undecided):
            place = reading.undecided[self._at]
            words += f" Place **{self._at + 1}**: {REASONS[place.reason]}, **{place.measured:.1f} {place.unit}**."
        return words

    def refresh(self) -> None:
        row = self._row()
        self._show_reading(row is not None)
        for widget in (
            self._fade_heading,
            self._fade,
            self._tint,
            self._away,
            self._place_heading,
            self._x,
            self._y,
            self._w,
            self._remove,
        ):
            widget.setVisible(row is not None)
        self._place.setText("place a scan" if row is None else "place another scan")
        self._place.updateGeometry()
        if row is None:
            self._what.say("There are no pencils on the board yet. Place a scan of them, then pull over it.")
            self._schools.say("")
            self._where.say("")
            return
        dpi = row["px_w"] / (row["w_mm"] / measure.MM_PER_INCH)
        self._what.say(f"**{row['name']}**, {row['px_w']:,} × {row['px_h']:,} px, lies at **{dpi:.0f} dpi**.")
        self._fade.show_value(row["fade"])
        self._say_fade(row["fade"])
        self._tint.show_chosen(row["tint"])
        self._away.setText("show the pencils" if row["hidden"] else "hide the pencils")
        self._away.updateGeometry()
        self._x.show_text(f"{row['x_mm']:.1f} mm")
        self._y.show_text(f"{row['y_mm']:.1f} mm")
        self._w.show_text(f"{row['w_mm']:.1f} mm")
        self._where.say("The file itself is kept in the job as it came. Pencils are never exported.")

    def _row(self) -> Any:
        sheets = self.bench.job.pencils()
        return sheets[-1][1] if sheets else None

    def _say_fade(self, fade: float) -> None:
        if fade < 0.18:
            self._schools.say("Barely there: the eye judges the ink alone. Others keep 20 to 25 %.")
        else:
            self._schools.say("Plain to follow. Others keep 3 to 15 %, so that the ink is judged alone.")

    def _change_sheet(self, change: str, **values: object) -> None:
        sheets = self.bench.job.pencils()
        if sheets:
            self.bench.make(change, sheet=sheets[-1][0], **values)

    def _toggle(self) -> None:
        row = self._row()
        if row is not None:
            self._change_sheet("pencils", hidden=not row["hidden"])

    def _move(self, which: int, text: str) -> None:
        row = self._row()
        if row is None:
            return
        try:
            value = measure.parse_length_mm(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            return
        self._fault.say("")
        place = [row["x_mm"], row["y_mm"], row["w_mm"], row["h_mm"]]
        if which == 2 and value > 0:
            place[3] = place[3] * value / place[2]
        place[which] = value
        self._change_sheet("pencils", placed_mm=place)

    def _ask_scan(self) -> None:
        path = ask_file(self, "Place a scan", Path.home(), PICTURES)
        if path is not None:
            self.place_scan(path)


def _per_cent(text: str) -> float:
    try:
        value = float(text.replace("%", "").replace(",", ".").strip()) / 100.0
    except ValueError:
        raise measure.MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 1.0:
        raise measure.MeasureError("a fade goes from 0 to 100 %")
    return value


def _draw_fade(painter: QPainter, wide: float, high: float) -> None:
    """A doubled pencil line that comes out of nothing."""
    n = 24
    for k in range(n):
        x = np.linspace(k / n, (k + 1) / n, 6) * wide
        for off in (-2.0, 2.2):
            y = off + 1.2 * np.sin(x / 17.0 + off)
            path = stroke(np.column_stack([x, y]), np.full(6, 2.2))
            painter.fillPath(path, tinted(THEME.color("ahead"), (k + 1) / n))
