"""Where the next strokes of a hand go: on from the last two, at the same pitch, their ends led on as these lead."""

import numpy as np

from plain_stride.tone.nets import even_places

PLACES = 33
MOST_APART = 4.0
"""Strokes are of one set where they lie no farther apart than so many times their length."""


def next_courses(last: np.ndarray, before: np.ndarray | None, count: int, pitch: float | None) -> list[np.ndarray]:
    """Courses (PLACES, 2) mm of the next strokes. last, before: courses (n, 2) of the last stroke and of the one before
    it, None where there is none; pitch: mm from one to the next at their middles, None for as far as these two lie.
    Nothing where neither tells how far. Raises ToneError."""
    here = even_places(last, PLACES)
    if before is None:
        if pitch is None:
            return []
        step = np.broadcast_to(_right(here) * pitch, (2, 2))
    else:
        there = _alike(even_places(before, PLACES), here)
        step = here[[0, -1]] - there[[0, -1]]
        apart = float(abs((here[PLACES // 2] - there[PLACES // 2]) @ _right(here)))
        if pitch is not None and apart > 1e-6:
            step = step * (pitch / apart)
    u = np.linspace(0.0, 1.0, PLACES)[:, None]
    lead = (1.0 - u) * step[0] + u * step[1]
    return [here + lead * n for n in range(1, count + 1)]


def belongs(last: np.ndarray, before: np.ndarray) -> bool:
    """Whether two strokes (n, 2) mm are of one set: alike in direction and length, and near each other."""
    a, b = last[-1] - last[0], before[-1] - before[0]
    long = float(np.hypot(*a)), float(np.hypot(*b))
    if min(long) < 1e-6 or max(long) > 3.0 * min(long):
        return False
    cosine = abs(float(a @ b)) / (long[0] * long[1])
    apart = float(np.hypot(*(last.mean(axis=0) - before.mean(axis=0))))
    return cosine > np.cos(np.radians(25.0)) and apart < max(long) / MOST_APART * 2.0


def _right(course: np.ndarray) -> np.ndarray:
    """(2,) unit direction to the right of a course's chord."""
    chord = course[-1] - course[0]
    return np.array([-chord[1], chord[0]]) / max(float(np.hypot(*chord)), 1e-9)


def _alike(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """a turned round where it runs against b."""
    return a[::-1] if float((a[-1] - a[0]) @ (b[-1] - b[0])) < 0.0 else a
