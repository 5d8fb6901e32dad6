"""The simulated hand at its drills: for those who try the product, and for tests, with a known truth."""

from collections.abc import Iterator

import numpy as np

from plain_stride.hand.simulated import HANDS, Hand, pulled
from plain_stride.practice.drills import Drill
from plain_stride.practice.figures import score_of
from plain_stride.practice.hand_book import Kept, now
from plain_stride.practice.measuring import measured
from plain_stride.practice.targets import Target

SIMULATED = "simulated"


def practised(drill: Drill, hand: str, count: int, seed: int, person: str, pace: str = "normal") -> Iterator[Kept]:
    """So many pulls of a drill, as the hand book keeps them. Raises TargetError."""
    for n in range(count):
        target = drill.target(n)
        samples = drawn(target, HANDS[hand], pace, [seed, n])
        found = measured(samples, target)
        yield Kept(now(), person, SIMULATED, drill.name, n, 1.0, found, score_of(drill.name, found), samples)


def drawn(target: Target, hand: Hand, pace: str, seed: list[int]) -> np.ndarray:
    """Samples (n, 5) of one pull along a target; its pressure follows the widths that are asked."""
    samples = pulled(target.points, hand, pace, seed)
    if target.shares is not None:
        from scipy.spatial import cKDTree

        near = cKDTree(target.points).query(samples[:, :2])[1]
        # The hand's own pressure stands at .55 in the mean; what it does over that is kept.
        samples[:, 2] = np.clip(samples[:, 2] / 0.55 * target.shares[near], 0.0, 1.0)
    return samples
