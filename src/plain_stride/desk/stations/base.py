"""What every station's notes have in common."""

from PySide6.QtWidgets import QVBoxLayout, QWidget

from plain_stride.desk.bench import Bench
from plain_stride.desk.theme import THEME


class Notes(QWidget):
    """A column of sentences and controls; `refresh` shows the job as it is now."""

    name = ""
    key = ""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self.bench = bench
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(THEME.px(2))

    def set_bench(self, bench: Bench) -> None:
        self.bench = bench
        self.refresh()

    def refresh(self) -> None:
        raise TypeError(f"{type(self).__name__} shows nothing")

    def fact(self) -> str:
        """The one fact under the station's name."""
        return ""
