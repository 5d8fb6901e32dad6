"""Mend, page Ends: carried on, tapered, set to a width; held together where they meet; gaps closed, stubs trimmed."""

from typing import Any

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.choice import open_lines
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import PointTool
from plain_stride.desk.sheet.tools.edges import EdgeTool
from plain_stride.desk.sheet.tools.going_over import GoingOverTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of
from plain_stride.job.holding import end_of
from plain_stride.job.part_order import with_inner
from plain_stride.job.questions import MendsOf
from plain_stride.job.tidying import Mend
from plain_stride.lines.corner_joins import JOINS, ROUND
from plain_stride.lines.cross import nearest
from plain_stride.lines.edits import SIDES
from plain_stride.texts import counted

WIDTH, OVER, NEAR = "0.5 mm", "4 mm", "1 mm"
NEXT, NIB, CROSSING, BOTH = "to the next", "the nib's", "to a crossing", "both"
TOOLS = ("set it where I point…", "drag an edge…", "heavier…", "lighter…", "hold where I point…", "loose…")
AT_ONCE, LOOK = "at once", "show them first"
HELD_MM = 5.0


class EndsPage(MendPage):
    """place_wanted: a place in mm that is to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._found: tuple[Mend, ...] = ()
        self._refused: set[int] = set()
        self._held = Sentence()
        self._width, self._over = field_with("Width", WIDTH), field_with("over", OVER)
        self._edge = Choice(SIDES, SIDES[0], "Which edges give")
        self._corner = Choice(JOINS, ROUND, "How corners close")
        self._end = Choice(("start", "end", BOTH), "end", "Which end")
        self._on, self._point = field_with("On", NEXT), field_with("Point", NIB)
        self._on.setToolTip("How far an end is carried on: mm, or to the next line")
        self._point.setToolTip("How long a pointed end is: mm, a share as 25 %, to a crossing, or the nib's own")
        self._gap, self._stub = field_with("Gap", NEAR), field_with("Stub", NEAR)
        width, edge, heavier, lighter, hold, loose = self.tool_words(*TOOLS)
        self._tidy_part = self.verb("the part in hand", self._tidy_the_part, of_lines=False)
        self.add(self.fault, Heading("Their ends"), self._end)
        self.add_pair(self._on, self._point)
        self.add_verbs(self.verb("carry on", self._carry_on), self.verb("taper", self._tapers),
                       self.verb("thick out of blacks", self._out_of_blacks))  # fmt: skip
        self.add(Heading("Where they meet"), self._held)
        self.add_verbs(Sentence("corners"), self._corner)
        self.add_verbs(hold, loose)
        self.add(Heading("Gaps closed, stubs trimmed"))
        self.add_pair(self._gap, self._stub)
        self.add_verbs(self.verb("tidy these", self._tidy_these), self._tidy_part)
        self._first = Choice((AT_ONCE, LOOK), AT_ONCE, "Whether each is shown before")
        self._list, self._do = PlaceList("What would be mended", 5), self.verb("do them", self._do_found, False)
        self.add(self._first, self._list, self._do)
        self._list.picked.connect(self._pick)
        self.add(Heading("Their width"))
        self.add_pair(self._width, self._over)
        self.add_verbs(width, edge)
        for word in (heavier, lighter):
            word.setToolTip("Go over a line with the pen: it gets so where you go")
        self.add_verbs(heavier, lighter, self._edge)
        self.add_verbs(self.verb("make it even", self._even), self.verb("like the first chosen", self._like))

    def tools(self) -> dict[str, Make]:
        return {
            "width": lambda: PointTool("**Width:** point at lines; they get it there. Esc ends it.", self._set_width),
            "edge": lambda: EdgeTool(lambda: self.read(self._over)),
            "heavier": lambda: GoingOverTool(True, self._edge.current),
            "lighter": lambda: GoingOverTool(False, self._edge.current),
            "hold": lambda: PointTool(
                "**Hold:** point where two lines meet; they stay together. Esc ends it.", self._hold
            ),
            "loose": lambda: PointTool("**Loose:** point at a meeting that is held. Esc ends it.", self._loose),
        }

    def refresh(self) -> None:
        super().refresh()
        self._tidy_part.setEnabled(self.session.part is not None)
        holds = self.session.job.rows.holds.values()
        chosen = set(self.lines())
        n = sum(1 for hold in holds if hold.line in chosen or hold.other in chosen)
        self._show_found()
        self._held.say(f"**{counted(n, 'meeting')}** of these held, {len(holds)} in all." if len(holds) else
                       "Lines that are held go along with each other when one is changed.")  # fmt: skip

    def _ends(self) -> tuple[str, ...]:
        end = self._end.current()
        return ("start", "end") if end == BOTH else (end,)

    def _carry_on(self) -> None:
        to: Any = "next" if self._on.entry.text().strip() in (NEXT, "next") else mm_of(self._on)
        wanted = [("extend", {"line": key, "end": end, "to": to}) for key in self.lines() for end in self._ends()]
        self.session.make_several(wanted, "extend")

    def _tapers(self) -> None:
        typed = self._point.entry.text().strip()
        length: Any
        if typed.endswith("%"):
            length = typed.replace(" ", "")
        else:
            length = None if typed == NIB else "crossing" if typed in (CROSSING, "crossing") else mm_of(self._point)
        self.session.make("taper", lines=self.lines(), end=self._end.current(), length=length)

    def _set_width(self, at: np.ndarray) -> None:
        mm, over = self.read(self._width), self.read(self._over)
        lines = [(self._away(key, at), key) for key in self.lines()]
        if mm is not None and over is not None and lines:
            self.session.make("width", line=min(lines)[1], at=at.tolist(), mm=mm, reach=over)
        elif mm is not None:
            self.session.said.emit("Choose a line first: then point at where it gets that width.", True)

    def _away(self, line: str, at: np.ndarray) -> float:
        return nearest(self.session.shapes[line].flat[0], at)[0]

    def _even(self) -> None:
        self.session.make("even-widths", lines=self.lines())

    def _out_of_blacks(self) -> None:
        made = self.session.make("from-black", lines=self.lines())
        if made is not None:
            n = len(made.results[0])
            self.session.said.emit(f"**Thick:** {counted(n, 'line')} out of blacks. What ends in none stays.", False)

    def _like(self) -> None:
        first, *others = self.session.chosen_lines() or [""]
        if others:
            self.session.make("widths-like", lines=others, like=first)
        else:
            self.session.said.emit("Choose a line, then others that get its widths.", True)

    def _hold(self, at: np.ndarray) -> None:
        near = self._near(at)
        if len(near) < 2:
            self.session.said.emit("Two lines must meet there, or nearly: point at where they do.", True)
        elif self.session.make("hold", lines=near[:2], at=at.tolist(), corner=self._corner.current()) is not None:
            self.session.said.emit("**Held.** When one of them is changed, the other's end goes along.", False)

    def _near(self, at: np.ndarray) -> list[str]:
        """Open lines near a place, the nearest first; one that ends there goes before one that goes through."""
        found = []
        for key in open_lines(self.session):
            x0, y0, x1, y1 = self.session.shapes[key].box
            if x0 - HELD_MM <= at[0] <= x1 + HELD_MM and y0 - HELD_MM <= at[1] <= y1 + HELD_MM:
                away = self._away(key, at)
                if away <= HELD_MM:
                    found.append((away, key))
        return [key for _, key in sorted(found)]

    def _loose(self, at: np.ndarray) -> None:
        lines, rows = self.session.shapes, self.session.job.rows
        far = [(float(np.hypot(*(end_of(lines[hold.line], hold.line_end) - at))), key)
               for key, hold in rows.holds.items() if hold.line in rows.lines]  # fmt: skip
        if not far or min(far)[0] > HELD_MM:
            self.session.said.emit("Nothing is held there.", True)
            return
        hold = rows.holds[min(far)[1]]
        place = end_of(lines[hold.line], hold.line_end)
        if self.session.make("hold", lines=[hold.line, hold.other], at=place.tolist(), off=True) is not None:
            self.session.said.emit("**Loosed.** They go their own ways.", False)

    # Tidied

    def _tidy_these(self) -> None:
        self._look_for(tuple(self.lines()))

    def _tidy_the_part(self) -> None:
        rows, part = self.session.job.rows, self.session.part
        within = with_inner(rows.parts, part.id) if part is not None else []
        self._look_for(tuple(key for key, row in rows.lines.items() if row.part in within))

    def _look_for(self, lines: tuple[str, ...]) -> None:
        """Has what would be mended found beside the window: many lines take a moment."""
        free = set(open_lines(self.session))
        question = MendsOf(tuple(key for key in lines if key in free), mm_of(self._gap), mm_of(self._stub))
        self.session.said.emit("Looking at the ends…", False)
        self.session.drawing.ask(question, self._found_them)

    def _found_them(self, found: tuple[Mend, ...]) -> None:
        self._found, self._refused = found, set()
        if self._first.current() == AT_ONCE or not found:
            self._do_found()
        self._show_found()

    def _show_found(self) -> None:
        rows = self.session.job.rows.lines
        self._found = tuple(mend for mend in self._found if mend[0] in rows)
        words = [self._words_of(k, mend) for k, mend in enumerate(self._found)]
        self._list.show_rows(words)
        self._do.setVisible(bool(words))

    def _words_of(self, k: int, mend: Mend) -> str:
        line, at_end, mm, _ = mend
        left = "left: " if k in self._refused else ""
        return f"{left}{self.session.short_words_of(line)}, {'end' if at_end else 'start'} {mm:+.2f} mm"

    def _pick(self, k: int) -> None:
        """Refuses one of them, or takes it again; its line is chosen, so that it is seen which."""
        self._refused ^= {k}
        line, at_end, *_ = self._found[k]
        self.session.choose([line])
        x, y = end_of(self.session.shapes[line], "end" if at_end else "start").tolist()
        self.place_wanted.emit(x, y)
        self._show_found()

    def _do_found(self) -> None:
        wanted = [[line, "end" if at_end else "start", round(mm, 4), *(round(v, 4) for v in by)]
                  for k, (line, at_end, mm, by) in enumerate(self._found) if k not in self._refused]  # fmt: skip
        self._found, self._refused = (), set()
        made = self.session.make("mend-ends", mends=wanted) if wanted else None
        if made is not None or not wanted:
            n = len(made.results[0]) if made is not None else 0
            self.session.said.emit(f"Tidied: **{counted(n, 'line')}** changed." if n else "Nothing was to tidy.", False)
        self._show_found()
