"""What the window asks and shows in windows of their own: names, files, the keys, the history."""

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog, QMessageBox
from shiboken6 import isValid

from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.dialogs.about import About
from plain_stride.desk.dialogs.advice_sheet import AdviceSheet
from plain_stride.desk.dialogs.compare import Compare
from plain_stride.desk.dialogs.history import History
from plain_stride.desk.dialogs.key_sheet import KeySheet
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.session.drops import lay_file
from plain_stride.desk.settings import documents_folder
from plain_stride.texts import clean, counted, shortened

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow


class Dialogs:
    """history: the list of steps, once it was opened."""

    def __init__(self, main_window: "MainWindow") -> None:
        self._main_window = main_window
        self.history: History | None = None

    def ask_mark(self) -> None:
        start = f"{date.today():%d %B}, {counted(len(self._main_window.session.job.rows.lines), 'line')}"
        name, ok = QInputDialog.getText(
            self._main_window, "Mark this moment", "A name for how the drawing is now", text=start
        )
        if ok and name.strip():
            self._main_window.session.timeline.mark(name.strip())

    def ask_forget(self, mark: str) -> None:
        words = (
            f"Undo will end at '{mark}': all steps before it, and ways that left before it, go for good, with pulls"
            " that nothing else needs. The drawing stays as it is. This cannot be taken back."
        )
        asked = QMessageBox(QMessageBox.Icon.NoIcon, "Forget", words, parent=self._main_window)
        forget = asked.addButton("Forget them", QMessageBox.ButtonRole.DestructiveRole)
        asked.addButton("Keep them", QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        if asked.clickedButton() is forget:
            self._main_window.session.timeline.forget_before(mark)

    def ask_unsaved(self, changes: int, reason: str) -> str:
        """What is to become of changes that could not be written: again, elsewhere, stay or go."""
        words = (
            f"{counted(changes, 'change is', 'changes are')} not saved, and only in this window. {reason}."
            " Nothing is lost while it stays open."
        )
        asked = QMessageBox(QMessageBox.Icon.NoIcon, "Not saved yet", shortened(clean(words)), parent=self._main_window)
        roles = QMessageBox.ButtonRole
        answers = {
            asked.addButton("Try again", roles.AcceptRole): "again",
            asked.addButton("Save it all in another place…", roles.AcceptRole): "elsewhere",
            asked.addButton("Let them go", roles.DestructiveRole): "go",
        }
        asked.setEscapeButton(asked.addButton("Stay here", roles.RejectRole))
        asked.exec()
        return answers.get(asked.clickedButton(), "stay")  # type: ignore[call-overload]

    def ask_elsewhere(self) -> Path | None:
        """Where a job that cannot be written to its own file is to go on."""
        path = self._main_window.session.job.path
        return ask_new_file(
            self._main_window, "Save it all as", documents_folder() / f"{path.stem} kept.stride", "stride"
        )

    def ask_open(self) -> None:
        path = ask_file(self._main_window, "Open a job", documents_folder(), "Jobs (*.stride)")
        if path is not None:
            self._main_window.open_job(path)

    def ask_copy(self) -> None:
        start = self._main_window.session.job.path.with_name(f"{self._main_window.session.job.name} copy.stride")
        path = ask_new_file(self._main_window, "Save a copy", start, "stride")
        if path is not None:
            self._main_window.save_copy(path)

    def ask_name(self) -> None:
        name, ok = QInputDialog.getText(
            self._main_window, "Rename", "Name of this job", text=self._main_window.session.job.name
        )
        if ok and name.strip():
            self._main_window.rename(name.strip())

    def show_keys(self) -> None:
        KeySheet(self._main_window, self._main_window.uses, KEYS, self._main_window.keys_changed).exec()

    def show_advice(self) -> None:
        main_window = self._main_window
        AdviceSheet(main_window, main_window.session.now.thresholds, main_window.use_thresholds).exec()

    def show_about(self) -> None:
        About(self._main_window).exec()

    def show_history(self) -> None:
        """The list of all steps, beside the window, so that the sheet is seen."""
        self.close_history()
        self.history = History(
            self._main_window,
            self._main_window.session,
            self._main_window.sheet.layer,
            self.show_compare,
            self.ask_mark,
        )
        self.history.show()

    def close_history(self) -> None:
        """The list goes with its job."""
        if self.history is not None and isValid(self.history):
            self.history.close()
        self.history = None

    def show_compare(self, step: int | None = None) -> None:
        """A moment and now side by side: the one asked for, else the last mark."""
        at = self._main_window.session.timeline.step_before() if step is None else step
        Compare(self._main_window, self._main_window.session, self._main_window.sheet.layer, at).exec()

    def ask_lines(self) -> None:
        path = ask_file(self._main_window, "Bring in lines", documents_folder(), "Lines (*.svg *.json)")
        if path is not None:
            lay_file(self._main_window.session, path)
