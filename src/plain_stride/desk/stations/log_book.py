"""Log, page Book: principles of one's own with examples from one's own pages, settings that worked, the next page."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QLabel

from plain_stride.desk.controls.controls import Field, Heading, Sentence
from plain_stride.desk.controls.file_dialogs import ask_new_file
from plain_stride.desk.controls.place_list import PlaceList
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.practising import Practising
from plain_stride.desk.session.session import Session
from plain_stride.desk.stations.mend_page import MendPage
from plain_stride.errors import StrideError
from plain_stride.job.ink_pictures import ink_png, inked_of
from plain_stride.job.series import next_page
from plain_stride.practice.hand_book import PRINCIPLE, SETTING, BookPage, now

AROUND_MM, PER_MM, WIDE = 30.0, 9.0, 240


class BookNotes(MendPage):
    """open_wanted: the file of a next page that was made."""

    open_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._book: Practising | None = None
        self._looked_at: Callable[[], tuple[float, float]] = _nowhere
        self._pages: list[BookPage] = []
        self._number = 0
        self._says, self._list, self._picture = Sentence(), PlaceList("Pages of the book", 7), QLabel()
        self._where = Sentence("", colour="faint")
        self.words = Field("New principle", 150)
        self._delete = self.verb("take it out of the book", self._take_away, of_lines=False)
        self.add(Heading("Your book"), self._says, self._list, self._picture, self._where, self._delete, self.words,
                 self.verb("the nib in hand worked here", self._keep_nib, of_lines=False), self.fault,
                 Heading("A series"), Sentence("The next page has this board, pens, light, depth and rules.",
                                               colour="faint"),
                 self.verb("begin the next page…", self._ask_next, of_lines=False))  # fmt: skip
        self.words.typed.connect(self._write)
        self._list.picked.connect(self._pick)

    def write_into(self, book: Practising) -> None:
        """The hand book that its pages lie in."""
        self._book = book

    def pin_by(self, looked_at: Callable[[], tuple[float, float]]) -> None:
        """Gives the place that is looked at, mm."""
        self._looked_at = looked_at

    def refresh(self) -> None:
        super().refresh()
        if self._book is None:
            return
        self._pages = self._book.read(lambda book: book.pages()) or []
        ids = [page.id for page in self._pages]
        self._list.show_rows([page.words for page in self._pages],
                             ids.index(self._number) if self._number in ids else None)  # fmt: skip
        self._says.say(f"**{len(ids)}** pages, for all your jobs." if ids else
                       "Write a principle, and it is kept with a picture of the place you look at.")  # fmt: skip
        page = next((one for one in self._pages if one.id == self._number), None)
        for widget in (self._picture, self._where, self._delete):
            widget.setVisible(page is not None)
        if page is not None:
            self._where.say(f"{page.told.get('job', '')}, {page.made[:10]}".strip(", "))
            self._show(page.picture)
        self.fault.say(self._book.fault)

    def _show(self, png: bytes | None) -> None:
        picture = QPixmap()
        if png is not None and picture.loadFromData(png):
            self._picture.setPixmap(picture.scaledToWidth(THEME.px(WIDE), Qt.TransformationMode.SmoothTransformation))
        else:
            self._picture.clear()

    def _pick(self, n: int) -> None:
        self._number = self._pages[n].id
        self.refresh()

    def _write(self, text: str) -> None:
        if text.strip():
            self._keep(PRINCIPLE, text.strip(), {})
            self.words.show_text("")

    def _keep_nib(self) -> None:
        nib = self.session.nib_now
        words = f"Nib {nib.name}, {nib.lightest:g} to {nib.heaviest:g} mm, steadying {nib.steadying.school}"
        self._keep(SETTING, words, {"nib": nib.as_row()})

    def _keep(self, kind: str, words: str, told: dict[str, object]) -> None:
        if self._book is None:
            return
        x, y = self._looked_at()
        box = (x - AROUND_MM, y - AROUND_MM / 2.0, x + AROUND_MM, y + AROUND_MM / 2.0)
        picture = ink_png(inked_of(self.session.job, self.session.shapes), box, PER_MM)
        page = BookPage(now(), self._book.person, kind, words,
                        {"job": self.session.job.name, "at": [round(x, 2), round(y, 2)], **told}, picture)  # fmt: skip
        kept = self._book.in_book(lambda book: book.write(page))
        self._number = kept or self._number
        self.refresh()

    def _take_away(self) -> None:
        number = self._number
        if self._book is None:
            return
        self._book.in_book(lambda book: book.tear_out(number))
        self.refresh()

    def _ask_next(self) -> None:
        start = self.session.job.path.with_name(f"{self.session.job.name}, next page.stride")
        path = ask_new_file(self, "The next page", start, "stride")
        if path is not None:
            self.begin_next(path)

    def begin_next(self, path: Path) -> None:
        """Makes the next page of the series, and opens it."""
        self.fault.say("")
        try:
            next_page(self.session.job, path)
        except StrideError as fault:
            self.fault.say(f"{fault}.")
            return
        self.open_wanted.emit(path)


def _nowhere() -> tuple[float, float]:
    return 0.0, 0.0
