"""Mend, page Shape: lines bent and pushed by dragging, stretches drawn anew, straightened, smoothed; their points."""

from functools import partial

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence
from plain_stride.desk.session.choice import open_lines
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.along import StretchTool
from plain_stride.desk.sheet.tools.bend import BendTool, PushTool
from plain_stride.desk.sheet.tools.points import PointsTool
from plain_stride.desk.stations.mend_page import Make, MendPage, field_with, mm_of
from plain_stride.job.neighbours import meeting_lines
from plain_stride.lines import nodes
from plain_stride.lines.recipe import Recipe, course_of
from plain_stride.texts import counted

REACH, ROUND, WITHIN, LEEWAY = "8 mm", "10 mm", "0.05 mm", "0.2 mm"
ALONG = "drag along a line, from where to where. Esc ends it."
NODE_VERBS = (("corner", "corner"), ("smooth", "smooth"), ("take away", "delete"))
ALONE, FREE, MEETING, PART = "alone", "ends too", "what meets it", "part"
MIDDLE, NO_MM = "the middle", "0 mm"


class ShapePage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._reach, self._round = field_with("Reach", REACH), field_with("Round", ROUND)
        self._over = Choice((ALONE, FREE, MEETING, PART), ALONE, "What gives along")
        self._at = field_with("Bent at", MIDDLE)
        self._right, self._down = field_with("Right", NO_MM), field_with("Down", NO_MM)
        self._leeway = field_with("Smoothed within", LEEWAY)
        self._within, self._few = field_with("Points within", WITHIN), Sentence("", colour="faint")
        self._points: PointsTool | None = None
        self._told: tuple[Recipe, float, str] | None = None
        bend, push, straight, smooth, points = self.tool_words("bend…", "push…", "straighten…", "smooth…", "points…")
        self.add(self.fault, Heading("Bent and pushed"))
        self.add_pair(self._reach, self._round)
        self.add(self._over)
        self.add_verbs(bend, push, self.verb("as it was pulled", self._as_pulled))
        self.add(self._at)
        self.add_pair(self._right, self._down)
        self.add_verbs(self.verb("bend it by these", self._bend_by))
        self.add(Heading("A stretch"))
        self.add_verbs(self.verb("pull it anew", session.arm_again), straight)
        self.add(self._leeway)
        self.add_verbs(smooth)
        self.add(Heading("Points"), self._within, self._few)
        self.add_verbs(points, self.verb("make them few", self._simplify))
        self.add_verbs(*(self.verb(words, partial(self._node, what)) for words, what in NODE_VERBS))
        self._within.typed.connect(lambda: self.refresh())

    def tools(self) -> dict[str, Make]:
        return {
            "bend": lambda: BendTool(lambda: self.read(self._reach), self._show_reach, self._others),
            "push": lambda: PushTool(lambda: self.read(self._round), self._show_round, self._pushable),
            "straighten": lambda: StretchTool(f"**Straighten:** {ALONG}", self._straighten),
            "smooth": lambda: StretchTool(f"**Smooth:** {ALONG}", self._smooth),
            "points": self._points_tool,
        }

    def _points_tool(self) -> PointsTool:
        self._points = PointsTool(self.session, lambda: self.read(self._within))
        return self._points

    def refresh(self) -> None:
        super().refresh()
        self._few.say(self._told_points())

    def _told_points(self) -> str:
        """How many points the line in hand has, and would have."""
        lines = self.lines()
        within = self.read(self._within)
        if len(lines) != 1 or within is None:
            return "" if not lines else "Choose one line to see its points."
        row, recipe = self.session.job.rows.lines[lines[0]], self.session.shapes.worked(lines[0]).recipe
        scale = row.matrix.scale if row.matrix is not None else 1.0
        # A line's recipe is another one when the line changes; to find its fewest points takes too long for every step.
        if self._told is None or self._told[0] is not recipe or self._told[1] != within / scale:
            self._told = recipe, within / scale, _points_of(recipe, within / scale, scale)
        return self._told[2]

    def _show_reach(self, mm: float) -> None:
        self._reach.show_text(f"{mm:g} mm")

    def _show_round(self, mm: float) -> None:
        self._round.show_text(f"{mm:g} mm")

    def _others(self, line: str) -> list[str]:
        """Lines that give along with one."""
        over, rows = self._over.current(), self.session.job.rows.lines
        if over in (ALONE, FREE):
            return [line] if over == FREE else []
        keys = [key for key in open_lines(self.session) if rows[key].family is None]
        if over == MEETING:
            return meeting_lines(self.session.shapes, [line], keys)
        return [key for key in keys if key != line and rows[key].part == rows[line].part]

    def _pushable(self) -> list[str]:
        """The chosen lines, else all that are open."""
        rows = self.session.job.rows.lines
        return [key for key in self.session.chosen_lines() or open_lines(self.session) if rows[key].family is None]

    def _bend_by(self) -> None:
        """Bends the line in hand by typed numbers, at a length along it."""
        line = self.lines()[-1]
        shape = self.session.shapes[line]
        s = shape.length / 2.0 if self._at.entry.text().strip() == MIDDLE else mm_of(self._at)
        at = shape.arc.point(np.array([s]))[0]
        others = self._others(line)
        self.session.make("bend", line=line, at=np.round(at, 4).tolist(), by=[mm_of(self._right), mm_of(self._down)],
                          reach=mm_of(self._reach), **({"others": others} if others else {}))  # fmt: skip

    def _as_pulled(self) -> None:
        self.session.make("as-pulled", lines=self.lines())

    def _straighten(self, line: str, a: float, b: float) -> None:
        self.session.make("straighten", line=line, **{"from": a, "to": b})

    def _smooth(self, line: str, a: float, b: float) -> None:
        leeway = self.read(self._leeway)
        if leeway is not None:
            self.session.make("smooth", line=line, leeway=leeway, **{"from": a, "to": b})

    def _simplify(self) -> None:
        within = mm_of(self._within)
        wanted = [("simplify", {"line": key, "tolerance": within}) for key in self.lines()]
        made = self.session.make_several(wanted, "simplify")
        if made is not None:
            before, after = (sum(told[k] for told in made.results) for k in ("before", "after"))
            off = float(np.max([told["moved"] for told in made.results]))
            self.session.said.emit(f"**{before}** pieces are **{after}** now; nothing moved by more than {off:.3f} mm. "
                                   "Steadying starts from this shape from now on.", False)  # fmt: skip

    def _node(self, what: str) -> None:
        if self._points is None:
            self.session.said.emit("Take the points in hand first: press 'points…', then one of them.", True)
        else:
            self._points.edit_node(what)


def _points_of(recipe: Recipe, within: float, scale: float) -> str:
    """How many points a line has, and would have within so many mm of it before it is scaled."""
    curve = course_of(recipe).curve
    few, off = nodes.simplified(curve, within)
    n, fewer = (nodes.count_of(c, recipe.closed) for c in (curve, few))
    if fewer == n:
        return f"{counted(n, 'point')}: as few as stay within that."
    return f"{counted(n, 'point')}; {fewer} would move it by {off * scale:.3f} mm at most."
