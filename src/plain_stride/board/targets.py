"""Print targets: what a way of printing or showing holds. Common practice without a published source: every value can
be altered, and only the printer knows the true one."""

import json
import math
from dataclasses import asdict, dataclass, replace
from typing import Any

from plain_stride.board.errors import BoardError

DEFAULT_TARGET = "fine offset"
ASK = "Common practice, no standard: ask your printer."
LIMITS = {"line_mm": (0.01, 50.0), "gap_mm": (0.01, 50.0), "dpi": (1.0, 4800.0), "distance_mm": (50.0, 50_000.0)}
FORM = "plain-stride print targets"


class TargetError(BoardError):
    """A print target that cannot be."""


@dataclass(frozen=True)
class PrintTarget:
    """line_mm, gap_mm: the thinnest line and the thinnest white between two that hold; dpi: the resolution it wants;
    distance_mm: how far it is looked at from; own: made or altered by the inker."""

    name: str
    line_mm: float
    gap_mm: float
    dpi: float
    distance_mm: float
    own: bool = False

    def __post_init__(self) -> None:
        if not isinstance(self.name, str) or not self.name.strip() or len(self.name) > 80:
            raise TargetError("a print target's name is a text of 1 to 80 letters")
        for key, (low, high) in LIMITS.items():
            value = getattr(self, key)
            number = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
            if not number or not low <= value <= high:
                raise TargetError(f"{key} of target '{self.name}' goes from {low:g} to {high:g}, not {value!r}")

    def as_row(self) -> dict[str, Any]:
        row = asdict(self)
        del row["own"]
        return row


STANDARD = {
    target.name: target
    for target in (
        PrintTarget("fine offset", 0.09, 0.15, 600.0, 300.0),
        PrintTarget("digital press", 0.13, 0.20, 600.0, 300.0),
        PrintTarget("office laser", 0.15, 0.20, 600.0, 350.0),
        PrintTarget("newsprint", 0.25, 0.35, 300.0, 350.0),
        PrintTarget("screen print on cloth", 0.50, 0.70, 300.0, 1000.0),
        PrintTarget("laser on wood or rubber", 0.30, 0.40, 500.0, 400.0),
        PrintTarget("phone", 0.08, 0.12, 400.0, 250.0),
        PrintTarget("tablet", 0.12, 0.15, 264.0, 350.0),
        PrintTarget("wall projection", 3.00, 3.00, 25.0, 4000.0),
    )
}
"""By name, for lines and gaps in mm at the finished size."""


def target_from_row(row: dict[str, Any]) -> PrintTarget:
    """A target of a row or a file. Raises TargetError."""
    missing = [key for key in ("name", *LIMITS) if key not in row]
    if missing:
        raise TargetError(f"a print target lacks '{missing[0]}'")
    return PrintTarget(str(row["name"]), **{key: row[key] for key in LIMITS}, own=True)


def targets_json(targets: list[PrintTarget]) -> str:
    """Targets as a file to give away: plain JSON, lengths in mm."""
    rows = [target.as_row() for target in targets]
    return json.dumps({"form": FORM, "units": "mm", "targets": rows}, ensure_ascii=False, indent=1) + "\n"


def targets_from_json(data: dict[str, Any]) -> list[PrintTarget]:
    """The targets of such a file. Raises TargetError."""
    rows = data.get("targets")
    if not isinstance(rows, list) or not rows or not all(isinstance(row, dict) for row in rows):
        raise TargetError("there are no 'targets' in it")
    found = [target_from_row(row) for row in rows]
    if len({target.name for target in found}) < len(found):
        raise TargetError("two of its targets have the same name")
    return found


def scaled(target: PrintTarget, factor: float) -> PrintTarget:
    """What the same target asks of art that will be printed `factor` times as large: mm of this art."""
    return replace(target, line_mm=target.line_mm / factor, gap_mm=target.gap_mm / factor, dpi=target.dpi * factor)
