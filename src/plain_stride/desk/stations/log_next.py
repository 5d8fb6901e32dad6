"""Log, page Next: the order of work: what to ink next, taken up by one press, moved, parted, set aside."""

import numpy as np
from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.drawing import LoopTool
from plain_stride.desk.stations.mend_page import Make, MendPage
from plain_stride.job.log_changes import order_row
from plain_stride.job.pencil_records import TO_HATCH
from plain_stride.order.steps import SCHOOLS, Step, moved, next_step, split_of
from plain_stride.texts import time_words

TO_HATCH_WORDS = "**To be hatched:** draw round the field. Esc gives it up."
NO_PART, NUMBERED = "no part yet", 9
"""So many steps have their number on the board."""


class NextPage(MendPage):
    """place_wanted: where a step begins, mm. The step in hand is the one that is chosen in the list."""

    place_wanted = Signal(float, float)

    def __init__(self, session: Session, planner: Planner) -> None:
        super().__init__(session)
        self._planner, self._steps, self._key = planner, [], ""  # type: ignore[var-annotated]
        self._says, self._what = Sentence(), Sentence("", colour="faint")
        self._read = self.verb("read the pencils", planner.read, of_lines=False)
        self.take_up = self.verb("take up the next", self._take_up_next, of_lines=False)
        self._list, self._schools = PlaceList("Steps of the work", 7), PlaceList("Order of work", 6)
        self._split = self.verb("part it", self._part, of_lines=False)
        self._aside = self.verb("set aside", self._set_aside, of_lines=False)
        self.add(self._says, self._read, self.take_up, self._list)
        self.add_verbs(self.verb("earlier", lambda: self._move(-1), of_lines=False),
                       self.verb("later", lambda: self._move(1), of_lines=False), self._split, self._aside)  # fmt: skip
        (field,) = self.tool_words("mark a field to hatch…")
        self._first = self.verb("its part before all others", self._part_first, of_lines=False)
        self.add(self._first, field, self.fault, Heading("The order"), self._schools, self._what)
        self._list.picked.connect(self._pick)
        self._schools.picked.connect(lambda n: session.make("order", school=list(SCHOOLS)[n]))

    def tools(self) -> dict[str, Make]:
        return {"a field to hatch": lambda: LoopTool(TO_HATCH_WORDS, self._mark_field)}

    def _mark_field(self, loop: np.ndarray) -> None:
        self.session.make("area", kind=TO_HATCH, outline=np.round(loop, 2).tolist())

    def refresh(self) -> None:
        super().refresh()
        row = order_row(self.session.job)
        steps = self._planner.steps()
        to_do = self._planner.to_do()
        later = [s for s in steps if s not in to_do]
        self._steps = to_do + sorted(later, key=lambda s: s.ticked)
        if self._key not in {s.id for s in self._steps}:
            first = next_step(steps, row.aside)
            self._key = first.id if first is not None else ""
        hours = self._planner.hours()
        ids = [s.id for s in self._steps]
        numbers = [f"{n}  " if n <= min(len(to_do), NUMBERED) else "" for n in range(1, len(ids) + 1)]
        rows = [number + self._words(s, hours.get(s.id), s.id in row.aside)
                for number, s in zip(numbers, self._steps, strict=True)]  # fmt: skip
        self._list.show_rows(rows, ids.index(self._key) if self._key in ids else None)
        ticked = sum(1 for s in steps if s.ticked)
        self._says.say(self._state_words(len(steps), ticked))
        self._read.setVisible(self._planner.can_read and not self._planner.reading_now)
        self.take_up.setVisible(next_step(steps, row.aside) is not None)
        schools = list(SCHOOLS)
        self._schools.show_rows(schools, schools.index(row.school))
        self._what.say(f"{SCHOOLS[row.school][0].capitalize()}." + (" Steps you moved stay." if row.sequence else ""))
        self._aside.setText("take up again" if self._key in row.aside else "set aside")
        self._aside.updateGeometry()
        step = next((s for s in self._steps if s.id == self._key), None)
        self._first.setVisible(step is not None and step.part in self.session.job.rows.parts)
        self._first.setText("its part as the order has it" if step is not None and step.part in row.first else
                            "its part before all others")  # fmt: skip
        self._first.updateGeometry()
        splits = {key for key, *_ in row.splits}
        self._split.setText("make whole" if self._whole(self._key) in splits else "part it")
        self._split.updateGeometry()

    def _state_words(self, steps: int, ticked: int) -> str:
        if self._planner.reading_now:
            return "The pencils are being read: the steps come then."
        if self._planner.can_read:
            return "What is left is told by the pencils. Nobody has read them yet."
        if not steps:
            return "Nothing is left that is known: no pencils without ink, nothing marked to be drawn."
        return f"**{ticked} of {steps}** steps are done."

    def _words(self, step: Step, hours: float | None, aside: bool) -> str:
        part = self.session.job.rows.parts.get(step.part)
        name = part.name if part is not None else NO_PART
        half = ", 1st half" if step.id.endswith("/first") else ", 2nd half" if step.id.endswith("/second") else ""
        if step.ticked:
            return f"✓ {step.kind}{half} · {name}"
        left = f"{step.mm_left:.0f} mm" if step.mm_left else f"{step.lines_left} ×"
        took = f" · {time_words(hours * 3600.0)}" if hours else ""
        return f"{'(aside) ' if aside else ''}{step.kind}{half} · {name} · {left}{took}"

    def _pick(self, n: int) -> None:
        self._key = self._steps[n].id
        self._go_to(self._steps[n])
        self.refresh()

    def _take_up_next(self) -> None:
        step = self._planner.next()
        if step is not None:
            self._key = step.id
            self._go_to(step)
            self.refresh()

    def _go_to(self, step: Step) -> None:
        """Its place is shown, its part is in hand, with the nib that most of the part's lines were pulled with."""
        self.place_wanted.emit(step.x, step.y)
        job = self.session.job
        part = job.rows.parts.get(step.part)
        if part is not None:
            self.session.take(part=part.name)
            nibs = [row.nib.name for row in job.rows.lines.values() if row.part == step.part and row.pull is not None]
            keys = [key for key, nib in job.nibs().items() if nibs and nib.name == max(set(nibs), key=nibs.count)]
            if keys:
                self.session.take(nib=keys[0])

    def _move(self, by: int) -> None:
        every = [s.id for s in self._planner.steps()]
        if self._key in every:
            steps = self._planner.steps()
            self.session.make("order", sequence=list(moved(steps, self._key, every.index(self._key) + by)))

    def _whole(self, key: str) -> str:
        """The step that a half is of; itself else."""
        return key.rpartition("/")[0] if key.endswith(("/first", "/second")) else key

    def _part(self) -> None:
        whole = self._whole(self._key)
        if whole in {key for key, *_ in order_row(self.session.job).splits}:
            self._key = whole
            self.session.make("step-split", step=whole)
            return
        split = split_of(self._planner.pieces, self._key)
        key, self._key = self._key, f"{self._key}/first"
        self.session.make("step-split", step=key, axis=split.axis, at=split.at)

    def _part_first(self) -> None:
        """The part of the step in hand before all others; once more, as the school has it."""
        job = self.session.job
        step = next((s for s in self._steps if s.id == self._key), None)
        part = job.rows.parts.get(step.part) if step is not None else None
        if part is not None and step is not None:
            first = [] if step.part in order_row(job).first else [part.name]
            self.session.make("order", first=first)

    def _set_aside(self) -> None:
        if self._key:
            self.session.make("step-aside", step=self._key, aside=self._key not in order_row(self.session.job).aside)
