"""Pulls that go on from another as one pull: the tail of a line pulled again, its next section, a stretch of it."""

from dataclasses import dataclass

import numpy as np

from plain_stride.hand.pull import Pull

START_MM, END_MM, ON_MM = 4.0, 4.0, 1.5
"""On the glass: how near its start a pull begins that is another take, its open end one that is a next section, and
how near the line itself one that replaces the tail."""
BLEND_MM, TICK_S = 3.0, 0.005
"""Over so much of the new pull its offset from the old one fades, on the sheet; the time between the last sample of
the one and the first of the other."""
TAKE, TAIL, SECTION, STRETCH, NONE = "take", "tail", "section", "stretch", ""


@dataclass(frozen=True)
class Again:
    """what: take, tail, section, stretch, or nothing; at, to: the times in the old pull from which the new one goes on,
    and at which a stretch comes back, s."""

    what: str
    at: float = 0.0
    to: float = 0.0


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


def comes_back(begun: Again, end: np.ndarray, points: np.ndarray, times: np.ndarray, glass: float) -> Again:
    """What a pull is that began as the tail of a line and ends at a place: its tail still, or, where it has come back
    to the line, a stretch of it."""
    far = np.hypot(*(points - end).T) * glass
    k = int(np.argmin(far))
    if begun.what != TAIL or far[k] > ON_MM or far[-1] <= END_MM:
        return begun
    first, last = sorted((begun.at, float(times[k])))
    return Again(STRETCH, first, last) if last > first else begun


def spliced_pull(old: Pull, new: Pull, at: float, to: float) -> Pull:
    """One pull: the old one up to a time, the new one, and the old one again from a later time on. Over BLEND_MM at
    both joints the new one comes out of the old one's own path and pressure, and goes back into it, so that neither
    place, direction nor width jumps. The clock runs on; a new one that was pulled the other way round is turned."""
    a, b = (old.samples[old.samples[:, 3] <= at + 1e-9], old.samples[old.samples[:, 3] >= to - 1e-9])
    if len(a) < 2 or len(b) < 2:
        return new
    fresh = _turned_along(new.samples.copy(), a[-1, :2], b[0, :2])
    along = _chords(fresh)
    fade = min(BLEND_MM, along[-1] / 2.0)
    between = old.samples[(old.samples[:, 3] >= a[-1, 3]) & (old.samples[:, 3] <= b[0, 3])]
    for own, line in ((along, between), (along[-1] - along, between[::-1])):
        share = np.clip(own / max(fade, 1e-9), 0.0, 1.0)
        share = share**3 * (10.0 - 15.0 * share + 6.0 * share**2)
        there = _chords(line)
        for column in (0, 1, 2):
            fresh[:, column] = share * fresh[:, column] + (1.0 - share) * np.interp(own, there, line[:, column])
    fresh[:, 3] = a[-1, 3] + TICK_S + _without_waiting(fresh, along, fade, (_speed(a[-8:]), _speed(b[:8])))
    b = b.copy()
    b[:, 3] += fresh[-1, 3] + TICK_S - b[0, 3]
    return Pull(np.vstack([a, fresh, b]), old.nib, old.view, new.device, new.clock)


def _speed(samples: np.ndarray) -> float:
    """mm/s over some samples."""
    return float(_chords(samples)[-1]) / max(float(samples[-1, 3] - samples[0, 3]), TICK_S)


def _without_waiting(samples: np.ndarray, along: np.ndarray, fade: float, speeds: tuple[float, float]) -> np.ndarray:
    """Times (n,) from 0 of samples at lengths (n,): near both ends no slower than half of the pace there. A pen that
    comes down or lifts waits a moment, and where a line goes on that would be taken for a corner."""
    steps, middle = np.diff(samples[:, 3]), (along[:-1] + along[1:]) / 2.0
    pace = np.where(middle < along[-1] / 2.0, *speeds) / 2.0
    near = np.minimum(middle, along[-1] - middle) < fade
    held = np.minimum(steps, np.diff(_chords(samples)) / np.maximum(pace, 1e-6))
    return np.concatenate([[0.0], np.cumsum(np.where(near, held, steps))])


def _turned_along(samples: np.ndarray, start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """Samples that go from one place to another, turned round in time where they went the other way."""
    ends = samples[[0, -1], :2]
    forward = np.hypot(*(ends[0] - start)) + np.hypot(*(ends[1] - end))
    if forward <= np.hypot(*(ends[1] - start)) + np.hypot(*(ends[0] - end)):
        return samples
    back = samples[::-1].copy()
    back[:, 3] = samples[-1, 3] - back[:, 3]
    return back


def _chords(samples: np.ndarray) -> np.ndarray:
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(samples[:, :2], axis=0).T))])


def joined_pull(old: Pull, new: Pull, at: float) -> Pull:
    """One pull: the old one up to a time, then the new one, its first samples drawn over to where the old one stood and
    pressed as hard, so that neither place, direction nor width jumps. The clock runs on at the pace of both."""
    a = old.samples[old.samples[:, 3] <= at + 1e-9]
    if len(a) < 2:
        return new
    b = new.samples.copy()
    along = _chords(b)
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
