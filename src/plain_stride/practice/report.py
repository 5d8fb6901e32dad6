"""The hand book as JSON tells it: drills, and the figures of each person's hand with each device."""

from collections.abc import Sequence
from typing import Any

from plain_stride.hand.liking import Liking
from plain_stride.practice.drills import DRILLS
from plain_stride.practice.estimates import Estimate
from plain_stride.practice.figures import HandFigures, by_month, figures_of, what_changed
from plain_stride.practice.hand_book import HandBook, Kept
from plain_stride.practice.liked import liking_from
from plain_stride.practice.speeds import SweetSpot

LATELY = 60
"""Pulls that stand for the hand as it is now, against as many before."""


def practice_json(book: HandBook) -> dict[str, Any]:
    """All that the book says. Lengths are mm on the tablet."""
    return {
        "units": "mm",
        "drills": [{"name": drill.name, "words": drill.words, "figures": list(drill.figures)} for drill in DRILLS],
        "hands": [
            {
                **hand_json(person, device, pulls := book.pulls(person, device)),
                "steadiest": _liking(liking_from(pulls, book.samples_of)),
            }
            for person, device in book.devices()
        ],
        "principles": [page.words for page in book.pages("principle")],
        "settings": [{"words": page.words, **page.told} for page in book.pages("setting")],
    }


def hand_json(person: str, device: str, pulls: Sequence[Kept]) -> dict[str, Any]:
    """Of one hand and device: figures of the last pulls, month by month, and what changed."""
    lately, before = pulls[-LATELY:], pulls[-2 * LATELY : -LATELY]
    return {
        "person": person,
        "device": device,
        "pulls": len(pulls),
        "figures": figures_json(figures_of(lately)),
        "months": {month: figures_json(figures) for month, figures in by_month(pulls).items()},
        "changes": [{"figure": c.figure, "factor": round(c.factor, 3), "low": round(c.low, 3),
                     "high": round(c.high, 3), "chance": round(c.chance, 4), "real": c.real}
                    for c in what_changed(before, lately)],
    }  # fmt: skip


def figures_json(f: HandFigures) -> dict[str, Any]:
    pressure = [f.light, f.firm]
    return {
        "pulls": f.pulls,
        "shake": _estimate(f.shake),
        "hz": _estimate(f.hz),
        "wander": _estimate(f.wander),
        "end": _estimate(f.end),
        "pressure": None if None in pressure else [_estimate(one) for one in pressure if one is not None],
        "pivots": {joint: _estimate(one) for joint, one in f.pivots.items()},
        "best_speed": _spot(f.best_speed),
    }


def _liking(told: Liking) -> dict[str, Any]:
    """The axis along which the hand is steadiest, degrees clockwise from upright, and its reach; None where pulls
    do not tell."""
    return {"axis_deg": None if told.axis is None else round(told.axis, 1),
            "reach": None if told.reach is None else round(told.reach, 1)}  # fmt: skip


def _estimate(one: Estimate) -> dict[str, Any]:
    low, high = (None if v is None else round(v, 4) for v in (one.low, one.high))
    return {"value": round(one.value, 4), "low": low, "high": high, "pulls": one.count}


def _spot(one: SweetSpot | None) -> dict[str, Any] | None:
    if one is None:
        return None
    return {"mm_per_s": round(one.speed, 2), "low": round(one.low, 2), "high": round(one.high, 2),
            "error": round(one.error, 4), "between": one.inside}  # fmt: skip
