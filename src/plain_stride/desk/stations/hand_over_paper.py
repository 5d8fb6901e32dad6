"""Hand over, page Paper: pencils out in pale blue to be inked on paper, the inked sheet back by its marks."""

from pathlib import Path

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.controls.file_dialogs import PICTURES, ask_file, ask_new_file
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.desk.workers.hand_over_errands import ReadBack, WriteBlue
from plain_stride.job.inks_in import InksFound
from plain_stride.job.paper_way import ScanBack
from plain_stride.job.proof_errands import ReadInksOf
from plain_stride.pencils.register_marks import EDGE_MM

OUT = ("The pencils in pale blue at true size, with four register marks. Print it at 100 %, ink on it in black;"
       " the marks stay on the sheet.")  # fmt: skip
BACK = ("Scan or photograph the whole sheet, 600 dpi or more, in colour. It is found by its marks, squared up, the blue"
        " taken out, and laid where it was drawn.")  # fmt: skip


class PaperPage(ErrandPage):
    """What was found of a scan stands below its verb."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._size = Sentence("", colour="faint")
        self.add(Heading("Out"), Sentence(OUT), self._size)
        self.add(self.verb("blue sheet, PDF…", self._ask_out, of_lines=False))
        self.add(Heading("Back"), Sentence(BACK))
        self.add(self.verb("as final art…", lambda: self._ask_back(True), of_lines=False))
        self.add(self.verb("as lines, with their widths…", lambda: self._ask_back(False), of_lines=False))
        self.add(self.stop_word, self.status, self.fault)

    def refresh(self) -> None:
        super().refresh()
        w, h = self.session.job.page.size_mm
        shown = any(
            not row.hidden and row.kind in ("rough", "clean-up", "passes") for _, row in self.session.job.pencils()
        )
        what = f"It needs paper of {w + 2 * EDGE_MM:g} × {h + 2 * EDGE_MM:g} mm." if shown else (
            "This job shows no pencils: place a scan at Pencils first.")  # fmt: skip
        self._size.say(what)

    def write(self, path: Path) -> None:
        """Begins to write the blue sheet."""
        self.begin(WriteBlue(self.session.job.path, path), lambda size: self.status.say(
            f"**{path.name}** is written, {size / 1000:,.0f} kB."))  # fmt: skip

    def read_back(self, path: Path, final: bool) -> None:
        """Begins to bring a scan back: as final art, or as lines."""
        self.status.say("")
        self.begin(ReadBack(path, self.session.job.page.size_mm), lambda back: self._take(back, path.stem, final))

    def _take(self, back: ScanBack, name: str, final: bool) -> None:
        self.status.say(". ".join(f"{words[0].upper()}{words[1:]}" for words in back.words) + ".")
        if final:
            w, h = self.session.job.page.size_mm
            self.session.make("final-art", data=back.png, name=name, place=[0.0, 0.0, w, h])
        else:
            self.begin(ReadInksOf(back.png, back.dpi), lambda found: self._lay(found, name))

    def _lay(self, found: InksFound, name: str) -> None:
        if self.session.document.lay_import(found.wanted, f"inks of {name}") is not None:
            self.status.say(f"{found.sentence} They are one step of undo, in part **Inks**.")

    def _ask_out(self) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} blue.pdf")
        path = ask_new_file(self, "Write the blue sheet", start, "pdf")
        if path is not None:
            self.write(path)

    def _ask_back(self, final: bool) -> None:
        path = ask_file(self, "Bring the inked sheet back", self.session.job.path.parent, PICTURES)
        if path is not None:
            self.read_back(path, final)
