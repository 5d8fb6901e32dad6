"""The demo's tones: blacks where the pencils mark them, core shadows away from the lantern, a hatched roof and beam."""

from typing import Any

from plain_stride.demo.draw import Thing

LANTERN = [141.0, 95.0]
"""Where the light stands, mm."""
_BY_HAND = {"evenness": 0.35}


def tones(things: list[Thing]) -> list[tuple[str, dict[str, Any]]]:
    """The changes that lay the tones of some things, the blacks first."""
    marks = [[x, y] for thing in things for x, y, _ in thing.crosses]
    parts = {thing.part for thing in things}
    blacks: list[tuple[str, dict[str, Any]]] = [("blacken", {"at": marks})] if marks else []
    return blacks + [("hatch", {**told, **_BY_HAND}) for part, told in _HATCHED if part in parts]


_HATCHED: tuple[tuple[str, dict[str, Any]], ...] = (
    ("Coat", {"at": [86.0, 95.0], "core": 0.5, "light": LANTERN, "seed": 2}),
    ("Coat", {"at": [74.0, 82.0], "core": 0.5, "light": LANTERN, "seed": 3}),
    ("Coat", {"at": [110.0, 75.0], "core": 0.5, "light": LANTERN, "seed": 4}),
    ("Lock house", {"at": [200.0, 56.0], "grey": 0.25, "angle": 20.0, "seed": 5}),
    ("Beam", {"at": [120.0, 120.0], "grey": [0.35, 0.12], "angle": 93.0, "seed": 6}),
)
"""(the part that it lies on, what the change is told)."""
