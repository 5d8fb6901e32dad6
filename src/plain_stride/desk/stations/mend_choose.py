"""Mend, page Pick: which lines are meant, told in a sentence, and chosen by what they are."""

from plain_stride.desk.controls.controls import Choice, Heading, Sentence, Several
from plain_stride.desk.session.choice import Wanted, choose_by, choose_meeting, choose_part, told_choice
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import choose_alike, choose_others
from plain_stride.desk.stations.mend_page import MendPage, field_with, mm_of
from plain_stride.form.roles import ROLES
from plain_stride.weight.plan import TIERS

ANY = ""
INSIDE, TOUCHING = "inside", "touching"


class ChoosePage(MendPage):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._told = Sentence()
        self._round = Choice((INSIDE, TOUCHING), INSIDE, "A loop drawn round lines chooses what lies")
        self._low, self._high = field_with("Wide", ANY), field_with("to", ANY)
        self._short, self._long = field_with("Long", ANY), field_with("up to", ANY)
        self._roles = Several((ROLES[:3], ROLES[3:]), "Of what roles")
        self._tiers = Several((TIERS,), "Of what tiers")
        self._nib = field_with("Nib", ANY)
        self.add(self._told, self.fault, Heading("A loop round them"), self._round)
        self.add_verbs(self.verb("all like these", lambda: choose_alike(session)),
                       self.verb("what meets them", lambda: choose_meeting(session)))  # fmt: skip
        self.add_verbs(self.verb("all others", lambda: choose_others(session), of_lines=False),
                       self.verb("nothing", lambda: session.choose([]), of_lines=False))  # fmt: skip
        self.add(Heading("By what they are"), self._roles, self._tiers)
        self.add_pair(self._low, self._high)
        self.add_pair(self._short, self._long)
        self.add(self._nib)
        self.add_verbs(self.verb("choose those", self._choose, of_lines=False),
                       self.verb("among the chosen", self._among))  # fmt: skip
        self._part = self.verb("all of the part in hand", lambda: choose_part(session), of_lines=False)
        self.add_verbs(self._part)
        self._into = field_with("Into part", ANY)
        self.add(self._into)
        self.add_verbs(self.verb("put them there", self._put))
        self._round.chosen.connect(lambda word: session.take(loop_touching=word == TOUCHING))

    def refresh(self) -> None:
        super().refresh()
        self._told.say(told_choice(self.session))
        self._part.setEnabled(self.session.part is not None)
        self._round.show_chosen(TOUCHING if self.session.now.loop_touching else INSIDE)

    def _wanted(self) -> Wanted:
        """What the fields say. Raises MeasureError."""
        values = [mm_of(field) if field.entry.text().strip() else None
                  for field in (self._low, self._high, self._short, self._long)]  # fmt: skip
        return Wanted(self._roles.current(), self._tiers.current(), self._nib.entry.text().strip(), *values)

    def _choose(self) -> None:
        choose_by(self.session, self._wanted())

    def _put(self) -> None:
        """Into a part, which is made where there is none of that name."""
        self.session.make("set", lines=self.session.chosen or self.lines(), part=self._into.entry.text().strip())

    def _among(self) -> None:
        choose_by(self.session, self._wanted(), self.session.chosen_lines())
