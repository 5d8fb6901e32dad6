"""Where a hand is steadiest and how far it reaches, as pulls of practice tell."""

from collections.abc import Callable, Sequence

import numpy as np

from plain_stride.hand.liking import Beside, Liking, beside, liking_of
from plain_stride.hand.pull import Pull, View
from plain_stride.practice.drills import DRILLS
from plain_stride.practice.hand_book import Kept

LATELY = 120


def liking_from(pulls: Sequence[Kept], samples_of: Callable[[int], np.ndarray | None]) -> Liking:
    """samples_of: gives a pull's samples by its number in the book, None where they were let go."""
    drills = {drill.name: drill for drill in DRILLS}
    found: list[Beside] = []
    for kept in pulls[-LATELY:]:
        samples = samples_of(kept.id) if kept.id else None
        if samples is None or kept.drill not in drills:
            continue
        one = beside(Pull(samples, view=View(kept.scale)), drills[kept.drill].target(kept.number).points)
        if one is not None:
            found.append(one)
    return liking_of(found)


def liked(pulls: Sequence[Kept], samples_of: Callable[[int], np.ndarray | None]) -> str:
    """In a sentence, '' where nothing is sure."""
    told = liking_from(pulls, samples_of)
    if told.axis is None:
        return ""
    reach = f", within **{told.reach:.0f} mm**" if told.reach is not None else ""
    return f"Steadiest along **{told.axis:.0f}°** from upright{reach}."
