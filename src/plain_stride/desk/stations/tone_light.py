"""Tone, page Light: planes in three greys, core shadows hatched, cast shadows blackened."""

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Slider
from plain_stride.desk.look.tracks import draw_crescents
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of
from plain_stride.desk.stations.tone_words import percent, read_percent
from plain_stride.job.black_told import CAST_MM
from plain_stride.job.tone_changes import HALF, LIT, PLANES, SHADOW

PLANE = "**Planes:** touch one after the other. Esc ends it."
CORE = "**Core shadow:** touch the form. Esc ends it."
CORE_AROUND = "**Core shadow of a form:** draw round it. Esc gives it up."
CAST = "**Cast shadow:** touch the area that it falls on. Esc gives it up."
DEPTH = 35.0


class LightPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._value = Choice((LIT, HALF, SHADOW), HALF, "Which grey planes get")
        self._depth = Slider("Of the form's width", draw_crescents, percent, read_percent, lambda v: v / 100.0,
                             lambda s: s * 100.0, DEPTH)  # fmt: skip
        self._length = field_with("So long", f"{CAST_MM:g} mm")
        self._light = Sentence("", colour="faint")
        plane, core, around, cast = self.tool_words("touch planes…", "touch a form…", "draw round it…",
                                                    "cast by the chosen line…")  # fmt: skip
        self._cast = cast
        greys = ", ".join(f"{name} {grey['grey']:.0%}" for name, grey in PLANES.items() if grey)
        self.add(self.fault, Heading("Planes in three greys"), Sentence(f"Lit is paper, {greys}."), self._value)
        self.add_verbs(plane)
        self.add(Heading("The form's own shadow, hatched"), self._depth)
        self.add_verbs(core, around)
        self.add(Heading("A cast shadow, black"), self._length)
        self.add_verbs(cast)
        self.add(self._light)

    def tools(self) -> dict[str, Make]:
        return {"planes": lambda: PointTool(PLANE, self._plane), "core shadow": lambda: PointTool(CORE, self._core_at),
                "core shadow of a form": lambda: LoopTool(CORE_AROUND, self._core_around),
                "cast shadow": lambda: PointTool(CAST, self._cast_on)}  # fmt: skip

    def refresh(self) -> None:
        lamps = self.session.job.plan.lamps
        where = "from the plan's first lamp" if lamps else "from high on the left; **Weigh** places lamps"
        self._light.say(f"The light comes {where}.")
        one = len(self.session.chosen_lines()) == 1
        self._cast.setEnabled(one)
        self._cast.setToolTip("" if one else "Choose the line that casts it with W first")

    def _plane(self, at: np.ndarray) -> None:
        self.session.make("plane", at=np.round(at, 2).tolist(), value=self._value.current(), nib=self.session.now.nib)

    def _core(self, **where: object) -> None:
        self.session.make("hatch", core=round(self._depth.value / 100.0, 3), nib=self.session.now.nib, **where)

    def _core_at(self, at: np.ndarray) -> None:
        self._core(at=np.round(at, 2).tolist())

    def _core_around(self, loop: np.ndarray) -> None:
        self._core(around=np.round(loop, 2).tolist())

    def _cast_on(self, at: np.ndarray) -> None:
        lines = self.session.chosen_lines()
        if len(lines) == 1:
            self.tried(lambda: self.session.make("blacken", at=np.round(at, 2).tolist(), cast=lines[0],
                                                 length=mm_of(self._length), to_edge=True))  # fmt: skip
