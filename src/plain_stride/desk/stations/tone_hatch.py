"""Tone, page Hatch: a field filled with strokes to a grey; the tone in hand laid anew while it is seen."""

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Slider
from plain_stride.desk.look.tracks import draw_greys, draw_hands
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with
from plain_stride.desk.stations.tone_words import (
    AUTO,
    NONE,
    degrees_of,
    hatch_words,
    length_of,
    percent,
    print_words,
    read_percent,
    tone_in_hand,
)
from plain_stride.errors import StrideError
from plain_stride.job.hatch_told import ACROSS, ALONG, ANGLE, GREY, field_and_told, hatch_in
from plain_stride.job.records import HATCH
from plain_stride.job.tone_questions import ToneMeasured
from plain_stride.tone.field import Field

AROUND = "**Hatch:** draw round the field. Esc gives it up."
TOUCH = "**Hatch areas:** touch one between lines. Esc ends it."
EVEN, RAMP = "even", "to the light"
EXPLAINED = {
    "another hand": "The same hatching as another hand lays it: another seed",
    "lay it anew": "Where its field lies now; what was done to single strokes stays",
    "take apart": "Its strokes become lines of their own, which keep their widths",
    "take away": "With all its strokes",
    "choose all": "Chooses all its strokes, to be moved or given another part",
    "new hatching": "Takes this one out of the hand",
}
HERE = 40
"""Strokes of a tone are measured in the window itself while the job has no more lines."""
DARKEST = 0.95


class HatchPage(MendPage):
    """seen: (edges of strokes as they would be, by set; the lines that they stand for), None as the job has them."""

    seen = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._tone, self._seed, self._shown = "", 1, (-1, "")
        self._had: dict[str, Any] = {}
        self._found: tuple[tuple[int, str], Field, dict[str, Any]] | None = None
        grey = (percent, read_percent, lambda v: v / 100.0 / DARKEST, lambda s: s * 100.0 * DARKEST)
        self._grey = Slider("Grey", draw_greys, *grey, GREY * 100.0)
        self._light = Slider("At its light end", draw_greys, *grey, 8.0)
        self._even = Slider("Ruled, or by hand", draw_hands, percent, read_percent, lambda v: v / 100.0,
                            lambda s: s * 100.0, 0.0)  # fmt: skip
        self._ramp = Choice((EVEN, RAMP), EVEN, "Whether the grey is one, or falls along the strokes")
        self._angle, self._second = field_with("Angle", f"{ANGLE:g}°"), field_with("Second", NONE)
        self._pitch, self._third = field_with("Pitch", AUTO), field_with("Third", NONE)
        self._widening, self._tips = field_with("Wider", "0 %"), field_with("Points", "0 mm")
        self._continued = field_with("Beyond", "0 mm")
        self._pitch.entry.setFixedWidth(self._pitch.entry.width() + 40)
        self._run = Choice((ALONG, ACROSS), ALONG, "How strokes run between two lines")
        self._measures, self._prints = Sentence(), Sentence("", colour="faint")
        around, touch = self.tool_words("draw round a field…", "touch an area…")
        self._between = self.verb("between two lines", self._lay_between, of_lines=False)
        works: dict[str, Callable[[], object]] = {
            "another hand": self._other_hand,
            "lay it anew": lambda: self._set({}),
            "take apart": self._apart,
            "take away": self._delete,
            "choose all": self._choose_all,
            "new hatching": lambda: self.session.choose([]),
        }
        self._verbs = [self.verb(words, work, of_lines=False) for words, work in works.items()]
        for word in self._verbs:
            word.setToolTip(EXPLAINED[word.text()])
        self._in_hand, self._where = Heading(""), Heading("Where it goes")
        self.add(self.fault, self._in_hand, self._grey)
        self.add_verbs(Sentence("grey"), self._ramp)
        self.add(self._light, self._even)
        self.add_pair(self._angle, self._second)
        self.add_pair(self._third, self._tips)
        self.add(self._pitch)
        self.add_pair(self._widening, self._continued)
        self.add(self._where)
        self.add_verbs(around, touch)
        self.add_verbs(self._between, self._run)
        self._new_ones = (self._where, around, touch, self._between, self._run)
        self.add(self._measures, self._prints)
        for first in range(0, len(self._verbs), 2):
            self.add_verbs(*self._verbs[first : first + 2])
        for slider in (self._grey, self._light, self._even):
            slider.moving.connect(lambda value: self._show_tried())
            slider.settled.connect(lambda value: self._changed())
        self._widening.setToolTip("By how much each pitch is larger than the one before, towards the light")
        self._tips.setToolTip("mm over which strokes come to a point, towards the light")
        self._continued.setToolTip("mm that fine strokes carry every stroke on beyond its end")
        for field in (self._angle, self._second, self._third, self._pitch, self._widening, self._tips,
                      self._continued):  # fmt: skip
            field.typed.connect(lambda text: self._changed())
        self._ramp.chosen.connect(lambda word: self._changed())

    def tools(self) -> dict[str, Make]:
        return {"hatch": lambda: LoopTool(AROUND, self._lay_around),
                "hatch areas": lambda: PointTool(TOUCH, self._lay_at)}  # fmt: skip

    def refresh(self) -> None:
        tone = tone_in_hand(self.session, HATCH)
        if tone != self._tone:
            self._tone = tone
            self._show_told()
        self._in_hand.setText(("The hatching in hand" if tone else "New hatching").upper())
        self._light.setVisible(self._ramp.current() == RAMP)
        for word in self._verbs:
            word.setVisible(bool(tone))
        for widget in self._new_ones:
            widget.setVisible(not tone)
        two = len(self.session.chosen_lines()) == 2 and not tone
        self._between.setEnabled(two)
        self._between.setToolTip("" if two else "Choose the two lines first")
        self._measure()

    def _show_told(self) -> None:
        """The settings of the tone in hand, in the controls."""
        row = self.session.job.rows.tones.get(self._tone)
        if row is None:
            return
        try:
            _, told = self._where_it_lies(self._tone)
        except StrideError:
            # What it lay in is open now: what was told still tells of it.
            told = row.told
        grey, second, pitch = told.get("grey", GREY), told.get("second"), told.get("pitch")
        start, end = grey if isinstance(grey, list) else (grey, grey)
        self._grey.show_value(100.0 * start)
        if start != end:
            self._light.show_value(100.0 * end)
        self._ramp.show_chosen(EVEN if start == end else RAMP)
        self._even.show_value(100.0 * told.get("evenness", 0.0))
        self._seed = int(told.get("seed", 1))
        self._angle.show_text(f"{round(told.get('angle', ANGLE), 1):g}°")
        self._second.show_text(NONE if second is None else f"{second:g}°")
        self._pitch.show_text(AUTO if pitch is None else f"{pitch:g} mm")
        third, tips = told.get("third"), told.get("tips", 0.0)
        self._third.show_text(NONE if third is None else f"{third:g}°")
        self._widening.show_text(f"{100.0 * told.get('widening', 0.0):g} %")
        self._tips.show_text(f"{tips[-1] if isinstance(tips, list) else tips:g} mm")
        self._continued.show_text(f"{told.get('continued', 0.0):g} mm")
        self._had = self._told()

    # What is set

    def _told(self) -> dict[str, Any]:
        """The settings as the change takes them. Raises MeasureError."""
        start, end = round(self._grey.value / 100.0, 4), round(self._light.value / 100.0, 4)
        return {"grey": start if self._ramp.current() == EVEN else [start, end], "angle": degrees_of(self._angle),
                "second": degrees_of(self._second), "third": degrees_of(self._third),
                "pitch": length_of(self._pitch), "tips": length_of(self._tips) or 0.0,
                "widening": round(read_percent(self._widening.entry.text()) / 100.0, 4) or None,
                "continued": length_of(self._continued) or None,
                "evenness": round(self._even.value / 100.0, 4), "seed": self._seed}  # fmt: skip

    def _changed(self) -> None:
        """Something was set: the tone in hand is laid anew by it, a new one will be."""
        self._light.setVisible(self._ramp.current() == RAMP)
        self.tried(lambda: self._set(self._new()) if self._tone else self._told())

    def _new(self) -> dict[str, Any]:
        """What is set otherwise than the tone in hand has it. Raises MeasureError."""
        return {name: value for name, value in self._told().items() if value != self._had.get(name)}

    def _set(self, told: dict[str, Any]) -> None:
        self.session.make("tone-set", tone=self._tone, to=told)
        self._show_told()
        self.seen.emit(None)

    def _show_tried(self) -> None:
        """Shows the strokes of the tone in hand as they would be."""
        if self._tone not in self.session.job.rows.tones:
            return
        try:
            edges = self._edges(self._tone, self._new())
        except StrideError as fault:
            self.fault.say(str(fault))
            return
        self.fault.say("")
        self.seen.emit((edges, frozenset(self.session.job.tone_ink(self._tone))))

    def _edges(self, tone: str, new: dict[str, Any]) -> list[np.ndarray]:
        """Edges of the strokes of a tone, by set, as they would be with other settings. Raises StrideError."""
        field, had = self._where_it_lies(tone)
        told = {name: value for name, value in {**had, **new}.items() if value is not None}
        found = hatch_in(self.session.job, self.session.shapes, field, told)
        return [one.strokes.rings() for one in found.sets(exact=False)]

    def _where_it_lies(self, tone: str) -> tuple[Field, dict[str, Any]]:
        """The field of a tone and what it was told; found once for a state of the job: among many lines that takes
        longer than a frame. Raises StrideError."""
        job = self.session.job
        now = (job.version, tone)
        if self._found is None or self._found[0] != now:
            self._found = now, *field_and_told(job, self.session.shapes, job.rows.tones[tone].told)
        return self._found[1:]

    def try_grey(self, value: float) -> None:
        """Shows the tone in hand at another grey, in per cent, as its slider does while it moves."""
        self._grey.show_value(value)
        self._show_tried()

    def _other_hand(self) -> None:
        self._seed += 1
        self._changed()

    # Where it goes

    def _lay(self, **where: Any) -> None:
        told = {name: value for name, value in self._told().items() if value is not None}
        self.lay(nib=self.session.now.nib, **told, **where)

    def lay(self, **told: Any) -> None:
        """Lays a hatch by arguments of its change, and takes it in hand: its strokes are seen at once, and inked as
        soon as their outlines are worked out."""
        made = self.session.make("hatch", **told)
        if made is None:
            return
        tone = str(made.results[0])
        strokes = self.session.job.tone_ink(tone)
        self.seen.emit((self._edges(tone, {}), frozenset()))
        self.seen.emit(None)
        # One stroke stands for all: hundreds that are marked would hide the grey that they make.
        self.session.choose(strokes[len(strokes) // 2 :][:1])

    def _lay_around(self, loop: np.ndarray) -> None:
        self.tried(lambda: self._lay(around=np.round(loop, 2).tolist()))

    def _lay_at(self, at: np.ndarray) -> None:
        self.tried(lambda: self._lay(at=np.round(at, 2).tolist()))

    def _lay_between(self) -> None:
        self._lay(edges=self.session.chosen_lines(), run=self._run.current())

    def _choose_all(self) -> None:
        self.session.choose(self.session.job.tone_ink(self._tone))

    def _apart(self) -> None:
        if self.session.make("tone-apart", tones=[self._tone]) is not None:
            self.session.said.emit("Its strokes are lines of their own now; they keep their widths.", False)

    def _delete(self) -> None:
        self.session.make("tone-delete", tones=[self._tone])

    # What it measures

    def _measure(self) -> None:
        now = (self.session.job.version, self._tone)
        if not self._tone:
            self._measures.say("Choose a stroke with **W** to take its hatching in hand."
                               if any(row.kind == HATCH for row in self.session.job.rows.tones.values()) else
                               "A grey made of lines: set it, then draw round a field or touch an area.")  # fmt: skip
            self._prints.say("")
        elif now != self._shown:
            self._measures.say("Measuring it…", "faint")
            self.session.drawing.ask(ToneMeasured(self._tone), self._show_measured, HERE)
        self._shown = now

    def _show_measured(self, told: dict[str, Any]) -> None:
        if told.get("id") != self._tone:
            return
        if "fault" in told:
            self._measures.say(f"{told['fault']}.", "red")
            self._prints.say("")
        else:
            self._measures.say(hatch_words(told), "text")
            self._prints.say(print_words(told))
