"""Colours of inks and flats: sRGB as "#rrggbb", or "black" and "white" by name; how light they are, how far apart.

CIE 1976 lightness and CIEDE2000 against D65, which is the white of sRGB (IEC 61966-2-1); the sums are the library's.
"""

import math
import re
from functools import cache
from typing import Any

from plain_stride.errors import StrideError

NAMED = {"black": "#000000", "white": "#ffffff"}
_HEX = re.compile(r"^#[0-9a-f]{6}$")


class ColourError(StrideError):
    """What stands for no colour."""


def checked_colour(value: object) -> str:
    """A colour as "#rrggbb". Raises ColourError."""
    text = NAMED.get(str(value), str(value)).strip().lower()
    if not isinstance(value, str) or not _HEX.match(text):
        raise ColourError(f"a colour is #rrggbb, as #5a3a22, not '{str(value)[:40]}'")
    return text


def is_grey(colour: str) -> bool:
    """Whether it has no hue: black and white are greys."""
    text = NAMED.get(colour, colour)
    return text[1:3] == text[3:5] == text[5:7]


@cache
def rgb(colour: str) -> tuple[float, float, float]:
    """Red, green, blue, 0 to 1, as sRGB has them."""
    text = NAMED.get(colour, colour)
    r, g, b = (int(text[k : k + 2], 16) / 255.0 for k in (1, 3, 5))
    return r, g, b


@cache
def grey(colour: str) -> float:
    """0 to 1: the grey of sRGB that is as light."""
    if colour in NAMED:
        return 1.0 if colour == "white" else 0.0
    return float(_of("lab-d65", [lightness(colour), 0.0, 0.0]).convert("srgb")[0])


@cache
def lightness(colour: str) -> float:
    """CIE L*, 0 black to 100 white."""
    return float(_parsed(colour).convert("lab-d65")[0])


@cache
def difference(one: str, other: str) -> float:
    """CIEDE2000."""
    return float(_parsed(one).delta_e(_parsed(other), method="2000", space="lab-d65"))


@cache
def with_lightness(colour: str, light: float) -> str:
    """The colour of the same hue that is so light, its chroma as much of its own as sRGB holds there."""
    lch = _parsed(colour).convert("lch-d65")
    hue = 0.0 if math.isnan(lch[2]) else lch[2]
    made = _of("lch-d65", [min(max(light, 0.0), 100.0), lch[1], hue])
    return str(made.fit("srgb", method="lch-chroma").convert("srgb").to_string(hex=True))


@cache
def from_lab(light: float, a: float, b: float) -> str:
    """The colour of CIELAB, its chroma taken down to what sRGB holds."""
    made = _of("lab-d65", [light, a, b]).convert("lch-d65")
    return str(made.fit("srgb", method="lch-chroma").convert("srgb").to_string(hex=True))


def darker(colour: str, step: float) -> str:
    """The colour that is darker by a step of L*, black at the darkest."""
    return with_lightness(colour, round(lightness(colour) - step, 4))


def _parsed(colour: str) -> Any:
    return _of("srgb", list(rgb(colour)))


def _of(space: str, values: list[float]) -> Any:
    from coloraide import Color

    return Color(space, values)
