"""What every station's notes have in common: a column of controls, or several pages of them."""

from collections.abc import Mapping

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from plain_stride.desk.controls.controls import Choice, Field
from plain_stride.desk.look.theme import THEME
from plain_stride.desk.session.session import Session

MANY_PAGES, APART_PX, NARROW_PX = 6, 9, 5
"""From how many pages on their names stand closer."""


class Page(QWidget):
    """A column of sentences and controls; `refresh` shows the job as it is now. tool_wanted: a sheet tool that is to
    be taken in hand, None to put it away."""

    tool_wanted = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(THEME.px(2))

    def refresh(self) -> None:
        raise TypeError(f"{type(self).__name__} shows nothing")

    def add(self, *widgets: QWidget) -> None:
        for widget in widgets:
            self.column.addWidget(widget)

    def add_pair(self, *fields: Field) -> None:
        """Short fields side by side."""
        row = QHBoxLayout()
        row.setSpacing(THEME.px(14))
        for field in fields:
            field.make_short()
            row.addWidget(field)
        self.column.addLayout(row)

    def add_verbs(self, *verbs: QWidget) -> None:
        """Short verbs side by side."""
        row = QHBoxLayout()
        row.setSpacing(THEME.px(10))
        for verb in verbs:
            row.addWidget(verb)
        row.addStretch(1)
        self.column.addLayout(row)


class Notes(Page):
    """A station's notes, under its name and the letter that Alt takes it with."""

    name = ""
    key = ""

    def fact(self) -> str:
        """The one fact under the station's name."""
        return ""


class PagedNotes(Notes):
    """Notes of several pages, of which one is shown; only that one is kept up to date."""

    def __init__(self, session: Session, pages: Mapping[str, Page]) -> None:
        super().__init__(session)
        first = next(iter(pages))
        self._pages = dict(pages)
        apart = APART_PX if len(pages) < MANY_PAGES else NARROW_PX
        self.pages = Choice(tuple(pages), first, f"What is shown of {self.name}", apart)
        self.column.addWidget(self.pages)
        for page in pages.values():
            page.tool_wanted.connect(self.tool_wanted)
            self.column.addWidget(page)
        self.pages.chosen.connect(self.show_page)
        self.show_page(first)

    def show_page(self, name: str) -> None:
        for key, page in self._pages.items():
            page.setVisible(key == name)
        self.pages.show_chosen(name)
        self._pages[name].refresh()

    def page(self, name: str) -> Page:
        return self._pages[name]

    def shown_page(self) -> str:
        return next(name for name, button in self.pages.words.items() if button.isChecked())

    def refresh(self) -> None:
        self._pages[self.shown_page()].refresh()
