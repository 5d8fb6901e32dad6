"""Weigh, page Lines: what lines are for, where their form lies, how much of the plan they and their part have."""

from collections import Counter

import numpy as np

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Slider, Word
from plain_stride.desk.look.inked import swelling
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import PointTool
from plain_stride.desk.sheet.weight_marks import ROLE_WORDS
from plain_stride.desk.stations.mend_page import Make, MendPage
from plain_stride.desk.stations.weigh_plan import read_share
from plain_stride.form.roles import ROLES
from plain_stride.job.found_roles import OUTER, FoundRole
from plain_stride.job.questions import RolesFound
from plain_stride.lines.cross import nearest
from plain_stride.texts import counted

NO_ROLE, NEAR_MM = "", 3.0


class WeighLinesPage(MendPage):
    """While it is shown, the sheet marks every line with its role and the side of its form."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._who = Sentence()
        self._role = Choice(ROLES[:3], NO_ROLE, "What these lines are for")
        self._rarer = Choice(ROLES[3:], NO_ROLE, "What these lines are for, more")
        for choice in (self._role, self._rarer):
            choice.chosen.connect(lambda role: self._set_role(role))
            choice.setToolTip(ROLE_WORDS.replace("**", ""))
        find = self.verb("find outer and inner lines", self._find_roles, of_lines=False)
        find.setToolTip("Of the lines whose role nobody gave")
        self._side = Sentence()
        other = self.verb("the form is on the other side", lambda: self._say(form="other"))
        (flick,) = self.tool_words("turn it where I point…")
        flick.setToolTip("A press on a line's mark, and its form lies on the other side")
        self._throws = self.verb("it throws a shadow", self._toggle_throws)
        self._pin = self.verb("keep these widths", self._toggle_pin)
        self._pin.setToolTip("They stay as they are, whatever the plan wants, until they are let go")
        planned = self.verb("as the plan says", lambda: self.session.make("as-planned", lines=self.lines()))
        planned.setToolTip("Takes swells, shaves and all else off that was done to their widths")
        self._own = _share_slider("Plan, of these lines")
        self._own.settled.connect(lambda v: self._say(share=v))
        as_part = self.verb("as their part", lambda: self._say(share="part"))
        self._part = _share_slider("Plan, of the part in hand")
        self._part.settled.connect(self._set_part)
        self._as_job = Word("as the job")
        self._as_job.clicked.connect(lambda: self._set_part("job"))
        self.add(self.fault, self._who, self._role, self._rarer, find)
        self.add(Heading("Where their form lies"), self._side, other)
        self.add_verbs(flick, self._throws)
        self.add(Heading("How much of the plan they have"), self._own)
        self.add_verbs(as_part, self._pin)
        self.add(planned, self._part)
        self.add_verbs(self._as_job)

    def tools(self) -> dict[str, Make]:
        return {"form": lambda: PointTool("**Form:** press on lines whose form lies on the other side. Esc ends it.",
                                          self._turn)}  # fmt: skip

    def _turn(self, at: np.ndarray) -> None:
        """The form of the line nearest to a place, of those that are shown, turned to its other side."""
        shown = self.session.shown_parts()
        lines = [key for key, row in self.session.job.rows.lines.items() if row.part in shown and not row.draft]
        away = [(nearest(self.session.shapes[key].flat[0], at)[0], key) for key in lines if self._is_near(key, at)]
        if not away or min(away)[0] > NEAR_MM:
            self.session.said.emit("No line lies there: press nearer to one.", False)
            return
        self.session.make("weight", lines=[min(away)[1]], form="other")

    def _is_near(self, key: str, at: np.ndarray) -> bool:
        x0, y0, x1, y1 = self.session.shapes[key].box
        return bool(x0 - NEAR_MM <= at[0] <= x1 + NEAR_MM and y0 - NEAR_MM <= at[1] <= y1 + NEAR_MM)

    def refresh(self) -> None:
        super().refresh()
        rows = [self.session.job.rows.lines[key] for key in self.lines() if key in self.session.job.rows.lines]
        roles = Counter(row.role for row in rows)
        role = roles.most_common(1)[0][0] if roles else NO_ROLE
        by = "" if not rows else " (found)" if all(row.roles[0].by == "found" for row in rows) else ""
        told = ", ".join(f"{n} {name}" for name, n in roles.most_common())
        self._who.say(f"**{counted(len(rows), 'line')}**: {told}{by}." if rows else
                      "Choose lines: here is what they are for, and how much of the plan they have.")  # fmt: skip
        for choice in (self._role, self._rarer):
            choice.show_chosen(role)
        throws, pinned = (bool(rows) and all(given) for given in (
            [row.weight.throws for row in rows], [row.weight.pinned is not None for row in rows]))  # fmt: skip
        self._throws.setText("it throws no shadow" if throws else "it throws a shadow")
        self._pin.setText("let these widths go" if pinned else "keep these widths")
        for word in (self._throws, self._pin):
            word.updateGeometry()
        self._say_side()
        self._show_shares()

    def _say_side(self) -> None:
        sides = Counter(self.session.shapes.weighing.sides.get(key, "") for key in self.lines())
        given = sum(1 for key in self.lines() if self.session.job.rows.lines[key].weight.form)
        side = sides.most_common(1)[0][0] if sides else ""
        words = f"For the most part to their **{side}**, as they were pulled" if side else "Not known yet"
        self._side.say(f"{words}{f'; {given} by your word' if given else ''}." if self.lines() else "")
        self._side.setVisible(bool(self.lines()))

    def _show_shares(self) -> None:
        shapes, part = self.session.shapes, self.session.part
        shares = [shapes.share_of(self.session.job.rows.lines[key]) for key in self.lines()]
        self._own.show_value(100.0 * (sum(shares) / len(shares) if shares else self.session.job.plan.share))
        own = self.session.job.rows.parts[part.id].share if part is not None else None
        self._part.show_value(100.0 * (self.session.job.plan.share if own is None else own))
        self._part.setEnabled(part is not None)
        self._as_job.setEnabled(own is not None)

    def _set_role(self, role: str) -> None:
        if self.lines():
            self.session.make("set", lines=self.lines(), role=role)
        self.refresh()

    def _say(self, **what: object) -> None:
        if self.lines():
            self.session.make("weight", lines=self.lines(), **what)
        self.refresh()

    def _toggle_throws(self) -> None:
        self._say(throws=self._throws.text() == "it throws a shadow")

    def _toggle_pin(self) -> None:
        self._say(pinned=self._pin.text() == "keep these widths")

    def _set_part(self, share: object) -> None:
        if self.session.part is not None:
            self.session.make("part", name=self.session.part.name, share=share)
        self.refresh()

    def _find_roles(self) -> None:
        """Has roles found beside the window: many lines take a moment."""
        self.session.said.emit("Looking at what encloses what…", False)
        self.session.drawing.ask(RolesFound(), self._lay_roles)

    def _lay_roles(self, found: tuple[FoundRole, ...]) -> None:
        rows = self.session.job.rows.lines
        roles = [[line, role] for line, role in found if line in rows]
        if not roles:
            self.session.said.emit("Nothing was to find: every role was given by hand, or the lines go round nothing.",
                                   False)  # fmt: skip
            return
        made = self.session.make("roles-found", roles=roles)
        outer = sum(1 for _, role in roles if role == OUTER)
        if made is not None:
            n = len(made.results[0])
            self.session.said.emit(f"**Found:** {counted(outer, 'outer line')}, {len(roles) - outer} inner, {n} of them"
                                   " another role than before. What you gave stays.", False)  # fmt: skip


def _share_slider(name: str) -> Slider:
    return Slider(name, lambda painter, wide, high: painter.fillPath(swelling(round(wide), 1.2, 6.0),
                                                                     THEME.color("text")),
                  lambda v: f"{v:.0f} %", read_share, lambda v: v / 100.0, lambda s: s * 100.0, 0.0)  # fmt: skip
