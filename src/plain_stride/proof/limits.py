"""The limits of the proof in one table, with their reasons; and house manners, a named set of other ones for a job.

Limits without a source are common practice; every one can be set otherwise.
"""

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.proof.finding import LOOK, MUST, SEVERITIES, SHOULD

FORM = "plain-stride house manners"
OFF = "off"


class MannersError(StrideError):
    """House manners that cannot be."""


@dataclass(frozen=True)
class Limit:
    """value: in `unit`; low, high: between which it can be set; below: whether less than it is a fault; reason: why it
    matters, a sentence."""

    value: float
    unit: str
    severity: str
    low: float
    high: float
    reason: str
    below: bool = False


LIMITS: Mapping[str, Limit] = {
    "gap": Limit(0.1, "mm", SHOULD, 0.0, 1.5, "A fill runs out through it, and the eye stops there."),
    "overshoot": Limit(0.3, "mm", SHOULD, 0.05, 5.0, "A tail past the line that it should end on reads as hurry."),
    "wobble": Limit(0.06, "mm", SHOULD, 0.01, 1.0, "A line that shivers tells of the hand and not of the form."),
    "blob": Limit(0.15, "mm", SHOULD, 0.05, 2.0, "A swelling that comes and goes at once looks like a spill."),
    "too-thin": Limit(1.0, "of the floor", MUST, 0.2, 5.0, "What is thinner than print holds breaks up or is lost.",
                      below=True),
    "fill-in": Limit(1.0, "of the white held", SHOULD, 0.2, 5.0, "White narrower than print holds closes to a clot.",
                     below=True),
    "restated": Limit(0.6, "of the length", SHOULD, 0.2, 0.95, "Several strokes where one is meant look searched for."),
    "stray": Limit(1.5, "mm", LOOK, 0.1, 10.0, "A mark that belongs to nothing is dirt to whoever looks.", below=True),
    "lost": Limit(0.35, "of the rough's tone", LOOK, 0.1, 1.0, "What gave the rough its life has gone in the ink."),
    "uneven-hatch": Limit(0.25, "of the mean", SHOULD, 0.02, 1.0, "One odd gap or stroke breaks a grey."),
    "weight-inversion": Limit(1.1, "times", SHOULD, 1.0, 4.0, "An inner line heavier than the outline flattens it."),
    "tier-inversion": Limit(1.1, "times", SHOULD, 1.0, 4.0, "A farther line heavier than a nearer one turns depth."),
    "light-inversion": Limit(1.1, "times", SHOULD, 1.0, 4.0, "A lit side heavier than the shaded one undoes light."),
    "tangent": Limit(0.3, "mm", SHOULD, 0.0, 2.0, "Edges that just touch lose which of them lies in front.",
                     below=True),
    "flat-weight": Limit(0.04, "of the mean", LOOK, 0.0, 0.5, "One width from end to end is dead, unless it is meant.",
                         below=True),
    "unfinished": Limit(8.0, "mm", SHOULD, 1.0, 500.0, "The pencils go on here and the ink does not."),
    "straying": Limit(0.8, "mm", LOOK, 0.05, 20.0, "Ink that leaves its pencil line draws another form."),
    "off-board": Limit(0.5, "mm", MUST, 0.0, 100.0, "What lies outside the safe margin may be cut off."),
    "pale-colour": Limit(10.0, "of L*", SHOULD, 0.0, 100.0, "A line no darker than its flat reads as a part of it.",
                         below=True),
    "low-resolution": Limit(1.0, "of what print wants", SHOULD, 0.1, 4.0, "Edges will show steps in print.",
                            below=True),
    "halo-uneven": Limit(0.15, "of the mean", SHOULD, 0.01, 1.0, "A halo of uneven width reads as a mistake."),
    "halo-open": Limit(1.0, "mm", SHOULD, 0.05, 50.0, "Where the white closes two blacks become one."),
    "doubled-edge": Limit(2.0, "mm", SHOULD, 0.2, 50.0, "Black, white, black along one edge looks drawn twice."),
    "loose-strand": Limit(30.0, "degrees", LOOK, 5.0, 90.0, "A strand that leaves its sheet pulls the eye along."),
}  # fmt: skip
"""By kind, in the order in which they are told. Reasons are the trade's; figures without a norm are our defaults."""
KINDS = tuple(LIMITS)


@dataclass(frozen=True)
class Manners:
    """Limits of a job that are not the usual ones: name; values: by kind; severities: by kind, 'off' for a kind that is
    not looked for."""

    name: str = "ours"
    values: Mapping[str, float] = field(default_factory=dict)
    severities: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not isinstance(self.name, str) or not 1 <= len(self.name.strip()) <= 80:
            raise MannersError("house manners have a name of 1 to 80 letters")
        for kind in (*self.values, *self.severities):
            if kind not in LIMITS:
                raise MannersError(f"the proof has no kind '{kind}': there are {', '.join(KINDS)}")
        for kind, value in self.values.items():
            known = LIMITS[kind]
            number = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
            if not number or not known.low <= value <= known.high:
                raise MannersError(f"the limit of '{kind}' goes from {known.low:g} to {known.high:g} {known.unit},"
                                   f" not {value!r}")  # fmt: skip
        for kind, severity in self.severities.items():
            if severity not in (*SEVERITIES, OFF):
                raise MannersError(f"'{kind}' is one of {', '.join(SEVERITIES)} or {OFF}, not {severity!r}")

    def limit(self, kind: str) -> float:
        """The limit of a kind, in its unit."""
        return self.values.get(kind, LIMITS[kind].value)

    def severity(self, kind: str, usual: str | None = None) -> str:
        """The severity of a kind, or off. usual: what the check makes of this very finding, where nothing is set."""
        return self.severities.get(kind, usual or LIMITS[kind].severity)

    def as_row(self) -> dict[str, Any]:
        return {"name": self.name, "limits": dict(self.values), "severities": dict(self.severities)}


def manners_from_row(row: Mapping[str, Any]) -> Manners:
    """Manners of a row or a file. Raises MannersError."""
    limits, severities = row.get("limits", {}), row.get("severities", {})
    if not isinstance(limits, dict) or not isinstance(severities, dict):
        raise MannersError("'limits' and 'severities' of house manners are by kind")
    return Manners(row.get("name", "ours"), limits, severities)


def manners_json(manners: Manners) -> str:
    """Manners as a file to give away."""
    return json.dumps({"form": FORM, "units": "mm", **manners.as_row()}, ensure_ascii=False, indent=1) + "\n"


def manners_from_json(data: Mapping[str, Any]) -> Manners:
    """The manners of such a file. Raises MannersError."""
    if data.get("form", FORM) != FORM:
        raise MannersError(f"it holds no house manners but '{data.get('form')}'")
    return manners_from_row(data)
