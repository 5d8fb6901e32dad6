"""Pencils, page Place: scans placed, moved, turned, squared up, levelled, cropped; kept, hidden, locked."""

from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QInputDialog

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.controls.file_dialogs import PICTURES, ask_file, ask_new_file
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import BoxTool, StraightTool
from plain_stride.desk.sheet.tools.placing import CornersTool, PlaceTool
from plain_stride.desk.stations.base import Page
from plain_stride.desk.stations.pencil_sheet import SheetInHand
from plain_stride.errors import StrideError
from plain_stride.finish.write import write_whole
from plain_stride.job.reading import read_bytes
from plain_stride.job.scan_and_board import board_as_scan, scan_as_board
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.placing import PlacingError, box_in_shares, paper_tilt, turn_to_level

ROLES = ("rough", "clean-up", "layout")
KEPT = "The file itself is kept in the job as it came, whatever is done here. Pencils are never exported."


class PlacePage(Page):
    def __init__(self, session: Session, sheet: SheetInHand) -> None:
        super().__init__(session)
        self._sheet = sheet
        place, pin = Word("place a scan…"), Word("pin a reference…")
        self._kind = Choice(ROLES, ROLES[0], "What this sheet is")
        self._away, self._lock, rename = Word("hide it"), Word("lock it"), Word("rename…")
        self._x, self._y, self._w = Field("Left"), Field("Top"), Field("Width")
        self._turn = Field("Turned")
        self._drag, self._square = Word("drag it in place"), Word("square it up by four corners…")
        self._line, self._edge = Word("level by a line…"), Word("by the paper's edge")
        self._crop, self._back = Word("crop…"), Word("as it came: whole, upright")
        self._as_board, self._as_scan = Word("fill the board"), Word("the board to its size")
        remove, original = Word("take it off"), Word("write the file as it came…")
        self._fault = Sentence("", colour="red")
        self._corners: CornersTool | None = None
        self.add(Explained("Pencils", "pencils", KEPT))
        self.add_verbs(place, pin)
        self._one = [self._kind, self._x, self._y, self._w, self._turn, self._square, self._drag, self._line,
                     self._edge, self._crop, self._as_board, self._as_scan, self._back, self._lock, self._away, rename,
                     remove, original]  # fmt: skip
        self._headings = [Heading("This sheet"), Heading("Where it lies")]
        self.add(self._headings[0], self._kind)
        self.add_verbs(self._away, self._lock, rename, remove)
        self.add(self._headings[1], self._fault)
        self.add_pair(self._x, self._y)
        self.add_pair(self._w, self._turn)
        self.add_verbs(self._drag, self._crop)
        self.add_verbs(self._as_board, self._as_scan)
        self.add(self._square)
        self.add_verbs(self._line, self._edge)
        self.add(self._back, original)
        self._original = original
        place.clicked.connect(lambda: self._ask("rough"))
        pin.clicked.connect(lambda: self._ask("reference"))
        self._kind.chosen.connect(lambda word: sheet.change(kind=word))
        self._away.clicked.connect(lambda: sheet.change(hidden=not sheet.row.hidden))
        self._lock.clicked.connect(lambda: sheet.change(locked=not sheet.row.locked))
        rename.clicked.connect(self._ask_name)
        original.clicked.connect(self._ask_original)
        remove.clicked.connect(lambda: self.session.make("pencils-remove", sheet=sheet.key))
        for field, k in ((self._x, 0), (self._y, 1), (self._w, 2)):
            field.typed.connect(partial(self._move, k))
        self._turn.typed.connect(self._set_turn)
        self._drag.clicked.connect(lambda: self.tool_wanted.emit(PlaceTool(self.session, sheet.key)))
        self._square.clicked.connect(self._square_up)
        self._line.clicked.connect(self._ask_level)
        self._edge.clicked.connect(self._level_by_edge)
        self._crop.clicked.connect(self._ask_crop)
        self._as_board.clicked.connect(
            lambda: self.session.make_several(scan_as_board(sheet.key, sheet.row, session.job.page), "pencils")
        )
        self._as_scan.clicked.connect(lambda: self.session.make_several(board_as_scan(sheet.key, sheet.row), "board"))
        self._back.clicked.connect(lambda: sheet.change(crop=None, corners=None, turn=0.0))

    def place_file(self, path: Path, kind: str = "rough") -> None:
        """Places a scan, or pins a reference beside the board."""
        self._fault.say("")
        try:
            data = read_bytes(path)
        except StrideError as fault:
            self._fault.say(f"{fault}. The board is as it was.")
            return
        self.session.make("pencils-add", data=data, name=path.stem, kind=kind)

    def refresh(self) -> None:
        row = self._sheet.row
        for widget in (*self._one, *self._headings):
            widget.setVisible(row is not None)
        if row is None:
            return
        scan = row.kind not in ("passes", "reference")
        for widget in (self._x, self._y, self._w, self._turn, self._square, self._drag, self._line, self._edge,
                       self._crop, self._as_board, self._as_scan, self._headings[1]):  # fmt: skip
            widget.setVisible(scan and not row.locked)
        self._kind.setVisible(row.kind in ROLES)
        self._kind.show_chosen(row.kind)
        placing = row.placing
        self._original.setVisible(row.kind != "passes")
        self._back.setVisible(scan and not placing.plain and not row.locked)
        square = "square it up" if self._squaring() else "square it up by four corners…"
        for word, text in (
            (self._away, "show it" if row.hidden else "hide it"),
            (self._lock, "unlock it" if row.locked else "lock it"),
            (self._square, square),
        ):
            word.setText(text)
            word.setAccessibleName(text)
            word.updateGeometry()
        self._x.show_text(f"{row.x_mm:.1f} mm")
        self._y.show_text(f"{row.y_mm:.1f} mm")
        self._w.show_text(f"{row.w_mm:.1f} mm")
        self._turn.show_text(f"{placing.turn:.1f}°")

    def _squaring(self) -> bool:
        return self._corners is not None and not self._corners.done

    def tool_gone(self) -> None:
        """Another tool is in hand, or none."""
        self._corners = None
        self.refresh()

    def _move(self, which: int, text: str) -> None:
        row = self._sheet.row
        try:
            value = measure.parse_length_mm(text)
        except StrideError as fault:
            self._say(fault)
            return
        self._fault.say("")
        place = [row.x_mm, row.y_mm, row.w_mm, row.h_mm]
        if which == 2 and value > 0:
            place[3] = place[3] * value / place[2]
        place[which] = value
        self._sheet.change(placed_mm=place)
        self.refresh()

    def _set_turn(self, text: str) -> None:
        try:
            self._sheet.change(turn=plain_number(text.replace("°", "")))
            self._fault.say("")
        except StrideError as fault:
            self._say(fault)

    def _say(self, fault: StrideError) -> None:
        self._fault.say(str(fault))
        self.refresh()

    def _square_up(self) -> None:
        """The first press brings the four handles, the second squares the sheet up by them."""
        if self._squaring():
            assert self._corners is not None
            self._corners.apply()
            self.tool_wanted.emit(None)
            self.tool_gone()
        else:
            corners = CornersTool(self.session, self._sheet.key)
            self.tool_wanted.emit(corners)
            self._corners = corners
            self.refresh()

    def _ask_level(self) -> None:
        words = "**Level:** draw along a line that should lie level, or plumb. Esc gives it up."
        self.tool_wanted.emit(StraightTool(words, self._level))

    def _level(self, a: np.ndarray, b: np.ndarray) -> None:
        self._sheet.change(turn=self._sheet.row.placing.turn + turn_to_level(a, b))

    def _level_by_edge(self) -> None:
        row = self._sheet.row
        placing = row.placing
        tilt = paper_tilt(darkness(self.session.job.image(str(row.image)))) if placing.corners is None else None
        if tilt is None:
            self._fault.say("No straight edge of paper is seen in it: draw along a line that should be level instead.")
            return
        self._fault.say("")
        self._sheet.change(turn=-tilt)

    def _ask_crop(self) -> None:
        self.tool_wanted.emit(BoxTool("**Crop:** drag a box round what is to stay. Esc gives it up.", self._crop_to))

    def _crop_to(self, x0: float, y0: float, x1: float, y1: float) -> None:
        try:
            self._sheet.change(crop=list(box_in_shares(self._sheet.row.placing, x0, y0, x1, y1)))
        except PlacingError as fault:
            self._say(fault)

    def _ask(self, kind: str) -> None:
        title = "Pin a reference beside the board" if kind == "reference" else "Place a scan"
        path = ask_file(self, title, Path.home(), PICTURES)
        if path is not None:
            self.place_file(path, kind)

    def _ask_original(self) -> None:
        kind = "png" if self._data().startswith(b"\x89PNG") else "jpg" if self._data()[:2] == b"\xff\xd8" else "tif"
        proposed = Path.home() / f"{self._sheet.row.name}.{kind}"
        path = ask_new_file(self, "Write the scan's own file", proposed, kind)
        if path is not None:
            self.write_original(path)

    def _data(self) -> bytes:
        return self.session.job.image(str(self._sheet.row.image))

    def write_original(self, path: Path) -> None:
        """Writes the scan's bytes as they came."""
        try:
            write_whole(path, self._data())
        except StrideError as fault:
            self._say(fault)
            return
        self.session.said.emit(f"**{path.name}** is written, byte for byte as it came.", False)

    def _ask_name(self) -> None:
        name, ok = QInputDialog.getText(self, "Name this sheet", "Its name", text=str(self._sheet.row.name))
        if ok and name.strip():
            self._sheet.change(rename=name.strip())
