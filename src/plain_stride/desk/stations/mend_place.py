"""Mend, page Place: size, turn, slant by numbers or by dragging; lined up, spaced, repeated, in perspective."""

from functools import partial

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import PointTool
from plain_stride.desk.sheet.tools.mapping import CornersTool, MapTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of, number_of
from plain_stride.lines.affine import Affine, moved, scaled, slanted, turned
from plain_stride.lines.arranging import SIDES, WAYS
from plain_stride.lines.motifs import CHAIN, KINDS

ALL, NONE, NO_MM, COUNT, SIZE, STROKE = "100 %", "0°", "0 mm", "8", "5 mm", 0.1
KEEP, SCALE = "keep", "scale"


class PlacePage(MendPage):
    """What is chosen, blacks as well, about its middle, or about a pivot that was set."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._size, self._turn = field_with("Size", ALL), field_with("Turned", NONE)
        self._slant, self._count = field_with("Slanted", NONE), field_with("Count", COUNT)
        self._across, self._down = field_with("Right", NO_MM), field_with("Down", NO_MM)
        self._motif, self._across_mm = Choice(KINDS, CHAIN, "What motif"), field_with("Across", SIZE)
        self._keeps = Choice((KEEP, SCALE), KEEP, "Widths of what is scaled")
        self._pivot_at: np.ndarray | None = None
        self._pivot_words = Sentence("", colour="faint")
        drag, corners, pivot, along = self.tool_words("by dragging…", "perspective…", "set a pivot…", "along a line…")
        self.add(self.fault, Heading("Their size, turn and place"))
        self.add_pair(self._size, self._turn)
        self.add_pair(self._across, self._down)
        self.add(self._slant)
        self.add_verbs(Sentence("widths"), self._keeps)
        self.add_verbs(self.verb("place them so", self._map), drag)
        self.add_verbs(pivot, self.verb("their middle", self._no_pivot, of_lines=False))
        self.add(self._pivot_words)
        self.add_verbs(corners)
        self.add(Heading("Lined up and spaced"))
        for words in (SIDES[:3], SIDES[3:]):
            self.add_verbs(*(self.verb(side, partial(self._align, side)) for side in words))
        self.add_verbs(Sentence("spaced"), *(self.verb(way, partial(self._space, way)) for way in WAYS))
        self.add(Heading("Laid along a line"), self._motif)
        self.add_pair(self._count, self._across_mm)
        self.add_verbs(along, self.verb("a motif on this one", self._lay_motif))

    def tools(self) -> dict[str, Make]:
        return {
            "place": lambda: MapTool(self.session, self._keeps.current),
            "perspective": lambda: CornersTool(self.session),
            "pivot": lambda: PointTool("**Pivot:** point at what they turn and scale about. Esc ends it.", self._pivot),
            "along": lambda: PointTool(
                "**Along:** point at the line that copies are laid along. Esc ends it.", self._along
            ),
        }

    def refresh(self) -> None:
        super().refresh()
        at = self._pivot_at
        self._pivot_words.say("About their middle." if at is None else f"About {at[0]:.1f}, {at[1]:.1f} mm.")

    def _keys(self) -> list[str]:
        return self.session.chosen or self.lines()

    def _pivot(self, at: np.ndarray) -> None:
        self._pivot_at = at
        self.refresh()

    def _no_pivot(self) -> None:
        self._pivot_at = None
        self.refresh()

    def _map(self) -> None:
        keys = self._keys()
        boxes = np.array([self.session.shapes.ink(key).box for key in keys])
        about = (
            (boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0)) / 2.0 if self._pivot_at is None else self._pivot_at
        )
        by: Affine = scaled(about, number_of(self._size, "%") / 100.0)
        by = by.then(slanted(about, number_of(self._slant, "°"))).then(turned(about, number_of(self._turn, "°")))
        by = by.then(moved(mm_of(self._across), mm_of(self._down)))
        self.session.make("affine", lines=keys, matrix=list(by.row), widths=self._keeps.current())

    def _align(self, side: str) -> None:
        self.session.make("align", lines=self._keys(), side=side)

    def _space(self, way: str) -> None:
        self.session.make("space", lines=self._keys(), way=way)

    def _lay_motif(self) -> None:
        """Along the line in hand, a tenth of its size thick."""
        across = mm_of(self._across_mm)
        self.session.make("motif", along=self.lines()[-1], kind=self._motif.current(), size=across,
                          width=round(across * STROKE, 3))  # fmt: skip

    def _along(self, at: np.ndarray) -> None:
        keys, rows = self._keys(), self.session.job.rows.lines
        far = [(float(np.hypot(*(self.session.shapes[key].flat[0] - at).T).min()), key)
               for key in rows if key not in keys]  # fmt: skip
        if not keys or not far:
            self.session.said.emit("Choose what is to be laid first, then point at another line.", True)
            return
        self.tried(lambda: self.session.make("repeat", lines=keys, along=min(far)[1],
                                             count=int(number_of(self._count, ""))))  # fmt: skip
