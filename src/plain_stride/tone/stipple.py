"""Stipple: dots to a grey, spread as evenly as a patient hand does.

Dots are moved to the middles of what is nearest to each, weighed by the grey, a few times over (Lloyd 1982; weighed:
Secord 2002). So many dots of a size are laid as cover what is asked.
"""

import numpy as np

from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.grey import Grey

MOST, ROUNDS, PER_DOT, MOST_PLACES = 20_000, 12, 60, 600_000
R3 = 1.22074408460575947536 ** -np.arange(1.0, 4.0)
DARKEST, VARY = 0.6, 0.15


def stippled(field: Field, grey: Grey, size: float, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """(places (n, 2) mm, sizes (n,) mm) of dots about so large. Raises ToneError where they would be too many, or the
    grey is one that dots cannot make without running together."""
    if max(grey.start, grey.end) > DARKEST:
        raise ToneError(f"dots make a grey of {DARKEST:.0%} at most: beyond that they run together; hatch it")
    mean = grey.mean(field)
    count = round(mean * field.area.area / (np.pi * size**2 / 4.0))
    if not 1 <= count <= MOST:
        many = f"that would be {count:,} dots, and 1 to {MOST:,} are laid"
        raise ToneError(f"{many}: take larger ones, or a smaller field")
    rng = np.random.default_rng([abs(seed), 91])
    places = _sampled(field, grey, min(count * PER_DOT, MOST_PLACES), rng)
    # The first of a sequence of low discrepancy are as even as all of it.
    dots = places[:count]
    for _ in range(ROUNDS):
        dots = _centred(dots, places)
    sizes = size * (1.0 + VARY * np.clip(rng.normal(size=len(dots)), -2.0, 2.0))
    # What the variation adds to the area is taken off again.
    covered = float((np.pi * sizes**2 / 4.0).sum())
    return dots, sizes * np.sqrt(mean * field.area.area / covered)


def _sampled(field: Field, grey: Grey, count: int, rng: np.random.Generator) -> np.ndarray:
    """Places (n, 2) as dense as the grey is dark."""
    import shapely

    x0, y0, x1, y1 = field.box
    most, out, found, first = max(grey.start, grey.end), list[np.ndarray](), 0, 0
    start = rng.uniform(size=3)
    while found < count:
        # A sequence of low discrepancy in x, y and the darkness that is held against the grey (Roberts' R3).
        at = (start + np.arange(first, first + 4 * count)[:, None] * R3) % 1.0
        first += 4 * count
        places = (x0, y0) + at[:, :2] * (x1 - x0, y1 - y0)
        held = shapely.contains_xy(field.area, places[:, 0], places[:, 1]) & (at[:, 2] * most < grey.at(places))
        out.append(places[held])
        found += len(out[-1])
    return np.concatenate(out)[:count]


def _centred(dots: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Dots moved to the middles of the places that are nearest to each."""
    from scipy.spatial import cKDTree

    _, near = cKDTree(dots).query(places)
    counts = np.bincount(near, minlength=len(dots))
    sums = np.column_stack([np.bincount(near, places[:, k], len(dots)) for k in (0, 1)])
    return np.where(counts[:, None] > 0, sums / np.maximum(counts, 1)[:, None], dots)
