"""Board, page Print: what it is printed on, the ladder of widths, how much larger to ink, other uses."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from plain_stride import measure
from plain_stride.board.enlarging import after_reduction
from plain_stride.board.ladder import ladder
from plain_stride.board.targets import ASK, targets_from_json, targets_json
from plain_stride.desk.controls.controls import Field, Heading, Sentence, Word, plain_number
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.json_files import given, taken
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.desk.stations.sheet_drawing import LadderDrawing
from plain_stride.errors import StrideError
from plain_stride.job.board_facts import floor_of_job, target_of, targets_of
from plain_stride.job.board_report import other_uses, worth_of
from plain_stride.texts import counted

WHY = {"the print": "what the print holds", "the eye": "what is seen at its distance", "one pixel": "one pixel"}
MOST_USES_LINES = 3000
"""Lines above which other uses are not worked out on the window's thread; the command line still does."""


class PrintPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._target = Word("")
        self._source, self._fault = Sentence("", colour="faint"), Sentence("", colour="red")
        self._line, self._gap = Field("Line"), Field("Gap")
        self._dpi, self._distance = Field("Resolution it wants"), Field("Looked at from")
        self._floor, self._ladder = Sentence(), LadderDrawing()
        self._worth, self._pen = Sentence(), Sentence("", colour="faint")
        self._uses = Sentence()
        self._back = Word("back to common values")
        own, more = Word("one of your own…"), Word("give or take…")
        self.add(Heading("Printed on"), self._target, self._source)
        self.add_pair(self._line, self._gap)
        self.add(self._dpi, self._distance, self._fault, self._back)
        self.add_verbs(own, more)
        self.add(Heading("Widths"), self._floor, self._ladder)
        self.add(Heading("Inking larger"), self._worth, self._pen)
        self.add(Heading("The same art elsewhere"), self._uses)
        self._target.clicked.connect(lambda: self.choices().exec(self._below(self._target)))
        more.clicked.connect(lambda: self.files().exec(self._below(more)))
        own.clicked.connect(self._ask_own)
        self._back.clicked.connect(lambda: self.session.make("target-delete", name=target_of(self.session.job).name))
        for field, column in ((self._line, "line_mm"), (self._gap, "gap_mm"), (self._distance, "distance_mm")):
            field.typed.connect(partial(self._set, column))
        self._dpi.typed.connect(lambda text: self._set("dpi", text.lower().replace("dpi", "")))

    def _below(self, word: Word) -> QPoint:
        return word.mapToGlobal(word.rect().bottomLeft())

    def refresh(self) -> None:
        job = self.session.job
        target, floor = target_of(job), floor_of_job(job)
        self._target.setText(f"{target.name}…")
        self._target.setAccessibleName(f"Printed on {target.name}; press to choose")
        self._target.updateGeometry()
        self._source.say("Values of your own, kept in this job." if target.own else ASK)
        self._back.setVisible(target.own)
        self._line.show_text(f"{target.line_mm:g} mm")
        self._gap.show_text(f"{target.gap_mm:g} mm")
        self._dpi.show_text(f"{target.dpi:g} dpi")
        self._distance.show_text(f"{target.distance_mm:g} mm")
        low = f" It wants **{target.dpi:g} dpi**; this board has {job.page.dpi:g}." if job.page.dpi < target.dpi else ""
        self._floor.say(f"Lines hold from **{floor.mm:.3f} mm** on: {WHY[floor.why]}.{low}")
        self._ladder.show_ladder(ladder(job.page, target), 96 / 25.4)
        self._show_worth()
        self._show_uses()

    def _show_worth(self) -> None:
        worth, measured = worth_of(self.session.job, self.session.shapes)
        whose = "Your hand's shake" if measured else "An average hand's shake"
        if worth.times <= 1.0:
            words = f"{whose} stands out by **{worth.bump_mm:.2f} mm**, less than is seen: print size will do."
        else:
            words = (
                f"{whose} stands out by **{worth.bump_mm:.2f} mm** unsteadied; from **{worth.seen_mm:.2f} mm** on it is"
                f" seen. Inking **{worth.times:g} times** as large "
                + ("hides it." if worth.reached else "is the most that is worth it; steadying does the rest.")
            )
        self._worth.say(words)
        px, mm = after_reduction(3.0, self.session.job.page)
        times = self.session.job.page.enlarge
        inked = "at print size" if times == 1.0 else f"{times:g} times as large"
        self._pen.say(f"This board is inked {inked}: a pen of 3 px comes to {px:.1f} px, {mm:.2f} mm.")

    def _show_uses(self) -> None:
        if not self.session.job.rows.lines:
            self._uses.say("Nothing is inked yet. Later this tells which lines would be lost on a postcard or a phone.")
            return
        if len(self.session.job.rows.lines) > MOST_USES_LINES:
            self._uses.say("There are too many lines to tell at once: 'plain-stride board' lists them.")
            return
        out = []
        for one in other_uses(self.session.job, self.session.shapes):
            n = len(one.lines)
            falls = "falls" if n == 1 else "fall"
            lost = (
                f"**{n} of {counted(one.of, 'line')}** {falls} below {one.floor_mm:.2f} mm" if n else "all lines hold"
            )
            out.append(f"{one.use.name.capitalize()} ({one.use.target.name}): {lost}.")
        self._uses.say(" ".join(out))

    def _set(self, column: str, text: str) -> None:
        self._fault.say("")
        try:
            value = plain_number(text) if column == "dpi" else measure.parse_length_mm(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self.session.make("target", name=target_of(self.session.job).name, **{column: value})
        self.refresh()

    def choices(self) -> QMenu:
        """The print targets to choose from."""
        menu = QMenu(self.window())
        for name, target in targets_of(self.session.job).items():
            words = f"{name}: lines from {target.line_mm:g} mm" + (", your values" if target.own else "")
            menu.addAction(words, partial(self.session.make, "board", target=name))
        return menu

    def files(self) -> QMenu:
        menu = QMenu(self.window())
        menu.addAction("write them to a file to give away", self._give)
        menu.addAction("take targets from such a file", self._take)
        return menu

    def _ask_own(self) -> None:
        name, ok = QInputDialog.getText(self, "A print target of your own", "Its name; it begins with the values shown")
        if ok and name.strip():
            self.add_own(name.strip())

    def add_own(self, name: str) -> None:
        """A new target with the values of the one shown, and the board on it."""
        values = {key: v for key, v in target_of(self.session.job).as_row().items() if key != "name"}
        self.session.make_several(
            [("target", {"name": name, **values}), ("board", {"target": name})], "own print target"
        )

    def _give(self) -> None:
        path = ask_new_file(self, "Give print targets away", Path.home() / "print targets.json", "json")
        if path is not None:
            self.give(path)

    def give(self, path: Path) -> None:
        """Writes the own targets, or all where there are none."""
        every = list(targets_of(self.session.job).values())
        own = [target for target in every if target.own] or every
        if given(path, targets_json(own), self._fault):
            self.session.said.emit(f"**{len(own)} print targets** are written to {path.name}.", False)

    def _take(self) -> None:
        path = ask_file(self, "Take print targets", Path.home(), "Print targets (*.json)")
        if path is not None:
            self.take(path)

    def take(self, path: Path) -> None:
        """Adds the targets of a file; those of the same name take its values."""
        found = taken(path, targets_from_json, "The targets are as they were.", self._fault)
        if found is not None:
            self.session.make_several([("target", target.as_row()) for target in found], "print targets")
