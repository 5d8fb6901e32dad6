"""Hand over: final art as files."""

from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Word
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Notes
from plain_stride.desk.workers.errands import WriteArt
from plain_stride.errors import StrideError
from plain_stride.finish.choices import Choices
from plain_stride.job.board_facts import edges_of
from plain_stride.job.serving import Failed, Progressed, Reply
from plain_stride.texts import counted

PIXELS = ("grey on white", "one bit", "on nothing")
TRIMMED, WITH_BLEED = SHEETS = ("the finished sheet", "with its bleed")
VECTOR, PICTURES = GRAINS = ("grain as outlines", "as pictures")


class HandOverNotes(Notes):
    """progressed: the share that is written, None when it is over."""

    progressed = Signal(object)
    name, key = "Hand over", "H"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._what, self._left_out = Sentence(), Sentence("", colour="faint")
        self._grain = Choice(GRAINS, VECTOR, "Grain of textured lines in SVG")
        self._sheet = Choice(SHEETS, TRIMMED, "How much of the sheet")
        self._pixels = Choice(PIXELS, PIXELS[0], "Pixels of the PNG")
        self._size = Sentence("", colour="faint")
        svg, png, data = Word("write SVG, lines as curves"), Word("write PNG"), Word("write JSON, lines with widths")
        pdf = Word("write PDF, a page of curves")
        self._stop, self._done = Word("stop"), Sentence()
        self._stop.setVisible(False)
        self.column.addWidget(Heading("Final art"))
        for widget in (
            self._what,
            self._left_out,
            self._sheet,
            Heading("Vector"),
            self._grain,
            svg,
            pdf,
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
        pdf.clicked.connect(lambda: self._ask("pdf"))
        png.clicked.connect(lambda: self._ask("png"))
        data.clicked.connect(lambda: self._ask("json"))
        self._worker, self._number = session.document.errands, 0
        self._path = Path()
        self._stop.clicked.connect(self.stop)
        self.refresh()

    def fact(self) -> str:
        w, h = self.session.job.page.pixels
        return f"{w:,} × {h:,} px"

    def refresh(self) -> None:
        parts = self.session.job.parts()
        hidden = [part.name for part in parts if part.hidden]
        rows = self.session.job.rows.lines
        shown = {p.id for p in parts if not p.hidden}
        seen = sum(1 for row in rows.values() if row.part in shown and not row.draft)
        drafts = sum(1 for row in rows.values() if row.draft)
        blacks = sum(1 for row in self.session.job.rows.blacks.values() if row.part in shown)
        black = f" and **{counted(blacks, 'black')}**" if blacks else ""
        self._what.say(f"**{counted(seen, 'line')}**{black} in **{counted(len(parts) - len(hidden), 'part')}**, as they"
                       " stand on the sheet.")  # fmt: skip
        words = f"Left out, since hidden: {', '.join(hidden)}." if hidden else "Pencils are never exported."
        if drafts:
            words += (
                f" **{counted(drafts, 'draft')}** {'is' if drafts == 1 else 'are'} no ink yet and left out: take or"
                " refuse them at Pencils."
            )
        if not seen and not blacks:
            self._what.say("Nothing is inked yet: files would be empty. Pull lines at **Pull** first.")
        self._left_out.say(words)
        self._grain.setVisible(any(row.nib.grain for row in rows.values()))
        self._sheet.setVisible(edges_of(self.session.job).bleed > 0.0)
        w, h = self.session.job.page.pixels
        self._size.say(f"**{w:,} × {h:,} px** at **{self.session.job.page.dpi:g} dpi**, the dpi written in.")

    @property
    def writing(self) -> bool:
        return self._number > 0

    def write(self, path: Path) -> bool:
        """Begins to write a file by its ending; what came of it is said. False when it cannot begin."""
        if self.writing:
            self._done.say("One file is being written already: wait for it, or stop it.", "red")
            return False
        try:
            self.session.saving.save_all()
        except StrideError as fault:
            self._done.say(f"{fault}. No file was written.", "red")
            return False
        self._path, pixels = path, self._pixels.current()
        grain = not self._grain.isHidden() and self._grain.current() == PICTURES
        choices = Choices(bw=pixels == PIXELS[1], transparent=pixels == PIXELS[2], pictured=grain)
        bleed = not self._sheet.isHidden() and self._sheet.current() == WITH_BLEED
        self._number = self._worker.ask(WriteArt(self.session.job.path, path, choices, bleed), self._told)
        self._stop.setVisible(True)
        self._done.say(f"{path.name} is being written; you can go on inking.", "faint")
        return True

    def stop(self) -> None:
        """Stops what is being written; whether a file stands there is told when it is known."""
        if self._worker.stop_soon(self._number):
            self._done.say(f"{self._path.name} is being stopped.", "faint")

    def _told(self, reply: Reply) -> None:
        if isinstance(reply, Progressed):
            self.progressed.emit(reply.share)
            return
        self._number = 0
        self.progressed.emit(None)
        self._stop.setVisible(False)
        if isinstance(reply, Failed):
            self._done.say("stopped: no file was written" if reply.stopped else reply.words, "red")
        else:
            self._done.say(f"**{self._path.name}** is written, {reply.value / 1000:,.0f} kB.", "text")

    def choose_pixels(self, word: str) -> None:
        self._pixels.show_chosen(word)

    def _ask(self, kind: str) -> None:
        start = self.session.job.path.with_suffix(f".{kind}")
        path = ask_new_file(self, "Write final art", start, kind)
        if path is not None:
            self.write(path)
