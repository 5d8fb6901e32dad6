"""Mend, page Join: lines made one, broken into several, turned round, cut where they cross, rubbed inside a loop."""

import numpy as np

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of, number_of
from plain_stride.texts import counted

EVERY, GAP, UNEVEN, COARSE_MM = "12 mm", "1.5 mm", "30 %", 0.2


class JoinPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._says = Sentence("", colour="faint")
        self._every, self._gap = field_with("Every", EVERY), field_with("Gap", GAP)
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
        self.add_verbs(self.verb("cut at crossings", self._cut))
        self.add_verbs(rub)

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
