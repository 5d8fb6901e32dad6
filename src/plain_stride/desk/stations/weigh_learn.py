"""Weigh, page Learn: the plan that the hand's own widths follow; depths that the drawing suggests."""

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.weigher import FEW_LINES
from plain_stride.desk.stations.base import Page
from plain_stride.job.weight_questions import LearnPlan, TiersSuggested
from plain_stride.texts import counted
from plain_stride.weight.learning import Figure, Learned
from plain_stride.weight.plan_file import plan_json
from plain_stride.weight.suggested_tiers import Suggestion

SAYS = {"base": "base", "outer": "outer lines", "detail": "details", "texture": "texture", "near": "near", "far": "far",
        "away": "away from the light", "towards": "towards it", "bend": "in bends", "meeting": "at meetings",
        "middle": "in free middles"}  # fmt: skip
MOST_ODD = 60
LEARN, STOP = "learn from my pulls", "stop"


class LearnPage(Page):
    """Nothing is laid before a word is pressed. place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.found: Learned | None = None
        self._learns = False
        self._learn, self._lay = Word(LEARN), Word("lay it as the plan")
        self._learn.clicked.connect(self.learn)
        self._lay.clicked.connect(self._lay_plan)
        self._says, self._figures, self._unsure = Sentence(), Sentence(), Sentence()
        self._breaks = Heading("Where you break your own rules")
        self._odd = PlaceList("Where you break your own rules", 6)
        self._odd.picked.connect(self._pick)
        self._suggest, self._none = Word("suggest depths"), Sentence()
        self._suggest.clicked.connect(self.suggest)
        self._rows = QWidget()
        self._column = QVBoxLayout(self._rows)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self.add(Heading("A plan from your own hand"), self._learn, self._says, self._figures, self._unsure, self._lay)
        self.add(self._breaks, self._odd)
        self.add(Heading("Depths that the drawing suggests"), self._suggest, self._none, self._rows)
        self._show(None)

    def refresh(self) -> None:
        some = bool(self.session.job.rows.lines)
        self._learn.setEnabled(some)
        self._suggest.setEnabled(some)
        if not some:
            self._says.say("Nothing is inked yet: pull some lines first, with pressure as you like it.")
        elif self.found is None and "Nothing is inked" in self._says.text():
            self._says.say("")

    def learn(self) -> None:
        """Has the plan learned beside the window, or stops that."""
        if self._learns:
            self._end("Stopped: nothing was learned.")
            self.session.drawing.stop(LearnPlan)
            return
        self._learns = True
        self._learn.setText(STOP)
        self._looked(0.0)
        self.session.drawing.ask(LearnPlan(), self._found, FEW_LINES, self._looked)

    def _looked(self, share: float) -> None:
        self._says.say(f"Looking at what your pressure did: {share:.0%}.")

    def _end(self, words: str) -> None:
        self._learns = False
        self._learn.setText(LEARN)
        self._says.say(words)

    def _found(self, found: Learned | str) -> None:
        self._end("")
        self._show(found)

    def _show(self, found: Learned | str | None) -> None:
        self.found = found if isinstance(found, Learned) else None
        odd = self.found.odd[:MOST_ODD] if self.found is not None else ()
        unsure = [SAYS[one.name] for one in self.found.figures if not one.enough] if self.found is not None else []
        for widget, shown in ((self._figures, self.found is not None), (self._lay, self.found is not None),
                              (self._breaks, bool(odd)), (self._unsure, bool(unsure))):  # fmt: skip
            widget.setVisible(shown)
        self._odd.show_rows([f"{self._part(one.line)}: {one.is_mm:.2f}, by your rules {one.would_mm:.2f} mm"
                             for one in odd])  # fmt: skip
        if isinstance(found, str):
            self._says.say(f"{found}.")
        if self.found is not None:
            lines = counted(self.found.lines, "line")
            self._says.say(f"It explains **{self.found.explained:.0%}** of how the widths of {lines} vary.")
            self._figures.say(", ".join(_words(one) for one in self.found.figures if one.enough) + ".")
            self._unsure.say(f"Not enough to tell: {', '.join(unsure)}. There the plan stays as it is.")

    def _part(self, line: str) -> str:
        row = self.session.job.rows.lines.get(line)
        return self.session.job.rows.parts[row.part].name if row is not None else line

    def _pick(self, n: int) -> None:
        if self.found is not None:
            one = self.found.odd[n]
            self.session.choose([one.line] if one.line in self.session.job.rows.lines else [])
            self.place_wanted.emit(*one.at)

    def _lay_plan(self) -> None:
        if self.found is not None:
            self.session.make("plan", plan=plan_json(self.found.plan))

    # Depths

    def suggest(self) -> None:
        """Has the drawing looked at beside the window."""
        self.session.drawing.ask(TiersSuggested(), self._show_tiers, FEW_LINES)

    def _show_tiers(self, found: tuple[Suggestion, ...]) -> None:
        while (item := self._column.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        names = {part.id: part.name for part in self.session.job.parts()}
        others = [one for one in found if one.tier != one.now and one.part in names]
        self._none.say("" if others else "Every part stands where the drawing suggests." if found else
                       "With one part there is nothing to tell apart.")  # fmt: skip
        self._none.setVisible(not others)
        for one in others:
            word = Word(f"{names[one.part]}: {one.tier}, not {one.now}")
            word.setToolTip("Press to put it there")
            word.clicked.connect(partial(self._put, names[one.part], one.tier))
            self._column.addWidget(word)
            self._column.addWidget(Sentence("; ".join(one.reasons)))

    def _put(self, part: str, tier: str) -> None:
        self.session.make("part", name=part, tier=tier)
        self.suggest()


def _words(one: Figure) -> str:
    value = f"{one.value:.2f} mm" if one.name == "base" else f"{one.value:+.1f} steps"
    return f"{SAYS[one.name]} **{value}**"
