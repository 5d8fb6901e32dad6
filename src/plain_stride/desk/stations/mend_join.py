"""Mend, page Join: lines made one, broken into several, turned round, cut where they cross, rubbed inside a loop."""

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of, number_of
from plain_stride.job.line_changes import TRIMMED_TO
from plain_stride.texts import counted

EVERY, GAP, UNEVEN, GROW, COARSE_MM = "12 mm", "1.5 mm", "30 %", "0.5 mm", 0.2


class JoinPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._says = Sentence("", colour="faint")
        self._every, self._gap = field_with("Every", EVERY), field_with("Gap", GAP)
        self._to = Choice(TRIMMED_TO, TRIMMED_TO[0], "How far a trim goes")
        self._to.chosen.connect(lambda word: session.take(trim_to=word))
        self._uneven = field_with("Uneven by", UNEVEN)
        (rub,) = self.tool_words("rub inside a loop…")
        self._join = self.verb("join them", self._join_them)
        self.add(self.fault, Heading("Made one"), self._says)
        self.add_verbs(self._join, self.verb("turn their way round", self._reverse))
        self.add(Heading("Broken, as if the pen ran dry"))
        self.add_pair(self._every, self._gap)
        self.add(self._uneven)
        self.add_verbs(self.verb("break them", self._break))
        self.add(Heading("Where they cross"))
        self.add_verbs(Sentence("trimmed to the"), self._to)
        self.add_verbs(self.verb("cut at crossings", self._cut))
        self.add_verbs(rub)
        self._grow = field_with("Larger by", GROW)
        self.add(Heading("Blacks"))
        self.add_verbs(self.verb("join blacks", self._join_blacks, of_lines=False),
                       self.verb("cut out of the first", self._cut_out, of_lines=False))  # fmt: skip
        self.add(self._grow)
        self.add_verbs(self.verb("make larger", self._offset, of_lines=False), self.verb("fill rings", self._fill))
        self.add_verbs(self.verb("edges as lines", self._edges, of_lines=False))

    def tools(self) -> dict[str, Make]:
        return {"rub": lambda: LoopTool("**Rub:** draw round what is to go; only that goes. Esc ends it.", self._rub)}

    def refresh(self) -> None:
        super().refresh()
        n = len(self.session.chosen_lines())
        self._join.setEnabled(n >= 2)
        self._says.say(f"**{counted(n, 'line')}** would be one." if n >= 2 else
                       "Choose two lines or more: end to end, or the strokes of one frayed line.")  # fmt: skip

    def _join_them(self) -> None:
        n = len(self.session.chosen_lines())
        made = self.session.make("join", lines=self.session.chosen_lines())
        if made is not None:
            self.session.choose([str(made.results[0])])
            self.session.said.emit(f"**{n}** lines are one now; their pulls stay in the job.", False)

    def _reverse(self) -> None:
        if self.session.make("reverse", lines=self.lines()) is not None:
            self.session.said.emit("They begin where they ended. Their shape is kept as it is from now on.", False)

    def _break(self) -> None:
        how = {"every": mm_of(self._every), "gap": mm_of(self._gap), "uneven": number_of(self._uneven, "%") / 100.0}
        self.session.make_several([("split", {"line": key, **how}) for key in self.lines()], "split")

    def _cut(self) -> None:
        made = self.session.make("cut-at-crossings", lines=self.lines())
        if made is not None:
            self.session.said.emit(f"**{counted(len(made.results[0]), 'line')}** now.", False)

    def _blacks(self) -> list[str]:
        return [key for key in self.session.chosen if key in self.session.job.rows.blacks]

    def _some_blacks(self, least: int) -> list[str]:
        """The chosen blacks; none, which is said, where they are too few."""
        blacks = self._blacks()
        if len(blacks) >= least:
            return blacks
        self.session.said.emit(f"Choose {'a black' if least == 1 else 'two blacks or more'} first.", True)
        return []

    def _join_blacks(self) -> None:
        if blacks := self._some_blacks(2):
            self.session.make("black-join", blacks=blacks)

    def _cut_out(self) -> None:
        if blacks := self._some_blacks(1):
            by = [key for key in self.session.chosen if key != blacks[0]]
            self.session.make("black-cut", black=blacks[0], by=by or [blacks[0]])

    def _offset(self) -> None:
        if blacks := self._some_blacks(1):
            self.session.make("black-offset", blacks=blacks, mm=mm_of(self._grow))

    def _fill(self) -> None:
        self.session.make("fill", lines=self.lines())

    def _edges(self) -> None:
        if blacks := self._some_blacks(1):
            self.session.make_several([("black-edges", {"black": key}) for key in blacks], "black-edges")

    def _rub(self, loop: np.ndarray) -> None:
        chosen = self.session.chosen_lines()
        lines = {"lines": chosen} if chosen else {}
        self.session.make("rub", outline=_thinned(loop).tolist(), **lines)


def _thinned(loop: np.ndarray) -> np.ndarray:
    """A loop with fewer places, COARSE_MM apart at least."""
    keep = [loop[0]]
    for at in loop[1:]:
        if np.hypot(*(at - keep[-1])) >= COARSE_MM:
            keep.append(at)
    return np.round(np.array(keep if len(keep) > 2 else loop), 4)
