"""A set as a hand lays it: pitches and widths that differ, courses that wander, strokes that skip and leave a dot, as
if the pen ran dry. The same seed gives the same strokes."""

from dataclasses import dataclass

import numpy as np

PITCH_CV, WIDTH_CV = 0.30, 0.20
"""Coefficients of variation of pitch and width at evenness 1, the hand-made end of the slider."""
WANDER, WANDER_MM, OFF_MM = 0.10, 15.0, 0.8
"""At evenness 1: how far courses wander, as a share of the pitch, where they are so long; by how much ends miss their
edges, mm."""
SKIPS, DOTS = 0.18, 0.4
"""At evenness 1: how many strokes skip; how many of these leave a dot in the gap."""
GAP_MM, DOT_MM, LEAST_SKIPPED_MM = (0.5, 1.6), 0.35, 6.0
MOST_OFF = 2.2


@dataclass(frozen=True)
class Hand:
    """evenness: 0 ruled to 1 hand-made; seed: any whole number."""

    evenness: float = 0.0
    seed: int = 0

    @property
    def cv_pitch(self) -> float:
        """The coefficient of variation of pitch that it lays."""
        return PITCH_CV * self.evenness

    @property
    def cv_width(self) -> float:
        """The coefficient of variation of width that it lays."""
        return WIDTH_CV * self.evenness

    def rng(self, what: int) -> np.random.Generator:
        """Chances for one purpose: what is drawn for one leaves those of the others as they are."""
        return np.random.default_rng([abs(self.seed), what])


def moved_courses(t: np.ndarray, hand: Hand, which: int) -> np.ndarray:
    """Where courses (k,) go instead: their pitches vary as the hand has it, and add up as before."""
    if not hand.evenness or len(t) < 3:
        return t
    steps = np.diff(t)
    gain = 1.0 + hand.cv_pitch * _standard(hand.rng(10 * which + 1), len(steps))
    there = t[0] + np.concatenate([[0.0], np.cumsum(steps * gain)])
    # What the last comes to lie off is shared among all, so that the field stays covered.
    return np.asarray(there + np.linspace(0.0, t[-1] - there[-1], len(t)))


def width_gains(count: int, hand: Hand, which: int) -> np.ndarray:
    """By how much each of so many strokes is wider or thinner, as factors (count,)."""
    if not hand.evenness:
        return np.ones(count)
    return np.asarray(1.0 + hand.cv_width * _standard(hand.rng(10 * which + 2), count))


def wander(lengths: np.ndarray, share: np.ndarray, hand: Hand, which: int) -> np.ndarray:
    """How far courses (m,) of these lengths, mm, leave their place, in pitches, at shares (n,) along them: (m, n).
    Slow, half a wave to two; short ones less, as a hand has no time to stray on them."""
    rng, count = hand.rng(10 * which + 3), len(lengths)
    waves, phases = rng.uniform(0.5, 2.0, (count, 1)), rng.uniform(0.0, 2.0 * np.pi, (count, 1))
    tilt = rng.normal(0.0, 0.5, (count, 1)) * (share - 0.5)
    strength = hand.evenness * WANDER * np.minimum(lengths / WANDER_MM, 1.0)[:, None]
    return np.asarray(strength * (np.sin(2.0 * np.pi * waves * share + phases) + tilt))


def missed_ends(count: int, hand: Hand, which: int) -> np.ndarray:
    """By how many mm strokes end before (above 0) or beyond their edges: (count, 2)."""
    rng = hand.rng(10 * which + 4)
    return np.asarray(hand.evenness * OFF_MM * rng.normal(0.0, 0.35, (count, 2)))


def skips(lengths: np.ndarray, hand: Hand, which: int) -> list[tuple[int, float, float, bool]]:
    """(stroke, from, to, whether a dot lies between) in mm along it, of strokes that skip."""
    rng = hand.rng(10 * which + 5)
    out = []
    for k, length in enumerate(lengths.tolist()):
        chance, where, wide, dot = rng.uniform(size=4)
        if length > LEAST_SKIPPED_MM and chance < SKIPS * hand.evenness:
            at, gap = (0.3 + 0.5 * where) * length, GAP_MM[0] + (GAP_MM[1] - GAP_MM[0]) * wide
            out.append((k, at - gap / 2.0, at + gap / 2.0, bool(dot < DOTS)))
    return out


def _standard(rng: np.random.Generator, count: int) -> np.ndarray:
    """Chances (count,) of mean 0 and deviation 1 as they are, not only on average; none is far off."""
    z = np.clip(rng.normal(size=count), -MOST_OFF, MOST_OFF)
    z = z - z.mean()
    return np.asarray(z / max(float(z.std()), 1e-9)) if count > 1 else np.zeros(count)
