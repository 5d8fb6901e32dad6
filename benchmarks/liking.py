"""Turn to the hand: how often, and how closely, the steadiest axis is found after 60 and after 240 pulls.

Hands whose wander is so much less along their axis and more across it; lines known as a reading knows them, to 0.1 mm.
"""

import time
from dataclasses import replace

import numpy as np

from benchmarks.told import told
from plain_stride.hand.simulated import HANDS
from tests.core.test_liking import apart, found

TRIALS = 30


def main() -> None:
    axes = np.random.default_rng(1).uniform(0.0, 180.0, TRIALS)
    for strain in (0.1, 0.2, 0.3):
        for pulls in (60, 240):
            begun = time.perf_counter()
            likings = [found(k, replace(HANDS["average"], best_direction=axis, strain=strain), pulls)
                       for k, axis in enumerate(axes)]  # fmt: skip
            spent = (time.perf_counter() - begun) / TRIALS
            named = [(liking.axis, axis) for liking, axis in zip(likings, axes, strict=True) if liking.axis is not None]
            off = [apart(a, b) for a, b in named]
            what = f"strain {strain:.0%}, {pulls} pulls"
            told(f"{what}: an axis is named", len(named) / TRIALS, None, "least", "%")
            told(f"{what}: named within 15 degrees", sum(v <= 15.0 for v in off) / TRIALS, None, "least", "%")
            told(f"{what}: off (median)", float(np.median(off)) if off else 90.0, 15.0, "most", "°")
            print(f"    {spent:.1f} s a hand, its pulls made and learned from")
