"""What the inker said of a line's weight: where its form lies, whether it throws a shadow, its own share, that it
stays."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from plain_stride.job.record_fields import FARTHEST_SOURCE, numbers, wanted
from plain_stride.lines.recipe import PlanProfile
from plain_stride.weight.scene import FORM_SIDES, LineSays

MOST_KNOTS = 20_000


@dataclass(frozen=True)
class LineWeight:
    """share: 0..1 of the plan, None as its part has it; pinned: the plan's profile that it keeps, None where it follows
    the plan; pinned_share: how much of that it had then, and keeps."""

    form: str = ""
    throws: bool = False
    share: float | None = None
    pinned: PlanProfile | None = None
    pinned_share: float | None = None

    @property
    def says(self) -> LineSays:
        """What of it the plan reads."""
        return LineSays(self.form, self.throws, self.pinned is not None)


PLAIN = LineWeight()


def read_line_weight(value: Any) -> LineWeight:
    """From JSON. Raises RecordError."""
    wanted(isinstance(value, Mapping), "its weight")
    form, throws = value.get("form", ""), value.get("throws", False)
    share, pin = value.get("share"), value.get("pinned")
    wanted(form in FORM_SIDES and isinstance(throws, bool), "its weight")
    kept = pin.get("share") if isinstance(pin, Mapping) else None
    shares = [None if one is None else numbers((one,), 1)[0] for one in (share, kept)]
    wanted(all(one is None or 0.0 <= one <= 1.0 for one in shares), "its share")
    return LineWeight(str(form), bool(throws), shares[0], _read_profile(pin), shares[1])


def plain_line_weight(weight: LineWeight) -> dict[str, Any]:
    """As JSON."""
    pin = weight.pinned
    profile = None if pin is None else {"t": list(pin.source_t), "left": list(pin.left), "right": list(pin.right),
                                        "even": pin.even, "ends": pin.ends and list(pin.ends),
                                        "share": weight.pinned_share}  # fmt: skip
    return {"form": weight.form, "throws": weight.throws, "share": weight.share, "pinned": profile}


def _read_profile(value: Any) -> PlanProfile | None:
    if value is None:
        return None
    wanted(isinstance(value, Mapping), "its pinned widths")
    t = numbers(value["t"], None, FARTHEST_SOURCE)
    left, right = (numbers(value[side], len(t), 1000.0) for side in ("left", "right"))
    wanted(0 < len(t) <= MOST_KNOTS and min(*left, *right) >= 0.0, "its pinned widths")
    wanted(all(a <= b for a, b in pairwise(t)), "its pinned widths")
    ends = value.get("ends")
    first, last = (0.0, 0.0) if ends is None else numbers(ends, 2, 1e4)
    return PlanProfile(t, left, right, bool(value.get("even")), None if ends is None else (first, last))
