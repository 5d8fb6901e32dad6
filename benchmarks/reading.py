"""Reading pencils: lines of known place through the simulated scanner at three levels, scored against the truth.

Two sets: flowing curves and straights strewn over a sheet, and the demo's own lines. Speed and memory on large scans.
"""

import resource
import time
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from plain_stride.job.demo_draw import straight
from plain_stride.job.demo_scene import SIZE_MM, guides, scene, seen
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.reading import Reading, read_pencils
from plain_stride.pencils.scanner import LEVELS, scan
from tests.targets import flowing

DPI, NEAR_MM, STEP_MM, SHEET = 300.0, 0.25, 0.1, (210.0, 150.0)
WANTED = {"soft": (0.995, 1.2), "rough": (0.945, 1.3), "photo": (0.945, 1.3)}
SHEETS = 4
A4 = (210.0, 297.0)


@dataclass(frozen=True)
class Score:
    f1: float
    lines_per_true: float
    true_per_line: float
    median_mm: float
    false_mm: float
    missed_mm: float


def main() -> None:
    for level, (f1, per) in WANTED.items():
        strewn = [scored(*strewn_sheet(n), SHEET, level, n) for n in range(SHEETS)]
        drawn = [line.points for thing in seen(scene()) for line in thing.lines if thing.part != "Dusk"]
        for name, scores in (("strewn lines", strewn), ("demo", [scored(drawn, guides(), SIZE_MM, level, 7)])):
            mean = Score(*(float(np.mean([getattr(s, f) for s in scores])) for f in Score.__dataclass_fields__))
            print(f"  {level}, {name}: F1 {mean.f1:.4f} (>= {f1}), lines per true {mean.lines_per_true:.2f} (<= {per}),"
                  f" true per line {mean.true_per_line:.2f} (<= 1.2), median {mean.median_mm:.3f} mm,"
                  f" false {mean.false_mm:.1f}, missed {mean.missed_mm:.1f} mm a sheet", flush=True)  # fmt: skip
    _speed()


def strewn_sheet(seed: int) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """(lines, construction lines) of a sheet."""
    rng = np.random.default_rng(seed)
    lines = []
    for k in range(26):
        curve = flowing(100 * seed + k) * rng.uniform(0.5, 1.4)
        a = rng.uniform(0.0, 2.0 * np.pi)
        turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
        lines.append((curve - curve.mean(axis=0)) @ turn + rng.uniform((25.0, 25.0), (185.0, 125.0)))
    for _ in range(6):
        p = rng.uniform((10.0, 10.0), (200.0, 140.0))
        q = p + rng.uniform(-60.0, 60.0, 2)
        lines.append(np.clip(straight(tuple(p), tuple(q), tuple(q + rng.uniform(-40.0, 40.0, 2))), 3.0, (207.0, 147.0)))
    ends = rng.uniform((5.0, 5.0), (200.0, 140.0), (5, 2, 2))
    return lines, [np.linspace(a, b, 100) for a, b in ends]


def scored(lines: list[np.ndarray], faint: list[np.ndarray], size: tuple[float, float], level: str, seed: int) -> Score:
    how = LEVELS[level]
    data = scan(lines, size, DPI, seed, how, faint if level != "soft" else [])
    truth = [_turned(line, how.turn, size) for line in lines]
    return score(truth, read_pencils(darkness(data), DPI / 25.4))


def score(truth: list[np.ndarray], reading: Reading) -> Score:
    """Precision and recall of length within NEAR_MM; how many lines share a true one, and the other way round."""
    true = [_dense(line, False) for line in truth]
    found = [_dense(line.points, line.closed) for line in reading.lines]
    t, f = np.vstack(true), np.vstack(found)
    from_truth, to_truth = cKDTree(f).query(t), cKDTree(t).query(f)
    precision, recall = (to_truth[0] < NEAR_MM).mean(), (from_truth[0] < NEAR_MM).mean()
    near = to_truth[0][to_truth[0] < NEAR_MM]
    return Score(
        float(2 * precision * recall / (precision + recall)),
        _shared(true, found, from_truth),
        _shared(found, true, to_truth),
        float(np.median(near)),
        float(np.count_nonzero(to_truth[0] > 1.0) * STEP_MM),
        float(np.count_nonzero(from_truth[0] > 1.0) * STEP_MM),
    )


def _shared(ones: list[np.ndarray], others: list[np.ndarray], nearest: tuple[np.ndarray, np.ndarray]) -> float:
    """How many of the others take part in one, in the mean, by more than 1 mm and a tenth of it."""
    owner = np.concatenate([np.full(len(o), n) for n, o in enumerate(others)])
    counts, at = [], 0
    for one in ones:
        far, index = nearest[0][at : at + len(one)], nearest[1][at : at + len(one)]
        at += len(one)
        if (far < NEAR_MM).any():
            _, n = np.unique(owner[index[far < NEAR_MM]], return_counts=True)
            counts.append(np.count_nonzero(n * STEP_MM > max(1.0, 0.1 * len(one) * STEP_MM)))
    return float(np.mean(counts))


def _dense(points: np.ndarray, closed: bool) -> np.ndarray:
    p = np.vstack([points, points[:1]]) if closed else points
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    at = np.arange(0.0, s[-1] + 1e-9, STEP_MM)
    return np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])


def _turned(points: np.ndarray, degrees: float, size: tuple[float, float]) -> np.ndarray:
    middle, a = np.array(size) / 2.0, np.radians(degrees)
    return (points - middle) @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) + middle


def _speed() -> None:
    lines = [line + (0.0, 140.0 * k) for k in (0, 1) for line in strewn_sheet(k)[0]]
    for name, dpi, level, most in (("A4 at 300 dpi", 300.0, "soft", 4.0), ("A4 at 300 dpi", 300.0, "rough", 4.0),
                                   ("A4 at 680 dpi", 680.0, "rough", 20.0)):  # fmt: skip
        dark = darkness(scan(lines, A4, dpi, 3, LEVELS[level]))
        began = time.perf_counter()
        reading = read_pencils(dark, dpi / 25.4)
        spent = time.perf_counter() - began
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
        print(f"  {name}, {level}, {dark.size / 1e6:.1f} Mpx: {spent:.1f} s (<= {most:g}), {len(reading.lines)} lines;"
              f" peak of this process so far, scanner and all, {peak:.2f} GB (<= 2)", flush=True)  # fmt: skip
