"""Hand over, page Inks: the named colours of the job, what they lie on, and colours darker than the flats beside."""

from collections import Counter, defaultdict
from collections.abc import Sequence

from PySide6.QtCore import Signal

from plain_stride import colour
from plain_stride.desk.controls.controls import Field, Heading, Sentence, Several, Word
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage, number_of
from plain_stride.form.roles import ROLES
from plain_stride.job.darker_lines import Darker
from plain_stride.job.errors import JobError
from plain_stride.job.hand_over_questions import DarkerNow
from plain_stride.job.ink_changes import AS_PART
from plain_stride.job.inks import PLAIN_INKS, Colours, hand_over_of
from plain_stride.texts import counted

ROWS = (ROLES[:3], ROLES[3:])
FEW_LINES = 60
"""A job of so few lines is looked at here."""


class InksPage(MendPage):
    """The ink in hand is the one that is chosen in the list. place_wanted: a place (mm) to be shown."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._inks: list[str] = []
        self._picked = PLAIN_INKS[0]
        self._would: tuple[tuple[Darker, ...], int] = ((), -1)
        self._says = Sentence()
        self._list = PlaceList("Inks of this job", 7)
        self._name, self._colour = Field("Ink called", 120), Field("of colour, #rrggbb", 96)
        self._roles = Several(ROWS, "Roles that the ink lies on")
        self._on_roles = Sentence("It lies on these roles, where neither a line nor its part has an ink:")
        self._step, self._found = Field("Darker than its flat by L*", 64), Sentence()
        self._would_list = PlaceList("What lines would be", 5)
        self._take = Word("")
        self.add(Heading("Inks"), self._list, self._says)
        self.add_verbs(self.verb("on the chosen lines", self._lay, of_lines=True),
                       self.verb("on the part in hand", self._lay_on_part, of_lines=False))  # fmt: skip
        self.add(self.verb("chosen lines as their part", self._as_part))
        self.add(self._name, self._colour)
        self._delete = self.verb("take it away", self._take_away, of_lines=False)
        self.add_verbs(self.verb("new ink", self._make, of_lines=False), self._delete)
        self.add(self._on_roles, self._roles, self.fault, Heading("Darker than the flats"), self._step)
        self.add(self.verb("see what lines would be", self._see, of_lines=False), self._found, self._would_list)
        self.add(self._take)
        self._list.picked.connect(self._pick)
        self._would_list.picked.connect(self._pick_would)
        self._name.typed.connect(lambda text: self.tried(lambda: self._alter(rename=text.strip())))
        self._colour.typed.connect(lambda text: self.tried(lambda: self._alter(colour=text.strip())))
        self._roles.chosen.connect(lambda _: self.tried(lambda: self._alter(roles=sorted(self._roles.current()))))
        self._step.typed.connect(lambda _: self.tried(self._set_step))
        self._take.clicked.connect(lambda: self.tried(self._lay_darker))

    def refresh(self) -> None:
        super().refresh()
        job = self.session.job
        self._inks = [*PLAIN_INKS, *job.rows.inks]
        if self._picked not in self._inks:
            self._picked = PLAIN_INKS[0]
        colours = Colours(job)
        used = Counter(colours.ink_of(key) for key in job.ink_ids())
        rows = [self._row(colours, ink, used[ink]) for ink in self._inks]
        hues = [job.rows.inks[ink].colour if ink in job.rows.inks else ink for ink in self._inks]
        self._list.show_rows(rows, self._inks.index(self._picked), hues)
        own = job.rows.inks.get(self._picked)
        for widget in (self._roles, self._on_roles, self._delete):
            widget.setVisible(own is not None)
        self._says.say("" if len(self._inks) > 2 else "Lines are black and white so far. Give an ink a name and a"
                       " colour: dark browns and blues are softer than black.")  # fmt: skip
        if not self._name.entry.hasFocus():
            self._name.show_text(own.name if own is not None else "")
        if not self._colour.entry.hasFocus():
            self._colour.show_text(own.colour if own is not None else "")
        if own is not None:
            self._roles.show_chosen(own.roles)
        self._step.show_text(f"{hand_over_of(job).step:g}")
        if self._would[1] != job.version:
            self._would = ((), -1)
            self._found.say("A line is coloured darker than what it bounds. First the flats, then this.")
            self._would_list.show_rows([])
        self._take.setVisible(any(one.colour is not None for one in self._would[0]))

    def _row(self, colours: Colours, ink: str, many: int) -> str:
        row = self.session.job.rows.inks.get(ink)
        light = colour.lightness(row.colour if row is not None else ink)
        roles = f" · {', '.join(row.roles)}" if row is not None and row.roles else ""
        return f"{colours.name_of(ink)} · L* {light:.0f} · {counted(many, 'line')}{roles}"

    def _pick(self, row: int) -> None:
        self._picked = self._inks[row]
        self.fault.say("")
        self.refresh()

    def _picked_name(self) -> str:
        row = self.session.job.rows.inks.get(self._picked)
        return row.name if row is not None else self._picked

    def _lay(self) -> None:
        self.session.make("recolour", lines=self._chosen(), ink=self._picked_name())

    def _as_part(self) -> None:
        self.session.make("recolour", lines=self._chosen(), ink=AS_PART)

    def _chosen(self) -> list[str]:
        """Chosen lines and blacks, else the line in hand."""
        return list(self.session.chosen) or self.lines()

    def _lay_on_part(self) -> None:
        part = self.session.job.part_named(self.session.now.part)
        if part is None:
            raise JobError("no part is in hand: take one at the head of this margin")
        self.session.make("part", name=part.name, ink=self._picked_name())

    def _make(self) -> None:
        name, hue = self._name.entry.text().strip(), self._colour.entry.text().strip()
        own = self.session.job.rows.inks.get(self._picked)
        if not name or (own is not None and name == own.name):
            raise JobError("give the new ink a name of its own, and its colour, as #5a3a22")
        made = self.session.make("ink", name=name, colour=hue or colour.NAMED["black"])
        if made is not None:
            self._picked = str(made.results[0])
            self.refresh()

    def _alter(self, **arguments: object) -> None:
        """Alters the ink in hand; black and white stay, what was typed waits for 'new ink'."""
        row = self.session.job.rows.inks.get(self._picked)
        if row is None or (not any(arguments.values()) and "roles" not in arguments):
            return
        self.session.make("ink", name=row.name, **arguments)

    def _take_away(self) -> None:
        self.session.make("ink-delete", name=self._picked_name())

    def _set_step(self) -> None:
        self.session.make("hand-over", step=number_of(self._step, "L*"))

    def _see(self) -> None:
        job = self.session.job
        wanted = self.session.chosen_lines() or [key for key in job.line_ids() if self._may(key)]
        if not wanted:
            raise JobError("there are no lines that could be coloured")
        version = job.version
        self._found.say("Looking along every line…", "faint")
        self.session.drawing.ask(
            DarkerNow(tuple(wanted), hand_over_of(job).step), lambda would: self._told(would, version), FEW_LINES
        )

    def _may(self, key: str) -> bool:
        row = self.session.job.rows.lines[key]
        part = self.session.job.rows.parts[row.part]
        return not (part.locked or part.hidden or part.ink != "black" or row.draft)

    def _told(self, would: tuple[Darker, ...], version: int) -> None:
        self._would = (would, version)
        can = [one for one in would if one.colour is not None]
        hues, left = _by_colour(would), _left(would)
        cannot = f" **{counted(len(left), 'line')}** cannot." if left else ""
        self._found.say(
            f"**{counted(len(can), 'line')}** would take **{counted(len(hues), 'colour')}**.{cannot}", "text"
        )
        rows = [f"{hue} · {counted(len(lines), 'line')}" for hue, lines in hues.items()]
        self._would_list.show_rows([*rows, *(f"{one.line}: {one.why}" for one in left)], colours=tuple(hues))
        self._take.setText(f"colour {counted(len(can), 'line')}")
        self._take.updateGeometry()
        self._take.setVisible(bool(can))

    def _pick_would(self, row: int) -> None:
        """Chooses the lines that would take a colour, or one that cannot, which is looked at."""
        if self._would[1] != self.session.job.version:
            return
        hues = list(_by_colour(self._would[0]).values())
        if row < len(hues):
            self.session.choose(hues[row])
            return
        line = _left(self._would[0])[row - len(hues)].line
        self.session.choose([line])
        x, y = self.session.shapes[line].middle.tolist()
        self.place_wanted.emit(x, y)

    def _lay_darker(self) -> None:
        would = [one for one in self._would[0] if one.colour is not None]
        self.session.make("darker", lines=[one.line for one in would], colours=[one.colour for one in would])


def _by_colour(would: Sequence[Darker]) -> dict[str, list[str]]:
    """Lines by the colour that they would take, the most first."""
    out: dict[str, list[str]] = defaultdict(list)
    for one in would:
        if one.colour is not None:
            out[one.colour].append(one.line)
    return dict(sorted(out.items(), key=lambda item: -len(item[1])))


def _left(would: Sequence[Darker]) -> list[Darker]:
    """Those that cannot, beside flats first."""
    return sorted((one for one in would if one.colour is None), key=lambda one: not one.beside)
