"""Log, page Time: how long it took, how long what is left will take, and whether that is enough."""

from collections.abc import Collection
from datetime import datetime, timedelta
from pathlib import Path

from PySide6.QtCore import Signal

from plain_stride.desk.controls.controls import Field, Heading, Sentence, Several, plain_number
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.errand_page import ErrandPage
from plain_stride.errors import StrideError
from plain_stride.finish.log_sheets import shares_words
from plain_stride.finish.write import write_whole
from plain_stride.job.calendar import calendar_of
from plain_stride.job.job_forecast import forecast_json, sentence_of, what_would_help
from plain_stride.job.log_changes import schedule_row
from plain_stride.job.log_errands import WriteCalendar
from plain_stride.job.worked import Worked, by_part, by_station, pace_of, taken_back
from plain_stride.order.pauses import PAUSES_S
from plain_stride.texts import counted, time_words

DAYS = ("Mo", "Tu", "We", "Th", "Fr", "Sa", "Su")
MOST_SHARES = 5
AT = "%Y-%m-%d %H:%M"


class TimePage(ErrandPage):
    """The deadline is typed as a day, with or without an hour; it is this machine's local time. pause_typed: seconds
    that do not count as work from now on."""

    pause_typed = Signal(float)
    stopped_words = "stopped: no calendar was written"

    def __init__(self, session: Session, planner: Planner) -> None:
        super().__init__(session)
        self._planner = planner
        self._took, self._where, self._parts = Sentence(), Sentence("", colour="faint"), Sentence("", colour="faint")
        self._left, self._helps = Sentence(), Sentence()
        self.pause = Field("A pause is longer than", 60)
        self.due, self.hours = Field("Due", 150), Field("Hours a day", 60)
        self.days = Several([DAYS], "Working days")
        self.add(Heading("Until now"), self._took, self._where, self._parts, self.pause, Heading("What is left"),
                 self._left, self._helps, self.due, self.hours, self.days)  # fmt: skip
        self.add(self.verb("no deadline", lambda: self._set(deadline=None), of_lines=False))
        self.add_verbs(
            self.verb("calendar…", lambda: self._ask_calendar(False), of_lines=False),
            self.verb("calendar of all jobs here…", lambda: self._ask_calendar(True), of_lines=False),
        )
        self.add(self.stop_word, self.status, self.fault)
        self.pause.typed.connect(self._set_pause)
        self.due.typed.connect(self._set_due)
        self.hours.typed.connect(self._set_hours)
        self.days.chosen.connect(self._set_days)

    def refresh(self) -> None:
        super().refresh()
        job, done = self.session.job, self._planner.worked()
        self._took.say(_took_words(done))
        self._where.say(shares_words(by_station(done.works), " · ", MOST_SHARES))
        self._parts.say(shares_words(by_part(job, done.works), " · ", MOST_SHARES))
        told = self._planner.forecast()
        self._left.say("The pencils tell what is left: have them read at Next." if self._planner.can_read else
                       _bold(sentence_of(told)))  # fmt: skip
        helps = what_would_help(job, told, self._planner.steps())
        self._helps.say(f"What would help: {'; '.join(helps)}." if helps else "")
        row = schedule_row(job)
        self.pause.show_text(f"{self._planner.pause:g} s")
        self.due.show_text(_local(row.deadline))
        self.hours.show_text(f"{row.hours:g}")
        self.days.show_chosen([DAYS[n] for n in row.days])

    def _set_pause(self, text: str) -> None:
        self.fault.say("")
        try:
            seconds = plain_number(text.removesuffix("s").strip())
        except StrideError as fault:
            self.fault.say(f"{fault}. It stays as it was.")
            return
        if PAUSES_S[0] <= seconds <= PAUSES_S[1]:
            self.pause_typed.emit(seconds)
        else:
            self.fault.say(f"A pause is {PAUSES_S[0]:g} to {PAUSES_S[1]:g} s. It stays as it was.")

    def _set(self, **what: object) -> None:
        self.session.make("schedule", **what)

    def _set_due(self, text: str) -> None:
        self.fault.say("")
        try:
            self._set(deadline=read_due(text))
        except ValueError:
            self.fault.say("A deadline is a day and an hour: 2026-12-24 18:00. It stays as it was.")

    def _set_hours(self, text: str) -> None:
        try:
            self._set(hours=float(text.replace(",", ".")))
        except ValueError:
            self.fault.say("Hours a day are a number, 0.1 to 24. They stay as they were.")

    def _set_days(self, chosen: Collection[str]) -> None:
        days = [n for n, day in enumerate(DAYS) if day in chosen]
        if days:
            self._set(days=days)
        else:
            self.fault.say("One working day is needed at least.")
            self.refresh()

    def _ask_calendar(self, all_jobs: bool) -> None:
        start = self.session.job.path.with_suffix(".ics")
        path = ask_new_file(self, "Write the calendar", start.with_name("jobs.ics") if all_jobs else start, "ics")
        if path is not None:
            (self.write_all if all_jobs else self.write_calendar)(path)

    def write_calendar(self, path: Path) -> None:
        """The days that what is left takes, as iCalendar."""
        told = forecast_json(self.session.job, self._planner.forecast())
        try:
            write_whole(path, calendar_of([told], datetime.now().astimezone()))
        except StrideError as fault:
            self.fault.say(f"{fault}.")
            return
        self.status.say(f"**{path.name}** is written.")

    def write_all(self, path: Path) -> bool:
        """Begins to write the days of all jobs of this folder as one calendar, the one that is due first before the
        others; whether it could be begun."""
        wanted = WriteCalendar(self.session.job.path.parent, self._planner.pause, path)
        if not self.begin(wanted, lambda told: self.status.say(f"**{path.name}** is written. {' '.join(told)}")):
            return False
        self.status.say("The pencils of all jobs here are read for it.", "faint")
        return True


def _took_words(done: Worked) -> str:
    if not done.works:
        return "Nothing was done in this job yet: pull a line, and its time is told."
    pace = pace_of(done.works)
    return (f"**{time_words(done.active)}** of work in {counted(len(done.sittings), 'sitting')}:"
            f" **{pace.mm_an_hour:,.0f} mm** and **{pace.lines_an_hour:.0f} lines** an hour, {pace.takes_a_line:.1f}"
            f" takes a line, **{taken_back(done.works):.0%}** taken back.")  # fmt: skip


def read_due(text: str) -> str | None:
    """ISO 8601 with its offset, of a day or a day and an hour as typed, local time; the end of the day where no hour is
    told; None for nothing. Raises ValueError."""
    text = text.strip().replace("T", " ")
    if not text:
        return None
    day = datetime.fromisoformat(text)
    if ":" not in text:
        day += timedelta(hours=18)
    return day.astimezone().isoformat(timespec="seconds")


def _local(deadline: str | None) -> str:
    return datetime.fromisoformat(deadline).astimezone().strftime(AT) if deadline else ""


def _bold(words: str) -> str:
    """A forecast's sentence with its first figure in bold."""
    head, found, rest = words.partition(": ")
    figure, comma, more = rest.partition(", ")
    return f"{head}: **{figure}**{comma}{more}" if found and comma else words
