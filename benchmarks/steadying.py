"""How much of the tremor goes and how much of the shape, on the finished line as `lines --json` gives it.

A hand with tremor and the same hand without it (same seed) pull the same curve. Gone: 1 - RMS distance between the
two finished lines / RMS distance between the two pulls. Loss: largest distance of the finished line of the hand
without tremor from its own pull, 95th percentile over the pulls. Corners: distance from the place where the hand
without tremor stopped to the finished line of the hand with tremor, 95th percentile.
Compared: moving average, 1-euro (Casiez, Roussel and Vogel 2012), Savitzky and Golay 1964, penalised differences
(Whittaker 1923, Eilers 2003), each at the least
strength that takes out SHARE of the tremor at normal pace.
"""

import tempfile
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from scipy.signal import savgol_filter

from benchmarks.curves import distances, finished, fresh_seeds
from plain_stride.hand.simulated import HANDS, PACES, movement, pulled
from plain_stride.hand.solve import penalty_for, steady_solve
from tests.targets import cornered, flowing

PUBLISHED = list(range(24))
WANTED = {"careful": (0.90, 0.05), "normal": (0.85, 0.10), "fast": (0.70, 0.30)}
CORNER_MM = 0.15
SHARE = 0.85
AVERAGE = HANDS["average"]
STILL = replace(AVERAGE, tremor=0.0)


def main() -> None:
    for name, seeds in (("published seeds 0 to 23", PUBLISHED), ("24 fresh seeds", fresh_seeds(24))):
        print(f"  {name}: tremor gone, shape loss p95, corner p95")
        for pace, (least, most) in WANTED.items():
            gone, loss, corner = figures(pace, seeds)
            print(f"    {pace:8} {gone:6.1%} (>= {least:.0%})   {loss:.3f} mm (<= {most:.2f})"
                  f"   {corner:.3f} mm (<= {CORNER_MM})", flush=True)  # fmt: skip
    _compare()


def figures(pace: str, seeds: list[int]) -> tuple[float, float, float]:
    """(share of the tremor gone, shape loss mm, corner distance mm)."""
    shaky = [pulled(flowing(seed), AVERAGE, pace, seed) for seed in seeds]
    still = [pulled(flowing(seed), STILL, pace, seed) for seed in seeds]
    turned = [pulled(cornered(seed), AVERAGE, pace, seed) for seed in seeds]
    with tempfile.TemporaryDirectory() as folder:
        lines = finished(Path(folder), shaky + still + turned, "after")
    n = len(seeds)
    gone = [
        1.0 - _rms(distances(a, b)) / _rms(distances(p[:, :2], q[:, :2]))
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


def _compare() -> None:
    """Shape loss of known smoothers at an equal share of the tremor (in time, not on the finished line)."""
    from plain_stride.hand.nib import Steadying
    from plain_stride.hand.steady import steady

    pulls = [(pulled(flowing(s), AVERAGE, "normal", s), pulled(flowing(s), STILL, "normal", s)) for s in PUBLISHED]
    own = _measured(lambda p: steady(p, Steadying()).path, pulls)
    print(f"  normal pace, in time: ours {own[0]:.1%} gone, {own[1]:.3f} mm lost; others where they reach {SHARE:.0%}:")
    ways = {
        "moving average": (lambda k, p: _mean(p, 2 * k + 1), range(1, 40)),
        "1-euro": (lambda k, p: _one_euro(p, 8.0 / k), range(1, 40)),
        "Savitzky-Golay": (lambda k, p: savgol_filter(p[:, :2], 2 * k + 5, 3, axis=0), range(1, 40)),
        "Whittaker-Eilers": (lambda k, p: _whittaker(p, 12.0 / k**0.5), range(1, 40)),
    }
    for name, (smooth, strengths) in ways.items():
        tried = (_measured(partial(smooth, k), pulls) for k in strengths)
        best = next((r for r in tried if r[0] >= SHARE), None)
        told = "never does" if best is None else f"{best[0]:.1%} gone, {best[1]:.3f} mm lost"
        print(f"    {name:17} {told}", flush=True)


def _measured(smooth, pulls) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    gone, loss = [], []
    for shaky, still in pulls:
        a, b = smooth(shaky), smooth(still)
        gone.append(1.0 - _rms(distances(a, b)) / _rms(distances(shaky[:, :2], still[:, :2])))
        loss.append(distances(b, still[:, :2]).max())
    return float(np.mean(gone)), float(np.percentile(loss, 95))


def _mean(p: np.ndarray, long: int) -> np.ndarray:
    padded = np.pad(p[:, :2], ((long // 2, long // 2), (0, 0)), mode="edge")
    return np.column_stack([np.convolve(padded[:, k], np.full(long, 1.0 / long), "valid") for k in (0, 1)])


def _one_euro(p: np.ndarray, least_hz: float, beta: float = 0.02) -> np.ndarray:
    out = p[:, :2].copy()
    speed = np.zeros(2)
    for k in range(1, len(p)):
        dt = max(p[k, 3] - p[k - 1, 3], 1e-4)
        speed += _gain(1.0, dt) * ((p[k, :2] - p[k - 1, :2]) / dt - speed)
        out[k] = out[k - 1] + _gain(least_hz + beta * np.hypot(*speed), dt) * (p[k, :2] - out[k - 1])
    return out


def _gain(hz: float, dt: float) -> float:
    turn = 2.0 * np.pi * hz * dt
    return float(turn / (turn + 1.0))


def _whittaker(p: np.ndarray, hz: float) -> np.ndarray:
    return steady_solve(p[:, :2], np.full(len(p) - 3, penalty_for(hz, 200.0, False)), 200.0, tremor=False)


def _rms(v: np.ndarray) -> float:
    return float(np.sqrt((v**2).mean()))
