"""Proof, page Limits: the limits of each kind, altered as house manners of the job, and kept as a file."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, plain_number
from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.controls.json_files import given, taken
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.job.proof_page import manners_of
from plain_stride.proof.finding import SEVERITIES
from plain_stride.proof.limits import KINDS, LIMITS, OFF, Manners, manners_from_json, manners_json
from plain_stride.proof.words import TITLES


class LimitsPage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._kind = KINDS[0]
        self._list = PlaceList("Kinds of notes", 9)
        self._why = Sentence()
        self._value, self._name = Field("Limit", 90), Field("Manners", 150)
        self._severity = Choice((*SEVERITIES, OFF), SEVERITIES[0], "How severe it is")
        self.add(Heading("House manners"), self._name, self._list, self._why, self.fault, self._value, self._severity)
        self.add_verbs(self.verb("the usual one", self._usual, of_lines=False),
                       self.verb("all the usual ones", self._all_usual, of_lines=False))  # fmt: skip
        self.add_verbs(self.verb("keep as a file…", self._save, of_lines=False),
                       self.verb("open a file…", self._open, of_lines=False))  # fmt: skip
        self._list.picked.connect(self._pick)
        self._value.typed.connect(lambda text: self.tried(lambda: self._set(text)))
        self._name.typed.connect(lambda text: self.tried(lambda: self._lay(name=text.strip() or "ours")))
        self._severity.chosen.connect(lambda word: self._lay(severities={self._kind: word}))

    def refresh(self) -> None:
        super().refresh()
        manners = manners_of(self.session.job)
        self._name.show_text(manners.name)
        rows = []
        for kind in KINDS:
            own = " *" if kind in manners.values or kind in manners.severities else ""
            rows.append(f"{TITLES[kind]} · {manners.limit(kind):g} {LIMITS[kind].unit} · {manners.severity(kind)}{own}")
        self._list.show_rows(rows, KINDS.index(self._kind))
        known = LIMITS[self._kind]
        self._why.say(f"{known.reason} From **{known.low:g}** to **{known.high:g}** {known.unit}; usually"
                      f" **{known.value:g}**.")  # fmt: skip
        self._value.show_text(f"{manners.limit(self._kind):g}")
        self._severity.show_chosen(manners.severity(self._kind))

    def _pick(self, n: int) -> None:
        self._kind = KINDS[n]
        self.fault.say("")
        self.refresh()

    def _set(self, text: str) -> None:
        self._lay(limits={self._kind: plain_number(text)})

    def _lay(self, name: str | None = None, limits: Any = None, severities: Any = None) -> None:
        now = manners_of(self.session.job)
        self._lay_all(Manners(name or now.name, {**now.values, **(limits or {})},
                              {**now.severities, **(severities or {})}))  # fmt: skip

    def _lay_all(self, manners: Manners) -> None:
        self.session.make("manners", name=manners.name, limits=dict(manners.values),
                          severities=dict(manners.severities))  # fmt: skip

    def _usual(self) -> None:
        now = manners_of(self.session.job)
        values = {kind: value for kind, value in now.values.items() if kind != self._kind}
        severities = {kind: word for kind, word in now.severities.items() if kind != self._kind}
        self._lay_all(Manners(now.name, values, severities))

    def _all_usual(self) -> None:
        self._lay_all(Manners())

    def give(self, path: Path) -> None:
        """Writes the manners to a file, under the file's name."""
        manners = replace(manners_of(self.session.job), name=path.stem)
        if given(path, manners_json(manners), self.fault):
            self.session.said.emit(f"The house manners are kept as **{path.stem}**.", False)

    def take(self, path: Path) -> None:
        """Lays the manners of a file."""
        found = taken(path, manners_from_json, "The limits are as they were.", self.fault)
        if found is not None:
            self._lay_all(found)

    def _save(self) -> None:
        path = ask_new_file(
            self, "Write house manners", Path.home() / f"{manners_of(self.session.job).name}.json", "json"
        )
        if path is not None:
            self.give(path)

    def _open(self) -> None:
        path = ask_file(self, "Take house manners", Path.home(), "House manners (*.json)")
        if path is not None:
            self.take(path)
