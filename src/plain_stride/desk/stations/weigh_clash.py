"""Weigh, page Clash: places where a line outweighs one that it should not, with both cures; what the plan could not
do."""

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Heading, Sentence, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.job.weighing import plan_counts
from plain_stride.job.weight_questions import Weights
from plain_stride.texts import counted
from plain_stride.weight.hierarchy import OVER_NEARER, OVER_OUTLINE, OVER_SHADOW, Clash, Cure
from plain_stride.weight.rule_book import RULES

WHY = {
    OVER_OUTLINE: "an inner line outweighs its outline",
    OVER_NEARER: "a farther line outweighs the nearer one that it ends on",
    OVER_SHADOW: "the lit side outweighs the shadow side",
}
SIDES = {OVER_OUTLINE: ("inner line", "outline"), OVER_SHADOW: ("lit side", "shadow side")}
"""What outweighs what, where both are of one part."""
MOST = 200


class ClashPage(Page):
    """place_wanted: a place (mm) to be shown; picked: the number of the clash in hand, -1 for none."""

    place_wanted = Signal(float, float)
    picked = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.clashes: tuple[Clash, ...] = ()
        self._closed: tuple[tuple[str, tuple[float, float], tuple[str, ...]], ...] = ()
        self._says, self._why = Sentence(), Sentence()
        self._list, self._other_list = PlaceList("Places to decide", 8), PlaceList("What the plan could not do", 5)
        self._thicken, self._thin = Word("thicken the one"), Word("thin the other")
        self._thicken.clicked.connect(lambda: self._cure(0))
        self._thin.clicked.connect(lambda: self._cure(1))
        self._could_not = Heading("What the plan could not do")
        self.add(Heading("Places to decide"), self._says, self._list, self._why, self._thicken, self._thin)
        self.add(self._could_not, self._other_list)
        self._list.picked.connect(self._pick)
        self._other_list.picked.connect(self._pick_other)
        self._at = -1

    def refresh(self) -> None:
        self._show_picked()

    def show_weights(self, weights: Weights) -> None:
        """Shows what was found."""
        before = self.clashes[self._at] if 0 <= self._at < len(self.clashes) else None
        self.clashes = weights.clashes[:MOST]
        same = [n for n, one in enumerate(self.clashes) if before is not None and one.lines == before.lines]
        self._at = same[0] if same else -1
        rows = [f"{n}  {self._place(c)} {c.measured[0]:.2f} over {c.measured[1]:.2f} mm"
                for n, c in enumerate(self.clashes, 1)]  # fmt: skip
        self._list.show_rows(rows, self._at if self._at >= 0 else None)
        n = len(weights.clashes)
        self._says.say(f"**{counted(n, 'place')}** where a line outweighs one that it should not." if n else
                       "No line outweighs one that it should not." if self.session.job.rows.lines else
                       "Nothing is inked yet.")  # fmt: skip
        gave = [(f"{self._name(one.lines[1])}: {RULES[one.rule].says} gave way", one.at, one.lines)
                for one in weights.gave_way]  # fmt: skip
        closed = [(f"{self._name(one.lines[0])}: stays closed over {one.length:.1f} mm", one.at, one.lines)
                  for one in weights.closed]  # fmt: skip
        # A plan that is lifted off has done nothing, and left nothing undone.
        self._closed = (*gave, *closed)[:MOST] if plan_counts(self.session.job) else ()
        self._other_list.show_rows([words for words, _, _ in self._closed])
        self._could_not.setVisible(bool(self._closed))
        self._show_picked()

    def _name(self, line: str) -> str:
        row = self.session.job.rows.lines.get(line)
        return self.session.job.rows.parts[row.part].name if row is not None else line

    def _place(self, clash: Clash) -> str:
        """Where a clash is, in few words."""
        sides = SIDES.get(clash.kind)
        part = self._name(clash.lines[0])
        return f"{part}, {sides[0]}" if sides else part

    def _both(self, clash: Clash) -> tuple[str, str]:
        """What outweighs what, in words."""
        heavy, light = map(self._name, clash.lines)
        sides = SIDES.get(clash.kind)
        return (f"the {sides[0]}", f"the {sides[1]}") if sides else (heavy, light)

    def _pick(self, n: int) -> None:
        self._at = n
        clash = self.clashes[n]
        self.session.choose([key for key in clash.lines if key in self.session.job.rows.lines])
        self.place_wanted.emit(*clash.at)
        self._show_picked()
        self.picked.emit(n)

    def _pick_other(self, n: int) -> None:
        _, at, lines = self._closed[n]
        self.session.choose([key for key in lines if key in self.session.job.rows.lines])
        self.place_wanted.emit(*at)

    def _show_picked(self) -> None:
        clash = self.clashes[self._at] if 0 <= self._at < len(self.clashes) else None
        for widget in (self._why, self._thicken, self._thin):
            widget.setVisible(clash is not None)
        if clash is None:
            return
        heavy, light = self._both(clash)
        self._why.say(f"Here {WHY[clash.kind]}: {heavy} **{clash.measured[0]:.2f} mm**, {light}"
                      f" **{clash.measured[1]:.2f} mm**.")  # fmt: skip
        for word, cure, name, verb in ((self._thicken, clash.cures[0], light, "thicken"),
                                       (self._thin, clash.cures[1], heavy, "thin")):  # fmt: skip
            word.setText(f"{verb} {name} by {abs(cure.factor - 1.0):.0%}")
            word.setToolTip(cure.says)
            word.updateGeometry()

    def _cure(self, which: int) -> None:
        if 0 <= self._at < len(self.clashes):
            cure: Cure = self.clashes[self._at].cures[which]
            factor = round(cure.factor, 4)
            wanted = [("swell", {"line": line, "factor": factor, "from": start, "to": end})
                      for line, start, end in cure.stretches if line in self.session.job.rows.lines]  # fmt: skip
            self.session.make_several(wanted, self._thicken.text() if which == 0 else self._thin.text())
