"""What is done to the whole job: files, back and forth, marks."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from plain_stride.desk.dialogs.dialogs import Dialogs
from plain_stride.desk.dialogs.print_out import INK, PENCILS
from plain_stride.desk.keys.action import Action, Entry, Submenu
from plain_stride.desk.session.drops import lay_file
from plain_stride.desk.session.session import Session
from plain_stride.desk.settings import Settings
from plain_stride.desk.sheet.moments import Moments


@dataclass(frozen=True)
class WindowVerbs:
    """What only the window itself can do. open: a job's file; rename: to a name; grow: to a text size; fill_screen:
    takes the whole screen, or gives it back; show_opening: the opening sheet; walk: through the demo."""

    open: Callable[[Path], object]
    new: Callable[[], object]
    rename: Callable[[str], object]
    grow: Callable[[float], object]
    close: Callable[[], object]
    fill_screen: Callable[[], object]
    show_opening: Callable[[], object]
    walk: Callable[[], object]


class JobActions:
    """all: those with a shortcut or a key. What the job's menu begins with (`files`) and ends with (`last`)."""

    def __init__(
        self, session: Session, dialogs: Dialogs, settings: Settings, verbs: WindowVerbs, moments: Moments
    ) -> None:
        self._session, self._dialogs, self._settings, self._verbs = session, dialogs, settings, verbs
        timeline, history = session.timeline, session.job.history
        self._new = Action(words="New board", shortcuts=("Ctrl+N",), run=verbs.new)
        self._open = Action(words="Open a job…", shortcuts=("Ctrl+O",), run=self._ask_open)
        self._copy = Action(words="Save a copy…", shortcuts=("Ctrl+Shift+S",), run=self._ask_copy)
        self._steps = Action(words="All steps…", shortcuts=("Ctrl+H",), run=dialogs.show_history)
        self._undo = Action(
            words="Take back", shortcuts=("Ctrl+Z",), key="Z", run=timeline.undo, tapped="take it back",
            held="the last change off, to compare", hold=moments.show_last_off, let_go=moments.show_now,
            enabled=lambda: history.head > 0,
        )  # fmt: skip
        self._redo = Action(words="Do again", shortcuts=("Ctrl+Shift+Z", "Ctrl+Y"), run=timeline.redo,
                            enabled=lambda: history.redo_count() > 0)  # fmt: skip
        self._mark = Action(words="", key="Q", run=timeline.mark_now, tapped="set the mark",
                            held="before: the drawing as it was at the last mark", hold=moments.show_before,
                            let_go=moments.show_now)  # fmt: skip
        self._quit = Action(words="Quit", shortcuts=("Ctrl+Q",), run=verbs.close)
        self._print = Action(words=f"Print {INK}…", shortcuts=("Ctrl+P",), run=lambda: dialogs.print_out(INK))
        self._print_pencils = Action(words=f"Print {PENCILS}…", run=lambda: dialogs.print_out(PENCILS))
        self.all = [self._print, self._undo, self._redo, self._mark, self._new, self._open, self._copy, self._steps,
                    self._quit]  # fmt: skip

    def files(self) -> list[Entry]:
        session = self._session
        entries: list[Entry] = [
            self._new,
            self._open,
            Submenu("Recent jobs", self._recent),
            Submenu("Print, at true size", lambda: [self._print, self._print_pencils]),
            Action(words="Bring in lines…", run=self._ask_lines, enabled=self._writable),
            None,
            Action(words="Rename…", run=self._ask_name),
            self._copy,
        ]
        if session.document.writer.pending():
            entries.append(Action(words="Try again to save", run=session.document.writer.again))
        return [*entries, None, self._undo, self._redo, Submenu("History", self._history)]

    def last(self) -> list[Entry]:
        return [
            Action(words="Opening sheet…", run=self._verbs.show_opening),
            Action(words="A walk of eight steps over the demo", run=self._verbs.walk),
            Action(words="About Plain Stride", run=self._dialogs.show_about),
            self._quit,
        ]

    def _writable(self) -> bool:
        return not self._session.read_only

    def _recent(self) -> list[Entry]:
        return [Action(words=path.stem, run=partial(self._verbs.open, path)) for path in self._settings.recent()]

    def _history(self) -> list[Entry]:
        dialogs, writer = self._dialogs, self._session.document.writer
        return [
            self._steps,
            Action(words="Then and now…", run=dialogs.show_compare),
            None,
            Action(words="Mark this moment…", run=dialogs.ask_mark, enabled=self._writable),
            Submenu("Go back to a mark", self._marks),
            None,
            Action(words="How large it is", run=writer.tell_sizes),
            Action(words="Pack the file; the history stays", run=writer.pack, enabled=self._writable),
            Submenu("Forget all before a mark", self._forgettable),
        ]

    def _marks(self) -> list[Entry]:
        history, timeline = self._session.job.history, self._session.timeline
        return [
            Action(words=name, run=partial(timeline.go_to, step), enabled=self._writable)
            for name, step in history.marks.items()
            if step != history.head
        ]

    def _forgettable(self) -> list[Entry]:
        marks = self._session.job.history.marks
        return [
            Action(words=name, run=partial(self._dialogs.ask_forget, name), enabled=self._writable)
            for name, step in marks.items()
            if step
        ]

    def _ask_open(self) -> None:
        path = self._dialogs.ask_open()
        if path is not None:
            self._verbs.open(path)

    def _ask_copy(self) -> None:
        path = self._dialogs.ask_copy()
        if path is not None:
            self._session.saving.save_copy(path)

    def _ask_name(self) -> None:
        name = self._dialogs.ask_name()
        if name:
            self._verbs.rename(name)

    def _ask_lines(self) -> None:
        path = self._dialogs.ask_lines()
        if path is not None:
            lay_file(self._session, path)
