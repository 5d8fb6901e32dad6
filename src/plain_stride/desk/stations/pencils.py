"""Pencils: sheets placed and cleaned, read, drafted from, and held against the ink."""

from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride import measure
from plain_stride.desk.controls.controls import Sentence
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.pencil_reader import LINES, LOST, PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.pencil_overlay import PencilOverlay
from plain_stride.desk.stations.base import PagedNotes
from plain_stride.desk.stations.pencil_clean import CleanPage
from plain_stride.desk.stations.pencil_draft import DraftPage
from plain_stride.desk.stations.pencil_ink import InkPage
from plain_stride.desk.stations.pencil_place import PlacePage
from plain_stride.desk.stations.pencil_read import ReadPage
from plain_stride.desk.stations.pencil_sheet import SheetInHand
from plain_stride.desk.workers.owned import owned
from plain_stride.texts import counted


class PencilsNotes(PagedNotes):
    """place_wanted: a place in mm that is to be shown."""

    place_wanted = Signal(float, float)
    name, key = "Pencils", "P"

    def __init__(self, session: Session) -> None:
        self._sheet = SheetInHand(session)
        self.reader = PencilReader(session)
        self.overlay = PencilOverlay(self.reader)
        place, read = PlacePage(session, self._sheet), ReadPage(session, self.reader, self.overlay)
        ink = InkPage(session, self.reader)
        pages = {"Place": place, "Clean": CleanPage(session, self._sheet), "Read": read,
                 "Draft": DraftPage(session, self.reader), "Ink": ink}  # fmt: skip
        super().__init__(session, pages)
        for one in (self._sheet, self.reader):
            owned(self, one)
        self._place, self._read_page = place, read
        self._sheets, self._what = PlaceList("Sheets of pencils", 4), Sentence()
        self.column.insertWidget(0, self._sheets)
        self.column.insertWidget(1, self._what)
        self._sheets.picked.connect(lambda row: self._sheet.choose(self._sheet.order()[row]))
        self._sheet.changed.connect(self.refresh)
        self.reader.changed.connect(self.refresh)
        read.place_wanted.connect(self.place_wanted)
        ink.place_wanted.connect(self.place_wanted)
        self.refresh()

    def fact(self) -> str:
        row = self._sheet.row
        if self.reader.running:
            return "being read"
        if self.reader.reading is not None:
            n = len(self.reader.reading.undecided)
            return f"{n} undecided" if n else "ready to ink"
        return "none yet" if row is None else "hidden" if row.hidden else f"faded to {row.fade * 100:.0f} %"

    def place_scan(self, path: Path) -> None:
        """Places a scan from a file."""
        self._place.place_file(path)

    def tool_changed(self) -> None:
        """Another sheet tool is in hand, or none."""
        self._place.tool_gone()

    def show_worst(self) -> None:
        """The worst undecided place, on the sheet and on the strip."""
        self.show_page("Read")
        self._read_page.go(0)

    def show_lost(self, on: bool) -> None:
        """What the ink lost, over the ink alone, or what was shown before."""
        if on and self.reader.reading is None:
            self.session.said.emit("Read the pencils first: then this shows what the ink has lost of them.", False)
        self.reader.show(LOST if on else LINES if self.isVisible() else "")

    def refresh(self) -> None:
        rows = [self._sheet_words(key) for key in self._sheet.order()]
        self._sheets.show_rows(rows, self._sheet.order().index(self._sheet.key) if rows else None)
        row = self._sheet.row
        if row is None:
            self._what.say("There are no pencils on the board yet. Place a scan of them, then pull over it.")
        elif row.kind == "passes":
            n = sum(1 for one in self.session.job.rows.passes.values() if one.sheet == self._sheet.key)
            self._what.say(f"**{counted(n, 'pass', 'passes')}** of your own pencil: read like a scan, never exported.")
        else:
            dpi = row.px_w / (row.w_mm / measure.MM_PER_INCH)
            self._what.say(f"**{row.name}**, {row.px_w:,} × {row.px_h:,} px, lies at **{dpi:.0f} dpi**.")
        super().refresh()

    def _sheet_words(self, key: str) -> str:
        row = self.session.job.rows.pencils[key]
        states = [word for word, on in (("hidden", row.hidden), ("locked", row.locked)) if on]
        name, kind = str(row.name), str(row.kind)
        return " · ".join([name, *([] if kind == "passes" else [kind]), *states])
