"""The sheet of keys: what each does while held and when tapped."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QVBoxLayout, QWidget

from plain_stride.desk.controls import Heading, Sentence
from plain_stride.desk.keys import KeyUse
from plain_stride.desk.theme import THEME

OTHERS = (
    ("Wheel", "enlarges round the pointer; with Shift it turns; the middle button moves the board"),
    ("Two fingers", "move, turn and enlarge the board; touch never inks"),
    ("Eraser end", "a touch trims the stretch under it, a stroke upwards shaves the line"),
    ("Right button", "chooses the line under the pointer, with Shift one more; once more: what can be done to it"),
    ("Delete", "takes the chosen lines away"),
    (". and ,", "the next and the previous role of the chosen lines, or of the next line"),
    ("Page Up, Page Down", "the station before, the station after"),
    ("Ctrl+Z, Ctrl+Shift+Z", "take a step back, do it again"),
)


class KeySheet(QDialog):
    """A reading sheet; Escape closes it."""

    def __init__(self, parent: QWidget, uses: dict[str, KeyUse]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.setStyleSheet(f"background: {THEME.palette.margin}")
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 16, 28, 24)
        grid = QGridLayout()
        grid.setHorizontalSpacing(THEME.px(24))
        grid.setVerticalSpacing(THEME.px(4))
        for n, head in enumerate(("Key", "While held", "Tapped")):
            grid.addWidget(Heading(head), 0, n)
        shown = [(key, use) for key, use in uses.items() if not key.isdigit()]
        for n, (key, use) in enumerate(shown, 1):
            _add_row(grid, n, f"**{key}**", use.words_hold, use.words_tap)
        column.addLayout(grid)
        column.addWidget(Heading("Besides"))
        others = QGridLayout()
        others.setHorizontalSpacing(THEME.px(24))
        others.setVerticalSpacing(THEME.px(4))
        others.setColumnStretch(1, 1)
        for n, (key, words) in enumerate((("1 to 9", "that nib; while held, only as long as it is held"), *OTHERS)):
            _add_row(others, n, f"**{key}**", words)
        column.addLayout(others)


def _add_row(grid: QGridLayout, row: int, *texts: str) -> None:
    for k, text in enumerate(texts):
        label = Sentence(text)
        label.setWordWrap(False)
        grid.addWidget(label, row, k, Qt.AlignmentFlag.AlignTop)
