"""Colours and type of the window, in a day, an evening and a high-contrast variant."""

from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QGuiApplication

FAMILY, FALLBACK = "Rosario", "Noto Sans"
NAME, STATION, BODY, LABEL, RULER = 17, 15, 14, 12, 11
"""Sizes in pixels of the text at 100 %."""
RULER_COLOUR = "text"
"""Small figures on the desk, which is darker than the margins: the fainter text is too faint there."""
TEXT_SCALES = (1.0, 1.25, 1.5)


@dataclass(frozen=True)
class Palette:
    """Colours by what they are for; contrast of text is at least 4.5:1 on margin and wash."""

    desk: str
    margin: str
    paper: str
    ink: str
    text: str
    faint: str
    hair: str
    wash: str
    pencil: str
    ahead: str
    chosen: str
    red: str


DAY = Palette(
    "#DED6C7", "#F3EEE4", "#FDFBF6", "#17161A", "#302D33", "#655F66", "#CBC1B0", "#E7E0D2", "#8FB0D1", "#446489",
    "#0E6B70", "#B3261E",
)  # fmt: skip
EVENING = Palette(
    "#1B1917", "#262320", "#E6DFD0", "#17161A", "#EAE3D6", "#ABA297", "#4A443D", "#332F2A", "#7F9FC0", "#86A7C9",
    "#6CC4BF", "#FF8A7A",
)  # fmt: skip
CONTRAST = Palette(
    "#C8C8C8", "#FFFFFF", "#FFFFFF", "#000000", "#000000", "#333333", "#555555", "#DDDDDD", "#4F7FB5", "#0B3A6B",
    "#004B4F", "#8C0000",
)  # fmt: skip
PART_INKS = ("#1B4F8A", "#A03A12", "#1F6B3A", "#7A2E7A", "#806200", "#0E6B70", "#9C1F4A", "#47479C", "#5A3A1E",
             "#3A6480")  # fmt: skip
"""Inks that tell parts apart on the screen, 4.5:1 on the paper at least; never exported."""
GREY_GROUND = "#8F887C"
"""The paper while white ink is looked at: 3:1 against it, and 5:1 against black."""
VARIANTS = {"day": DAY, "evening": EVENING, "high contrast": CONTRAST}


class Theme(QObject):
    """The colours and the text size in use; `changed` says when to paint anew. Things on the sheet use DAY always."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.variant = "day"
        self.text_scale = 1.0
        self._told = (self.variant, self.text_scale)

    @property
    def palette(self) -> Palette:
        return VARIANTS[self.variant]

    def use(self, variant: str) -> None:
        self.variant = variant if variant in VARIANTS else "day"
        now = (self.variant, self.text_scale)
        # To paint every widget anew takes long: a window that opens finds all as it is.
        if now != self._told:
            self._told = now
            self.changed.emit()

    def use_text_scale(self, scale: float) -> None:
        """Text and lengths of the layout grow with it; what is laid out already stays as it is."""
        self.text_scale = scale

    def color(self, name: str) -> QColor:
        return QColor(getattr(self.palette, name))

    def px(self, pixels: float) -> int:
        """A length of the layout, grown with the text."""
        return round(pixels * self.text_scale)

    def font(self, size: int = BODY, bold: bool = False, spaced: bool = False) -> QFont:
        """The shipped type with tabular lining figures."""
        return _font(round(size * self.text_scale), bold, spaced)


THEME = Theme()


def desktop_variant() -> str:
    """What the desktop asks for: strong contrast, dark or light."""
    hints = QGuiApplication.styleHints()
    asked = getattr(hints, "accessibility", None)
    if asked is not None and asked().contrastPreference() == Qt.ContrastPreference.HighContrast:
        return "high contrast"
    return "evening" if hints.colorScheme() == Qt.ColorScheme.Dark else "day"


def sheet_color(name: str) -> QColor:
    """A colour for what is drawn on the sheet: the day's in every variant."""
    return QColor(getattr(DAY, name))


@lru_cache(maxsize=1)
def load_fonts() -> tuple[str, ...]:
    """Registers the shipped families; gives their names."""
    names: list[str] = []
    for file in sorted(resources.files("plain_stride.desk").joinpath("fonts").iterdir(), key=lambda f: f.name):
        if file.name.endswith(".ttf"):
            key = QFontDatabase.addApplicationFontFromData(file.read_bytes())
            names += QFontDatabase.applicationFontFamilies(key)
    return tuple(dict.fromkeys(names))


@lru_cache(maxsize=64)
def _font(pixels: int, bold: bool, spaced: bool) -> QFont:
    font = QFont([FAMILY, FALLBACK])
    font.setPixelSize(pixels)
    font.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    for tag in ("tnum", "lnum"):
        font.setFeature(QFont.Tag(tag), 1)
    if spaced:
        font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, 0.06 * pixels)
    return font


def text_width(text: str, font: QFont) -> float:
    return QFontMetricsF(font).horizontalAdvance(text)
