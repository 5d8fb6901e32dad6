"""Putting the program into the desktop's menus, and taking it out again: entry, icon, kind of file. For this user."""

import os
import shutil
import subprocess
import sys
from contextlib import suppress
from importlib import resources
from pathlib import Path

from plain_stride.errors import StrideError

PLACES = {
    "plain-stride.desktop": "applications/plain-stride.desktop",
    "plain-stride.xml": "mime/packages/plain-stride.xml",
    "plain-stride.svg": "icons/hicolor/scalable/apps/plain-stride.svg",
}
"""Files that ship, and where they go under the user's data folder (XDG base directories, icon theme, shared MIME)."""
TELLERS = (("update-desktop-database", "applications"), ("update-mime-database", "mime"),
           ("gtk-update-icon-cache", "icons/hicolor"))  # fmt: skip
"""Commands that make a desktop look again, where they are there, and the folder that each is told."""


class InstallError(StrideError):
    """A file of the desktop that cannot be written or taken away."""


def data_home() -> Path:
    """The user's data folder, by the XDG base directory specification."""
    told = os.environ.get("XDG_DATA_HOME", "")
    return Path(told) if told and Path(told).is_absolute() else Path.home() / ".local" / "share"


def install() -> list[Path]:
    """Puts the files in place, each whole or not at all; gives them. Raises InstallError."""
    home, out = data_home(), []
    for name, place in PLACES.items():
        text = resources.files("plain_stride.data").joinpath(name).read_text(encoding="utf-8")
        path = home / place
        part = path.with_name(f".{path.name}.part")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            part.write_text(text.replace("@exec@", _command()), encoding="utf-8")
            part.replace(path)
        except OSError as fault:
            with suppress(OSError):
                part.unlink(missing_ok=True)
            raise InstallError(f"{path} cannot be written: {fault.strerror}. Free it, then install again") from None
        out.append(path)
    _tell(home)
    return out


def uninstall() -> list[Path]:
    """Takes the files away; gives those that were there. Jobs, settings and the demo stay. Raises InstallError."""
    home, out = data_home(), []
    for place in PLACES.values():
        path = home / place
        try:
            if path.exists():
                path.unlink()
                out.append(path)
        except OSError as fault:
            raise InstallError(f"{path} cannot be taken away: {fault.strerror}") from None
    _tell(home)
    return out


def _command() -> str:
    """What starts this very installation, quoted as desktop entries want it."""
    words = [sys.executable, "-m", "plain_stride"]
    return " ".join(_quoted(word) for word in words)


def _quoted(word: str) -> str:
    """A word of an Exec key (Desktop Entry Specification, 'The Exec key'); a per cent sign is doubled."""
    word = word.replace("%", "%%")
    if not any(c in word for c in " \t\n\"'\\><~|&;$*?#()`"):
        return word
    for c in ("\\", '"', "`", "$"):
        word = word.replace(c, "\\" + c)
    return '"' + word.replace("\\", "\\\\") + '"'


def _tell(home: Path) -> None:
    for command, folder in TELLERS:
        program = shutil.which(command)
        if program is not None and (home / folder).is_dir():
            subprocess.run([program, str(home / folder)], capture_output=True, timeout=60, check=False)
