"""Hand over: final art as files."""

import json
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QApplication, QFileDialog

from plain_stride.desk.bench import Bench
from plain_stride.desk.controls import Choice, Heading, Sentence, Word
from plain_stride.desk.stations.base import Notes
from plain_stride.errors import StrideError
from plain_stride.finish.svg import svg_text
from plain_stride.finish.write import write_whole
from plain_stride.job import reports
from plain_stride.job.art import art_of
from plain_stride.render.export import png_of

TELL_S = 0.05
PIXELS = ("grey on white", "one bit", "on nothing")


class HandOverNotes(Notes):
    name, key = "Hand over", "H"

    def __init__(self, bench: Bench) -> None:
        super().__init__(bench)
        self._what, self._left_out = Sentence(), Sentence("", colour="faint")
        self._pixels = Choice(PIXELS, PIXELS[0], "Pixels of the PNG")
        self._size = Sentence("", colour="faint")
        svg, png, data = Word("write SVG, lines as curves"), Word("write PNG"), Word("write JSON, lines with widths")
        self._stop, self._done = Word("stop"), Sentence()
        self._stop.setVisible(False)
        self.column.addWidget(Heading("Final art"))
        for widget in (
            self._what,
            self._left_out,
            Heading("Vector"),
            svg,
            data,
            Heading("Pixels"),
            self._pixels,
            self._size,
            png,
            self._stop,
            self._done,
        ):
            self.column.addWidget(widget)
        svg.clicked.connect(lambda: self._ask("svg"))
        png.clicked.connect(lambda: self._ask("png"))
        data.clicked.connect(lambda: self._ask("json"))
        self._stop.clicked.connect(self._stop_now)
        self._stopped, self._told = False, 0.0
        self.progress: Callable[[float | None], None] = lambda share: None
        self.refresh()

    def fact(self) -> str:
        w, h = self.bench.job.page.pixels
        return f"{w:,} × {h:,} px"

    def refresh(self) -> None:
        parts = self.bench.job.parts()
        hidden = [part.name for part in parts if part.hidden]
        rows = self.bench.job.rows["lines"]
        seen = sum(1 for row in rows.values() if row["part"] not in {p.id for p in parts if p.hidden})
        self._what.say(f"**{seen} lines** in **{len(parts) - len(hidden)} parts**, as they stand on the sheet.")
        self._left_out.say(f"Left out, since hidden: {', '.join(hidden)}." if hidden else "Pencils are never exported.")
        w, h = self.bench.job.page.pixels
        self._size.say(f"**{w:,} × {h:,} px** at **{self.bench.job.page.dpi:g} dpi**, the dpi written in.")

    def write(self, path: Path) -> bool:
        """Writes a file by its ending; says what came of it. False when nothing was written."""
        self._stopped = False
        self._stop.setVisible(True)
        try:
            data = self._data(path.suffix.lower())
            write_whole(path, data)
        except StrideError as fault:
            self._done.say(str(fault), "red")
            return False
        finally:
            self.progress(None)
            self._stop.setVisible(False)
        self._done.say(f"**{path.name}** is written, {len(data) / 1000:,.0f} kB.", "text")
        return True

    def choose_pixels(self, word: str) -> None:
        self._pixels.show_chosen(word)

    def _data(self, kind: str) -> bytes:
        job, shapes = self.bench.job, self.bench.shapes
        if kind == ".svg":
            return svg_text(art_of(job, shapes), self._tick).encode()
        if kind == ".json":
            return (json.dumps(reports.lines(job, shapes), ensure_ascii=False) + "\n").encode()
        chosen = next(word for word, button in self._pixels.words.items() if button.isChecked())
        return png_of(art_of(job, shapes), chosen == PIXELS[1], chosen == PIXELS[2], self._tick)

    def _tick(self, share: float) -> bool:
        now = time.monotonic()
        if now - self._told > TELL_S or share >= 1.0:
            self._told = now
            self.progress(share)
            QApplication.processEvents()
        return not self._stopped

    def _stop_now(self) -> None:
        self._stopped = True

    def _ask(self, kind: str) -> None:
        start = self.bench.job.path.with_suffix(f".{kind}")
        name, _ = QFileDialog.getSaveFileName(self, "Write final art", str(start), f"{kind.upper()} (*.{kind})")
        if name:
            self.write(Path(name).with_suffix(f".{kind}"))
