"""What pulls ask of a hand: seconds with the pen down, those that are held long or pressed hard counting more. To be
reminded by, from common practice; nothing medical."""

import numpy as np

from plain_stride.hand.pull import passed

LONG_S, FIRM = 6.0, 0.7
"""A pull that is held longer than the first, and pressure over the second, strain a hand: common practice."""


def load_of(samples: np.ndarray) -> float:
    """Seconds (n, >= 4 samples: x, y, pressure, seconds): of the pull, once more for what is over LONG_S, once more for
    the time over FIRM pressure."""
    down = passed(samples)
    seconds = float(down.sum())
    firm = float((down * (samples[1:, 2] > FIRM)).sum())
    return seconds + max(0.0, seconds - LONG_S) + firm
