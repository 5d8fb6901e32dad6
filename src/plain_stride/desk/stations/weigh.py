"""Weigh: what every line weighs by depth and role, how much of it is the plan's, and what passes a ceiling."""

import math
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Slider, Word, focus_ring
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.inked import swelling, tapered
from plain_stride.desk.look.painted import Painted
from plain_stride.desk.look.theme import BODY, LABEL, THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import toggle_plan
from plain_stride.desk.stations.base import Notes
from plain_stride.errors import StrideError
from plain_stride.job.found_roles import OUTER, FoundRole
from plain_stride.job.questions import RolesFound, Weights, WeightsNow, weight_groups
from plain_stride.job.reports import Past, weighed
from plain_stride.job.weight_changes import NO_LIGHT
from plain_stride.measure import MeasureError, parse_length_mm
from plain_stride.texts import counted
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.report import Spread
from plain_stride.weight.rule_book import BENDS as RULE_BENDS

MEASURE_MS = 200
LOW, HIGH = 0.08, 3.0
"""mm at the ends of the scale that all bars share."""
MOST_PARTS = 6
LIGHTS = {NO_LIGHT: NO_LIGHT, "left": 315.0, "above": 0.0, "right": 45.0}
OTHER = "other"
"""Degrees by the words for where light comes from: high on a side, or straight from above; the word for all others,
which the command line lays."""
BENDS = ("as the rest", "heavier")


class MeasureRow(Painted, QAbstractButton):
    """What the lines of a tier or a role measure: a stroke from the thin ones to the heavy ones, on one scale."""

    def __init__(self, name: str, n: int, measured: Spread | None) -> None:
        super().__init__()
        self._name, self._n, self._measured = name, n, measured
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(THEME.px(28))
        lines = counted(n, "line")
        self.setText(name)
        told = f", {measured.low:.2f} to {measured.high:.2f} mm, mean {measured.mean:.2f}" if measured else ""
        self.setAccessibleName(f"{name}: {lines}{told}")
        self.setAccessibleDescription("chooses these lines")
        self.setToolTip("Choose these lines")
        self.setEnabled(n > 0)

    def sizeHint(self) -> QSize:
        return QSize(THEME.px(240), THEME.px(28))

    def paint(self, painter: QPainter, event: QPaintEvent) -> None:
        if self.underMouse() and self.isEnabled():
            painter.fillRect(self.rect(), THEME.color("wash"))
        painter.setFont(THEME.font(BODY))
        painter.setPen(THEME.color("text" if self._n else "faint"))
        box = QRectF(2, 0, self.width() - 6, THEME.px(20))
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(box, middle, self._name)
        painter.setFont(THEME.font(LABEL))
        painter.setPen(THEME.color("faint"))
        m = self._measured
        words = f"{m.low:.2f} to {m.high:.2f} mm" if m else "none yet"
        painter.drawText(
            box, middle | Qt.AlignmentFlag.AlignRight, f"{counted(self._n, 'line')}, {words}" if m else words
        )
        if m is not None:
            self._bar(painter, m)
        focus_ring(painter, self)

    def _bar(self, painter: QPainter, m: Spread) -> None:
        y, wide = THEME.px(23), self.width() - 8.0
        painter.setPen(THEME.color("hair"))
        painter.drawLine(QPointF(2.0, y), QPointF(2.0 + wide, y))
        a, b, mean = (2.0 + wide * _share(v) for v in (m.low, m.high, m.mean))
        painter.save()
        painter.translate(a, y)
        painter.fillPath(swelling(max(round(b - a), 3), 1.6, 5.0), THEME.color("text"))
        painter.restore()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(THEME.color("chosen"))
        painter.drawEllipse(QPointF(mean, y), 3.4, 3.4)


class WeighNotes(Notes):
    """Pressing a row chooses its lines, so that they show on the sheet."""

    name, key = "Weigh", "W"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._share = Slider("Hand and plan", _draw_swelling, lambda v: f"{v:.0f} %", _read_share,
                             lambda v: v / 100.0, lambda s: s * 100.0, 0.0)  # fmt: skip
        self._says, self._key = Sentence(), Explained("Weight by role and depth", "H")
        lift = Word("lift the plan off, or lay it again")
        self._base, self._fault = Field("The plan's base width"), Sentence("", colour="red")
        self._rows = QWidget()
        self._row_column = QVBoxLayout(self._rows)
        self._row_column.setContentsMargins(0, 0, 0, 0)
        self._row_column.setSpacing(0)
        self._ceiling = Sentence()
        self._past = QWidget()
        self._past_column = QVBoxLayout(self._past)
        self._past_column.setContentsMargins(0, 0, 0, 0)
        self._past_column.setSpacing(0)
        measured = Heading("Measured, by depth and by role")
        find = Word("find outer and inner lines")
        find.setToolTip("Of the lines whose role nobody gave")
        find.clicked.connect(self._find_roles)
        self._light = Choice((*LIGHTS, OTHER), NO_LIGHT, "Where the light comes from")
        self._light.words[OTHER].setEnabled(False)
        self._light.chosen.connect(lambda word: self.session.make("plan", light=LIGHTS[word]))
        self._bends = Choice(BENDS, BENDS[0], "Whether tight bends are heavier")
        self._bends.chosen.connect(
            lambda word: self.session.make("plan", rules=[{"rule": RULE_BENDS, "on": word == BENDS[1]}])
        )
        self.add(self._key, self._share, self._says, lift, self._base, self._fault)
        self.add_verbs(Sentence("light"), self._light)
        self.add_verbs(Sentence("bends"), self._bends)
        self.add(measured, self._rows, find)
        self.add(Heading("Ceilings"), self._ceiling, self._past)
        self._share.settled.connect(lambda v: self.session.make("plan", share=v))
        self._base.typed.connect(self._set_base)
        lift.clicked.connect(lambda: toggle_plan(self.session))
        self._shown: Any = None
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(MEASURE_MS)
        self._later.timeout.connect(self._measure)
        self.refresh()

    def fact(self) -> str:
        share = self.session.job.plan.share
        return f"plan at {share * 100:.0f} %" if share else "the hand's own"

    def refresh(self) -> None:
        if not self.isVisible():
            return
        plan = self.session.job.plan
        share = plan.share * 100.0
        self._share.show_value(share)
        self._base.show_text(f"{plan.base:g} mm")
        word = _light_word(plan.lamps)
        self._light.show_chosen(word)
        self._light.words[OTHER].setVisible(word == OTHER)
        self._bends.show_chosen(BENDS[plan.is_on(RULE_BENDS)])
        if not self.session.job.rows.lines:
            self._says.say("Nothing is inked yet: pull lines at **Pull**, then see here what each role weighs.")
        elif share == 0:
            self._says.say("Every line has the width your hand gave it.")
        else:
            near, far = plan.width("outer", "near"), plan.width("inner", "far")
            self._says.say(f"The plan wants near outer lines at **{near:.2f} mm**, far inner ones at **{far:.2f} mm**.")
        self._key.explain(f"Lines go {share:.0f} % of the way from your hand's widths, which stay underneath, to the"
                          f" plan's. Hold **{KEYS.shown('H')}** to see your hand alone.")  # fmt: skip
        self._later.start()

    def _set_base(self, text: str) -> None:
        try:
            base = parse_length_mm(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self._fault.say("")
        self.session.make("plan", base=base)
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self.refresh()

    def _measure(self) -> None:
        """All lines are looked at, so it waits until nothing changes for a moment, and is done beside the window where
        there are many."""
        self.session.drawing.ask(WeightsNow(), self._show_weights)

    def _show_weights(self, weights: Weights) -> None:
        if weights == self._shown:
            return
        self._shown = weights
        _empty(self._row_column)
        for name, n, measured in weights.groups:
            row = MeasureRow(name, n, measured)
            row.clicked.connect(partial(self._choose, name))
            self._row_column.addWidget(row)
        self._show_past(weights.past)

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

    def _choose(self, name: str) -> None:
        self.session.choose(weight_groups(self.session.job).get(name, []))

    def _show_past(self, past: tuple[Past, ...]) -> None:
        _empty(self._past_column)
        n = sum(len(p.lines) for p in past)
        if not n:
            part = self.session.part
            top = self.session.shapes.ceiling_of(part.id) if part is not None else None
            outer = any(self.session.job.rows.lines[key].role == "outer" for key in weighed(self.session.job))
            words = "No inner line passes the ceiling that its part's outer lines set."
            if not outer:
                words = "There is no outer line yet: none sets a ceiling for inner ones."
            self._ceiling.say(words + (f" {part.name}: **{top:.2f} mm**." if top and part is not None else ""))
            return
        weigh = "weighs" if n == 1 else "weigh"
        self._ceiling.say(
            f"**{counted(n, 'inner line')}** {weigh} more than the outer lines round {'it' if n == 1 else 'them'}."
        )
        for p in past[:MOST_PARTS]:
            heaviest = p.lines[0][1]
            words = f"{p.part.name}: {len(p.lines)}, up to {heaviest:.2f} over {p.ceiling:.2f} mm"
            word = Word(words)
            word.setToolTip("Choose them")
            word.clicked.connect(partial(self.session.choose, [key for key, _ in p.lines]))
            self._past_column.addWidget(word)


def _light_word(lamps: tuple[Lamp, ...]) -> str:
    if not lamps:
        return NO_LIGHT
    lamp = lamps[0]
    known = next((word for word, at in LIGHTS.items() if at == lamp.degrees % 360.0), OTHER)
    return known if len(lamps) == 1 and lamp.at is None else OTHER


def _empty(column: QVBoxLayout) -> None:
    while (item := column.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.deleteLater()


def _share(mm: float) -> float:
    return math.log(min(max(mm, LOW), HIGH) / LOW) / math.log(HIGH / LOW)


def _read_share(text: str) -> float:
    try:
        value = float(text.replace("%", "").replace(",", ".").strip())
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 100.0:
        raise MeasureError("a share goes from 0 to 100 %")
    return value


def _draw_swelling(painter: QPainter, wide: float, high: float) -> None:
    painter.fillPath(tapered(round(wide), 1.2, 9.0), THEME.color("text"))
