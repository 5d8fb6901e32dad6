"""What the window remembers between sessions: its place, recent jobs, the palette, the screen's true size."""

from pathlib import Path
from typing import Any

import platformdirs
from PySide6.QtCore import QSettings, QStandardPaths

MOST_RECENT = 9


class Settings:
    """A small file in the user's configuration folder. Unreadable values count as not set."""

    def __init__(self) -> None:
        folder = Path(platformdirs.user_config_dir("plain-stride"))
        self._file = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)

    def get(self, key: str, default: Any = None) -> Any:
        value = self._file.value(key)
        return default if value is None else value

    def number(self, key: str, default: float) -> float:
        try:
            return float(self.get(key, default))
        except (TypeError, ValueError):
            return default

    def put(self, key: str, value: Any) -> None:
        self._file.setValue(key, value)

    def recent(self) -> list[Path]:
        """Jobs opened lately that are still there, the newest first."""
        kept = self.get("recent", [])
        names = [kept] if isinstance(kept, str) else list(kept)
        return [Path(name) for name in names if Path(name).exists()]

    def remember(self, path: Path) -> None:
        names = [str(path.resolve()), *(str(p) for p in self.recent() if p.resolve() != path.resolve())]
        self.put("recent", names[:MOST_RECENT])


def library_folder(name: str) -> Path:
    """Where a kind of thing is kept for every job, such as "nibs"; it need not be there yet."""
    return Path(platformdirs.user_data_dir("plain-stride")) / name


def documents_folder() -> Path:
    """The user's documents folder, else the home folder."""
    name = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)
    folder = Path(name) if name else Path.home()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        return Path.home()
    return folder
