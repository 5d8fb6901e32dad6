"""How the inker's own hand swells along a line, so that drafts can be laid as it would have drawn them."""

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.hand.nib import DEFAULT_NIB, Nib
from plain_stride.job.job import Job
from plain_stride.texts import counted

PLACES, ENOUGH, LOOKED_AT = 25, 5, 60
"""Places along a line, pulls from which a hand is known, how many of the newest are looked at."""
TIP_SHARE = 0.15


def own_widths(job: Job, nib: Nib | None = None) -> np.ndarray:
    """(25,) mm at places spread evenly along a line: the mean of the newest pulls' pressures through a nib, its ends
    tapered. Raises StrideError where there are too few pulls."""
    nib = nib or DEFAULT_NIB
    profiles = []
    for key in reversed(job.line_ids()):
        pull = job.rows.lines[key].pull
        if pull is not None:
            profiles.append(_profile(job.pull(pull).samples))
            if len(profiles) >= LOOKED_AT:
                break
    if len(profiles) < ENOUGH:
        raise StrideError(
            f"{counted(len(profiles), 'pull')} {'does' if len(profiles) == 1 else 'do'} not tell how your hand swells:"
            f" pull {ENOUGH} lines first, or take a taper"
        )
    widths = nib.width(np.mean(profiles, axis=0))
    along = np.linspace(0.0, 1.0, PLACES)
    taper = TIP_SHARE + (1.0 - TIP_SHARE) * np.sin(np.clip(np.minimum(along, 1.0 - along) * 6.0, 0.0, 1.0) * np.pi / 2)
    return np.asarray(widths * taper)


def _profile(samples: np.ndarray) -> np.ndarray:
    """Pressure at places spread evenly over the way of a pull."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(samples[:, :2], axis=0).T))])
    if along[-1] <= 0.0:
        return np.full(PLACES, float(samples[:, 2].mean()))
    return np.interp(np.linspace(0.0, along[-1], PLACES), along, samples[:, 2])
