"""Notes come up again where they belong: a part's as it is taken in hand, a rule's at Weigh; once at a sitting each."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from plain_stride.desk.session.session import Session
from plain_stride.desk.session.state import State
from plain_stride.job.log_records import NoteRecord
from plain_stride.texts import shortened

MOST_SAID = 160


class Reminder(QObject):
    """Says nothing twice, and nothing while something else is under way."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._said: set[str] = set()
        session.state.changed.connect(self._part_taken)

    def station_shown(self, name: str) -> None:
        """At Weigh the notes on rules that are on."""
        if name == "Weigh":
            on = {rule.name for rule in self._session.job.plan.rules if rule.on}
            self._say_first(lambda row: row.rule in on, lambda row: f"Note on {row.rule}")

    def _part_taken(self, before: State, now: State) -> None:
        if before.part == now.part:
            return
        part = self._session.job.part_named(now.part)
        if part is not None:
            self._say_first(lambda row: row.part == part.id, lambda row: f"Note on {part.name}")

    def _say_first(self, belongs: Callable[[NoteRecord], bool], head: Callable[[NoteRecord], str]) -> None:
        for key, row in self._session.job.rows.notes.items():
            if belongs(row) and key not in self._said:
                self._said.add(key)
                self._session.said.emit(f"{head(row)}: {shortened(row.words, MOST_SAID)}", False)
                return
