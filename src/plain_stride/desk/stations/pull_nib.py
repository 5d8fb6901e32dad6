"""Pull, page Nib: the nib in hand on its card, its widths and ends; sets of nibs kept, given away, taken in."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from plain_stride import measure
from plain_stride.desk import library
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.controls.json_files import given, taken
from plain_stride.desk.controls.nib_card import NibCard
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.finish.nib_sheet import WRITERS as SHEETS
from plain_stride.finish.nib_sheet import nib_sheet
from plain_stride.finish.write import write_whole
from plain_stride.hand.nib import END_KINDS, PAPER, SCREEN, USUAL_GRAIN_MM, Nib, standard_nibs
from plain_stride.hand.nib_sets import KEYS as NUMBERS
from plain_stride.hand.nib_sets import nibs_from_json, nibs_json
from plain_stride.job.board_changes import nib_changes

CRISP, TEXTURED = "crisp", "textured"
HELD_WORDS = {"held on the paper": PAPER, "on the screen": SCREEN}


class NibPage(Page):
    """The nib in hand; what the verbs about lines act on are the chosen ones."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._nibs = Choice(tuple("123456789"), "3", "Nib")
        self._card, self._name = NibCard(), Field("Its name", 130)
        self._group = Field("Its group", 130)
        self._light, self._heavy, self._end = Field("Lightest"), Field("Heaviest"), Field("Length of its ends")
        self._ends = Choice(END_KINDS, "pointed", "Ends of the nib", apart=2)
        self._edge, self._grain = Choice((CRISP, TEXTURED), CRISP, "Edge of the nib"), Field("Depth of its grain")
        self._held = Choice(tuple(HELD_WORDS), "held on the paper", "Its widths are held")
        self._more = Explained("Nib in hand", "nib")
        self._fault, self._says = Sentence("", colour="red"), Sentence("", colour="faint")
        self._give = Word("give this nib to the chosen lines")
        self.add(self._more, self._nibs, self._card, self._name, self._group)
        self.add_pair(self._light, self._heavy)
        self.add(self._end, self._ends)
        self.add(Heading("Edge"), self._edge, self._grain, self._held)
        self.add(self._fault, self._says, self._give)
        copy, sets, files = Word("copy to…"), Word("sets…"), Word("files…")
        self.add_verbs(copy, sets, files)
        copy.clicked.connect(lambda: self.keys().exec(_below(copy)))
        sets.clicked.connect(lambda: self.sets().exec(_below(sets)))
        files.clicked.connect(lambda: self.files().exec(_below(files)))
        self._name.typed.connect(lambda text: self._set(name=text.strip()))
        self._group.typed.connect(lambda text: self._set(group=text.strip()))
        self._nibs.chosen.connect(lambda key: self.session.take(nib=key))
        for field, column in ((self._light, "lightest"), (self._heavy, "heaviest"), (self._end, "end_mm"),
                              (self._grain, "grain")):  # fmt: skip
            field.typed.connect(lambda text, c=column: self._typed(c, text))
        self._ends.chosen.connect(lambda kind: self._set(ends=kind))
        self._edge.chosen.connect(lambda word: self._set(grain=USUAL_GRAIN_MM if word == TEXTURED else 0.0))
        self._held.chosen.connect(lambda word: self._set(held=HELD_WORDS[word]))
        self._give.clicked.connect(
            lambda: self.session.make("set", lines=self.session.chosen_lines(), nib=self.session.now.nib)
        )
        self.refresh()

    def refresh(self) -> None:
        nib = self.session.nib
        self._nibs.show_chosen(self.session.now.nib)
        self._card.show_nib(nib)
        self._name.show_text(nib.name)
        self._group.show_text(nib.group)
        self._light.show_text(f"{nib.lightest:g} mm")
        self._heavy.show_text(f"{nib.heaviest:g} mm")
        self._end.show_text(f"{nib.end_mm:g} mm")
        self._ends.show_chosen(nib.ends)
        self._edge.show_chosen(TEXTURED if nib.grain else CRISP)
        self._grain.setVisible(nib.grain > 0.0)
        self._grain.show_text(f"{nib.grain:g} mm")
        self._held.show_chosen(next(word for word, held in HELD_WORDS.items() if held == nib.held))
        dpi = self.session.job.page.dpi
        now = self.session.nib_now
        low, high = measure.px_from_mm(now.lightest, dpi), measure.px_from_mm(now.heaviest, dpi)
        held = (
            f" **{now.lightest:.2f}** to **{now.heaviest:.2f} mm** on the paper as the board lies."
            if now != nib
            else ""
        )
        self._says.say(
            f"**{low:.1f}** to **{high:.1f} px** on this board.{held} A mouse draws **{now.middle:.2f} mm**."
        )
        self._more.explain(
            f"Lines already pulled keep the nib they had. **{KEYS.shown('C')}** steps through nibs that share a group."
        )
        self._give.setVisible(bool(self.session.chosen))

    def _typed(self, column: str, text: str) -> None:
        self._fault.say("")
        try:
            value = measure.parse_length_mm(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            return
        self._set(**{column: value})

    def _set(self, **values: object) -> None:
        self.session.make("nib", key=self.session.now.nib, **values)
        self.refresh()

    # Sets

    def keys(self) -> QMenu:
        """The keys that this nib can be copied to."""
        menu = QMenu(self.window())
        for key in NUMBERS:
            if key != self.session.now.nib:
                name = self.session.job.nibs()[key].name
                menu.addAction(f"to key {key}, in place of '{name}'", partial(self.copy_to, key))
        return menu

    def copy_to(self, key: str) -> None:
        """Copies the nib in hand to another number key."""
        self.lay({key: self.session.nib}, "nib")

    def sets(self) -> QMenu:
        """Sets in the library, and those that come with the program."""
        menu = QMenu(self.window())
        menu.addAction("keep these nibs as a set…", self._ask_set)
        menu.addSeparator()
        menu.addAction("take: the nibs of a new job", partial(self.lay, standard_nibs(), "nibs taken"))
        for path in library.kept("nibs"):
            menu.addAction(f"take: {path.stem}", partial(self.take, path))
        days = library.copies("nibs")
        if days:
            before = menu.addMenu("as they were")
            for day, paths in days:
                for path in paths:
                    before.addAction(f"take: {path.stem}, {day}", partial(self.take, path))
        return menu

    def files(self) -> QMenu:
        menu = QMenu(self.window())
        menu.addAction("write these nibs to a file", self._ask_give)
        menu.addAction("take nibs from a file", self._ask_take)
        menu.addSeparator()
        for kind in ("svg", "pdf"):
            menu.addAction(f"a sheet of all nibs, as {kind.upper()}…", partial(self._ask_sheet, kind))
        return menu

    def _ask_set(self) -> None:
        name, ok = QInputDialog.getText(self, "Keep these nibs", "A name for the set")
        if ok and name.strip():
            self.keep(name.strip())

    def keep(self, name: str) -> None:
        """Keeps the job's nibs in the library, for other jobs; what a set of that name held stays as the one before."""
        if "/" in name:
            self._fault.say("A set's name holds no /.")
            return
        try:
            path = library.place_for("nibs", name)
        except OSError as why:
            self._fault.say(f"The set cannot be kept in the library: {why.strerror}. The nibs are safe in the job.")
            return
        self.give(path)

    def give(self, path: Path) -> None:
        """Writes the job's nibs to a file."""
        nibs = self.session.job.nibs()
        if given(path, nibs_json(path.stem, nibs), self._fault):
            self.session.said.emit(f"**{len(nibs)} nibs** are kept as **{path.stem}**.", False)

    def take(self, path: Path) -> None:
        """Takes nibs from a file; those on its keys take the place of these."""
        found = taken(path, nibs_from_json, "The nibs are as they were.", self._fault)
        if found is not None:
            self.lay(found, "nibs taken")

    def lay(self, nibs: dict[str, Nib], words: str) -> None:
        """Lays nibs on their keys, in one step; lines already pulled keep theirs."""
        self._fault.say("")
        self.session.make_several(nib_changes(nibs), words)
        self.refresh()

    def _ask_give(self) -> None:
        path = ask_new_file(self, "Write these nibs", Path.home() / "nibs.json", "json")
        if path is not None:
            self.give(path)

    def _ask_sheet(self, kind: str) -> None:
        path = ask_new_file(self, "A sheet of all nibs", Path.home() / f"nibs.{kind}", kind)
        if path is not None:
            self.write_sheet(path)

    def write_sheet(self, path: Path) -> None:
        """Writes all nibs at all pressures, to be printed at true size."""
        job = self.session.job
        try:
            write_whole(path, SHEETS[path.suffix](nib_sheet(job.nibs(), job.name)))
        except StrideError as why:
            self._fault.say(str(why))
            return
        self.session.said.emit(f"**{path.name}** shows all nibs at all pressures. Print it at 100 %.", False)

    def _ask_take(self) -> None:
        path = ask_file(self, "Take nibs", Path.home(), "Nibs (*.json)")
        if path is not None:
            self.take(path)


def _below(word: Word) -> QPoint:
    return word.mapToGlobal(word.rect().bottomLeft())
