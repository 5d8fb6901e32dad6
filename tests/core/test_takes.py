"""Takes ranked: the one nearest the truth first; spectral arc length against its closed form and its paper."""

import numpy as np
import pytest

from plain_stride.hand.nib import Steadying
from plain_stride.hand.simulated import HANDS, pulled
from plain_stride.hand.steady import steady
from plain_stride.hand.takes import ranked, spectral_arc_length, straying_of, take_figures, wobble_of
from tests.targets import flowing


def ranked_first(sets: int, seed: int) -> float:
    """Share of sets of five takes of one line in which the one nearest the truth is ranked first; the pencils are known
    to 0.1 mm."""
    rng = np.random.default_rng(seed)
    right = 0
    for n in range(sets):
        truth = flowing(n)
        s = np.linspace(0, 1, len(truth))
        off = 0.1 * np.sqrt(2) * np.sin(2 * np.pi * (3 * s + rng.uniform()))
        pencil = truth + np.column_stack([np.zeros(len(truth)), off])
        figures, far = [], []
        for k in range(5):
            hand = "average" if k else "calm"
            samples = pulled(truth, HANDS[hand if n % 2 else "average"], "normal", [n, k])
            path = steady(samples, Steadying()).path
            figures.append(take_figures(path, samples, pencil))
            far.append(straying_of(path, truth))
        right += ranked(figures)[0] == int(np.argmin(far))
    return right / sets


def test_the_take_nearest_the_truth_is_ranked_first():
    """By average hands, and sets with calm ones among them: asked >= 80 %."""
    assert ranked_first(25, 1) >= 0.8


def test_without_pencils_the_calmer_one_is_better():
    x = np.linspace(0, 80, 400)
    calm = np.column_stack([x, 5 * np.sin(x / 20)])
    shaky = calm + np.column_stack([0 * x, 0.1 * np.sin(x * 2.5)])
    still = np.column_stack([calm, np.full(400, 0.5), np.linspace(0, 1, 400)])
    figures = [take_figures(points, still, None) for points in (shaky, calm)]
    assert ranked(figures) == [1, 0]


def test_a_bend_is_no_wobble_and_a_wave_is():
    a = np.linspace(0, np.pi, 400)
    arc = np.column_stack([np.cos(a), np.sin(a)]) * 15
    assert wobble_of(arc) < 0.004
    wave = arc * (1.0 + 0.1 / 15 * np.sin(a * 40))[:, None]
    assert wobble_of(wave) == pytest.approx(0.1 / np.sqrt(2), rel=0.25)


def minimum_jerk(seconds):
    u = np.linspace(0, 1, 200)
    x = 50 * (10 * u**3 - 15 * u**4 + 6 * u**5)
    return np.column_stack([x, 0 * x, np.full(200, 0.5), u * seconds])


def test_spectral_arc_length_of_a_minimum_jerk_movement():
    """Near -1.41 for a single smooth movement of any duration (Balasubramanian et al. 2012, value from memory), and
    farther from 0 for one that stops on its way."""
    for seconds in (0.5, 1.0, 2.0):
        assert spectral_arc_length(minimum_jerk(seconds)) == pytest.approx(-1.41, abs=0.06)
    a, b = minimum_jerk(0.5), minimum_jerk(0.5)
    b[:, 0] += 50
    b[:, 3] += 0.8
    assert spectral_arc_length(np.vstack([a, b])) < -1.7
    assert spectral_arc_length(a[:3]) == 0.0
