"""What a steadying does, as figures to choose it by: how much it shrinks a circle pulled at a pace, and its lag."""

from functools import lru_cache

import numpy as np

from plain_stride.hand.nib import Steadying
from plain_stride.hand.steady import steady

RATE_HZ, TURNS = 200.0, 1.5


@lru_cache(maxsize=64)
def circle_shrinks(setting: Steadying, radius: float, speed: float, glass: float = 1.0) -> float:
    """mm by which a circle of this radius comes out smaller, pulled at a speed (mm/s on the glass) by a hand without
    tremor; glass: mm on the glass for one mm of the sheet."""
    length = 2.0 * np.pi * radius * TURNS
    seconds = max(length * glass / max(speed, 1.0), 0.3)
    t = np.arange(0.0, seconds, 1.0 / RATE_HZ)
    a = 2.0 * np.pi * TURNS * t / seconds
    circle = np.column_stack([np.cos(a), np.sin(a)]) * radius
    samples = np.column_stack([circle, np.full(len(t), 0.5), t, np.full(len(t), np.nan)])
    path = steady(samples, setting, glass).path
    middle = path[len(path) // 4 : -len(path) // 4]
    return float(max(0.0, radius - np.hypot(*middle.T).mean()))
