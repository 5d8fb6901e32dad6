"""How far the samples of a pull lie from the line that was made of it: the one figure that needs no model of a hand."""

import numpy as np

from plain_stride.hand.pull import Pull, working_samples
from plain_stride.hand.steady import beside
from plain_stride.lines.shape import Shape

READ_HZ = 400.0
"""How finely a line is read in time: at 110 mm/s a bend of 5 mm radius is then told within 0.002 mm."""


def farthest_sample(pull: Pull, shape: Shape) -> float:
    """The largest distance (mm) of a sample from the nearest place of its line within 60 ms: follow, fit, trims and
    moves included. Samples that trims have cut off do not count; 0 where none is left."""
    samples = working_samples(pull.samples)
    t, first, last = samples[:, 3], float(shape.source_t[0]), float(shape.source_t[-1])
    samples = samples[(t >= first - 1e-9) & (t <= last + 1e-9)]
    if not len(samples) or last <= first:
        return 0.0
    times = np.linspace(first, last, max(2, round((last - first) * READ_HZ) + 1))
    line = shape.arc.point(np.interp(times, shape.source_t, shape.s))
    rate = (len(times) - 1) / (last - first)
    at = np.round((samples[:, 3] - first) * rate).astype(int)
    return float(beside(samples[:, :2], at, line, rate).max())
