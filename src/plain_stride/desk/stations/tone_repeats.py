"""Tone, page Repeats: textures of a motif, stipple, speed lines."""

from typing import Any

import numpy as np

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Slider
from plain_stride.desk.look.tracks import draw_greys, draw_hands
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool, PointTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of
from plain_stride.desk.stations.tone_words import degrees_of, percent, read_percent, tone_in_hand
from plain_stride.job.records import SPEED, TEXTURE
from plain_stride.job.tone_makers import COUNT, MOTIFS, SIZE_MM, STIPPLE
from plain_stride.measure import MeasureError

FILL = "**Texture:** draw round the field. Esc gives it up."
TOUCH = "**Texture areas:** touch one between lines. Esc ends it."
SPEED_TO = "**Speed lines:** point at where they run to. Esc gives it up."
UP = 0.0


class RepeatsPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._seed = 1
        self._motif = Choice(MOTIFS[:3], MOTIFS[1], "Which motif is repeated")
        self._more = Choice(MOTIFS[3:], "", "Which motif is repeated")
        self._size, self._angle = field_with("Size", f"{SIZE_MM:g} mm"), field_with("Angle", f"{UP:g}°")
        self._vary = Slider("Alike, or no two alike", draw_hands, percent, read_percent, lambda v: v / 100.0,
                            lambda s: s * 100.0, 50.0)  # fmt: skip
        self._grey = Slider("Grey of dots", draw_greys, percent, read_percent, lambda v: v / 60.0,
                            lambda s: s * 60.0, 20.0)  # fmt: skip
        self._count, self._wide = field_with("How many", str(COUNT)), field_with("Band", "20 mm")
        self._bunched = Slider("Even, or in bunches", draw_hands, percent, read_percent, lambda v: v / 100.0,
                               lambda s: s * 100.0, 40.0)  # fmt: skip
        fill, touch, to = self.tool_words("draw round a field…", "touch an area…", "to a place…")
        self._along = self.verb("along the chosen line", self._speed_along)
        self._says = Sentence("", colour="faint")
        self._verbs = [self.verb(words, work, of_lines=False) for words, work in
                       (("another hand", self._other_hand), ("lay it anew", lambda: self._set({})),
                        ("take away", self._delete))]  # fmt: skip
        self.add(self.fault, Heading("A motif along a field"), self._motif, self._more)
        self.add_pair(self._size, self._angle)
        self.add(self._vary, self._grey)
        self.add_verbs(fill, touch)
        self.add(Heading("Speed lines"))
        self.add_pair(self._count, self._wide)
        self.add(self._bunched)
        self.add_verbs(to, self._along)
        self.add(self._says)
        self.add_verbs(*self._verbs)
        self._motif.chosen.connect(self._pick)
        self._more.chosen.connect(self._pick)
        self._now = MOTIFS[1]

    def tools(self) -> dict[str, Make]:
        return {"texture": lambda: LoopTool(FILL, self._fill_around),
                "texture areas": lambda: PointTool(TOUCH, self._fill_at),
                "speed lines": lambda: PointTool(SPEED_TO, self._speed_to)}  # fmt: skip

    def refresh(self) -> None:
        super().refresh()
        tone = tone_in_hand(self.session, SPEED, TEXTURE)
        for word in self._verbs:
            word.setVisible(bool(tone))
        self._grey.setVisible(self._now == STIPPLE)
        self._vary.setVisible(self._now != STIPPLE)
        row = self.session.job.rows.tones.get(tone)
        what = "" if row is None else f"a {row.told['motif']} texture" if row.kind == TEXTURE else "speed lines"
        n = len(self.session.job.tone_ink(tone)) if tone else 0
        self._says.say(f"In hand: {what}, **{n}** strokes." if tone else "")

    def _pick(self, word: str) -> None:
        """One of two rows of words is chosen: none of the other is."""
        self._now = word
        for row in (self._motif, self._more):
            for name, button in row.words.items():
                button.setAutoExclusive(False)
                button.setChecked(name == word)
                button.setAutoExclusive(True)
        self.refresh()

    # Laying

    def _lay(self, change: str, **told: Any) -> None:
        made = self.session.make(change, nib=self.session.now.nib, seed=self._seed, **told)
        if made is not None:
            strokes = self.session.job.tone_ink(str(made.results[0]))
            self.session.choose(strokes[len(strokes) // 2 :][:1])

    def _fill(self, **where: Any) -> None:
        if self._now == STIPPLE:
            self._lay("texture", motif=STIPPLE, grey=round(self._grey.value / 100.0, 4), **where)
        else:
            self._lay("texture", motif=self._now, size=mm_of(self._size), angle=degrees_of(self._angle) or UP,
                      vary=round(self._vary.value / 100.0, 3), **where)  # fmt: skip

    def _fill_around(self, loop: np.ndarray) -> None:
        self.tried(lambda: self._fill(around=np.round(loop, 2).tolist()))

    def _fill_at(self, at: np.ndarray) -> None:
        self.tried(lambda: self._fill(at=np.round(at, 2).tolist()))

    def _speed(self, **where: Any) -> None:
        self._lay("speed-lines", count=_whole(self._count), bunched=round(self._bunched.value / 100.0, 3), **where)

    def _speed_to(self, at: np.ndarray) -> None:
        self.tried(lambda: self._speed(to=np.round(at, 2).tolist()))

    def _speed_along(self) -> None:
        self._speed(along=self.lines()[-1], wide=mm_of(self._wide))

    # The one in hand

    def _set(self, told: dict[str, Any]) -> None:
        self.session.make("tone-set", tone=tone_in_hand(self.session, SPEED, TEXTURE), to=told)

    def _other_hand(self) -> None:
        tone = tone_in_hand(self.session, SPEED, TEXTURE)
        self._seed = int(self.session.job.rows.tones[tone].told.get("seed", 0)) + 1
        self._set({"seed": self._seed})

    def _delete(self) -> None:
        self.session.make("tone-delete", tones=[tone_in_hand(self.session, SPEED, TEXTURE)])


def _whole(field: Field) -> int:
    """A whole number. Raises MeasureError."""
    text = field.entry.text().strip()
    if not text.isdigit():
        raise MeasureError(f"'{text}' is no whole number")
    return int(text)
