"""Nibs: what pressure becomes in mm, how a line ends, how it is steadied."""

from dataclasses import asdict, dataclass, field, replace
from typing import Any

import numpy as np

from plain_stride.hand.errors import HandError
from plain_stride.hand.response import Response, response_of

SCHOOLS = ("off", "live", "after")
END_KINDS = ("pointed", "round", "flat", "broken", "dotted", "stutter")
WIDEST_MM = 50.0
THINNEST_MM = 0.01
MAX_LEEWAY_MM = 20.0
MAX_GRAIN_MM, USUAL_GRAIN_MM = 0.3, 0.06
PAPER, SCREEN = "paper", "screen"
HELD = (PAPER, SCREEN)


class NibError(HandError):
    """A nib or a steadying that cannot be used."""


@dataclass(frozen=True)
class Steadying:
    """school: off, live or after; leeway: how far it may move the shape, mm, None for auto; less_in_bends: whether
    tight bends are left to the hand, after the pull."""

    school: str = "after"
    leeway: float | None = None
    less_in_bends: bool = False

    def __post_init__(self) -> None:
        if self.school not in SCHOOLS:
            raise NibError(f"steadying '{self.school}' is not known: {', '.join(SCHOOLS)}")
        if self.leeway is not None and not 0.0 <= self.leeway <= MAX_LEEWAY_MM:
            raise NibError(f"a leeway of {self.leeway:g} mm is not possible: auto, or 0 to {MAX_LEEWAY_MM:g} mm")


@dataclass(frozen=True)
class Nib:
    """lightest, heaviest: full widths in mm at pressure 0 and 1; response: what pressure becomes between them; group:
    a word that nibs share which one key steps through, '' for none; grain: mm of the paper's tooth in its edge, 0 for
    a crisp one; held: what its mm are mm of, the paper's or the screen's;
    limited: whether its width may change no faster than the swell limit."""

    name: str
    lightest: float
    heaviest: float
    ends: str = "pointed"
    end_mm: float = 2.0
    steadying: Steadying = field(default_factory=Steadying)
    response: Response = field(default_factory=Response)
    group: str = ""
    grain: float = 0.0
    held: str = PAPER
    limited: bool = True

    def __post_init__(self) -> None:
        if not THINNEST_MM <= self.lightest <= self.heaviest <= WIDEST_MM:
            raise NibError(
                f"a nib goes from a lightest to a heaviest width within {THINNEST_MM:g} to {WIDEST_MM:g} mm,"
                f" not from {self.lightest:g} to {self.heaviest:g}"
            )
        if self.ends not in END_KINDS:
            raise NibError(f"ends '{self.ends}' are not known: {', '.join(END_KINDS)}")
        if not 0.0 <= self.end_mm <= 100.0:
            raise NibError(f"an end {self.end_mm:g} mm long is not possible: 0 to 100 mm")
        if not 0.0 <= self.grain <= MAX_GRAIN_MM:
            raise NibError(f"a grain of {self.grain:g} mm is not possible: 0 (crisp) to {MAX_GRAIN_MM:g} mm")
        if self.held not in HELD:
            raise NibError(f"widths cannot be held on '{self.held}': {', '.join(HELD)}")

    @property
    def middle(self) -> float:
        """The geometric middle, with which a mouse draws."""
        return (self.lightest * self.heaviest) ** 0.5

    @property
    def middle_pressure(self) -> float:
        """The pressure that gives the middle."""
        span = self.heaviest - self.lightest
        return self.response.pressure_for((self.middle - self.lightest) / span) if span > 0.0 else 0.5

    def width(self, pressure: np.ndarray) -> np.ndarray:
        """Full widths, mm, for pressures (n,)."""
        out: np.ndarray = self.lightest + (self.heaviest - self.lightest) * self.response.share(pressure)
        return out

    def on_paper(self, glass: float) -> "Nib":
        """The same nib with widths in mm of the paper, for a board that shows a mm of it as `glass` mm: what a pull
        keeps."""
        if self.held == PAPER:
            return self
        light, heavy = (float(np.clip(w / glass, THINNEST_MM, WIDEST_MM)) for w in (self.lightest, self.heaviest))
        end, grain = min(self.end_mm / glass, 100.0), min(self.grain / glass, MAX_GRAIN_MM)
        return replace(self, lightest=light, heaviest=heavy, end_mm=end, grain=grain, held=PAPER)

    def as_row(self) -> dict[str, Any]:
        row = asdict(self)
        row["response"] = None if self.response.plain else self.response.as_row()
        return row


def nib_from_row(row: dict[str, Any]) -> Nib:
    """The nib that `Nib.as_row` gave. Raises NibError for values out of range."""
    try:
        return Nib(
            str(row["name"]),
            float(row["lightest"]),
            float(row["heaviest"]),
            str(row["ends"]),
            float(row["end_mm"]),
            Steadying(**row["steadying"]),
            response_of(row["response"]) if row.get("response") else Response(),
            str(row.get("group", "")),
            float(row.get("grain", 0.0)),
            str(row.get("held", PAPER)),
            bool(row.get("limited", True)),
        )
    except (KeyError, TypeError, ValueError):
        raise NibError("a nib lacks its name, widths, ends or steadying") from None


def next_of_group(nibs: dict[str, Nib], key: str) -> str:
    """The key of the nib that follows in its group, round and round; the same key where it has no fellow."""
    group = nibs[key].group
    keys = [k for k in sorted(nibs) if nibs[k].group == group] if group else [key]
    return keys[(keys.index(key) + 1) % len(keys)]


def standard_nibs() -> dict[str, Nib]:
    """The nine nibs of a new job, by the number key that takes them."""
    return {
        "1": Nib("1", 0.10, 0.25),
        "2": Nib("2", 0.13, 0.50),
        "3": Nib("3", 0.20, 1.00),
        "4": Nib("4", 0.35, 1.4),
        "5": Nib("5", 0.5, 2.0),
        "6": Nib("6", 0.25, 0.25, "round"),
        "7": Nib("7", 0.5, 0.5, "round"),
        "8": Nib("8", 0.3, 1.4, grain=USUAL_GRAIN_MM),
        "9": Nib("9", 1.0, 4.0),
    }


DEFAULT_NIB = standard_nibs()["3"]
