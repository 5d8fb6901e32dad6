"""Ink while it is being pulled: the steadying solved anew on the samples so far, so that the tip stays under the pen.

Only the last LIVE_WINDOW_S are solved at each sample; what is older than LIVE_LAG_S stays as it is.
"""

import numpy as np

from plain_stride.hand.corners import find_corners
from plain_stride.hand.nib import Steadying
from plain_stride.hand.resample import even_grid, read_at
from plain_stride.hand.steady import LIVE_LAG_S, LIVE_WINDOW_S, auto_path, live_noise, mixed, smooth_pressure

CORNER_EVERY = 5
"""Samples between two looks for corners."""


class LiveInk:
    """Add samples as they come. What `advance` gives has settled and never changes any more; `tail` still does.

    Rows are x, y mm, pressure 0..1, time in s.
    """

    def __init__(self, setting: Steadying, glass: float) -> None:
        self._setting, self._glass = setting, glass
        self._rows = np.empty((1024, 4))
        self._count = self._start = 0
        self._looked = 0
        self._corner_times: list[float] = []
        self._settled_until = -np.inf
        self.tail = np.zeros((0, 4))

    def add(self, x: float, y: float, pressure: float, t: float) -> None:
        """Takes a sample; costs next to nothing."""
        if self._count and t <= self._rows[self._count - 1, 3]:
            t = self._rows[self._count - 1, 3] + 1e-4
        if self._count == len(self._rows):
            self._rows = np.concatenate([self._rows, np.empty_like(self._rows)])
        self._rows[self._count] = x, y, pressure, t
        self._count += 1

    def advance(self) -> np.ndarray:
        """Solves with all samples so far; gives the rows (n, 4) that were newly settled by them."""
        t = self._rows[self._count - 1, 3]
        # After a wait the window reaches back to what has settled, so that no stretch is left out.
        oldest = min(t, self._settled_until + LIVE_LAG_S) - LIVE_WINDOW_S
        while self._rows[self._start, 3] < oldest:
            self._start += 1
        rows = self._solved(self._rows[self._start : self._count])
        rows = rows[rows[:, 3] > self._settled_until + 1e-9]
        done = rows[:, 3] < t - LIVE_LAG_S
        fresh, self.tail = rows[done], rows[~done]
        if len(fresh):
            self._settled_until = float(fresh[-1, 3])
        return fresh

    def _solved(self, window: np.ndarray) -> np.ndarray:
        t = even_grid(window[:, 3])
        even = read_at(window[:, 3], window[:, :3], t)
        raw, pressure = np.ascontiguousarray(even[:, :2]), smooth_pressure(even[:, 2])
        path = raw
        if self._setting.school != "off" and self._setting.leeway != 0.0 and len(t) >= 5:
            rate = (len(t) - 1) / (t[-1] - t[0])
            corners = self._corners(raw, t, rate)
            noise = live_noise(rate)
            path = auto_path(raw, corners, self._glass, rate, noise)
            if self._setting.leeway is not None:
                path = mixed(raw, path, corners, rate, self._setting.leeway, noise)
        return np.column_stack([path, pressure, t])

    def _corners(self, raw: np.ndarray, t: np.ndarray, rate: float) -> np.ndarray:
        if self._count - self._looked >= CORNER_EVERY:
            self._looked = self._count
            self._corner_times = [float(t[k]) for k in find_corners(raw, self._glass, rate)]
        at = [round((v - t[0]) * rate) for v in self._corner_times]
        return np.array([k for k in at if 3 <= k < len(t) - 3], int)
