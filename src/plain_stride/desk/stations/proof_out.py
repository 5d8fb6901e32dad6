"""Proof, page Out: the proof as sheets to hand on, compared with one that was kept; somebody else's inks brought in."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Field, Heading, Sentence, plain_number
from plain_stride.desk.controls.file_dialogs import PICTURES, ask_file, ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.proofer import Proofer
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.errors import StrideError
from plain_stride.job.inks_in import InksFound
from plain_stride.job.proof_errands import ReadInks, WriteProof
from plain_stride.job.proof_told import told_finding
from plain_stride.job.reading import read_json
from plain_stride.proof.comparing import Compared, compared, findings_in
from plain_stride.proof.words import TITLES

KINDS = ("pdf", "html", "csv", "json")
INKS = (
    "A scan of finished inks, 300 to 1,200 dpi: its lines come in with their measured widths, to be proofed like yours."
)


class OutPage(ErrandPage):
    """place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, proofer: Proofer) -> None:
        super().__init__(session)
        self._proofer = proofer
        self._found: Compared | None = None
        self._says, self._compared = Sentence(), Sentence()
        self._list = PlaceList("What is new since", 6)
        self._dpi = Field("At dpi, if it does not say", 60)
        self.add(Heading("As a sheet"), self._says)
        self.add_verbs(*(self.verb(f"{kind.upper()}…", partial(self._ask, kind), of_lines=False) for kind in KINDS))
        self.add(self.stop_word, self.fault)
        self.add(Heading("Against an earlier one"), self._compared, self._list)
        self.add(self.verb("compare with a kept JSON…", self._ask_compare, of_lines=False))
        self.add(Heading("Finished inks"), Sentence(INKS), self._dpi)
        self.add(self.verb("read inks…", self._ask_inks, of_lines=False))
        self._list.show_rows([])
        self._list.picked.connect(self._pick)

    def refresh(self) -> None:
        super().refresh()
        if not self.working:
            self._says.say("The page with its red marks, and each note with its place before and after.")
        if self._found is None:
            self._compared.say("A proof that was kept as JSON tells what got better since, and what came back.")

    def write(self, path: Path) -> None:
        """Begins to write a sheet, by the file's ending."""
        wanted = WriteProof(self.session.job.path, path, self._proofer.of_pencils)
        if self.begin(wanted, lambda size: self._written(path, size)):
            self._says.say(f"{path.name} is being written; you can go on inking.", "faint")

    def read_inks(self, path: Path) -> None:
        """Begins to read finished inks; what was read is laid as one step."""
        typed = self._dpi.entry.text().strip()
        try:
            dpi = plain_number(typed) if typed else None
        except StrideError as fault:
            self.fault.say(str(fault))
            return
        if self.begin(ReadInks(path, dpi), lambda found: self._lay(found, path.name)):
            self._says.say(f"{path.name} is being read; you can go on inking.", "faint")

    def compare(self, path: Path) -> None:
        """Compares the proof as it is with one of a file."""
        try:
            earlier = findings_in(read_json(path))
        except StrideError as fault:
            self.fault.say(str(fault))
            return
        self.fault.say("")
        self._found = compared(earlier, [told_finding(one) for one in self._proofer.proof.told])
        self._compared.say(f"Since {path.stem}: {self._found.sentence}")
        self._list.show_rows([f"{TITLES.get(one['kind'], one['kind'])} · {one['measured']:g} {one['unit']}"
                              for one in self._found.new])  # fmt: skip

    def _written(self, path: Path, size: int) -> None:
        self._says.say(f"**{path.name}** is written, {size / 1000:,.0f} kB.")

    def _lay(self, found: InksFound, name: str) -> None:
        if self.session.document.lay_import(found.wanted, f"inks of {name}") is not None:
            self._says.say(f"{found.sentence} They are one step of undo, in part **Inks**.")

    def _pick(self, n: int) -> None:
        if self._found is not None and n < len(self._found.new):
            one = self._found.new[n]
            self._proofer.pick(str(one["id"]))
            self.place_wanted.emit(float(one["x"]), float(one["y"]))

    def _ask(self, kind: str) -> None:
        proposed = self.session.job.path.with_name(f"{self.session.job.name} proof.{kind}")
        path = ask_new_file(self, "Write the proof", proposed, kind)
        if path is not None:
            self.write(path)

    def _ask_compare(self) -> None:
        path = ask_file(self, "Compare with a proof", self.session.job.path.parent, "Proofs (*.json)")
        if path is not None:
            self.compare(path)

    def _ask_inks(self) -> None:
        path = ask_file(self, "Read finished inks", self.session.job.path.parent, PICTURES)
        if path is not None:
            self.read_inks(path)
