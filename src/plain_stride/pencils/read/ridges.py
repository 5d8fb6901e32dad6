"""Ridges of darkness: how strongly a line runs through each pixel, which way, and a net one pixel wide of them."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.read.flat import Flat

ANGLES = 16
LOW, HIGH, STRONG_SHARE = 0.30, 0.55, 0.55
"""Hysteresis, as shares of a strong response: the one above which 55 % of the sum over all maxima lies."""
MARGIN_MM, LEVELS = 4.0, 12
_AROUND = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))


@dataclass(frozen=True)
class Kind:
    """How pencils are looked at. scales: (sigma across in mm, weight) of the filters; along: sigma in mm; width: W, mm
    within which passes are one line; per_mm: pixels for one mm; window: half-width in mm for centres; smooth: mm;
    spur: mm; end: share of a body's darkness at which a line ends; room: mm by which lines may be evened out at last;
    straight: how firmly sides of corners are held towards straight;
    beyond: mm beyond a corner where it is still dark; proof: how dark, for as far aside of its sides."""

    name: str
    scales: tuple[tuple[float, float], ...]
    along: float
    width: float
    per_mm: float
    window: float
    smooth: float
    spur: float
    end: float
    room: float
    straight: float
    beyond: float
    proof: float


ROUGH = Kind("rough", scales=((0.47, 1.0), (0.72, 0.85)), along=0.9, width=0.95, per_mm=100.0 / 25.4, window=0.8,
             smooth=3.2, spur=1.3, end=0.5, room=0.08, straight=20.0, beyond=0.25, proof=0.5)  # fmt: skip
CLEAN = Kind("clean", scales=((0.20, 1.0),), along=0.5, width=0.55, per_mm=150.0 / 25.4, window=0.42,
             smooth=2.4, spur=0.6, end=0.12, room=0.05, straight=2.0, beyond=0.15, proof=0.5)  # fmt: skip
ROUGH_FROM_MM = 0.215
"""RMS half-width (75th percentile over strong ridges) from which pencils count as rough."""


@dataclass(frozen=True, eq=False)
class Ridges:
    """response float32 (h, w); angle (h, w): of the line, radians, 0 to pi; ridge, net: bool (h, w); strong: value."""

    response: np.ndarray
    angle: np.ndarray
    ridge: np.ndarray
    net: np.ndarray
    strong: float
    per_mm: float


def ridges_of(flat: Flat, kind: Kind, known: tuple[np.ndarray, np.ndarray] | None = None) -> Ridges:
    """The ridges of an even scan; known: what `oriented` gave for this kind already. dark: (h, w)."""
    at = flat.at(kind.per_mm)
    response, angle = known or oriented(at, kind)
    ridge = _maxima(response, angle)
    strong = strong_response(response[ridge])
    mask = _hysteresis(response, LOW * strong, HIGH * strong)
    net = thinned(mask, response, ridge & mask)
    return Ridges(response, angle, ridge, net, strong, at.per_mm)


def oriented(flat: Flat, kind: Kind) -> tuple[np.ndarray, np.ndarray]:
    """(response, angle): the strongest of line filters in 16 directions, second derivatives of a Gaussian across with
    a Gaussian along, each with a peak of 1 in frequency."""
    from scipy import fft

    pad = round(MARGIN_MM * flat.per_mm)
    h, w = flat.dark.shape
    # The margin repeats the edge, so that a dark border makes no line.
    framed = np.pad(flat.dark, pad, mode="edge")
    shape = [fft.next_fast_len(n, real=True) for n in framed.shape]
    whole = fft.rfft2(framed, shape, workers=2)
    fy = (2.0 * np.pi * np.fft.fftfreq(shape[0])).astype(np.float32)[:, None] * flat.per_mm
    fx = (2.0 * np.pi * np.fft.rfftfreq(shape[1])).astype(np.float32)[None, :] * flat.per_mm

    def strongest(angles: range) -> tuple[np.ndarray, np.ndarray]:
        best = np.full((h, w), -np.inf, np.float32)
        which = np.zeros((h, w), np.int16)
        for k in angles:
            turn = np.pi * k / ANGLES
            c, s = np.float32(np.cos(turn)), np.float32(np.sin(turn))
            along, across = (fx * c + fy * s) ** 2, (fy * c - fx * s) ** 2
            for sigma, weight in kind.scales:
                spread = across * np.float32(sigma**2)
                # One exponential for both directions: it is what takes the time.
                soft = np.exp(-(spread + along * np.float32(kind.along**2)) * np.float32(0.5))
                soft *= spread
                soft *= np.float32(weight * np.e / 2.0)
                one = fft.irfft2(whole * soft, shape)[pad : pad + h, pad : pad + w]
                higher = one > best
                np.copyto(best, one, where=higher)
                np.copyto(which, np.int16(k), where=higher)
        return best, which

    # Two halves of the directions, a core each: transforms and arithmetic let go of the interpreter.
    with ThreadPoolExecutor(2) as pool:
        (best, which), (other, its) = pool.map(strongest, (range(ANGLES // 2), range(ANGLES // 2, ANGLES)))
    higher = other > best
    best, which = np.where(higher, other, best), np.where(higher, its, which)
    return np.maximum(best, 0.0), which * np.float32(np.pi / ANGLES)


def strong_response(maxima: np.ndarray) -> float:
    """The response above which 55 % of the sum over all maxima lies. response: (h, w)."""
    if not maxima.size:
        return 0.0
    falling = np.sort(maxima)[::-1]
    total = np.cumsum(falling, dtype=float)
    return float(falling[min(int(np.searchsorted(total, STRONG_SHARE * total[-1])), len(falling) - 1)])


def _maxima(response: np.ndarray, angle: np.ndarray) -> np.ndarray:
    """Pixels that no neighbour across their line exceeds."""
    from scipy import ndimage

    out = np.zeros(response.shape, bool)
    rows, cols = np.nonzero(response > 0.02)
    a = angle[rows, cols]
    dy, dx = np.cos(a), -np.sin(a)
    here = response[rows, cols]
    sides = [
        ndimage.map_coordinates(response, [rows + f * dy, cols + f * dx], order=1, mode="nearest") for f in (1, -1)
    ]
    keep = (here >= sides[0]) & (here > sides[1])
    out[rows[keep], cols[keep]] = True
    return out


def _hysteresis(response: np.ndarray, low: float, high: float) -> np.ndarray:
    from scipy import ndimage

    labels, n = ndimage.label(response > max(low, 1e-6), np.ones((3, 3)))
    kept = np.zeros(n + 1, bool)
    kept[np.unique(labels[response > max(high, 1e-6)])] = True
    kept[0] = False
    out: np.ndarray = kept[labels]
    return out


def _simple_codes() -> np.ndarray:
    """By code of the eight neighbours: whether taking the pixel away changes no connection (Yokoi number 1, 8 to 4)."""
    out = np.zeros(256, bool)
    for code in range(256):
        n = [1 - (code >> k & 1) for k in range(8)]
        number = sum(n[k] - n[k] * n[(k + 1) % 8] * n[(k + 2) % 8] for k in (0, 2, 4, 6))
        out[code] = number == 1
    return out


_SIMPLE = _simple_codes()
_COUNT = np.array([bin(code).count("1") for code in range(256)])


def thinned(mask: np.ndarray, response: np.ndarray, ridge: np.ndarray) -> np.ndarray:
    """The mask down to one pixel's width: simple pixels go in rising response, those of ridges last and never ends.
    mask: (h, w) of bool."""
    h, w = mask.shape
    flat = np.zeros((h + 2, w + 2), np.uint8)
    flat[1:-1, 1:-1] = mask
    wide = w + 2
    shifts = np.array([dy * wide + dx for dy, dx in _AROUND])
    rows, cols = np.nonzero(mask)
    at = (rows + 1) * wide + cols + 1
    field = (rows % 2) * 2 + cols % 2
    on_ridge, value = ridge[rows, cols], response[rows, cols]
    order = np.argsort(value, kind="stable")
    ranked = np.empty(len(value), int)
    ranked[order] = np.arange(len(value))
    level = ranked * LEVELS // max(len(value), 1) + on_ridge * LEVELS
    pixels = flat.ravel()
    weights = (1 << np.arange(8)).astype(np.int64)
    for step in range(2 * LEVELS):
        todo = np.flatnonzero(level <= step)
        while len(todo):
            gone = 0
            for f in range(4):
                some = todo[field[todo] == f]
                codes = pixels[at[some][:, None] + shifts] @ weights
                take = _SIMPLE[codes] & ((_COUNT[codes] > 1) | (~on_ridge[some] & (_COUNT[codes] == 1)))
                pixels[at[some[take]]] = 0
                gone += int(np.count_nonzero(take))
            todo = todo[pixels[at[todo]] > 0]
            if not gone:
                break
        keep = pixels[at] > 0
        at, field, on_ridge, level = at[keep], field[keep], on_ridge[keep], level[keep]
    return flat[1:-1, 1:-1] > 0
