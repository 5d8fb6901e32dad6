"""How many Bézier pieces a steadied line takes, and how far they lie from it: measured anew with 150 points a piece.

The truth is the C1 cubic in time through the steadied samples, read 20 times as densely.
"""

import time

import numpy as np

from benchmarks.curves import distances, fresh_seeds
from plain_stride.compiled.ready import load_if_compiled
from plain_stride.hand.nib import Steadying
from plain_stride.hand.resample import read_at
from plain_stride.hand.simulated import HANDS, PACES, pulled
from plain_stride.hand.steady import steady
from plain_stride.lines.centre import fitted
from plain_stride.lines.curve import Arc, point
from tests.targets import flowing

POINTS, FINER = 150, 20
MOST_PIECES, MOST_MM = 20.0, 0.02
RUNS = 24


def main() -> None:
    load_if_compiled()
    for pace in PACES:
        pieces, worst, ms = figures(pace, fresh_seeds(RUNS))
        print(
            f"  {pace:8} {pieces:4.1f} pieces per 100 mm (<= {MOST_PIECES:g}), worst {worst:.4f} mm (<= {MOST_MM})"
            f", fit {ms:.1f} ms a line (median)",
            flush=True,
        )


def figures(pace: str, seeds: list[int]) -> tuple[float, float, float]:
    """(pieces per 100 mm, largest distance mm either way, median ms of a fit) over lines without corners."""
    pieces, length, worst, spent = 0, 0.0, 0.0, []
    for seed in seeds:
        steadied = steady(pulled(flowing(seed), HANDS["average"], pace, seed), Steadying())
        begun = time.perf_counter()
        curve = fitted(steadied).curve
        spent.append(time.perf_counter() - begun)
        pieces += len(curve)
        length += Arc(curve).length
        worst = max(worst, _apart(curve, steadied.t, steadied.path))
    return 100.0 * pieces / length, worst, 1000.0 * float(np.median(spent))


def _apart(curve: np.ndarray, t: np.ndarray, path: np.ndarray) -> float:
    truth = read_at(t, path, np.linspace(t[0], t[-1], FINER * len(t)))
    k, u = np.repeat(np.arange(len(curve)), POINTS), np.tile(np.linspace(0.0, 1.0, POINTS), len(curve))
    points = point(curve, k, u)
    return float(max(distances(points, truth).max(), distances(truth, points).max()))
