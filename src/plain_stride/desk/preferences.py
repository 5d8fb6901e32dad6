"""What the inker has set for this window, remembered from one day to the next."""

import math

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QGuiApplication

from plain_stride.desk.cautions import DEFAULT_MINUTES
from plain_stride.desk.controls.hints import HINTS
from plain_stride.desk.dialogs.advice_sheet import keep_thresholds, kept_thresholds
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.theme import TEXT_SCALES, THEME, desktop_variant
from plain_stride.desk.session.state import State
from plain_stride.desk.settings import Settings
from plain_stride.desk.sheet.gestures.trimming import RUBS
from plain_stride.hand.advice import Thresholds
from plain_stride.order.pauses import PAUSE_S, PAUSES_S

PLAIN_DPI = 96.0
WITHOUT_STRIP = ("Practice", "Log")
"""Stations at which no line is worked on: the strip is folded there until it is asked for."""


class Preferences(QObject):
    """changed: one of them is another now."""

    changed = Signal()

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        scale = settings.number("text_scale", 1.0)
        THEME.use_text_scale(min(max(scale, TEXT_SCALES[0]), TEXT_SCALES[-1]))
        THEME.use(str(settings.get("variant") or desktop_variant()))
        KEYS.load(settings)
        HINTS.load(settings)

    def _keep(self, name: str, value: object) -> None:
        self.settings.put(name, value)
        self.changed.emit()

    # The hand

    @property
    def pen_button(self) -> str:
        """The key that the pen's own button stands for."""
        return str(self.settings.get("pen_button", "W"))

    def use_pen_button(self, key: str) -> None:
        self._keep("pen_button", key)

    @property
    def rub(self) -> str:
        """What a touch of the pen's other end takes away, one of RUBS."""
        kept = str(self.settings.get("rub", RUBS[0]))
        return kept if kept in RUBS else RUBS[0]

    def use_rub(self, how: str) -> None:
        self._keep("rub", how)

    @property
    def person(self) -> str:
        """Whose hand it is that practises."""
        return str(self.settings.get("person", "me"))

    def use_person(self, name: str) -> None:
        if name != self.person:
            self._keep("person", name)

    @property
    def pause(self) -> float:
        """Seconds of nothing being done that do not count as work."""
        return min(max(self.settings.number("pause", PAUSE_S), PAUSES_S[0]), PAUSES_S[1])

    def use_pause(self, seconds: float) -> None:
        self._keep("pause", seconds)

    @property
    def cautions(self) -> int:
        """Minutes of pulling after which a word about breaks is said, 0 for never."""
        return int(self.settings.number("cautions", DEFAULT_MINUTES))

    def use_cautions(self, minutes: int) -> None:
        self._keep("cautions", minutes)

    @property
    def unsteadied(self) -> frozenset[str]:
        """Roles whose pulls are left to the hand."""
        return frozenset(str(self.settings.get("unsteadied", "")).split())

    def state_changed(self, before: State, now: State) -> None:
        """What was set in hand is remembered."""
        if before.unsteadied != now.unsteadied:
            self._keep("unsteadied", " ".join(sorted(now.unsteadied)))

    @property
    def thresholds(self) -> Thresholds:
        """From when on a pull is advised on."""
        return kept_thresholds(self.settings)

    def use_thresholds(self, at: Thresholds) -> None:
        keep_thresholds(self.settings, at)
        self.changed.emit()

    def toggle_hand(self) -> None:
        """Keys and margins change sides."""
        KEYS.change_hands()
        self.keep_keys()

    def keep_keys(self) -> None:
        """Keeps the plan of keys as it is now."""
        KEYS.store(self.settings)
        self.changed.emit()

    @property
    def spots(self) -> bool:
        """Whether hold-spots lie on the desk."""
        return bool(int(self.settings.number("hold_spots", 0)))

    def toggle_spots(self) -> None:
        self._keep("hold_spots", int(not self.spots))

    # The look

    def use_variant(self, variant: str) -> None:
        THEME.use(variant)
        self._keep("variant", variant)

    @property
    def reading_near(self) -> bool:
        """Whether what was read of the pencils shows round the pen at Pull."""
        return bool(int(self.settings.number("reading_near", 0)))

    def toggle_reading_near(self) -> None:
        self._keep("reading_near", int(not self.reading_near))

    def strip_shown(self, station: str) -> bool:
        """Whether the strip is shown at a station."""
        return bool(int(self.settings.number(f"strip {station}", int(station not in WITHOUT_STRIP))))

    def show_strip(self, station: str, shown: bool) -> None:
        self._keep(f"strip {station}", int(shown))

    @property
    def glass_px_per_mm(self) -> float:
        """Pixels of the screen for one mm of its glass: as it was measured, else as the system tells it."""
        kept = self.settings.number("glass_px_per_mm", 0.0)
        if kept > 0:
            return kept
        screen = QGuiApplication.primaryScreen()
        dpi = screen.physicalDotsPerInch() if screen is not None else PLAIN_DPI
        return (dpi if math.isfinite(dpi) and 60 <= dpi <= 400 else PLAIN_DPI) / 25.4

    def measure_glass(self, px_per_mm: float) -> None:
        self._keep("glass_px_per_mm", px_per_mm)
