"""The hand: how much of it steadying takes out and keeps, live and after the pull, beside what was asked.

A hand and the same hand without its shake (same seed) pull the same curve. Removed: 1 - RMS distance between the two
steadied lines / RMS distance between the two pulls. Shape loss: largest distance of the steadied line of the hand
without shake from its own pull, 95th percentile over the pulls. Error: RMS distance of the steadied line of the hand
with shake from the pull of the hand without. Average hand; calm and shaky ones beside it, for comparison only.
"""

import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from benchmarks.curves import distances, finished, rms
from benchmarks.told import told
from plain_stride.compiled.ready import load_if_compiled
from plain_stride.hand.corners import find_corners
from plain_stride.hand.follow import SUGGESTED, followed
from plain_stride.hand.live import LiveInk
from plain_stride.hand.nib import DEFAULT_NIB, Steadying
from plain_stride.hand.resample import even_grid, read_at
from plain_stride.hand.simulated import HANDS, PACES, Hand, pulled
from plain_stride.hand.steady import LIVE_LAG_S, smooth_pressure, steady
from plain_stride.hand.takes import wobble_of
from tests.core.test_response_and_follow import apart, calibration_errors, wandering
from tests.core.test_takes import ranked_first
from tests.targets import cornered, flowing

SEEDS = range(40)
AUTO = Steadying()
Pair = tuple[np.ndarray, np.ndarray]
Smooth = Callable[[np.ndarray], np.ndarray]


def main() -> None:
    load_if_compiled()
    after_the_pull()
    finished_lines()
    small_arcs()
    corners()
    low_tremor()
    leeway()
    live()
    settling()
    widths()
    learned()


def learned() -> None:
    """Follow, ranking and calibration, on the inputs of their tests and more of them."""
    far = []
    for k in range(40):
        truth = flowing(k)
        path, line = wandering(truth, 0.25, k), wandering(truth, 0.1, 100 + k)
        far.append(apart(followed(path, line, SUGGESTED), truth))
    told("follow, as suggested: 0.25 mm RMS becomes", float(np.mean(far)), 0.12, "most", "mm")
    told("the take nearest the truth is ranked first", ranked_first(60, 7), 0.8, "least", "%")
    errors = [calibration_errors(seed) for seed in range(40)]
    told("calibration by 3 x 12 marks: error over the range (mean)", float(np.mean(errors)), 0.05, "most", "")
    told("calibration: at its worst place (median of 40 hands)", float(np.median([e.max() for e in errors])), None,
         "most", "")  # fmt: skip


def pairs(pace: str, hand: Hand, seeds: range = SEEDS) -> list[Pair]:
    """(pull with shake, pull without), of the same hand along the same curves."""
    still = replace(hand, tremor=0.0)
    return [(pulled(flowing(s), hand, pace, s), pulled(flowing(s), still, pace, s)) for s in seeds]


def measured(pulls: list[Pair], steadied: list[Pair]) -> tuple[float, float, float]:
    """(removed, shape loss mm, error mm) of pairs of pulls and of what became of them."""
    gone, loss, error = [], [], []
    for (shaky, still), (a, b) in zip(pulls, steadied, strict=True):
        gone.append(1.0 - rms(distances(a, b)) / rms(distances(shaky[:, :2], still[:, :2])))
        loss.append(float(distances(b, still[:, :2]).max()))
        error.append(rms(distances(a, still[:, :2])))
    return float(np.mean(gone)), float(np.percentile(loss, 95)), float(np.mean(error))


def after_the_pull() -> None:
    print("  after the pull, auto, before fitting (removed, shape loss p95, error)")
    wanted = {"careful": (0.97, 0.02, 0.007), "normal": (0.93, 0.04, 0.014), "fast": (0.80, 0.12, 0.041)}
    for name, hand in HANDS.items():
        for pace, (least, most, error) in wanted.items():
            pulls = pairs(pace, hand)
            found = measured(pulls, [(steady(a, AUTO).path, steady(b, AUTO).path) for a, b in pulls])
            asked = name == "average"
            told(f"{name} {pace}: removed", found[0], least if asked else None, "least", "%")
            told(f"{name} {pace}: shape loss", found[1], most if asked else None, "most", "mm")
            told(f"{name} {pace}: error", found[2], error if asked else None, "most", "mm")


def finished_lines() -> None:
    print("  finished lines through `lines --json` (average hand)")
    wanted = {"careful": (0.95, 0.04, 0.016), "normal": (0.92, 0.06, 0.020), "fast": (0.80, 0.14, 0.050)}
    for pace, (least, most, error) in wanted.items():
        pulls = pairs(pace, HANDS["average"], range(24))
        with tempfile.TemporaryDirectory() as folder:
            lines = finished(Path(folder), [p for pair in pulls for p in pair], "after")
        found = measured(pulls, list(zip(lines[::2], lines[1::2], strict=True)))
        told(f"{pace}: removed", found[0], least, "least", "%")
        told(f"{pace}: shape loss", found[1], most, "most", "mm")
        told(f"{pace}: error", found[2], error, "most", "mm")


def small_arcs() -> None:
    """Arcs of 3 mm radius by a hand that neither shakes nor wanders: how much smaller the radius of their middle half
    comes out, whole rounds and half ones, which are mostly start and stop."""
    still = replace(HANDS["average"], tremor=0.0, wander=0.0)
    for turn, name in ((2.0 * np.pi, "round"), (np.pi, "half a round")):
        a = np.linspace(0.0, turn, 120)
        arc = np.column_stack([np.cos(a), np.sin(a)]) * 3.0 + 50.0
        for pace, most in (("normal", 0.010), ("fast", 0.040)):
            samples = pulled(arc, still, pace, 1)
            shrunk = _radius(samples[:, :2]) - _radius(steady(samples, AUTO).path)
            told(f"3 mm arc shrinks, {name}, {pace}", shrunk, most, "most", "mm")


def _radius(path: np.ndarray) -> float:
    middle = path[len(path) // 4 : -len(path) // 4]
    return float(np.hypot(*(middle - 50.0).T).mean())


def rounded(seed: int, radius: float = 0.35) -> np.ndarray:
    """Two straights of 20 mm that meet in a bend of `radius` mm, which is taken without a stop."""
    start, corner, end = cornered(seed)
    u, v = (start - corner) / 20.0, (end - corner) / 20.0
    half = np.arccos(np.clip(u @ v, -1.0, 1.0)) / 2.0
    back = radius / np.tan(half)
    middle = corner + (u + v) / np.linalg.norm(u + v) * radius / np.sin(half)
    first, last = (np.arctan2(*(corner + w * back - middle)[::-1]) for w in (u, v))
    sweep = (last - first + np.pi) % (2.0 * np.pi) - np.pi
    angles = first + sweep * np.linspace(0.0, 1.0, 12)
    arc = middle + radius * np.column_stack([np.cos(angles), np.sin(angles)])
    legs = [np.linspace(a, b, 40) for a, b in ((start, arc[0]), (arc[-1], end))]
    return np.vstack([legs[0][:-1], arc, legs[1][1:]])


def corners() -> None:
    still = replace(HANDS["average"], tremor=0.0)
    for pace, most in (("careful", 0.02), ("normal", 0.05), ("fast", 0.30)):
        cut = []
        for s in SEEDS:
            line = rounded(s)
            own = pulled(line, still, pace, s)
            apex = own[np.hypot(*(own[:, :2] - cornered(s)[1]).T).argmin(), :2]
            cut.append(float(distances(apex[None], steady(own, AUTO).path)[0]))
        told(f"corner taken on the fly is cut, {pace} (median)", float(np.median(cut)), most, "most", "mm")
    for pace in ("careful", "normal"):
        found = [_corners_of(pulled(cornered(s), HANDS["average"], pace, s)) == 1 for s in range(100)]
        told(f"stopped corners found, {pace}", float(np.mean(found)), 0.95, "least", "%")
    false = [_corners_of(pulled(flowing(s), HANDS["average"], pace, s)) for pace in PACES for s in range(100)]
    told("corners where none are, in 100 pulls (of 300)", sum(false) / 3.0, 1.0, "most", "")


def _corners_of(samples: np.ndarray) -> int:
    t = even_grid(samples[:, 3])
    return len(find_corners(read_at(samples[:, 3], samples[:, :2], t)))


def low_tremor() -> None:
    """A hand whose shake is at 5 to 8 Hz: rarer, and nearer to what drawing is."""
    from plain_stride.hand import simulated

    band, simulated.TREMOR_BAND = simulated.TREMOR_BAND, (5.0, 8.0)
    try:
        pulls = pairs("normal", HANDS["average"])
    finally:
        simulated.TREMOR_BAND = band
    found = measured(pulls, [(steady(a, AUTO).path, steady(b, AUTO).path) for a, b in pulls])
    told("shake of 5 to 8 Hz removed, normal", found[0], 0.65, "least", "%")


def leeway() -> None:
    """Bumps: wobble (over 6 mm) of the steadied line against auto's, mean of the pulls' ratios."""
    for pace in PACES:
        pulls = [pulled(flowing(s), HANDS["average"], pace, s) for s in SEEDS]
        auto = [wobble_of(steady(p, AUTO).path) for p in pulls]
        for mm, most in ((0.2, 0.55), (0.5, 0.30)):
            own = [wobble_of(steady(p, Steadying("after", mm)).path) for p in pulls]
            ratio = float(np.mean([a / max(b, 1e-6) for a, b in zip(own, auto, strict=True)]))
            told(
                f"leeway {mm:g} mm, {pace}: bumps against auto's",
                ratio,
                most if pace == "careful" else None,
                "most",
                "",
            )


def live() -> None:
    wanted = {"careful": (0.50, 0.015, 0.01), "normal": (0.50, 0.015, 0.01), "fast": (0.45, 0.07, 0.03)}
    for pace, (least, late, jump) in wanted.items():
        gone, moves, most, jumps, spent = [], [], [], [], []
        for s in range(16):
            shaky, still = (pulled(flowing(s), replace(HANDS["average"], tremor=v), pace, s)
                            for v in (HANDS["average"].tremor, 0.0))  # fmt: skip
            tips, moved, up, ms = _live_of(shaky)
            calm, *_ = _live_of(still)
            gone.append(1.0 - rms(np.hypot(*(tips - calm).T)) / rms(np.hypot(*(shaky - still)[:, :2].T)))
            moves += moved
            most.append(max(moved, default=0.0))
            jumps.append(up)
            spent += ms
        told(f"live, {pace}: removed at the tip", float(np.mean(gone)), least, "least", "%")
        told(f"live, {pace}: ink older than 100 ms moves (p95)", float(np.percentile(moves, 95)), late, "most", "mm")
        told(f"live, {pace}: the farthest of a pull (median)", float(np.median(most)), None, "most", "mm")
        told(f"live, {pace}: jump at pen-up (p95)", float(np.percentile(jumps, 95)), jump, "most", "mm")
        told(f"live, {pace}: an event (median)", float(np.median(spent)) * 1000.0, 0.3, "most", "ms")


def _live_of(samples: np.ndarray) -> tuple[np.ndarray, list[float], float, list[float]]:
    """(tip after each sample (n, 2), later moves of ink 100 ms old, jump of the end at pen-up, all in mm; s)."""
    ink = LiveInk(Steadying("live"), 1.0)
    tips, seen, spent = [], {}, []
    drawn: dict[int, np.ndarray] = {}
    for x, y, p, t in samples[:, :4]:
        ink.add(x, y, p, t)
        begun = time.perf_counter()
        fresh = ink.advance()
        spent.append(time.perf_counter() - begun)
        tips.append(ink.tail[-1, :2])
        for row in np.vstack([fresh, ink.tail]):
            drawn[round(row[3] * 200.0)] = row[:2]
            if t - row[3] >= 0.1:
                seen.setdefault(round(row[3] * 200.0), row[:2])
    whole = steady(samples, Steadying("live"))
    last = np.array([drawn[k] for k in sorted(drawn)])
    moved = [float(np.hypot(*(drawn[k] - v))) for k, v in seen.items()]
    return np.array(tips), moved, float(distances(last[-60:], whole.path).max()), spent


def settling() -> None:
    """The lag that the window states for live ink, beside how old ink is when it moves no more."""
    ink, oldest = LiveInk(Steadying("live"), 1.0), []
    for x, y, p, t in pulled(flowing(1), HANDS["average"], "normal", 1)[:, :4]:
        ink.add(x, y, p, t)
        ink.advance()
        oldest.append(t - ink.tail[0, 3])
    stated, found = LIVE_LAG_S * 1000.0, float(np.median(oldest)) * 1000.0
    told(f"live ink settles after; stated {stated:.0f} ms", found, stated * 1.2, "most", "ms")


def widths() -> None:
    """A nib of 0.2 to 2 mm under a pressure of 0.55 with a pen's noise of 3 % added: width against the clean one."""
    nib = replace(DEFAULT_NIB, lightest=0.2, heaviest=2.0)
    errors, onset = [], []
    for s in SEEDS:
        clean = pulled(flowing(s), HANDS["average"], "normal", s)[:, 2]
        noisy = np.clip(clean + np.random.default_rng(s).normal(0.0, 0.03, len(clean)), 0.0, 1.0)
        smooth = smooth_pressure(noisy)
        errors.append(rms(nib.width(smooth) - nib.width(clean)))
        half = clean[20:-20].mean() / 2.0
        onset.append((int(np.argmax(smooth >= half)) - int(np.argmax(clean >= half))) * 5.0)
    told("width after pressure smoothing: error", float(np.mean(errors)), 0.030, "most", "mm")
    told("onset of the pressure comes later by (mean)", float(np.mean(onset)), 5.0, "most", "ms")
