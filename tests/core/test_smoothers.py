"""The smoothers that ours is compared with are what their authors defined."""

import numpy as np
import pytest
from scipy.signal import savgol_filter

from benchmarks.smoothers import gain, mean, one_euro, savitzky, string
from plain_stride.hand.simulated import HANDS, pulled
from tests.targets import flowing

PULL = pulled(flowing(1), HANDS["average"], "normal", 1)


def test_the_1_euro_filter_is_the_papers():
    """Casiez, Roussel and Vogel 2012 (from memory): alpha = 1 / (1 + tau / Te), tau = 1 / (2 pi fc), fc = fc_min +
    beta |speed|, the speed low-passed with a cutoff of 1 Hz."""
    te, step, least, beta = 1 / 60, 2.0, 1.5, 0.02
    rows = np.zeros((3, 5))
    rows[1:, 0], rows[:, 3] = step, np.arange(3) * te
    alpha = lambda fc: 1.0 / (1.0 + 1.0 / (2.0 * np.pi * fc) / te)  # noqa: E731
    speed = alpha(1.0) * step / te
    first = alpha(least + beta * speed) * step
    speed += alpha(1.0) * (0.0 - speed)
    second = first + alpha(least + beta * speed) * (step - first)
    assert one_euro(rows, least, beta)[:, 0] == pytest.approx([0.0, first, second], rel=1e-12)
    assert gain(1.0, te) == pytest.approx(alpha(1.0))


def test_savitzky_golay_is_scipys_and_the_mean_a_mean():
    assert savitzky(20, PULL) == pytest.approx(savgol_filter(PULL[:, :2], 41, 3, axis=0))
    assert mean(2, PULL)[10] == pytest.approx(PULL[8:13, :2].mean(axis=0))


def test_a_string_is_never_longer_than_it_is_and_is_taken_in_at_the_end():
    out = string(0.5, PULL)
    assert (np.hypot(*(out[:-1] - PULL[:, :2]).T) <= 0.5 + 1e-9).all()
    assert out[-1] == pytest.approx(PULL[-1, :2])
