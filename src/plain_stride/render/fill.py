"""Pixels of final art by the exact area that each line covers of them, in bands of rows, on all cores."""

import itertools
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace

import numpy as np

from plain_stride import colour

BAND_ROWS = 400
CORES = os.cpu_count() or 1
OFF_PX = 0.01
"""How far, in pixels, an outline may be simplified: a hundredth of a pixel's coverage at most."""
Inked = Sequence[tuple[str, list[np.ndarray]]]
"""(colour, rings in mm) of every line, back to front."""


class Outlines:
    """Lines laid out in one piece for the loops, in pixels; see `compiled.fill_loops.fill`."""

    def __init__(self, loops: SimpleNamespace, inked: Inked, scale: float, coloured: bool) -> None:
        kept = [(ink, rings) for ink, rings in inked if rings]
        rings = [ring for _, many in kept for ring in many]
        points = np.concatenate([np.zeros((0, 2)), *rings]) * scale
        starts = np.cumsum([0, *map(len, rings)])
        keep = np.zeros(len(points), np.uint8)
        cuts = np.linspace(0, len(rings), CORES + 1).astype(int)
        with ThreadPoolExecutor(CORES) as pool:
            for a, b in itertools.pairwise(cuts.tolist()):
                pool.submit(loops.thinned, points, starts[a : b + 1], OFF_PX, keep)
        self.points = points[keep > 0]
        self.rings = np.append(0, np.cumsum(keep, dtype=np.int64))[starts]
        self.lines = np.cumsum([0, *(len(many) for _, many in kept)])
        self.inks = np.array([colour.rgb(ink) if coloured else (colour.grey(ink),) for ink, _ in kept], float)
        self.inks = self.inks.reshape(len(kept), 3 if coloured else 1)
        first = self.rings[self.lines[:-1]]
        self.reach = np.zeros((len(kept), 4), np.int64)
        if len(kept):
            least, most = (f.reduceat(self.points, first) for f in (np.minimum, np.maximum))
            self.reach[:, ::2], self.reach[:, 1::2] = np.floor(least[:, ::-1]), np.floor(most[:, ::-1])


def filled_bands(
    loops: SimpleNamespace, inked: Inked, pixels: tuple[int, int], scale: float, clear: bool, coloured: bool = False
) -> Iterator[tuple[int, np.ndarray, np.ndarray]]:
    """(first row, values, alpha), uint8, of band after band; clear: on nothing, else on paper, without an alpha.

    scale: pixels for one mm. The loops leave the interpreter free, so bands are filled side by side. Values are grey
    (rows, w), or coloured (rows, w, 3)."""
    lines, (wide, high) = Outlines(loops, inked, scale, coloured), pixels
    channels = 3 if coloured else 1

    def band(top: int) -> tuple[int, np.ndarray, np.ndarray]:
        rows = min(BAND_ROWS, high - top)
        value = np.full((rows, wide * channels), 0.0 if clear else 1.0, np.float32)
        alpha = np.zeros((rows, wide if clear else 0), np.float32)
        loops.fill(lines.points, lines.rings, lines.lines, lines.reach, lines.inks, top, value, alpha)
        shown: np.ndarray = value.reshape(rows, wide, 3) if coloured else value
        if clear:
            shown /= np.maximum(alpha[..., None] if coloured else alpha, 1e-6)
        return top, _bytes(shown), _bytes(alpha)

    tops = range(0, high, BAND_ROWS)
    with ThreadPoolExecutor(CORES) as pool:
        # No more bands at a time than there are cores: a page of floats would take far more memory than its picture.
        for first in range(0, len(tops), CORES):
            yield from pool.map(band, tops[first : first + CORES])


def _bytes(share: np.ndarray) -> np.ndarray:
    """0..1 as 0..255; alters its argument."""
    share *= 255.0
    share += 0.5
    return share.astype(np.uint8)
