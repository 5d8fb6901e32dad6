"""Log, page Time: how long it took, how long what is left will take, and whether that is enough."""

from collections.abc import Collection
from datetime import datetime, timedelta
from pathlib import Path

from plain_stride.desk.controls.controls import Field, Heading, Sentence, Several
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.session.planner import Planner
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.errors import StrideError
from plain_stride.finish.write import write_whole
from plain_stride.job.calendar import calendar_of
from plain_stride.job.job_forecast import forecast_json, sentence_of, what_would_help
from plain_stride.job.log_changes import schedule_row
from plain_stride.job.worked import by_part, by_station, taken_back
from plain_stride.texts import time_words

DAYS = ("Mo", "Tu", "We", "Th", "Fr", "Sa", "Su")
MOST_SHARES = 5
AT = "%Y-%m-%d %H:%M"


class TimePage(MendPage):
    """The deadline is typed as a day, with or without an hour; it is this machine's local time."""

    def __init__(self, session: Session, planner: Planner) -> None:
        super().__init__(session)
        self._planner = planner
        self._took, self._where, self._parts = Sentence(), Sentence("", colour="faint"), Sentence("", colour="faint")
        self._left, self._helps = Sentence(), Sentence()
        self.due, self.hours = Field("Due", 150), Field("Hours a day", 60)
        self.days = Several([DAYS], "Working days")
        self.add(Heading("Until now"), self._took, self._where, self._parts, Heading("What is left"), self._left,
                 self._helps, self.due, self.hours, self.days)  # fmt: skip
        self.add_verbs(self.verb("no deadline", lambda: self._set(deadline=None), of_lines=False),
                       self.verb("calendar…", self._ask_calendar, of_lines=False))  # fmt: skip
        self.add(self.fault)
        self.due.typed.connect(self._set_due)
        self.hours.typed.connect(self._set_hours)
        self.days.chosen.connect(self._set_days)

    def refresh(self) -> None:
        super().refresh()
        job, done = self.session.job, self._planner.worked()
        lines = sum(len(w.new) for w in done.works if w.pulls and not w.back)
        mm = sum(w.mm for w in done.works if not w.back)
        if not done.works:
            self._took.say("Nothing was done in this job yet: pull a line, and its time is told.")
        else:
            hours = max(done.active / 3600.0, 1e-9)
            pulls = max(sum(w.pulls for w in done.works), 1)
            self._took.say(
                f"**{time_words(done.active)}** of work in {len(done.sittings)} sittings: **{mm / hours:,.0f} mm** and"
                f" **{lines / hours:.0f} lines** an hour, {pulls / max(lines, 1):.1f} takes a line,"
                f" **{taken_back(done.works):.0%}** taken back."
            )
        self._where.say(_shares(by_station(done.works)))
        self._parts.say(_shares(by_part(job, done.works)))
        told = self._planner.forecast()
        self._left.say(_bold(sentence_of(told)) if not self._planner.can_read else
                       "The pencils tell what is left: have them read at *Next*.".replace("*", ""))  # fmt: skip
        row = schedule_row(job)
        helps = what_would_help(told, self._planner.steps(), row)
        self._helps.say(f"What would help: {'; '.join(helps)}." if helps else "")
        self.due.show_text(_local(row.deadline))
        self.hours.show_text(f"{row.hours:g}")
        self.days.show_chosen([DAYS[n] for n in row.days])

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

    def _ask_calendar(self) -> None:
        path = ask_new_file(self, "Write the calendar", self.session.job.path.with_suffix(".ics"), "ics")
        if path is not None:
            self.write_calendar(path)

    def write_calendar(self, path: Path) -> None:
        """The days that what is left takes, as iCalendar."""
        told = forecast_json(self.session.job, self._planner.forecast())
        try:
            write_whole(path, calendar_of([told], datetime.now().astimezone()))
        except StrideError as fault:
            self.fault.say(f"{fault}.")
            return
        self.session.said.emit(f"**{path.name}** is written.", False)


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


def _shares(seconds: dict[str, float]) -> str:
    some = [f"{name} {time_words(took)}" for name, took in list(seconds.items())[:MOST_SHARES] if took >= 1.0]
    return " · ".join(some)


def _bold(words: str) -> str:
    """A forecast's sentence with its first figure in bold."""
    head, found, rest = words.partition(": ")
    figure, comma, more = rest.partition(", ")
    return f"{head}: **{figure}**{comma}{more}" if found and comma else words
