"""Which sheet of pencils the controls of the station act on."""

from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.session.session import Session


class SheetInHand(QObject):
    """The sheet that was chosen, else the uppermost one. changed: it is another."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._key = ""

    def order(self) -> list[str]:
        """All sheets, the uppermost first."""
        return [key for key, _ in self.session.job.pencils()][::-1]

    @property
    def key(self) -> str:
        keys = self.order()
        return self._key if self._key in keys else keys[0] if keys else ""

    @property
    def row(self) -> Any:
        return self.session.job.rows.pencils.get(self.key)

    def choose(self, key: str) -> None:
        self._key = key
        self.changed.emit()

    def change(self, **values: object) -> None:
        """Changes the sheet in hand."""
        if self.key:
            self.session.make("pencils", sheet=self.key, **values)
