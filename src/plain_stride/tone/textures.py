"""Textures by lines: a motif repeated with variation along a field that follows the form.

The field's net is cut into cells as large as the motif; each stroke of it is told in shares of its cell, across and
along, and bends with the net. The same seed gives the same marks.
"""

from collections.abc import Callable, Iterator

import numpy as np

from plain_stride.tone.courses import reached
from plain_stride.tone.drawn_strokes import Drawn, clipped
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.nets import Net, spacing

BASKET, BARK, GRASS, SCALES, KNIT = KINDS = ("basket", "bark", "grass", "scales", "knit")
PLACES, MOST_CELLS, ALONG = 9, 20_000, 65
VARY = 0.12
Stroke = tuple[np.ndarray, float, float, float]
"""Places (n, 2) in shares of a cell, across and along; its width, as a share of the nib's; its points at both ends."""


def textured(field: Field, net: Net, kind: str, size: float, width: float, vary: float, seed: int) -> list[Drawn]:
    """The strokes of a texture. size: mm of a motif; width: mm of its strokes; vary: 0 alike to 1 as no two are.
    Raises ToneError."""
    if kind not in KINDS:
        raise ToneError(f"textures are {', '.join(KINDS)}, not '{kind}'")
    draw, rng = _DRAW[kind], np.random.default_rng([abs(seed), KINDS.index(kind)])
    out = []
    for i, j, corner, across, along in _cells(field, net, size, _HALF_ROWS[kind]):
        for places, wide, start, end in draw(i, j, rng, vary):
            moved = places + vary * VARY * rng.normal(size=(1, 2))
            gain = wide * (1.0 + vary * VARY * 1.5 * float(np.clip(rng.normal(), -2.0, 2.0)))
            points = net.at(corner[0] + moved[:, 0] * across, corner[1] + moved[:, 1] * along)
            out.append(Drawn(points, max(width * gain, width * 0.2), start, end))
    found = clipped(out, field.area)
    if not found:
        raise ToneError("no motif fits into that field: make it smaller, or draw round more")
    return found


def _cells(
    field: Field, net: Net, size: float, shifted: float
) -> Iterator[tuple[int, int, tuple[float, float], float, float]]:
    """(row, column, (t, v) of its corner, how much of t and of v it takes) of cells over the field; `shifted`: by how
    much of a cell every other row begins later."""
    low, high = reached(net, field)
    middle = np.full(ALONG, (low + high) / 2.0)
    v = np.linspace(0.0, 1.0, ALONG)
    course = net.at(middle, v)
    length = float(np.hypot(*np.diff(course, axis=0).T).sum())
    wide = float(np.median(spacing(net, middle, v))) * (high - low)
    rows, columns = max(1, round(wide / size)), max(1, round(length / size))
    if rows * columns > MOST_CELLS:
        raise ToneError(f"that would be {rows * columns:,} motifs, and {MOST_CELLS:,} are laid: make them larger")
    across, along = (high - low) / rows, 1.0 / columns
    for i in range(rows):
        for j in range(-1, columns + 1):
            yield i, j, (low + i * across, (j + shifted * (i % 2)) * along), across, along


def _basket(i: int, j: int, rng: np.random.Generator, vary: float) -> Iterator[Stroke]:
    for k in range(4):
        at = np.full(2, (k + 0.5) / 4.0)
        run = np.array([0.06, 0.94])
        yield np.column_stack([run, at] if (i + j) % 2 else [at, run]), 1.0, 0.15, 0.15


def _scales(i: int, j: int, rng: np.random.Generator, vary: float) -> Iterator[Stroke]:
    u = np.linspace(0.0, 1.0, PLACES)
    bow = np.sin(np.pi * u) ** 0.8
    yield np.column_stack([1.15 * bow - 0.1, u]), 1.0, 0.3, 0.3
    if rng.uniform() < 0.6:
        yield np.column_stack([0.5 * bow[2:-2] + 0.15, 0.5 + (u[2:-2] - 0.5) * 0.5]), 0.6, 0.45, 0.45


def _knit(i: int, j: int, rng: np.random.Generator, vary: float) -> Iterator[Stroke]:
    u = np.linspace(0.0, 1.0, PLACES)
    for side in (-1.0, 1.0):
        middle = 0.04 + 0.36 * u**0.8
        for bow in (-0.13, 0.13):
            yield np.column_stack([0.5 + side * (middle + bow * np.sin(np.pi * u)), 1.3 * u - 0.1]), 1.0, 0.3, 0.3


def _bark(i: int, j: int, rng: np.random.Generator, vary: float) -> Iterator[Stroke]:
    for k in range(3):
        a = rng.uniform(0.0, 1.0)
        u = np.linspace(a, a + rng.uniform(0.5, 1.9), 2 * PLACES)
        wave = 0.07 * np.sin(2.0 * np.pi * (u * rng.uniform(0.3, 0.6) + rng.uniform()))
        yield np.column_stack([(k + 0.5) / 3.0 + wave, u]), rng.uniform(0.5, 1.4), 0.25, 0.5
    if rng.uniform() < 0.12:
        u = np.linspace(-1.0, 1.0, PLACES)
        for side in (-0.14, 0.14):
            yield np.column_stack([0.5 + side * (1.0 - u**2), 0.5 + 0.4 * u]), 0.8, 0.4, 0.4


def _grass(i: int, j: int, rng: np.random.Generator, vary: float) -> Iterator[Stroke]:
    root, u = rng.uniform(0.3, 0.7), np.linspace(0.0, 1.0, PLACES)
    for k in range(int(rng.integers(3, 6))):
        lean, tall = (k - 2.0) * 0.22 + rng.normal(0.0, 0.12), rng.uniform(0.6, 1.15)
        yield np.column_stack([root + 0.05 * (k - 2) + lean * u**1.7, tall * u]), 1.2, 0.0, 0.85


_DRAW: dict[str, Callable[[int, int, np.random.Generator, float], Iterator[Stroke]]] = {
    BASKET: _basket, BARK: _bark, GRASS: _grass, SCALES: _scales, KNIT: _knit
}  # fmt: skip
_HALF_ROWS = {BASKET: 0.0, BARK: 0.5, GRASS: 0.4, SCALES: 0.5, KNIT: 0.0}
