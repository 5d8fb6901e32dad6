"""How much of the tremor goes and how much of the shape, on the finished line as `lines --json` gives it.

A hand with tremor and the same hand without it (same seed) pull the same curve. Gone: 1 - RMS distance between the
two finished lines / RMS distance between the two pulls. Loss: largest distance of the finished line of the hand
without tremor from its own pull, 95th percentile over the pulls. Corners: distance from the place where the hand
without tremor stopped to the finished line of the hand with tremor, 95th percentile.
"""

import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np

from benchmarks.curves import distances, finished, fresh_seeds, rms
from plain_stride.hand.simulated import HANDS, PACES, movement, pulled
from tests.targets import cornered, flowing

PUBLISHED = list(range(24))
WANTED = {"careful": (0.90, 0.05), "normal": (0.85, 0.10), "fast": (0.70, 0.30)}
CORNER_MM = 0.15
AVERAGE = HANDS["average"]
STILL = replace(AVERAGE, tremor=0.0)


def main() -> None:
    for name, seeds in (("published seeds 0 to 23", PUBLISHED), ("24 fresh seeds", fresh_seeds(24))):
        print(f"  {name}: tremor gone, shape loss p95, corner p95")
        for pace, (least, most) in WANTED.items():
            gone, loss, corner = figures(pace, seeds)
            print(f"    {pace:8} {gone:6.1%} (>= {least:.0%})   {loss:.3f} mm (<= {most:.2f})"
                  f"   {corner:.3f} mm (<= {CORNER_MM})", flush=True)  # fmt: skip


def figures(pace: str, seeds: list[int]) -> tuple[float, float, float]:
    """(share of the tremor gone, shape loss mm, corner distance mm)."""
    shaky = [pulled(flowing(seed), AVERAGE, pace, seed) for seed in seeds]
    still = [pulled(flowing(seed), STILL, pace, seed) for seed in seeds]
    turned = [pulled(cornered(seed), AVERAGE, pace, seed) for seed in seeds]
    with tempfile.TemporaryDirectory() as folder:
        lines = finished(Path(folder), shaky + still + turned, "after")
    n = len(seeds)
    gone = [
        1.0 - rms(distances(a, b)) / rms(distances(p[:, :2], q[:, :2]))
        for a, b, p, q in zip(lines[:n], lines[n : 2 * n], shaky, still, strict=True)
    ]
    loss = [distances(line, pull[:, :2]).max() for line, pull in zip(lines[n : 2 * n], still, strict=True)]
    corner = [
        float(distances(stop(seed, pace)[None], line)[0]) for seed, line in zip(seeds, lines[2 * n :], strict=True)
    ]
    return float(np.mean(gone)), float(np.percentile(loss, 95)), float(np.percentile(corner, 95))


def stop(seed: int, pace: str) -> np.ndarray:
    """Where the hand without tremor stopped to turn."""
    target = cornered(seed)
    meant, _ = movement(target, PACES[pace], False, 1.0)
    return pulled(target, STILL, pace, seed)[np.hypot(*(meant - target[1]).T).argmin(), :2]
