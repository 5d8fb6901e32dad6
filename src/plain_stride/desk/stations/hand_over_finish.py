"""Hand over, page Finish: the stack of passes over the final art, each switched, ordered, set and taken off."""

import json
from collections.abc import Sequence
from dataclasses import fields, replace
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.json_files import given
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.finish_sight import FINISHED, INKED, SIGHTS
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.errors import StrideError
from plain_stride.finish.passes import HAND_WORDS, PASSES, WAYS, LinesAway, Pass, pass_from_row
from plain_stride.job.errors import JobError
from plain_stride.job.finished import passes_of
from plain_stride.job.finishes_told import named, told_finishes
from plain_stride.job.reading import read_any_json
from plain_stride.texts import counted

KINDS = tuple(PASSES)
WHOLE, PART, LINES = SCOPES = ("the whole", "this part", "chosen lines")
LABELS = {"radius": ("Radius", "mm"), "strength": ("Strength", "%"), "angle": ("Along", "°"),
          "reach": ("Full at", "mm"),
          "turn": ("Turned", "°"), "scale": ("Scaled", "×"), "colour": ("Colour", ""), "loose": ("As loose", "×"),
          "weight": ("Weight", "%"), "seed": ("Seed", ""), "grain": ("Tooth", "mm"), "mm": ("Drawn in", "mm"),
          "least": ("Leaving", "mm"), "difference": ("Difference over", ""), "by": ("Off", "mm"),
          "centre": ("Out from", "mm")}  # fmt: skip
SHARES = ("strength", "weight")
CHOICES = {"way": WAYS, "hand": HAND_WORDS}
MOST_FIELDS = 5


class FinishPage(MendPage):
    """sight_wanted: what of the finished art the sheet shows, one of SIGHTS."""

    sight_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._at = 0
        self.sight = Choice(SIGHTS, FINISHED, "What the sheet shows")
        self._says, self._what = Sentence(), Sentence()
        self._list = PlaceList("Finishes, the first one done first", 5)
        self._on, self._over = Word("switch off"), Word("lay it over the ink")
        self._choices = {name: Choice(words, words[0], name) for name, words in CHOICES.items()}
        self._fields = [Field("", 84) for _ in range(MOST_FIELDS)]
        self._shown: list[str] = []
        self._scope = Choice(SCOPES, WHOLE, "What the finish is for")
        self._more = [self.verb("earlier", lambda: self._move(-1), of_lines=False),
                      self.verb("later", lambda: self._move(1), of_lines=False),
                      self.verb("take it off", self._take_off, of_lines=False)]  # fmt: skip
        self._keep = self.verb("keep the chosen lines", self._keep_lines)
        self.add(Heading("On the sheet"), self.sight, Heading("Finishes: add one"), self._says)
        for row in (KINDS[:4], KINDS[4:]):
            self.add_verbs(
                *(self.verb(kind.replace("-", " "), partial(self._add, kind), of_lines=False) for kind in row)
            )
        self.add(self._list, self._what)
        self.add_verbs(self._on, *self._more)
        self.add(*self._choices.values(), *self._fields, self._over, self._keep, self._scope, self.fault)
        self.add_verbs(self.verb("open a set…", self._ask_open, of_lines=False),
                       self.verb("save the set…", self._ask_save, of_lines=False))  # fmt: skip
        self.sight.chosen.connect(self.sight_wanted)
        self._list.picked.connect(self._pick)
        self._on.clicked.connect(lambda: self.tried(lambda: self._change(on=not self._in_hand().on)))
        self._over.clicked.connect(lambda: self.tried(self._turn_over))
        self._scope.chosen.connect(lambda word: self.tried(lambda: self._aim(word)))
        for n, field in enumerate(self._fields):
            field.typed.connect(lambda text, n=n: self.tried(lambda: self._typed(n, text)))
        for name, choice in self._choices.items():
            choice.chosen.connect(lambda word, name=name: self.tried(lambda: self._change(**{name: word})))

    def stack(self) -> list[Pass]:
        """The passes as they are, the first one done first."""
        return passes_of(self.session.job)

    def refresh(self) -> None:
        super().refresh()
        stack = self.stack()
        self._at = min(self._at, max(len(stack) - 1, 0))
        self._list.show_rows([self._row(one) for one in stack], self._at if stack else None)
        pictures = [one.title for one in stack if one.on and one.pixels]
        note = f" {', '.join(pictures)}: a picture in SVG and PDF too." if pictures else ""
        many = counted(sum(one.on for one in stack), "finish", "finishes")
        nothing = "The ink goes out as it is inked. A finish is laid over it and can be lifted off again."
        self._says.say(f"**{many}** over the ink.{note}" if stack else nothing)
        one = stack[self._at] if stack else None
        for widget in (self._what, self._on, *self._more, self._scope):
            widget.setVisible(one is not None)
        self._show_settings(one)

    def _row(self, one: Pass) -> str:
        shown = named(self.session.job, one)
        scope = ", ".join(shown.parts) or (counted(len(one.lines), "line") if one.lines else "")
        return f"{'' if one.on else 'off · '}{one.title.replace('-', ' ')}{' · ' + scope if scope else ''}"

    def _show_settings(self, one: Pass | None) -> None:
        for choice in self._choices.values():
            choice.setVisible(False)
        self._over.setVisible(one is not None and hasattr(one, "over"))
        self._keep.setVisible(isinstance(one, LinesAway))
        self._shown = [] if one is None else _settings(one)
        for n, field in enumerate(self._fields):
            field.setVisible(n < len(self._shown))
            if one is not None and n < len(self._shown):
                name = self._shown[n]
                label, unit = LABELS[name]
                field.rename(f"{label}, {unit}" if unit else label)
                if not field.entry.hasFocus():
                    field.show_text(_shown(name, getattr(one, name)))
        if one is None:
            return
        for name, choice in self._choices.items():
            if hasattr(one, name):
                choice.setVisible(True)
                choice.show_chosen(getattr(one, name))
        self._on.setText("switch off" if one.on else "switch on")
        self._over.setText("lay it under the ink" if getattr(one, "over", False) else "lay it over the ink")
        for word in (self._on, self._over):
            word.updateGeometry()
        self._scope.show_chosen(PART if one.parts else LINES if one.lines else WHOLE)
        says = one.says
        self._what.say(f"{says[0].upper()}{says[1:]}.")

    def _in_hand(self) -> Pass:
        stack = self.stack()
        if not stack:
            raise JobError("there is no finish yet: add one")
        return stack[self._at]

    def _pick(self, row: int) -> None:
        self._at = row
        self.fault.say("")
        self.refresh()

    def _lay(self, stack: Sequence[Pass]) -> bool:
        rows = [named(self.session.job, one).as_row() for one in stack]
        return self.session.make("finishes", finishes=rows) is not None

    def _change(self, **settings: Any) -> None:
        """Alters the finish in hand. Raises StrideError where it cannot be so."""
        stack = self.stack()
        row = self._in_hand().as_row() | settings
        stack[self._at] = pass_from_row(row)
        self._lay(stack)

    def _turn_over(self) -> None:
        self._change(over=not getattr(self._in_hand(), "over", False))

    def _typed(self, n: int, text: str) -> None:
        name = self._shown[n]
        self._change(**{name: _read(name, text)})

    def _aim(self, word: str) -> None:
        part = self.session.job.part_named(self.session.now.part)
        if word == PART and part is None:
            raise JobError("no part is in hand: take one at the head of this margin")
        lines = list(self.session.chosen) or self.lines() if word == LINES else []
        if word == LINES and not lines:
            raise JobError("no line is chosen: choose those that the finish is for")
        stack = self.stack()
        parts = (part.id,) if word == PART and part is not None else ()
        stack[self._at] = replace(self._in_hand(), parts=parts, lines=tuple(lines))
        self._lay(stack)

    def _keep_lines(self) -> None:
        one = self._in_hand()
        if isinstance(one, LinesAway):
            self._change(keep=list(dict.fromkeys([*one.keep, *self.lines()])))

    def _add(self, kind: str) -> None:
        stack = [*self.stack(), PASSES[kind]()]
        if self._lay(stack):
            self._at = len(stack) - 1
            if self.sight.current() == INKED:
                self.sight.show_chosen(FINISHED)
                self.sight_wanted.emit(FINISHED)
            self.refresh()

    def _move(self, by: int) -> None:
        stack, to = self.stack(), self._at + by
        if 0 <= to < len(stack):
            stack.insert(to, stack.pop(self._at))
            if self._lay(stack):
                self._at = to
                self.refresh()

    def _take_off(self) -> None:
        stack = self.stack()
        stack.pop(self._at)
        self._lay(stack)

    def _ask_open(self) -> None:
        path = ask_file(self, "Open a set of finishes", self.session.job.path.parent, "Finishes (*.json)")
        if path is not None:
            self.open_set(path)

    def open_set(self, path: Path) -> None:
        """Lays a set of finishes of a file in place of what there is."""
        try:
            self.session.make("finishes", finishes=read_any_json(path))
        except StrideError as fault:
            self.fault.say(f"{fault}. The finishes are as they were.")

    def _ask_save(self) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name} finishes.json")
        path = ask_new_file(self, "Save the finishes as a set", start, "json")
        if path is not None:
            self.save_set(path)

    def save_set(self, path: Path) -> None:
        """Saves the finishes as a set, to be shared."""
        given(path, json.dumps(told_finishes(self.session.job, self.stack()), indent=1), self.fault)


def _settings(one: Pass) -> list[str]:
    """Names of what is typed of a pass."""
    hidden = {"angle": getattr(one, "way", "along") != "along", "centre": getattr(one, "way", "") != "out",
              "reach": getattr(one, "way", "") != "out"}  # fmt: skip
    return [field.name for field in fields(one) if field.name in LABELS and not hidden.get(field.name, False)]


def _shown(name: str, value: Any) -> str:
    if value is None:
        return "its own"
    if isinstance(value, tuple):
        return " ".join(f"{v:g}" for v in value)
    return f"{value * 100.0:g}" if name in SHARES else f"{value:g}" if isinstance(value, float) else str(value)


def _read(name: str, text: str) -> Any:
    """What was typed, as a pass takes it. Raises JobError."""
    typed = text.strip().removesuffix(LABELS[name][1]).strip()
    if name == "colour":
        return None if typed in ("", "its own") else typed
    try:
        values = [float(part.replace(",", ".")) for part in typed.split()]
    except ValueError:
        values = []
    if len(values) != (2 if name in ("by", "centre") else 1):
        raise JobError(f"'{text.strip()}' cannot be read: {LABELS[name][0].lower()} is "
                       + ("two numbers, across and down" if name in ("by", "centre") else "a number"))  # fmt: skip
    if len(values) == 2:
        return values
    if name == "seed":
        return int(values[0])
    return values[0] / 100.0 if name in SHARES else values[0]
