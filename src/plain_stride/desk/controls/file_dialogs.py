"""Asking for a file to open or to write."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

PICTURES = "Scans (*.png *.jpg *.jpeg *.tif *.tiff *.webp)"


def ask_file(parent: QWidget, title: str, folder: Path, kinds: str) -> Path | None:
    """A file that is there, None where none was chosen. kinds: 'Scans (*.png *.jpg)'."""
    dialog = QFileDialog(parent, title, str(folder), kinds)
    dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
    return _asked(dialog)


def ask_new_file(parent: QWidget, title: str, proposed: Path, kind: str) -> Path | None:
    """Where to write a file of a kind ('svg'), with its ending; None where nothing was chosen. Replacing is asked."""
    dialog = QFileDialog(parent, title, str(proposed.parent), f"{kind.upper()} (*.{kind})")
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setDefaultSuffix(kind)
    dialog.selectFile(proposed.name)
    path = _asked(dialog)
    return path.with_suffix(f".{kind}") if path is not None else None


def _asked(dialog: QFileDialog) -> Path | None:
    try:
        return Path(dialog.selectedFiles()[0]) if dialog.exec() and dialog.selectedFiles() else None
    finally:
        dialog.deleteLater()
