"""What a hatch is told by, as the core takes it: its net, its grey, its sets. All checks at the door."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.board.targets import PrintTarget
from plain_stride.hand.nib import Nib
from plain_stride.job.board_facts import target_of
from plain_stride.job.change_context import nib_named, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.tone_fields import course_told, edges_told, field_told
from plain_stride.tone.field import Field
from plain_stride.tone.grey import Grey, grey_over
from plain_stride.tone.hatching import Hatch, Holds, Set, hatched
from plain_stride.tone.nets import Across, Between, Net, Shifted, bow_of, straight_net, travel
from plain_stride.tone.shadows import core_shadow
from plain_stride.tone.uneven import Hand
from plain_stride.weight.lamps import Lamp

ANGLE, GREY, USUAL_NIB, USUAL_LIGHT = 45.0, 0.3, "3", 315.0
CORE_TOLD: dict[str, Any] = {"grey": [0.55, 0.12], "tips": 2.0}
ALONG, ACROSS = RUNS = ("along", "across")
STRAIGHT_BOW = np.array([[0.0, 0.0], [1.0, 0.0]])
BEYOND = 0.25
MOST_WIDENING = 0.5


@dataclass(frozen=True, eq=False)
class HatchTold:
    """field, net, grey, hatch, holds: what `tone.hatching` lays it from; nib: that its strokes are drawn with; target:
    what it is printed on."""

    field: Field
    net: Net
    grey: Grey
    hatch: Hatch
    holds: Holds
    nib: Nib
    target: PrintTarget

    def sets(self, exact: bool = True) -> list[Set]:
        """The strokes; not exact: for the eye, in a moment. Raises ToneError."""
        return hatched(self.field, self.net, self.grey, self.hatch, self.holds, exact)


def hatch_told(job: JobRows, shapes: Shapes, told: dict[str, Any]) -> HatchTold:
    """Reads the arguments of the change `hatch`. Raises JobError, ToneError."""
    return hatch_in(job, shapes, *field_and_told(job, shapes, told))


def hatch_in(job: JobRows, shapes: Shapes, field: Field, told: dict[str, Any]) -> HatchTold:
    """The same where its field is known, and what follows from others is among its arguments. Raises JobError,
    ToneError."""
    nib, target = nib_named(job, told.get("nib", USUAL_NIB)), target_of(job)
    angle = number(told.get("angle", ANGLE), "an angle", -3600.0, 3600.0)
    net, straight = net_told(job, shapes, told, field)
    grey = grey_told(told.get("grey", GREY), field, net, told.get("towards"))
    crossing = tuple(number(told[name], "an angle", -3600.0, 3600.0) - (angle if straight else 0.0)
                     for name in ("second", "third") if told.get(name) is not None)  # fmt: skip
    pitch = told.get("pitch")
    hatch = Hatch(
        nib.lightest,
        nib.heaviest,
        crossing,
        None if pitch is None else number(pitch, "a pitch", 0.05, 100.0),
        number(told.get("widening", 0.0), "a widening", 0.0, MOST_WIDENING),
        _tips(told.get("tips", 0.0)),
        number(told.get("continued", 0.0), "how far strokes are continued", 0.0, 100.0),
        Hand(number(told.get("evenness", 0.0), "an evenness", 0.0, 1.0), seed_told(told)),
    )
    return HatchTold(field, net, grey, hatch, Holds(target.line_mm, target.gap_mm), nib, target)


def field_and_told(job: JobRows, shapes: Shapes, told: dict[str, Any]) -> tuple[Field, dict[str, Any]]:
    """(the field of a hatch, its arguments with those that follow from others). Raises JobError, ToneError."""
    field = field_told(job, shapes, told)
    return (field, told) if told.get("core") is None else _in_shadow(job, told, field)


def _in_shadow(job: JobRows, told: dict[str, Any], field: Field) -> tuple[Field, dict[str, Any]]:
    """(the core shadow of a field, the arguments of a hatch that comes out of its dark edge and ends in the light,
    where none are told). Raises JobError, ToneError."""
    share = number(told["core"], "a core shadow's share", 0.0, 1.0)
    lamp = lamp_told(job, told)
    away = lamp.away(field.middle[None])[0]
    angle = float(np.degrees(np.arctan2(-away[0], away[1])))
    return Field(core_shadow(field.area, away, share)), {**CORE_TOLD, "angle": angle, **told}


def lamp_told(job: JobRows, told: dict[str, Any]) -> Lamp:
    """Where light comes from: `light`, degrees clockwise from above or a place [x, y]; else the plan's first lamp; else
    high on the left. Raises JobError, LampError."""
    light = told.get("light")
    if light is None:
        lamps = job.plan.lamps
        return lamps[0] if lamps else Lamp(USUAL_LIGHT)
    if isinstance(light, list | tuple):
        x, y = place_of(light).tolist()
        return Lamp(at=(x, y))
    return Lamp(number(light, "where light comes from", -3600.0, 3600.0))


def seed_told(told: dict[str, Any]) -> int:
    """The seed. Raises JobError."""
    seed = number(told.get("seed", 0), "a seed", -1e6, 1e6)
    if seed != int(seed):
        raise JobError(f"a seed is a whole number, not {seed:g}")
    return int(seed)


def net_told(job: JobRows, shapes: Shapes, told: dict[str, Any], field: Field) -> tuple[Net, bool]:
    """(how strokes go over a field, whether as straights at an angle). Raises JobError, ToneError."""
    angle = number(told.get("angle", ANGLE), "an angle", -3600.0, 3600.0)
    run = told.get("run", ALONG)
    if run not in RUNS:
        raise JobError(f"strokes run {' or '.join(RUNS)} the form, not '{run}'")
    if told.get("edges") is not None:
        a, b = edges_told(job, shapes, told["edges"])
        if run == ACROSS:
            bow = told.get("along")
            return Across(a, b, STRAIGHT_BOW if bow is None else bow_of(course_told(job, shapes, bow))), False
        return Between(a, b, 0.0 if told.get("around") is None and told.get("at") is None else BEYOND), False
    if told.get("along") is not None:
        return Shifted(course_told(job, shapes, told["along"]), field.reach), False
    return straight_net(field, angle), True


def grey_told(grey: Any, field: Field, net: Net, towards: Any) -> Grey:
    """A value, or a ramp [from, to], by default along the strokes. Raises JobError, ToneError."""
    ramp = list(grey) if isinstance(grey, list | tuple) else [grey, grey]
    if len(ramp) != 2:
        raise JobError("a grey is a share of ink, 0 to 1, or a ramp [from, to]")
    start, end = (number(one, "a grey", 0.0, 1.0) for one in ramp)
    if towards is None:
        low, high = net.span
        x, y = travel(net, np.array((low + high) / 2.0), np.array(0.5)).tolist()
        towards = float(np.degrees(np.arctan2(x, -y)))
    return grey_over(field, start, end, number(towards, "a direction", -3600.0, 3600.0))


def _tips(tips: Any) -> tuple[float, float]:
    """mm of point at the start and the end; one number is the end's, towards the light."""
    both = list(tips) if isinstance(tips, list | tuple) else [0.0, tips]
    if len(both) != 2:
        raise JobError("tips are mm of point at the end of strokes, or at both: [start, end]")
    a, b = (number(one, "a tip", 0.0, 50.0) for one in both)
    return a, b
