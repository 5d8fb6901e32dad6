"""How long somebody was at work: from what they did and when, pauses left out."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.order.pauses import PAUSE_S, SITTING_S


@dataclass(frozen=True)
class Act:
    """Something that was done. end: seconds since 1970 (UTC) when it was done; seconds: that it took by itself (the
    pen down), 0 where that is not known."""

    end: float
    seconds: float = 0.0


@dataclass(frozen=True)
class Sitting:
    """first, last: numbers of its acts; begun, ended: seconds since 1970; active: seconds."""

    first: int
    last: int
    begun: float
    ended: float
    active: float


def active_seconds(acts: Sequence[Act], pause: float = PAUSE_S) -> np.ndarray:
    """(n,) the time at work that each act stands for: from the end of the one before to its own end. After a pause,
    after a clock that went back, and at first, only the time that it took by itself."""
    ends, own = np.array([act.end for act in acts]), np.array([act.seconds for act in acts])
    if not len(ends):
        return own
    since = np.diff(ends, prepend=-np.inf)
    waited = since - own
    # Times of a file are whole seconds: what follows close upon another took its own time at least.
    return np.where((since >= 0.0) & (waited <= pause), np.maximum(since, own), own)


def sittings(acts: Sequence[Act], pause: float = PAUSE_S, apart: float = SITTING_S) -> list[Sitting]:
    """Runs of acts without a gap longer than `apart`. A clock that went back begins a new one."""
    if not acts:
        return []
    active = active_seconds(acts, pause)
    ends = np.array([act.end for act in acts])
    since = np.diff(ends)
    cuts = [0, *(np.flatnonzero((since < 0.0) | (since - [act.seconds for act in acts[1:]] > apart)) + 1), len(acts)]
    return [
        Sitting(a, b - 1, float(ends[a] - acts[a].seconds), float(ends[b - 1]), float(active[a:b].sum()))
        for a, b in itertools.pairwise(cuts)
    ]


def went_back(acts: Sequence[Act]) -> list[tuple[int, float]]:
    """Where the clock went back: the number of the act after it, and by how many seconds."""
    since = np.diff([act.end for act in acts]) if len(acts) > 1 else np.zeros(0)
    return [(int(k) + 1, float(-since[k])) for k in np.flatnonzero(since < 0.0)]
