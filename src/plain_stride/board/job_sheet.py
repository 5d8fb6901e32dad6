"""The job sheet: what the drawing is for. Later stations go by it: a quick web picture is not proofed like a cover."""

from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from plain_stride.board.errors import BoardError

INKS = ("black and white", "for colour")
FINISHES = ("quick", "clean", "for print")
SCHOOLS = ("all settled first", "exploring in ink")
MOST_LETTERS = 200


class SheetError(BoardError):
    """A job sheet that cannot be."""


@dataclass(frozen=True)
class JobSheet:
    """purpose: in the inker's words; due: a date YYYY-MM-DD, or empty; school: how finished the pencils should be."""

    purpose: str = ""
    ink: str = INKS[0]
    finish: str = FINISHES[1]
    school: str = SCHOOLS[0]
    due: str = ""

    def __post_init__(self) -> None:
        for value, known, what in ((self.ink, INKS, "ink"), (self.finish, FINISHES, "finish"),
                                   (self.school, SCHOOLS, "school")):  # fmt: skip
            if value not in known:
                raise SheetError(f"the job sheet's {what} is one of: {', '.join(known)}; not '{value}'")
        if not isinstance(self.purpose, str) or len(self.purpose) > MOST_LETTERS:
            raise SheetError(f"a purpose is a text of at most {MOST_LETTERS} letters")
        if self.due:
            self.day()

    def day(self) -> date | None:
        """The day it is due. Raises SheetError for what is no date."""
        try:
            return date.fromisoformat(self.due) if self.due else None
        except (TypeError, ValueError):
            raise SheetError(f"'{self.due}' is no date: write it like 2026-12-24") from None

    def as_row(self) -> dict[str, Any]:
        return asdict(self)

    def days_left(self, today: date) -> int | None:
        day = self.day()
        return None if day is None else (day - today).days


def sheet_from_row(row: dict[str, Any] | None) -> JobSheet:
    """The sheet of a job; a job without one has the defaults."""
    return JobSheet(**{key: row[key] for key in JobSheet.__dataclass_fields__ if key in row}) if row else JobSheet()
