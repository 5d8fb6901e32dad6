"""Which place on the board of keys does what: the defaults, their mirror for left-handed inkers, the inker's own.

Places and uses are named alike, by the letter that a US board has there: use "S" lies at place "S" by default.
"""

import json
from collections.abc import Iterable
from dataclasses import dataclass, field

from plain_stride.desk.keys.keyboard_layout import printed_letters
from plain_stride.desk.settings import Settings

PLACES = {
    "1": 2, "2": 3, "3": 4, "4": 5, "5": 6, "6": 7, "7": 8, "8": 9, "9": 10, "0": 11, "-": 12, "=": 13,
    "Q": 16, "W": 17, "E": 18, "R": 19, "T": 20, "Y": 21, "U": 22, "I": 23, "O": 24, "P": 25, "[": 26, "]": 27,
    "A": 30, "S": 31, "D": 32, "F": 33, "G": 34, "H": 35, "J": 36, "K": 37, "L": 38, ";": 39, "'": 40, "`": 41,
    "Z": 44, "X": 45, "C": 46, "V": 47, "B": 48, "N": 49, "M": 50, ",": 51, ".": 52, "/": 53,
}  # fmt: skip
"""Key codes of the Linux input layer (linux/input-event-codes.h, from memory), by the letter on a US board."""
_ROWS = ("QWERTYUIOP", "ASDFGHJKL;", "ZXCVBNM,./")
MIRROR = {a: b for row in _ROWS for a, b in zip(row, reversed(row), strict=True)}
"""The place that the other hand reaches as this one does; digits stay, since numbers name nibs."""


@dataclass
class KeyPlan:
    """own: places that the inker has chosen, by use."""

    left_handed: bool = False
    own: dict[str, str] = field(default_factory=dict)
    seen: dict[str, str] = field(default_factory=dict)

    def change_hands(self) -> None:
        """Keys lie for the other hand."""
        self.left_handed = not self.left_handed

    def place(self, use: str) -> str:
        """Where a use lies."""
        return self.own.get(use) or (MIRROR.get(use, use) if self.left_handed else use)

    def use_at(self, place: str, uses: Iterable[str]) -> str:
        """The use at a place, '' where there is none."""
        return next((use for use in uses if self.place(use) == place), "")

    def clash(self, use: str, place: str, uses: Iterable[str]) -> str:
        """The other use that lies at a place already, '' where it is free."""
        there = self.use_at(place, uses)
        return there if there != use else ""

    def move(self, use: str, place: str) -> None:
        """Lets a use lie elsewhere."""
        self.own[use] = place

    def printed(self, place: str) -> str:
        """What is printed there on this board of keys: as it was seen when it was pressed, else by the layout."""
        return self.seen.get(place) or printed_letters(tuple(PLACES.items())).get(place, place)

    def shown(self, use: str) -> str:
        """What is printed on the key of a use."""
        return self.printed(self.place(use))

    def load(self, settings: Settings) -> None:
        """Takes what was remembered; what cannot be read counts as not set."""
        self.left_handed = bool(int(settings.number("left_handed", 0)))
        try:
            kept = json.loads(str(settings.get("keys", "{}")))
            self.own = {str(use): str(place) for use, place in kept.items() if place in PLACES}
        except (ValueError, AttributeError):
            self.own = {}

    def store(self, settings: Settings) -> None:
        settings.put("left_handed", int(self.left_handed))
        settings.put("keys", json.dumps(self.own))


KEYS = KeyPlan()
"""The plan in use."""
