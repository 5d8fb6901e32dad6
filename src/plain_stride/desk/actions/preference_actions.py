"""What the inker sets once: how it looks, and how the hands work."""

from collections.abc import Callable
from functools import partial

from plain_stride.desk.cautions import MINUTES
from plain_stride.desk.keys.action import Action, Actions, Entry, Submenu
from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.theme import TEXT_SCALES, THEME, VARIANTS
from plain_stride.desk.preferences import Preferences

RUB_WORDS = {"trim": "takes away back to the nearest crossings", "cut": "cuts the line: both halves stay",
             "whole": "takes the whole line away"}  # fmt: skip


def look_entries(preferences: Preferences, grow: Callable[[float], object]) -> list[Entry]:
    """grow: makes the text so many times as large."""
    variants = [
        Action(words=variant.capitalize(), run=partial(preferences.use_variant, variant),
               checked=partial(_is, variant, THEME.variant))
        for variant in VARIANTS
    ]  # fmt: skip
    scales = [
        Action(words=f"Text at {scale * 100:.0f} %", run=partial(grow, scale),
               checked=partial(_is, round(scale, 2), round(THEME.text_scale, 2)))
        for scale in TEXT_SCALES
    ]  # fmt: skip
    return [*variants, None, *scales]


def hands_entries(preferences: Preferences, actions: Actions, ask_advice: Callable[[], object]) -> list[Entry]:
    return [
        Action(words="Left-handed: keys and margins change sides", run=preferences.toggle_hand,
               checked=lambda: KEYS.left_handed),
        Action(words="Hold-spots on the desk", run=preferences.toggle_spots, checked=lambda: preferences.spots),
        Submenu("A touch of the pen's other end", lambda: [
            Action(words=words, run=partial(preferences.use_rub, how), checked=partial(_is, how, preferences.rub))
            for how, words in RUB_WORDS.items()
        ]),
        Action(words="When a pull is advised on…", run=ask_advice),
        Submenu("A word about breaks", lambda: [
            Action(words=f"after {minutes} minutes of pulling" if minutes else "never",
                   run=partial(preferences.use_cautions, minutes), checked=partial(_is, minutes, preferences.cautions))
            for minutes in MINUTES
        ]),
        Submenu("The pen's button", lambda: [
            Action(words=f"{KEYS.shown(key)}: {one.key_words}", run=partial(preferences.use_pen_button, key),
                   checked=partial(_is, key, preferences.pen_button))
            for key, one in actions.by_key.items()
        ]),
    ]  # fmt: skip


def _is(value: object, chosen: object) -> bool:
    return value == chosen
