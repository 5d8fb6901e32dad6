"""Hand over, page Files: final art as files."""

from functools import partial
from pathlib import Path

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.workers.errands import WriteArt
from plain_stride.finish.choices import ONE as ONE_LAYER
from plain_stride.finish.choices import PART as PARTS
from plain_stride.finish.choices import Choices
from plain_stride.job.art_files import Asked, dpi_asked
from plain_stride.job.board_facts import edges_of
from plain_stride.job.errors import JobError
from plain_stride.job.export_facts import dropped_words, thin_words
from plain_stride.measure import MAX_DPI
from plain_stride.texts import counted

PIXELS = ("grey on white", "one bit", "on nothing")
TRIMMED, WITH_BLEED = SHEETS = ("the finished sheet", "with its bleed")
VECTOR, PICTURES = GRAINS = ("grain as outlines", "as pictures")
WITHOUT, WITH = FLATS = ("ink alone", "with flats")
PLAIN_MARKS, MARKED = MARKS = ("no marks", "crop marks")


class FilesPage(ErrandPage):
    """Each file is a verb; what is chosen of it stands above."""

    stopped_words = "stopped: no file was written"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._what, self._left_out = Sentence(), Sentence("", colour="faint")
        self._grain = Choice(GRAINS, VECTOR, "Grain of textured lines in SVG")
        self._sheet = Choice(SHEETS, TRIMMED, "How much of the sheet")
        self._flats = Choice(FLATS, WITHOUT, "Whether flats lie below the ink")
        self._marks = Choice(MARKS, PLAIN_MARKS, "Marks of the PDF")
        self._pixels = Choice(PIXELS, PIXELS[0], "Pixels of PNG and TIFF")
        self._dpi = Field("Pixels at dpi")
        self._thin: tuple[tuple[int, float], str] = ((-1, 0.0), "")
        self._size = Sentence("", colour="faint")
        self.add(self._what, self._left_out, self._sheet, self._flats, Heading("Curves"), self._grain, self._marks)
        self._verbs(("svg", "SVG…"), ("pdf", "PDF…"))
        self.add(Heading("Pixels"), self._pixels, self._dpi, self._size)
        self._verbs(("png", "PNG…"), ("tif", "TIFF…"), ("ora", "layers, OpenRaster…"))
        self.add(Heading("Figures"))
        self._verbs(("csv", "table, CSV…"), ("json", "lines, JSON…"))
        self.add(self.stop_word, self.status, self.fault)
        self._dpi.entry.setPlaceholderText("as the board")
        self._dpi.typed.connect(lambda _: self.refresh())
        self._pixels.chosen.connect(lambda _: self.refresh())

    def _verbs(self, *kinds: tuple[str, str]) -> None:
        self.add_verbs(*(self.verb(words, partial(self._ask, kind), of_lines=False) for kind, words in kinds))

    def refresh(self) -> None:
        super().refresh()
        job = self.session.job
        parts = job.parts()
        hidden = [part.name for part in parts if part.hidden]
        shown = {part.id for part in parts if not part.hidden}
        seen = sum(1 for row in job.rows.lines.values() if row.part in shown and not row.draft)
        drafts = sum(1 for row in job.rows.lines.values() if row.draft)
        blacks = sum(1 for row in job.rows.blacks.values() if row.part in shown)
        black = f" and **{counted(blacks, 'black')}**" if blacks else ""
        self._what.say(f"**{counted(seen, 'line')}**{black} in **{counted(len(shown), 'part')}**, as they stand on the"
                       " sheet.")  # fmt: skip
        words = f"Left out, since hidden: {', '.join(hidden)}." if hidden else ""
        if drafts:
            verb = "is" if drafts == 1 else "are"
            words += f" **{counted(drafts, 'draft')}** {verb} no ink yet and left out: take or refuse them at Pencils."
        if not seen and not blacks:
            self._what.say("Nothing is inked yet: files would be empty. Pull lines at **Pull** first.")
        self._left_out.say(words.strip())
        self._grain.setVisible(any(row.nib.grain for row in job.rows.lines.values()))
        self._sheet.setVisible(edges_of(job).bleed > 0.0)
        self._say_size()

    def _say_size(self) -> None:
        """How large pixels come out, and what they cannot hold."""
        try:
            asked = self.asked()
        except JobError as fault:
            self._size.say(str(fault), "red")
            return
        dpi = dpi_asked(self.session.job, asked)
        w, h = (round(side / 25.4 * dpi) for side in self.session.job.page.size_mm)
        lost = [self._thin_words(asked, dpi)] if asked.dpi else []
        lost += dropped_words(self.session.job, asked, ".png")
        told = "".join(f" {words[0].upper()}{words[1:]}." for words in lost if words)
        self._size.say(f"**{w:,} × {h:,} px** at **{dpi:g} dpi**, the dpi written in.{told}")

    def _thin_words(self, asked: Asked, dpi: float) -> str:
        """Lines thinner than a pixel, in words; looked at once for a resolution and a state of the job."""
        key = (self.session.job.version, dpi)
        if self._thin[0] != key:
            self._thin = (key, thin_words(self.session.job, self.session.shapes, asked))
        return self._thin[1]

    def asked(self) -> Asked:
        """What the files are to be like. Raises JobError for a resolution that cannot be."""
        typed, dpi = self._dpi.entry.text().strip().removesuffix("dpi").strip(), None
        if typed:
            try:
                dpi = float(typed.replace(",", "."))
            except ValueError:
                dpi = 0.0
            if not 1.0 <= dpi <= MAX_DPI:
                raise JobError(f"dpi go from 1 to {MAX_DPI:g}, not '{typed}'")
        pixels = self._pixels.current()
        grain = not self._grain.isHidden() and self._grain.current() == PICTURES
        choices = Choices(bw=pixels == PIXELS[1], transparent=pixels == PIXELS[2], pictured=grain, by=ONE_LAYER,
                          marks=self._marks.current() == MARKED)  # fmt: skip
        bleed = not self._sheet.isHidden() and self._sheet.current() == WITH_BLEED
        return Asked(choices, bleed, dpi, flats=self._flats.current() == WITH and not choices.bw)

    def write(self, path: Path) -> bool:
        """Begins to write a file by its ending; what came of it is said. False when it cannot begin."""
        try:
            asked = self.asked()
        except JobError as fault:
            self.fault.say(f"{fault}. No file was written.")
            return False
        if path.suffix.lower() == ".ora":
            asked = Asked(Choices(by=PARTS), asked.bleed, asked.dpi, flats=asked.flats)
        wanted = WriteArt(self.session.job.path, path, asked)
        if not self.begin(
            wanted, lambda size: self.status.say(f"**{path.name}** is written, {size / 1000:,.0f} kB.", "text")
        ):
            return False
        self.status.say(f"{path.name} is being written; you can go on inking.", "faint")
        return True

    def choose_pixels(self, word: str) -> None:
        self._pixels.show_chosen(word)

    def _ask(self, kind: str) -> None:
        start = self.session.job.path.with_suffix(f".{kind}")
        path = ask_new_file(self, "Write final art", start, kind)
        if path is not None:
            self.write(path)
