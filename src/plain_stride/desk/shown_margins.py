"""Which margins are shown: all or none by one key, the strip by another; each station remembers its strip."""

from collections.abc import Callable, Iterable

from PySide6.QtWidgets import QWidget

from plain_stride.desk.margins.strip import Strip
from plain_stride.desk.preferences import Preferences


class Margins:
    """others: what goes and comes with them besides the strip."""

    def __init__(
        self, strip: Strip, strip_line: QWidget, others: Iterable[QWidget], preferences: Preferences,
        station: Callable[[], str],
    ) -> None:  # fmt: skip
        self._strip, self._strip_line, self._others = strip, strip_line, list(others)
        self._preferences, self._station = preferences, station

    def shown(self) -> bool:
        return not self._others[0].isHidden()

    def show(self, shown: bool) -> None:
        """All margins away, or back."""
        for widget in self._others:
            widget.setVisible(shown)
        self._show_strip(shown and self._preferences.strip_shown(self._station()))

    def station_shown(self) -> None:
        """The strip as it was left at the station that is shown now."""
        if self.shown():
            self._show_strip(self._preferences.strip_shown(self._station()))

    def fold_strip(self) -> None:
        """Folds the strip away, or shows it; each station remembers."""
        shown = self._strip.isHidden()
        self._show_strip(shown)
        self._preferences.show_strip(self._station(), shown)

    def enlarge_strip(self, on: bool) -> None:
        """The strip large, whether it was folded or not, or as it was."""
        self._strip.enlarge(on)
        self._show_strip(on or self._preferences.strip_shown(self._station()))

    def _show_strip(self, shown: bool) -> None:
        self._strip.setVisible(shown)
        self._strip_line.setVisible(shown)
