"""Passes over the final art: what may be said of each, in mm, so that it looks the same at any resolution.

A pass is for the whole drawing, or for some parts or lines. Switched off it stays in its place and does nothing.
"""

from collections.abc import Callable
from dataclasses import MISSING, dataclass, field, fields
from typing import Any, ClassVar

from plain_stride.colour import checked_colour
from plain_stride.errors import StrideError
from plain_stride.finish.errors import FinishError

MOST_PASSES, MOST_CHOSEN = 40, 20_000
WAYS = ROUND, ALONG, OUT = ("round", "along", "out")
HAND_WORDS = ("calm", "average", "shaky")
Check = Callable[[Any], Any]


class PassError(FinishError):
    """A pass that cannot be done."""


def _number(low: float, high: float, unit: str) -> Check:
    def check(value: Any) -> float:
        if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
            raise PassError(f"goes from {low:g} to {high:g}{unit}, not {str(value)[:40]}")
        return float(value)

    return check


def _flag(value: Any) -> bool:
    if not isinstance(value, bool):
        raise PassError(f"is true or false, not {str(value)[:40]}")
    return value


def _one_of(words: tuple[str, ...]) -> Check:
    def check(value: Any) -> str:
        if value not in words:
            raise PassError(f"is one of {', '.join(words)}, not {str(value)[:40]}")
        return str(value)

    return check


def _texts(value: Any) -> tuple[str, ...]:
    if not isinstance(value, list | tuple) or len(value) > MOST_CHOSEN or not all(isinstance(v, str) for v in value):
        raise PassError("is a list of names")
    return tuple(dict.fromkeys(value))


def _place(value: Any) -> tuple[float, float]:
    if not isinstance(value, list | tuple) or len(value) != 2:
        raise PassError("is [x, y] in mm")
    x, y = (_number(-5000.0, 5000.0, " mm")(v) for v in value)
    return x, y


def _colour(value: Any) -> str:
    try:
        return checked_colour(value)
    except StrideError as fault:
        raise PassError(f"is no colour: {fault}") from None


def _whole(value: Any) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value < 2**31:
        raise PassError(f"is a whole number, not {str(value)[:40]}")
    return value


def _or_none(check: Check) -> Check:
    return lambda value: None if value is None else check(value)


def _field(check: Check, default: Any = MISSING) -> Any:
    return field(default=default, metadata={"check": check})


@dataclass(frozen=True, kw_only=True)
class Pass:
    """on: whether it is done; parts: their keys, lines: ids of lines and blacks that it is for, the whole drawing where
    both are empty."""

    kind: ClassVar[str] = ""
    words: ClassVar[str] = ""
    pixels: ClassVar[bool] = False
    """Whether what it adds is a picture, in SVG and PDF as well."""
    name: str = _field(str, "")
    on: bool = _field(_flag, True)
    parts: tuple[str, ...] = _field(_texts, ())
    lines: tuple[str, ...] = _field(_texts, ())

    def __post_init__(self) -> None:
        for one in fields(self):
            try:
                object.__setattr__(self, one.name, one.metadata["check"](getattr(self, one.name)))
            except PassError as fault:
                raise PassError(f"finish '{self.kind}': '{one.name}' {fault}") from None

    def as_row(self) -> dict[str, Any]:
        """As JSON has it, defaults left out."""
        told = {one.name: getattr(self, one.name) for one in fields(self) if getattr(self, one.name) != one.default}
        return {"pass": self.kind, **{k: list(v) if isinstance(v, tuple) else v for k, v in told.items()}}

    @property
    def title(self) -> str:
        """What it is called."""
        return self.name or self.kind

    @property
    def says(self) -> str:
        """What it does, in words with figures."""
        return self.words


@dataclass(frozen=True, kw_only=True)
class Soft(Pass):
    """A blurred copy. radius: mm, the standard deviation of a Gaussian; strength: of the copy's darkness; over: it lies
    over the ink, else under; way: round, along `angle` (degrees clockwise from straight up), or out from `centre`,
    where it grows to `radius` at `reach` mm away."""

    kind: ClassVar[str] = "soft"
    pixels: ClassVar[bool] = True
    radius: float = _field(_number(0.01, 20.0, " mm"), 0.3)
    strength: float = _field(_number(0.01, 1.0, ""), 0.5)
    over: bool = _field(_flag, False)
    way: str = _field(_one_of(WAYS), ROUND)
    angle: float = _field(_number(-360.0, 360.0, " degrees"), 90.0)
    centre: tuple[float, float] = _field(_place, (0.0, 0.0))
    reach: float = _field(_number(1.0, 5000.0, " mm"), 100.0)

    @property
    def says(self) -> str:
        where = {ROUND: "", ALONG: f" along {self.angle:g}°", OUT: f" out from {self.centre[0]:g}, {self.centre[1]:g}"}
        side = "over" if self.over else "under"
        return f"a copy blurred by {self.radius:g} mm{where[self.way]}, at {self.strength:.0%}, {side} the ink"


@dataclass(frozen=True, kw_only=True)
class OffRegister(Pass):
    """A copy under the ink, shifted by mm, turned by degrees and scaled about the middle of the page, in a colour or in
    its own."""

    kind: ClassVar[str] = "off-register"
    by: tuple[float, float] = _field(_place, (0.4, 0.3))
    turn: float = _field(_number(-45.0, 45.0, " degrees"), 0.0)
    scale: float = _field(_number(0.5, 2.0, ""), 1.0)
    colour: str | None = _field(_or_none(_colour), None)
    over: bool = _field(_flag, False)

    @property
    def says(self) -> str:
        turn = f", turned {self.turn:g}°" if self.turn else ""
        scale = f", scaled {self.scale:g} ×" if self.scale != 1.0 else ""
        colour = f", in {self.colour}" if self.colour else ""
        return f"a copy {self.by[0]:g}, {self.by[1]:g} mm off{turn}{scale}{colour}"


@dataclass(frozen=True, kw_only=True)
class SecondPass(Pass):
    """Each line drawn again by a simulated hand, `loose` times as loosely as it wanders on the sheet, at a share of its
    weight."""

    kind: ClassVar[str] = "second-pass"
    hand: str = _field(_one_of(HAND_WORDS), "average")
    loose: float = _field(_number(0.1, 5.0, ""), 1.5)
    weight: float = _field(_number(0.1, 1.5, ""), 0.6)
    seed: int = _field(_whole, 1)

    @property
    def says(self) -> str:
        return f"each line again by a {self.hand} hand, {self.loose:g} × as loose, at {self.weight:.0%} of its weight"


@dataclass(frozen=True, kw_only=True)
class Tooth(Pass):
    """The textured edge laid on crisp lines: `grain` mm deep on a line of 0.5 mm, deeper on thinner ones."""

    kind: ClassVar[str] = "tooth"
    grain: float = _field(_number(0.01, 0.5, " mm"), 0.08)

    @property
    def says(self) -> str:
        return f"edges worn by {self.grain:g} mm of tooth, more where lines are thin"


@dataclass(frozen=True, kw_only=True)
class Thinned(Pass):
    """All ink drawn in by mm from both edges; lines keep `least` mm, or what they had."""

    kind: ClassVar[str] = "thinned"
    mm: float = _field(_number(0.01, 5.0, " mm"), 0.05)
    least: float = _field(_number(0.02, 5.0, " mm"), 0.1)

    @property
    def says(self) -> str:
        return f"ink drawn in by {self.mm:g} mm from both edges, no line under {self.least:g} mm by it"


@dataclass(frozen=True, kw_only=True)
class LinesAway(Pass):
    """Lines go where the flats on their two sides differ by more than CIEDE2000 says; those in `keep` stay."""

    kind: ClassVar[str] = "lines-away"
    difference: float = _field(_number(0.5, 100.0, ""), 5.0)
    keep: tuple[str, ...] = _field(_texts, ())

    @property
    def says(self) -> str:
        return f"lines away where flats part by a colour difference over {self.difference:g}"


@dataclass(frozen=True, kw_only=True)
class Tint(Pass):
    """One colour over all: each thing has the colour's hue at its own lightness, so black and white stay."""

    kind: ClassVar[str] = "tint"
    colour: str = _field(_colour, "#6a4a2a")

    @property
    def says(self) -> str:
        return f"the hue of {self.colour} over all, each value kept"


PASSES: dict[str, type[Pass]] = {
    one.kind: one for one in (Soft, OffRegister, SecondPass, Tooth, Thinned, LinesAway, Tint)
}


def pass_from_row(row: Any) -> Pass:
    """A pass as JSON has it. Raises PassError."""
    if not isinstance(row, dict) or row.get("pass") not in PASSES:
        raise PassError(f"a finish has a 'pass': one of {', '.join(PASSES)}")
    kind = PASSES[str(row["pass"])]
    known = {one.name for one in fields(kind)}
    strange = [str(key) for key in row if key != "pass" and key not in known]
    if strange:
        raise PassError(f"finish '{kind.kind}' knows no '{strange[0][:40]}'; it takes: {', '.join(sorted(known))}")
    return kind(**{key: value for key, value in row.items() if key != "pass"})


def passes_from_json(data: Any) -> list[Pass]:
    """A stack of finishes, {"finishes": [..]} or a list. Raises PassError."""
    rows = data.get("finishes") if isinstance(data, dict) else data
    if isinstance(data, dict) and data.get("units", "mm") != "mm":
        raise PassError(f"finishes are in mm, not in '{str(data['units'])[:20]}'")
    if not isinstance(rows, list):
        raise PassError('finishes are {"units": "mm", "finishes": [{"pass": ..}, ..]}')
    if len(rows) > MOST_PASSES:
        raise PassError(f"{MOST_PASSES} finishes at most, not {len(rows)}")
    return [pass_from_row(row) for row in rows]
