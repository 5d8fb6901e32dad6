"""Board, page Job: what the drawing is for, which later stations go by."""

from datetime import date

from PySide6.QtCore import Qt

from plain_stride.board.job_sheet import FINISHES, INKS, SCHOOLS
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.base import Page
from plain_stride.job.board_facts import sheet_of
from plain_stride.texts import counted

SCHOOL_WORDS = {
    "all settled first": "Undecided places in the pencils are counted against being ready.",
    "exploring in ink": "Undecided places are shown, and left to the pen.",
}


class JobPage(Page):
    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._purpose, self._due = Field("It is for", 150), Field("Due", 150)
        self._due.entry.setPlaceholderText("2026-12-24")
        self._purpose.entry.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self._left = Sentence()
        self._ink = Choice(INKS, INKS[0], "Black and white, or for colour")
        self._finish = Choice(FINISHES, FINISHES[1], "How finished")
        self._school, self._school_words = Choice(SCHOOLS, SCHOOLS[0], "Pencils"), Sentence("", colour="faint")
        self.add(Heading("Job sheet"), self._purpose, self._due, self._left)
        self.add(Heading("Ink"), self._ink, Heading("How finished it need be"), self._finish)
        self.add(Heading("Pencils are to be"), self._school, self._school_words)
        self._purpose.typed.connect(lambda text: self._set(purpose=text.strip()))
        self._due.typed.connect(lambda text: self._set(due=text.strip()))
        self._ink.chosen.connect(lambda word: self._set(ink=word))
        self._finish.chosen.connect(lambda word: self._set(finish=word))
        self._school.chosen.connect(lambda word: self._set(school=word))

    def _set(self, **values: str) -> None:
        self.session.make("job-sheet", **values)
        self.refresh()

    def refresh(self) -> None:
        sheet = sheet_of(self.session.job)
        self._purpose.show_text(sheet.purpose)
        self._due.show_text(sheet.due)
        left = sheet.days_left(date.today())
        self._left.say("" if left is None else _days(left))
        self._ink.show_chosen(sheet.ink)
        self._finish.show_chosen(sheet.finish)
        self._school.show_chosen(sheet.school)
        self._school_words.say(SCHOOL_WORDS[sheet.school])


def _days(left: int) -> str:
    if left < 0:
        return f"It was due **{counted(-left, 'day')}** ago."
    return f"**{counted(left, 'day')}** {'is' if left == 1 else 'are'} left."
