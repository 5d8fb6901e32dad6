"""Weigh, page Plan: which plan is laid and how much of it counts, where its light comes from, which rule wins."""

import json
from functools import partial
from pathlib import Path

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QInputDialog, QMenu

from plain_stride.desk import library
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Slider, Word
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.hints import Explained
from plain_stride.desk.controls.json_files import given, taken
from plain_stride.desk.controls.rule_list import RuleList
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.inked import tapered
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import toggle_plan
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.tools.lamps import LampTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.job.weight_changes import NO_LIGHT
from plain_stride.measure import MeasureError, parse_length_mm
from plain_stride.weight.lamps import Lamp
from plain_stride.weight.plan_file import plan_from_json, plan_json
from plain_stride.weight.rule_book import MM, RULES
from plain_stride.weight.schools import SCHOOLS

LIGHTS = {NO_LIGHT: NO_LIGHT, "left": 315.0, "above": 0.0, "right": 45.0}
OTHER = "other"
"""Degrees by the words for where light comes from: high on a side, or straight from above; the word for all others."""
FLOORS = ("no limit", "print floor")


class PlanPage(Page):
    """The list of rules is the plan: the first wins. Under it, the figures of the rule in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._name = Word("Standard", "hand")
        self._name.setToolTip("Take another plan, keep this one, write it to a file")
        self._name.clicked.connect(lambda: self.menu().popup(self._name.mapToGlobal(self._name.rect().bottomLeft())))
        self._share = Slider("Hand and plan", _draw_share, lambda v: f"{v:.0f} %", read_share,
                             lambda v: v / 100.0, lambda s: s * 100.0, 0.0)  # fmt: skip
        self._share.settled.connect(lambda v: self.session.make("plan", share=v))
        self._says, self._key, self._fault = Sentence(), Explained("", "H"), Sentence("", colour="red")
        self._lift = Word("lift off")
        self._lift.setToolTip("Lifts the plan off, or lays it again")
        self._lift.clicked.connect(lambda: toggle_plan(self.session))
        self._base = Field("Its base width")
        self._base.typed.connect(self._set_base)
        self._light = Choice((*LIGHTS, OTHER), NO_LIGHT, "Where the light comes from")
        self._light.words[OTHER].setEnabled(False)
        self._light.chosen.connect(lambda word: self.session.make("plan", light=LIGHTS[word]))
        self._place = Word("place lamps…")
        self._place.setToolTip("Drag a lamp on the sheet; press where none is for one more")
        self._place.clicked.connect(lambda: self.tool_wanted.emit(self.lamp_tool()))
        self._rules = RuleList()
        self._rules.moved.connect(lambda names: self._make(order=names))
        self._rules.switched.connect(lambda name, on: self._make(rules=[{"rule": name, "on": on}]))
        self._rules.picked.connect(lambda name: self._show_figures())
        self._figures: dict[str, Field] = {}
        self._promise = Sentence()
        self.add_verbs(self._name, self._lift)
        self.add(self._share)
        self.add_verbs(Sentence("light"), self._light)
        self.add_verbs(self._place)
        self.add(Heading("Which rule wins"), self._rules, self._fault, self._promise)
        self._figure_rows: list[Field] = [Field("") for _ in range(max(len(k.figures) for k in RULES.values()))]
        for field in self._figure_rows:
            field.typed.connect(partial(self._set_figure, field))
            self.add(field)
        self._lean = Slider("Where two clash", _draw_lean, _lean_words, read_share, lambda v: v / 100.0,
                            lambda s: s * 100.0, 50.0)  # fmt: skip
        self._lean.settled.connect(lambda v: self.session.make("plan", lean=v / 100.0))
        self._floor = Choice(FLOORS, FLOORS[0], "Whether anything may be thinner than the print floor")
        self._floor.chosen.connect(lambda word: self._make(floor=word == FLOORS[1]))
        self.add(self._lean, self._base)
        self.add_verbs(Sentence("thinnest"), self._floor)
        self.add(self._says, self._key)

    def lamp_tool(self) -> SheetTool:
        """What lamps are placed with."""
        return LampTool()

    def refresh(self) -> None:
        if not self.isVisible():
            return
        plan = self.session.job.plan
        self._name.setText(f"{plan.name} ▾")
        self._name.updateGeometry()
        self._lift.setText("lift off" if plan.share else "lay it")
        self._share.show_value(plan.share * 100.0)
        self._lean.show_value(plan.lean * 100.0)
        self._floor.show_chosen(FLOORS[plan.floor])
        self._base.show_text(f"{plan.base:g} mm")
        word = light_word(plan.lamps)
        self._light.show_chosen(word)
        self._light.words[OTHER].setVisible(word == OTHER)
        self._rules.show_plan(plan)
        self._show_figures()
        self._say(plan.share * 100.0)

    def _make(self, **what: object) -> None:
        self.session.make("plan", **what)
        self.refresh()

    def _say(self, share: float) -> None:
        plan = self.session.job.plan
        if not self.session.job.rows.lines:
            self._says.say("Nothing is inked yet: pull lines at **Pull**, then see here what a plan makes of them.")
        elif share == 0:
            self._says.say("Every line has the width your hand gave it.")
        else:
            near, far = plan.width("outer", "near"), plan.width("inner", "far")
            self._says.say(f"By role and depth near outer lines want **{near:.2f} mm**, far inner ones"
                           f" **{far:.2f} mm**.")  # fmt: skip
        self._key.explain(f"Lines go {share:.0f} % of the way from your hand's widths, which stay underneath, to the"
                          f" plan's. Hold **{KEYS.shown('H')}** to see your hand alone.")  # fmt: skip

    def _show_figures(self) -> None:
        name = self._rules.rule
        if not name:
            return
        kind, rule = RULES[name], self.session.job.plan.rule(name)
        self._promise.say(f"Guarantees: {kind.promise}." if kind.promise else "")
        self._promise.setVisible(bool(kind.promise))
        self._figures = dict(zip(kind.figures, self._figure_rows, strict=False))
        for field in self._figure_rows:
            field.setVisible(field in self._figures.values())
        for figure, field in self._figures.items():
            known = kind.figures[figure]
            field.rename(known.says)
            field.show_text(f"{rule[figure]:g} {known.unit}")

    def _set_figure(self, field: Field, text: str) -> None:
        figure = next((name for name, row in self._figures.items() if row is field), None)
        if figure is None:
            return
        rule = self._rules.rule
        try:
            value = read_figure(text, RULES[rule].figures[figure].unit)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self._fault.say("")
        self._make(rules=[{"rule": rule, figure: value}])

    def _set_base(self, text: str) -> None:
        try:
            base = parse_length_mm(text)
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return
        self._fault.say("")
        self._make(base=base)

    # Plans

    def menu(self) -> QMenu:
        """Plans that come with the program, those that were kept, and files."""
        menu = QMenu(self.window())
        for name in SCHOOLS:
            menu.addAction(name, partial(self.session.make, "plan", plan=name))
        kept = library.kept("plans")
        if kept:
            menu.addSeparator()
            for path in kept:
                menu.addAction(path.stem, partial(self.take, path))
        menu.addSeparator()
        menu.addAction("keep this plan…", self._ask_keep)
        menu.addAction("write it to a file…", self._ask_give)
        menu.addAction("take a plan from a file…", self._ask_take)
        return menu

    def keep(self, name: str) -> None:
        """Keeps the plan in the library, for other jobs."""
        if "/" in name:
            self._fault.say("A plan's name holds no /.")
            return
        try:
            path = library.place_for("plans", name)
        except OSError as why:
            self._fault.say(f"The plan cannot be kept in the library: {why.strerror}. It is safe in the job.")
            return
        self.give(path)

    def give(self, path: Path) -> None:
        """Writes the plan to a file, under the file's name."""
        data = plan_json(self.session.job.plan) | {"name": path.stem}
        if given(path, json.dumps(data, indent=2), self._fault):
            self.session.said.emit(f"The plan is kept as **{path.stem}**.", False)

    def take(self, path: Path) -> None:
        """Lays the plan of a file."""
        found = taken(path, plan_from_json, "The plan is as it was.", self._fault)
        if found is not None:
            self.session.make("plan", plan=plan_json(found))

    def _ask_keep(self) -> None:
        name, ok = QInputDialog.getText(self, "Keep this plan", "A name for it")
        if ok and name.strip():
            self.keep(name.strip())

    def _ask_give(self) -> None:
        path = ask_new_file(self, "Write this plan", Path.home() / f"{self.session.job.plan.name}.json", "json")
        if path is not None:
            self.give(path)

    def _ask_take(self) -> None:
        path = ask_file(self, "Take a plan", Path.home(), "Plans (*.json)")
        if path is not None:
            self.take(path)


def light_word(lamps: tuple[Lamp, ...]) -> str:
    """The word for where light comes from."""
    if not lamps:
        return NO_LIGHT
    lamp = lamps[0]
    known = next((word for word, at in LIGHTS.items() if at == lamp.degrees % 360.0), OTHER)
    return known if len(lamps) == 1 and lamp.at is None else OTHER


def read_figure(text: str, unit: str) -> float:
    """A figure of a rule, its unit typed or not. Raises MeasureError."""
    if unit == MM:
        return parse_length_mm(text)
    try:
        return float(text.replace(unit, "").replace(",", ".").strip())
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no number of {unit}") from None


def read_share(text: str) -> float:
    """0 to 100. Raises MeasureError."""
    try:
        value = float(text.replace("%", "").replace(",", ".").strip())
    except ValueError:
        raise MeasureError(f"'{text.strip()}' is no percentage") from None
    if not 0.0 <= value <= 100.0:
        raise MeasureError("a share goes from 0 to 100 %")
    return value


def _draw_share(painter: QPainter, wide: float, high: float) -> None:
    painter.fillPath(tapered(round(wide), 1.2, 9.0), THEME.color("text"))


def _draw_lean(painter: QPainter, wide: float, high: float) -> None:
    painter.fillPath(tapered(round(wide), 3.0, 6.0), THEME.color("text"))


def _lean_words(value: float) -> str:
    if value == 50.0:
        return "half and half"
    return f"thickens {value:.0f} %" if value > 50.0 else f"thins {100.0 - value:.0f} %"
