"""Pull: steadying, the line just pulled, the nib, the weight."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QTimer
from PySide6.QtGui import QPainter, QShowEvent

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Several, Slider, Word
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.inked import calming
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.margins.lines_list import LinesList
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import HEAVIER
from plain_stride.desk.sheet.turning import TurnToHand
from plain_stride.desk.stations.base import Page, PagedNotes
from plain_stride.desk.stations.pull_again import AgainPage
from plain_stride.desk.stations.pull_nib import NibPage
from plain_stride.desk.stations.pull_pressure import PressurePage
from plain_stride.desk.stations.pull_shapes import ShapesPage
from plain_stride.desk.workers.latest_only import LatestOnly
from plain_stride.desk.workers.owned import owned
from plain_stride.form.roles import ROLES
from plain_stride.hand.advice import PulledLine, advice_on, hurt, tightest_bend
from plain_stride.hand.along import project_onto
from plain_stride.hand.effect import circle_shrinks
from plain_stride.hand.follow import line_followed
from plain_stride.hand.nib import END_KINDS, Steadying
from plain_stride.job.reports import line_report
from plain_stride.lines.centre import Centreline
from plain_stride.texts import counted

LATER_MS = 300
ALIKE, LESS = "bends like the rest", "less in bends"
AUTO, SET = "auto", "as far as I say"
SOME_LEEWAY, MOST_LEEWAY = 0.1, 0.6
"""mm: what the slider starts from, and its end; more can be typed."""
CIRCLE_MM, USUAL_SPEED, LEAST_SHRINK_MM = 3.0, 35.0, 0.001
SCHOOL_WORDS = {"off": "off", "live": "live", "after the pull": "after"}


class PullNotes(PagedNotes):
    """shapes: the page of tools that draw."""

    name, key = "Pull", "U"

    def __init__(self, session: Session) -> None:
        self._hand, self.shapes = _HandPage(session), ShapesPage(session)
        pages = {"Hand": self._hand, "Line": _LinePage(session), "Again": AgainPage(session), "Shape": self.shapes,
                 "Nib": NibPage(session), "Press": PressurePage(session)}  # fmt: skip
        super().__init__(session, pages)

    def know_hand(self, turning: TurnToHand) -> None:
        """What is learned of the hand is told on the first page."""
        self._hand.know(turning)

    def fact(self) -> str:
        n, inked = self.session.job.line_count, self.session.inked_share
        return counted(n, "line") if inked is None else f"{inked:.0%} inked"


class _Page(Page):
    def lines(self) -> list[str]:
        """The lines that verbs act on: the chosen ones, else the last one pulled."""
        shown = self.session.shown_line()
        return self.session.chosen_lines() or ([shown] if shown else [])


class _HandPage(_Page):
    """Steadying of the nib in hand, and what it did to the last line."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._school = Choice(tuple(SCHOOL_WORDS), "after the pull", "Steadying")
        self._given = Choice((AUTO, SET), AUTO, "Leeway")
        self._leeway = Slider(
            "Leeway",
            _draw_calming,
            lambda v: f"{v:.3f} mm",
            measure.parse_length_mm,
            lambda v: (v / MOST_LEEWAY) ** 0.5,
            lambda s: MOST_LEEWAY * s * s,
            SOME_LEEWAY,
        )
        self._effect = Explained("Steadying", "nib")
        self._bends = Choice((ALIKE, LESS), ALIKE, "Tight bends are steadied")
        self._free = Several((ROLES[:4], ROLES[4:]), "Lines of these roles are not steadied")
        self._line_heading, self._line = Heading("Last line"), Sentence()
        self._again, self._less = Word("steady this line so"), Word("steady this line less in bends")
        self._liking = Sentence()
        self._turning: TurnToHand | None = None
        self._circle: tuple[tuple[Steadying, float], float] | None = None
        self._circles = owned(self, LatestOnly())
        self._circles.answered.connect(self._circle_known)
        self.add(self._effect, self._school, self._given, self._leeway, self._bends)
        self.add(Heading("Never steadied, by role"), self._free)
        self.add(self._line_heading, self._line)
        self.add(self._again, self._less, Heading("Your hand"), self._liking)
        self._school.chosen.connect(lambda word: self._set(school=SCHOOL_WORDS[word]))
        self._given.chosen.connect(lambda word: self._set(leeway=None if word == AUTO else self._leeway.value))
        self._bends.chosen.connect(lambda word: self._set(less_in_bends=word == LESS))
        self._less.clicked.connect(lambda: self._steady(True))
        self._leeway.moving.connect(self._try)
        self._leeway.settled.connect(self._settle)
        self._free.chosen.connect(lambda roles: self.session.take(unsteadied=roles))
        self._again.clicked.connect(lambda: self._steady(False))
        session.strokes.tried_changed.connect(self._show_tried)
        self.refresh()

    def know(self, turning: TurnToHand) -> None:
        self._turning = turning

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._turning is not None:
            self._turning.learn()
        # The window is painted first.
        QTimer.singleShot(LATER_MS, self, self.refresh)

    def _set(self, **values: object) -> None:
        self.session.make("nib", key=self.session.now.nib, **values)

    def _try(self, leeway: float) -> None:
        self.session.strokes.try_steadying(
            self.session.shown_line(), replace(self.session.nib.steadying, leeway=leeway)
        )

    def _show_tried(self, centre: Centreline | None) -> None:
        """While the leeway is dragged: what it would make of the line in hand, in figures; the sheet shows it."""
        if centre is not None:
            self._line.say(
                f"With **{self._leeway.value:.3f} mm** it would lie as shown over its ink: shake"
                f" **{centre.tremor_mm:.3f} mm** taken out, the shape moved at most **{centre.moved_mm:.3f} mm**."
            )
        else:
            self.refresh()

    def _settle(self, leeway: float) -> None:
        self.session.strokes.try_steadying(self.session.shown_line(), None)
        self._set(leeway=leeway)

    def _steady(self, less: bool) -> None:
        """Steadies the lines as the nib in hand would, tight bends more lightly if it or the inker says so."""
        setting = self.session.nib.steadying
        pulled = [k for k in self.lines() if self.session.job.rows.lines[k].pull]
        if pulled:
            self.session.make("steady", lines=pulled, school=setting.school, leeway=setting.leeway,
                            less_in_bends=less or setting.less_in_bends)  # fmt: skip

    def refresh(self) -> None:
        setting = self.session.nib.steadying
        self._school.show_chosen(next(w for w, s in SCHOOL_WORDS.items() if s == setting.school))
        self._given.setVisible(setting.school != "off")
        self._given.show_chosen(AUTO if setting.leeway is None else SET)
        self._leeway.setVisible(setting.school != "off" and setting.leeway is not None)
        if setting.leeway is not None:
            self._leeway.show_value(setting.leeway)
        self._bends.setVisible(setting.school == "after" and setting.leeway != 0.0)
        self._bends.show_chosen(LESS if setting.less_in_bends else ALIKE)
        self._free.show_chosen(self.session.now.unsteadied)
        key = self.session.shown_line()
        if self.session.pulling_nib.steadying != setting:
            words = f"The next line is **{self.session.now.role}**: it is left as your hand pulls it."
        else:
            words = f"{_effect_words(setting.school, setting.leeway)} {self._circle_words(key)}".strip()
        self._effect.explain(words)
        self._line_heading.setText("CHOSEN LINE" if self.session.chosen else "LAST LINE")
        self._again.setVisible(key is not None and bool(self.session.job.rows.lines[key].pull))
        pulled = _pulled_line(self.session, key)
        self._line.say(_line_words(self.session, key, pulled))
        self._less.setVisible(_may_ease(self.session, key, pulled))
        self._liking.say(self._turning.words() if self._turning is not None else "")

    def _circle_words(self, key: str | None) -> str:
        """What it would do to a small circle, pulled as fast as the last line was."""
        setting = self.session.nib.steadying
        if setting.school == "off" or setting.leeway == 0.0:
            return ""
        report = line_report(self.session.job, self.session.shapes, key) if key is not None else {}
        speed = report.get("speed") or USUAL_SPEED
        asked = (setting, round(speed, -1) or 10.0)
        if self._circle is None or self._circle[0] != asked:
            self._ask_circle(asked)
            return ""
        shrinks = self._circle[1]
        less = f"shrinks by **{shrinks:.3f} mm**" if shrinks >= LEAST_SHRINK_MM else "keeps its size"
        return f"A circle of {CIRCLE_MM:g} mm at {speed:.0f} mm/s {less}."

    def _ask_circle(self, asked: tuple[Steadying, float]) -> None:
        """It takes some thought: worked out in a thread, once the page is seen."""
        if self.isVisible():
            self._circles.ask(lambda: (asked, circle_shrinks(asked[0], CIRCLE_MM, asked[1])))

    def _circle_known(self, circle: tuple[tuple[Steadying, float], float]) -> None:
        self._circle = circle
        self.refresh()


SIDES_OF = {"both edges": "both", "its left": "left", "its right": "right"}
SIDES = tuple(SIDES_OF)
WHICH = ("both ends", "its start", "its end")


class _LinePage(_Page):
    """Role, ends and weight of the chosen lines, or of the next one."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._role_heading = Heading("Role")
        self._roles = [Choice(ROLES[:4], "outer", "Role"), Choice(ROLES[4:], "", "Role, continued")]
        self._weight_heading, self._ends_heading = Heading("This line"), Heading("Its ends")
        heavier, lighter = Word("heavier, ¼ step"), Word("lighter, ¼ step")
        self._side = Choice(SIDES, SIDES[0], "Which edge is made heavier or lighter")
        self._which = Choice(WHICH, WHICH[0], "Which of its ends")
        self._ends = Choice(END_KINDS, "pointed", "Ends", apart=2)
        self._to_part, delete = Word("into the part in hand"), Word("take it away")
        self._list_heading, self.list = Explained("All lines, front to back", "choose"), LinesList(session)
        self.add(self._role_heading, *self._roles, self._weight_heading, self._side)
        self.add_verbs(heavier, lighter)
        self.add(self._ends_heading, self._which, self._ends)
        self.add_verbs(self._to_part, delete)
        self.add(self._list_heading, self.list)
        self._acting = [self._weight_heading, self._side, heavier, lighter, self._ends_heading, self._which, self._ends,
                        self._to_part, delete]  # fmt: skip
        for choice in self._roles:
            choice.chosen.connect(self._role)
        heavier.clicked.connect(lambda: self._swell(HEAVIER))
        lighter.clicked.connect(lambda: self._swell(1.0 / HEAVIER))
        self._ends.chosen.connect(self._set_ends)
        self._which.chosen.connect(lambda _: self.refresh())
        self._to_part.clicked.connect(lambda: self._set(part=self.session.now.part))
        delete.clicked.connect(self.delete)
        self.refresh()

    def refresh(self) -> None:
        rows, lines = self.session.job.rows.lines, self.lines()
        chosen = bool(self.session.chosen_lines())
        self._role_heading.setText("ROLE OF THE CHOSEN" if chosen else "ROLE OF THE NEXT LINE")
        role = rows[lines[-1]].role if chosen else self.session.now.role
        for choice in self._roles:
            for word, button in choice.words.items():
                button.setAutoExclusive(False)
                button.setChecked(word == role)
        for widget in self._acting:
            widget.setVisible(bool(lines))
        self._weight_heading.setText("CHOSEN" if chosen else "LAST LINE")
        if lines:
            end = rows[lines[-1]].ends[1 if self._which.current() == WHICH[2] else 0]
            self._ends.show_chosen(end.kind)
        key = KEYS.shown("W")
        self._list_heading.explain(
            f"**{key}**, or the right button, chooses the line under the pen; drawn round, many."
        )
        n = len(self.session.job.rows.lines) + len(self.session.job.rows.blacks)
        for widget in (self._list_heading, self.list):
            widget.setVisible(n > 0)
        if self.isVisible():
            self.list.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.list.refresh()

    def _role(self, role: str) -> None:
        if lines := self.session.chosen_lines():
            self.session.make("set", lines=lines, role=role)
        else:
            self.session.take(role=role)
        self.refresh()

    def _set(self, **values: object) -> None:
        if self.lines():
            self.session.make("set", lines=self.lines(), **values)

    def _set_ends(self, kind: str) -> None:
        """Gives one end of each line, or both, another kind."""
        which, rows = WHICH.index(self._which.current()), self.session.job.rows.lines
        wanted = []
        for key in self.lines():
            first, last = rows[key].ends
            ends = [kind if which in (0, 1) else first.kind, kind if which in (0, 2) else last.kind]
            wanted.append(("set", {"lines": [key], "ends": ends}))
        if wanted:
            self.session.make_several(wanted, "set")

    def _swell(self, factor: float) -> None:
        side = SIDES_OF[self._side.current()]
        if lines := self.lines():
            self.session.make_several([("swell", {"line": k, "factor": factor, "side": side}) for k in lines], "swell")

    def delete(self) -> None:
        if self.lines():
            self.session.make("delete", lines=self.lines())


def _line_words(session: Session, key: str | None, pulled: PulledLine | None) -> str:
    if key is None:
        return "Pull a line: here stands what steadying took out of it, and how far it moved its shape."
    report = line_report(session.job, session.shapes, key)
    low, high = report["width_range"]
    widths = f"**{low:.2f}** to **{high:.2f} mm** wide"
    row = session.job.rows.lines[key]
    top = session.shapes.ceiling_of(row.part)
    if top is not None and row.role != "outer":
        mean = float(np.mean(session.shapes[key].body.full))
        widths += ", under the ceiling" if mean < top else f", over the ceiling of **{top:.2f} mm**"
    if pulled is None:
        return f"It came without a pull, **{report['length']:.1f} mm** long. {widths}."
    follow = f" It follows the pencils by **{row.follow.share:.0%}**." if row.follow else ""
    if row.follow is not None and row.follow.strict:
        follow = " It was led along an edge."
    told = advice_on(pulled, session.now.thresholds)
    return (
        f"Shake **{report['tremor_removed']:.3f} mm** taken out; the shape moved at most "
        f"**{report['shape_moved']:.3f} mm**. {widths}.{follow} {' '.join(told)}".rstrip()
    )


def _pulled_line(session: Session, key: str | None) -> PulledLine | None:
    """What is known of a line that has a pull; None for any other."""
    row = session.job.rows.lines.get(key) if key is not None else None
    if key is None or row is None or row.pull is None:
        return None
    report, pull = line_report(session.job, session.shapes, key), session.job.pull(row.pull)
    points = session.shapes[key].flat[0]
    pencil = line_followed(points, session.strokes.guides)
    return PulledLine(
        report["tremor_removed"],
        report["shape_moved"],
        report["length"],
        report["duration"] or 0.0,
        tightest_bend(points),
        pull.view.scale,
        float(project_onto(pencil, points[-1:])[2][0]) if pencil is not None else None,
    )


def _may_ease(session: Session, key: str | None, pulled: PulledLine | None) -> bool:
    """Whether a line was flattened in a tight bend and is not steadied less there yet."""
    if key is None or pulled is None or not hurt(pulled, session.now.thresholds):
        return False
    row = session.job.rows.lines[key]
    return row.school == "after" and not row.less_in_bends


def _effect_words(school: str, leeway: float | None) -> str:
    if school == "off":
        return "Your hand as it is, shake and all."
    when = "while you pull, settling 120 ms behind the tip" if school == "live" else "when the pen lifts; no lag"
    if leeway is None:
        return f"Auto takes out what shakes and keeps what you meant, {when}."
    if leeway == 0.0:
        return "No leeway: your hand as it is, shake and all."
    more = " Beyond your hand's own leeway the line is calmed along its length." if leeway > SOME_LEEWAY else ""
    return f"The shape may move by **{leeway:.3f} mm** at most, {when}.{more}"


def _draw_calming(painter: QPainter, wide: float, high: float) -> None:
    """A shaky line that calms from left to right."""
    painter.fillPath(calming(round(wide), round(high)), THEME.color("text"))
