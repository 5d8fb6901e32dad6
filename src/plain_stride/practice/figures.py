"""What the hand book says of a hand: figures with their intervals, month by month, and what changed."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from plain_stride.practice.changing import Change, changes
from plain_stride.practice.drills import DRILLS, SAME_STROKE, drill_named, pivot
from plain_stride.practice.estimates import Estimate, amplitude, evenness, level
from plain_stride.practice.experiments import experiment
from plain_stride.practice.hand_book import Kept
from plain_stride.practice.measuring import Measures
from plain_stride.practice.speeds import SweetSpot

PRESSURE_DRILL = "light and firm"
FIGURES: dict[str, Callable[[Measures], float | None]] = {
    "shake": lambda m: m.shake,
    "wander": lambda m: m.wander,
    "end": lambda m: m.end,
    "width": lambda m: m.width,
    "pitch": lambda m: abs(m.bias),
}
"""Figures that a pull may be judged by, mm, all the smaller the better."""
COMPARED = ("shake", "wander", "end")
NAMES = {"shake": "shake", "wander": "wander", "end": "end missed by", "width": "width off by",
         "pitch": "pitch off by"}  # fmt: skip


@dataclass(frozen=True)
class HandFigures:
    """Of a person's hand with a device. light, firm: of pressure 0..1; pivots: wander of lines by the joint that they
    are pulled from; best_speed: None where that cannot be told."""

    pulls: int
    shake: Estimate
    hz: Estimate
    wander: Estimate
    end: Estimate
    light: Estimate | None
    firm: Estimate | None
    pivots: Mapping[str, Estimate]
    best_speed: SweetSpot | None


def score_of(drill: str, measures: Measures) -> float:
    """What a pull of a drill is judged by: the first of its figures."""
    value = FIGURES[judged_by(drill)](measures)
    return measures.straying if value is None else value


def judged_by(drill: str) -> str:
    """The first of a drill's figures; of lines of one's own pages, wander."""
    return next((one.figures[0] for one in DRILLS if one.name == drill), "wander")


def figures_of(pulls: Sequence[Kept]) -> HandFigures:
    """Of pulls of one person and device, of any drills but the one of pressure, which looks at nothing else. Speeds are
    held against each other along one target only: others are faster, and harder, by themselves."""
    aimed = [k.measures for k in pulls if k.drill != PRESSURE_DRILL]
    light, firm = pressures(pulls)
    by_pivot: dict[str, list[float]] = {}
    for one in aimed:
        by_pivot.setdefault(pivot(one.length), []).append(one.wander)
    return HandFigures(
        len(pulls),
        amplitude([m.shake for m in aimed]),
        level([m.hz for m in aimed]),
        amplitude([m.wander for m in aimed]),
        amplitude([m.end for m in aimed]),
        light,
        firm,
        {joint: amplitude(values) for joint, values in by_pivot.items()},
        experiment([k for k in pulls if k.drill == SAME_STROKE]).spot,
    )


def pressures(pulls: Sequence[Kept]) -> tuple[Estimate | None, Estimate | None]:
    """(light, firm) of the drill that asks for both in turn: the middle of each pull's pressure."""
    mine = [k for k in pulls if k.drill == PRESSURE_DRILL]
    both = [[sum(k.measures.pressure) / 2.0 for k in mine if k.number % 2 == way] for way in (0, 1)]
    light, firm = (level(values) if values else None for values in both)
    return light, firm


def by_month(pulls: Sequence[Kept]) -> dict[str, HandFigures]:
    """By month, as YYYY-MM, the earliest first."""
    months: dict[str, list[Kept]] = {}
    for kept in pulls:
        months.setdefault(kept.made[:7], []).append(kept)
    return {month: figures_of(some) for month, some in sorted(months.items())}


def what_changed(before: Sequence[Kept], now: Sequence[Kept]) -> tuple[Change, ...]:
    """Of the figures that are compared; only drills that both have pulls of, so that like is held against like."""
    both = {k.drill for k in before} & {k.drill for k in now}
    sides = [{f: [v for k in side if k.drill in both and (v := FIGURES[f](k.measures)) is not None]
              for f in COMPARED} for side in (before, now)]  # fmt: skip
    return changes(sides[0], sides[1])


def pitch_evenness(pulls: Sequence[Kept], pitch: float) -> float:
    """The coefficient of variation of the pitch of lines beside each other, from how far each lies off its target; nan
    for fewer than three."""
    at_once = drill_named(pulls[-1].drill).at_once if pulls else 1
    last = pulls[-(len(pulls) % at_once or at_once) :]
    return evenness([k.number % at_once * pitch - k.measures.bias for k in last])


def worst_drills(pulls: Sequence[Kept], last: int = 60) -> list[str]:
    """Drills that anybody can pull, in the order in which they went worst lately, against the hand's own average."""
    scores: dict[str, list[float]] = {}
    known = {drill.name for drill in DRILLS}
    for kept in pulls[-last:]:
        if kept.drill not in known:
            continue
        scores.setdefault(kept.drill, []).append(kept.score)
    every = {name: amplitude([k.score for k in pulls if k.drill == name]).value for name in scores}
    ratio = {name: amplitude(values).value / max(every[name], 1e-9) for name, values in scores.items()}
    return sorted(ratio, key=lambda name: -ratio[name])
