"""Pulls that go on from another: the tail of a line pulled again, or its next section, as one pull."""

from dataclasses import dataclass

import numpy as np

from plain_stride.hand.pull import Pull

START_MM, END_MM, ON_MM = 4.0, 4.0, 1.5
"""On the glass: how near its start a pull begins that is another take, its open end one that is a next section, and
how near the line itself one that replaces the tail."""
BLEND_MM, TICK_S = 3.0, 0.005
"""Over so much of the new pull its offset from the old one fades, on the sheet; the time between the last sample of
the one and the first of the other."""
TAKE, TAIL, SECTION, NONE = "take", "tail", "section", ""


@dataclass(frozen=True)
class Again:
    """what: take, tail, section, or nothing; at: the time in the old pull from which the new one goes on, s."""

    what: str
    at: float = 0.0


def what_again(place: np.ndarray, points: np.ndarray, times: np.ndarray, glass: float) -> Again:
    """What a pull that begins at `place` would be of a line with these points (n, 2) mm at its pull's times (n,) s.
    glass: mm on the glass for one mm of the sheet."""
    far = np.hypot(*(points - place).T) * glass
    if far[0] <= START_MM and far[0] <= far[-1]:
        return Again(TAKE)
    if far[-1] <= END_MM:
        return Again(SECTION, float(times[-1]))
    k = int(np.argmin(far))
    return Again(TAIL, float(times[k])) if far[k] <= ON_MM else Again(NONE)


def joined_pull(old: Pull, new: Pull, at: float) -> Pull:
    """One pull: the old one up to a time, then the new one, its first samples drawn over to where the old one stood and
    pressed as hard, so that neither place, direction nor width jumps. The clock runs on at the pace of both."""
    a = old.samples[old.samples[:, 3] <= at + 1e-9]
    if len(a) < 2:
        return new
    b = new.samples.copy()
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(b[:, :2], axis=0).T))])
    here = a[-1, :2]
    # What lies behind the place from which it goes on was the hand finding its way in.
    first = _ahead(a, b)
    b, along = b[first:], along[first:] - along[first]
    fade = np.clip(1.0 - along / BLEND_MM, 0.0, 1.0)
    fade = fade**3 * (10.0 - 15.0 * fade + 6.0 * fade**2)
    step = _pace(a)
    shift = here + step * TICK_S - b[0, :2]
    b[:, :2] += fade[:, None] * shift
    b[:, 2] += fade * (a[-1, 2] - b[0, 2])
    b[:, 2] = np.clip(b[:, 2], 0.0, 1.0)
    b[:, 3] += a[-1, 3] + TICK_S - b[0, 3]
    return Pull(np.vstack([a, b]), new.nib, new.view, new.device, new.clock)


def _pace(samples: np.ndarray) -> np.ndarray:
    """Velocity (2,) mm/s at the end of a pull, over its last samples."""
    back = samples[-min(len(samples), 8) :]
    dt = float(back[-1, 3] - back[0, 3])
    out: np.ndarray = (back[-1, :2] - back[0, :2]) / dt if dt > 1e-6 else np.zeros(2)
    return out


def _ahead(a: np.ndarray, b: np.ndarray) -> int:
    """The first sample of the new pull that lies ahead of the end of the old one."""
    pace = _pace(a)
    long = float(np.hypot(*pace))
    if long < 1e-6:
        return 0
    along = (b[:, :2] - a[-1, :2]) @ (pace / long)
    ahead = np.flatnonzero(along > 0.0)
    return int(ahead[0]) if len(ahead) and ahead[0] < len(b) - 2 else 0
