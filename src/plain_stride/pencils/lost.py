"""What the ink lost: places where the rough had darkness or swing and the ink has not, seen from arm's length."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.pencils.coverage import OWN_MM, Pencil

PER_MM = 2.0
"""Pixels a mm of the maps: finer than an eye tells tones apart at arm's length."""
ARM_MM, BLUR_MM = 600.0, 2.5
"""Arm's length; the blur at which hatching and doubled lines become grey from there (about 14 minutes of arc)."""
LEAST_SHARE, LEAST_MM2 = 0.35, 12.0
"""A place lacks at least so much of the drawing's own dark tone, over so much of the sheet."""
MOST_MM = 30.0
BARE, UNFINISHED = 0.15, 0.2
"""A place with less than .15 of the rough's tone has no ink yet; where a fifth of the drawing is so, it is unfinished,
and only what is inked is held against the rough."""
SWING_MM, LEAST_SWING_DEG, SWING_SHARE = 12.0, 25.0, 0.55
"""Over windows of 12 mm of a pencil line that turns by 25 degrees or more, ink that turns less than .55 of it is
flat."""
MOST_PLACES = 60
DARK, SWING = "darkness", "swing"


@dataclass(frozen=True)
class LostPlace:
    """x, y: middle, mm; w, h: mm; kind: darkness or swing; rough, ink: what each has (share of black, or degrees)."""

    x: float
    y: float
    w: float
    h: float
    kind: str
    rough: float
    ink: float

    @property
    def worth(self) -> float:
        """How much it matters: shortfall times size."""
        return (self.rough - self.ink) * (self.w * self.h if self.kind == DARK else SWING_MM**2 / 60.0)


@dataclass(frozen=True, eq=False)
class Lost:
    """places: the worst first; map: float32 (h, w), what the ink lacks in darkness (0..1), from `origin` mm on, PER_MM
    pixels a mm; unfinished: so much has no ink yet that such places are left out."""

    places: list[LostPlace]
    map: np.ndarray
    origin: tuple[float, float]
    unfinished: bool = False


def ink_tone(
    lines: Sequence[tuple[np.ndarray, np.ndarray]], blacks: Sequence[list[np.ndarray]], origin: tuple[float, float],
    size: tuple[int, int],
) -> np.ndarray:  # fmt: skip
    """The share of each pixel (h, w) that ink covers. lines: (points (n, 2) mm, full widths (n,)); blacks: rings, mm,
    filled by even-odd; size: (w, h)."""
    from PIL import Image, ImageDraw

    w, h = size
    tone = np.zeros(h * w)
    for points, widths in lines:
        at, full, step = _walked(points, widths)
        col, row = np.floor((at - origin) * PER_MM).astype(int).T
        inside = (col >= 0) & (col < w) & (row >= 0) & (row < h)
        tone += np.bincount((row * w + col)[inside], (full * step)[inside] * PER_MM**2, h * w)
    out = tone.reshape(h, w)
    for rings in blacks:
        fill = np.zeros((h, w), bool)
        for ring in rings:
            image = Image.new("1", (w, h), 0)
            ImageDraw.Draw(image).polygon([tuple(p) for p in (ring - origin) * PER_MM], fill=1)
            fill ^= np.asarray(image)
        out = np.maximum(out, fill)
    return np.minimum(out, 1.0)


def _walked(points: np.ndarray, widths: np.ndarray) -> tuple[np.ndarray, np.ndarray, float]:
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    n = max(2, int(np.ceil(s[-1] * PER_MM * 4.0)))
    at = (np.arange(n) + 0.5) * s[-1] / n
    places = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    return places, np.interp(at, s, widths), float(s[-1] / n)


def lost(
    rough: np.ndarray, ink: np.ndarray, origin: tuple[float, float], pencils: Sequence[Pencil],
    lines: Mapping[str, np.ndarray],
) -> Lost:  # fmt: skip
    """rough, ink: tones (h, w), 0..1, from `origin` on; pencils: what was read; lines: centrelines of ink by key."""
    from scipy import ndimage

    sigma = BLUR_MM * PER_MM
    soft = [ndimage.gaussian_filter(tone.astype(np.float32), sigma) for tone in (rough, ink)]
    strong = float(np.quantile(soft[0][soft[0] > 0.02], 0.9)) if (soft[0] > 0.02).any() else 1.0
    # Pencil is grey where ink is black: both are held against their own drawing's usual depth.
    usual = _usual_ratio(*soft)
    lack = np.clip(soft[0] * usual - soft[1], 0.0, None) / max(strong * usual, 1e-6)
    bare = soft[1] < BARE * soft[0] * usual
    toned = soft[0] > 0.02
    unfinished = float((bare & toned).sum()) > UNFINISHED * float(toned.sum())
    if unfinished:
        lack = np.where(bare, 0.0, lack)
    places = [*_dark_places(lack, soft, usual, origin), *_flat_places(pencils, lines)]
    places.sort(key=lambda place: -place.worth)
    return Lost(places[:MOST_PLACES], np.clip(lack, 0.0, 1.0).astype(np.float32), origin, unfinished)


def _usual_ratio(rough: np.ndarray, ink: np.ndarray) -> float:
    """How much darker ink is than pencil where there are both: the median of their ratio."""
    both = (rough > 0.02) & (ink > 0.02)
    return float(np.clip(np.median(ink[both] / rough[both]), 0.5, 6.0)) if np.count_nonzero(both) > 50 else 1.0


def _dark_places(
    lack: np.ndarray, soft: list[np.ndarray], usual: float, origin: tuple[float, float]
) -> list[LostPlace]:
    from scipy import ndimage

    # Places are no larger than an eye takes in at once: a whole sky without ink is several.
    down, right = (np.arange(n) // round(MOST_MM * PER_MM) for n in lack.shape)
    block = down[:, None] * (right[-1] + 1) + right[None]
    dark = np.where(lack > LEAST_SHARE, block + 1, 0)
    labels: np.ndarray = np.zeros(lack.shape, int)
    for one in np.unique(dark[dark > 0]):
        own: np.ndarray = ndimage.label(dark == one)[0]
        labels = np.where(own > 0, own + labels.max(), labels)
    out = []
    for k, box in enumerate(ndimage.find_objects(labels), 1):
        mine = labels[box] == k
        if mine.sum() / PER_MM**2 < LEAST_MM2:
            continue
        rows, cols = (np.array([s.start, s.stop]) / PER_MM for s in box)
        x0, x1 = cols + origin[0]
        y0, y1 = rows + origin[1]
        tones = [float(tone[box][mine].mean()) for tone in soft]
        out.append(LostPlace(float(x0 + x1) / 2, float(y0 + y1) / 2, float(x1 - x0), float(y1 - y0), DARK,
                             round(min(tones[0] * usual, 1.0), 3), round(tones[1], 3)))  # fmt: skip
    return out


def _flat_places(pencils: Sequence[Pencil], lines: Mapping[str, np.ndarray]) -> list[LostPlace]:
    """Windows of pencil lines that swing more than the ink along them."""
    from scipy.spatial import cKDTree

    if not lines:
        return []
    ink = [_even(points) for points in lines.values() if len(points) > 1]
    tree = cKDTree(np.vstack(ink))
    owner = np.concatenate([np.full(len(p), n) for n, p in enumerate(ink)])
    place = np.concatenate([np.arange(len(p)) for p in ink])
    out = []
    for pencil in pencils:
        p = _even(pencil.points)
        reach = round(SWING_MM / _STEP)
        for a in range(0, len(p) - reach, reach // 2):
            window = p[a : a + reach + 1]
            turn = _turning(window)
            if turn < LEAST_SWING_DEG:
                continue
            far, near = tree.query(window[[0, -1]])
            same = owner[near[0]] == owner[near[1]]
            if far.max() > OWN_MM or not same:
                continue
            lo, hi = sorted(place[near])
            other = ink[owner[near[0]]][lo : hi + 1]
            # Ink that ends on the way has not lost its swing, it is not all there yet.
            has = _turning(other) if len(other) >= LEAST_ALONG * len(window) else turn
            if has < SWING_SHARE * turn:
                low, high = window.min(axis=0), window.max(axis=0)
                (x, y), (w, h) = (low + high) / 2.0, high - low
                out.append(LostPlace(float(x), float(y), float(w), float(h), SWING, round(turn, 1), round(has, 1)))
    return out


_STEP, CALM_MM, LEAST_ALONG = 0.5, 1.5, 0.8


def _even(points: np.ndarray) -> np.ndarray:
    from scipy import ndimage

    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0.0, s[-1], max(3, round(s[-1] / _STEP) + 1))
    even = np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])
    # Tremor and pencil grain are no swing.
    return np.asarray(ndimage.gaussian_filter1d(even, CALM_MM / _STEP, axis=0, mode="nearest"))


def _turning(points: np.ndarray) -> float:
    """Degrees by which a stretch turns in all, to either side."""
    leg = np.diff(points, axis=0)
    a = np.unwrap(np.arctan2(leg[:, 1], leg[:, 0]))
    return float(np.degrees(np.abs(np.diff(a)).sum()))
