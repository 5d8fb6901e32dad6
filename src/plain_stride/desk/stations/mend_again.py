"""Mend, page Again: faulty places marked, worked through one by one, each crossed off."""

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.choice import open_lines
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool
from plain_stride.desk.stations.mend_page import Make, MendPage
from plain_stride.job.areas import Area, areas_of
from plain_stride.job.pencil_records import AGAIN
from plain_stride.texts import counted

LOOP = "**Mark:** draw round what is to be drawn again. Esc ends it."


class AgainMarksPage(MendPage):
    """place_wanted: a place in mm that is to be shown; picked: the key of the mark that is worked on, '' for none."""

    place_wanted = Signal(float, float)
    picked = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._says, self._list = Sentence(), PlaceList("Places to be drawn again", 8)
        self._now = ""
        (mark,) = self.tool_words("mark a place…")
        works = {"next": self._next, "cross it off": self._cross_off, "choose its lines": self._choose}
        self._verbs = [self.verb(words, work, of_lines=False) for words, work in works.items()]
        self.add(self.fault, Heading("To be drawn again"), self._says)
        self.add_verbs(mark)
        self.add(self._list)
        self.add_verbs(*self._verbs)
        self._list.picked.connect(lambda k: self._go(self._marks()[k].key))

    def tools(self) -> dict[str, Make]:
        return {"mark": lambda: LoopTool(LOOP, self._mark)}

    def refresh(self) -> None:
        super().refresh()
        marks = self._marks()
        keys = [mark.key for mark in marks]
        if self._now not in keys:
            self._go("")
        self._says.say(f"**{counted(len(marks), 'place')}** to be drawn again." if marks else
                       "Draw round what is wrong: the marks are worked through here, and never printed.")  # fmt: skip
        words = [_words(n, mark) for n, mark in enumerate(marks, 1)]
        self._list.show_rows(words, keys.index(self._now) if self._now else None)
        for verb in self._verbs:
            verb.setEnabled(bool(marks))

    def _marks(self) -> list[Area]:
        return areas_of(self.session.job, AGAIN)

    def _mark(self, loop: np.ndarray) -> None:
        self.session.make("area", kind=AGAIN, outline=np.round(loop, 2).tolist())

    def _go(self, key: str) -> None:
        """Takes a mark in hand and shows it."""
        self._now = key
        self.picked.emit(key)
        found = next((mark for mark in self._marks() if mark.key == key), None)
        if found is not None:
            x, y = found.outline.mean(axis=0).tolist()
            self.place_wanted.emit(x, y)

    def _next(self) -> None:
        keys = [mark.key for mark in self._marks()]
        if keys:
            at = keys.index(self._now) + 1 if self._now in keys else 0
            self._go(keys[at % len(keys)])
            self.refresh()

    def _cross_off(self) -> None:
        keys = [mark.key for mark in self._marks()]
        if self._now not in keys:
            self._next()
            return
        after = keys[(keys.index(self._now) + 1) % len(keys)]
        gone, self._now = self._now, after if after != self._now else ""
        if self.session.make("area-delete", areas=[gone]) is not None and self._now:
            self._go(self._now)

    def _choose(self) -> None:
        """Chooses the open lines that run through the mark in hand."""
        import shapely

        found = next((mark for mark in self._marks() if mark.key == self._now), None)
        if found is None:
            self._next()
            return
        area = shapely.make_valid(shapely.Polygon(found.outline))
        shapes = self.session.shapes
        self.session.choose([key for key in open_lines(self.session)
                             if shapely.intersects(area, shapely.LineString(shapes[key].flat[0]))])  # fmt: skip


def _words(n: int, mark: Area) -> str:
    x, y = mark.outline.mean(axis=0)
    wide, high = np.ptp(mark.outline, axis=0)
    return f"{n}: at {x:.0f}, {y:.0f} mm, {max(wide, high):.0f} mm across"
