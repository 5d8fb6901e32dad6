"""What is asked and shown in windows of their own: names, files, the history."""

from datetime import date
from pathlib import Path

from PySide6.QtWidgets import QInputDialog, QMessageBox, QWidget
from shiboken6 import isValid

from plain_stride.desk.controls.file_dialogs import ask_file, ask_new_file
from plain_stride.desk.dialogs.compare import Compare
from plain_stride.desk.dialogs.history import History
from plain_stride.desk.dialogs.print_out import PrintOut
from plain_stride.desk.session.session import Session
from plain_stride.desk.settings import documents_folder
from plain_stride.desk.sheet.ink_layer import InkLayer
from plain_stride.texts import clean, counted, shortened


class Dialogs:
    """history: the list of steps, once it was opened."""

    def __init__(self, parent: QWidget, session: Session, layer: InkLayer) -> None:
        """layer: the sheet's own picture, whose paths serve small ones."""
        self._parent, self._session, self._layer = parent, session, layer
        self.history: History | None = None
        self.printing = PrintOut(parent, session)

    # Asked

    def ask_mark(self) -> None:
        start = f"{date.today():%d %B}, {counted(len(self._session.job.rows.lines), 'line')}"
        words = "A name for how the drawing is now"
        name, ok = QInputDialog.getText(self._parent, "Mark this moment", words, text=start)
        if ok and name.strip():
            self._session.timeline.mark(name.strip())

    def ask_forget(self, mark: str) -> None:
        words = (
            f"Undo will end at '{mark}': all steps before it, and ways that left before it, go for good, with pulls"
            " that nothing else needs. The drawing stays as it is. This cannot be taken back."
        )
        asked = QMessageBox(QMessageBox.Icon.NoIcon, "Forget", words, parent=self._parent)
        forget = asked.addButton("Forget them", QMessageBox.ButtonRole.DestructiveRole)
        asked.addButton("Keep them", QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        if asked.clickedButton() is forget:
            self._session.timeline.forget_before(mark)

    def ask_unsaved(self, changes: int, reason: str) -> str:
        """What is to become of changes that could not be written: again, elsewhere, stay or go."""
        words = (
            f"{counted(changes, 'change is', 'changes are')} not saved, and only in this window. {reason}."
            " Nothing is lost while it stays open."
        )
        asked = QMessageBox(QMessageBox.Icon.NoIcon, "Not saved yet", shortened(clean(words)), parent=self._parent)
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
        start = documents_folder() / f"{self._session.job.path.stem} kept.stride"
        return ask_new_file(self._parent, "Save it all as", start, "stride")

    def ask_open(self) -> Path | None:
        return ask_file(self._parent, "Open a job", documents_folder(), "Jobs (*.stride)")

    def ask_lines(self) -> Path | None:
        return ask_file(self._parent, "Bring in lines", documents_folder(), "Lines (*.svg *.json)")

    def ask_copy(self) -> Path | None:
        job = self._session.job
        return ask_new_file(self._parent, "Save a copy", job.path.with_name(f"{job.name} copy.stride"), "stride")

    def ask_name(self) -> str:
        """Another name for the job, '' where it is to keep the one it has."""
        name, ok = QInputDialog.getText(self._parent, "Rename", "Name of this job", text=self._session.job.name)
        return name.strip() if ok else ""

    # Shown

    def show_about(self) -> None:
        from plain_stride.desk.dialogs.about import About

        About(self._parent).exec()

    def print_out(self, what: str) -> None:
        self.printing.ask(what)

    def show_history(self) -> None:
        """The list of all steps, beside the window, so that the sheet is seen."""
        self.close()
        self.history = History(self._parent, self._session, self._layer, self.show_compare, self.ask_mark)
        self.history.show()

    def show_compare(self, step: int | None = None) -> None:
        """A moment and now side by side: the one asked for, else the last mark."""
        at = self._session.timeline.step_before() if step is None else step
        Compare(self._parent, self._session, self._layer, at).exec()

    def close(self) -> None:
        """The list goes with its job."""
        if self.history is not None and isValid(self.history):
            self.history.close()
        self.history = None
