"""Texts that every file we write can hold, and words for numbers of things."""

import re

STRANGE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")
"""Letters that XML 1.0 has no place for; lone halves of others, which UTF-8 cannot write, are among them."""


def clean(text: str) -> str:
    """The text with a mark in the place of each letter that no file can hold."""
    return STRANGE.sub("\ufffd", text)


def shortened(text: str, most: int = 600) -> str:
    """A sentence of at most so many letters: what was too long of it is left out in its middle."""
    half = (most - 3) // 2
    return text if len(text) <= most else f"{text[:half]} … {text[-half:]}"


def counted(n: int, one: str, many: str = "") -> str:
    """A number of things in words: '1 line', '2 lines'. many: where an s is not enough."""
    return f"{n:,} {one if n == 1 else many or one + 's'}"


def time_words(seconds: float) -> str:
    """As people say it: 40 s, 12 min, 2 h 5 min."""
    if seconds < 90.0:
        return f"{seconds:.0f} s"
    hours, minutes = divmod(round(seconds / 60.0), 60)
    return f"{minutes} min" if not hours else f"{hours} h {minutes} min" if minutes else f"{hours} h"
