"""A simulated scanner: what comes back when pencil lines are drawn in a few wandering passes and scanned, by seed."""

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from plain_stride.hand.resample import read_at
from plain_stride.pencils.errors import PencilsError

OVER = 2
"""Drawn this much larger and reduced, so that strokes have soft edges."""
PENCIL_MM = 0.42
MOST_WANDER_MM = 0.6
PAPER, GRAPHITE = 246.0, 92.0
GUIDE_STRENGTH, SHARP_DEG = 0.3, 20.0
EDGE_TONE = 205.0
"""Grey of the table beyond a sheet that lies turned."""


class ScannerError(PencilsError):
    """Settings that no scanner has."""


@dataclass(frozen=True)
class Scanning:
    """How the pencils were drawn and how they were scanned.

    passes: strokes for one line; wander_mm: RMS of each about it, none farther than 0.6 mm; broken: share of strokes
    that were set down anew on the way; overrun_mm: how far ends run past, at most; softness: of the pencil, 0..1;
    grain: of the paper's tooth in the strokes; paper: grey of the sheet, 0..255; uneven: share of light lost towards
    one corner; turn: degrees clockwise; blur_mm: sigma; jpeg: quality, None for PNG.
    """

    passes: int = 2
    wander_mm: float = 0.28
    broken: float = 0.12
    overrun_mm: float = 0.8
    softness: float = 0.3
    grain: float = 0.28
    paper: float = PAPER
    uneven: float = 0.0
    turn: float = 0.0
    blur_mm: float = 0.0
    jpeg: int | None = None

    def __post_init__(self) -> None:
        if not 1 <= self.passes <= 9 or not 0.0 <= self.wander_mm <= MOST_WANDER_MM:
            raise ScannerError(f"1 to 9 passes wander by 0 to {MOST_WANDER_MM:g} mm")
        if not 0.0 <= self.uneven < 0.9 or abs(self.turn) > 45.0 or not (self.jpeg is None or 1 <= self.jpeg <= 100):
            raise ScannerError("light falls off by less than 90 %, a sheet lies turned by 45 degrees at most")


SOFT = Scanning(passes=1, wander_mm=0.04, broken=0.0, overrun_mm=0.2)
ROUGH = Scanning(passes=3, wander_mm=0.2, broken=0.2, overrun_mm=1.6)
PHOTO = Scanning(passes=3, wander_mm=0.2, broken=0.2, overrun_mm=1.6, paper=226.0, uneven=0.3, turn=1.2, blur_mm=0.12,
                 jpeg=82)  # fmt: skip
LEVELS = {"soft": SOFT, "rough": ROUGH, "photo": PHOTO}
"""One soft line; passes with construction lines; the same photographed."""


def scan(
    lines: Sequence[np.ndarray],
    size_mm: tuple[float, float],
    dpi: float,
    seed: int,
    how: Scanning | None = None,
    guides: Sequence[np.ndarray] = (),
) -> bytes:
    """A grey PNG or JPEG with its dpi written in, of polylines (n, 2) in mm and of construction lines."""
    how = how or Scanning()
    rng = np.random.default_rng(seed)
    scale = dpi / 25.4
    w, h = (round(side * scale) for side in size_mm)
    dark: np.ndarray = np.zeros((h * OVER, w * OVER), np.float32)
    for n in range(how.passes + bool(guides)):
        layer = Image.new("L", (w * OVER, h * OVER), 0)
        draw = ImageDraw.Draw(layer)
        for line in guides if n == how.passes else lines:
            for stroke in _strokes(line, how, rng):
                _draw(draw, stroke, scale * OVER, rng)
        strength = GUIDE_STRENGTH if n == how.passes else 0.6
        dark = 1.0 - (1.0 - dark) * (1.0 - strength * np.asarray(layer, np.float32) / 255.0)
    dark = dark.reshape(h, OVER, w, OVER).mean(axis=(1, 3))
    dark *= np.clip(1.0 + how.grain * rng.normal(0.0, 1.0, dark.shape).astype(np.float32), 0.25, 1.4)
    grey = how.paper + 1.6 * rng.normal(0.0, 1.0, dark.shape) - dark * (how.paper - GRAPHITE) * (1.3 - how.softness)
    return _file(_seen(grey, how, scale, rng), dpi, how)


def _seen(grey: np.ndarray, how: Scanning, scale: float, rng: np.random.Generator) -> Image.Image:
    """The sheet as it lies under the scanner's or the camera's light."""
    image = Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8))
    if how.turn:
        image = image.rotate(-how.turn, Image.Resampling.BICUBIC, fillcolor=round(EDGE_TONE))
    if how.blur_mm:
        image = image.filter(ImageFilter.GaussianBlur(how.blur_mm * scale))
    if how.uneven:
        h, w = image.height, image.width
        angle = rng.uniform(0.0, 2.0 * np.pi)
        y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j]
        slope = 0.5 + 0.5 * np.clip((x * np.cos(angle) + y * np.sin(angle)) / 1.3, -1.0, 1.0)
        light = 1.0 - how.uneven * (0.7 * slope + 0.3 * (x * x + y * y) / 2.0)
        image = Image.fromarray(np.clip(np.asarray(image, float) * light, 0, 255).astype(np.uint8))
    return image


def _file(image: Image.Image, dpi: float, how: Scanning) -> bytes:
    out = io.BytesIO()
    if how.jpeg is None:
        image.save(out, "PNG", dpi=(dpi, dpi), optimize=True)
    else:
        image.save(out, "JPEG", dpi=(round(dpi), round(dpi)), quality=how.jpeg)
    return out.getvalue()


def _strokes(line: np.ndarray, how: Scanning, rng: np.random.Generator) -> list[np.ndarray]:
    """One pass over a line: wandering, past its ends, set down anew in places."""
    whole = _wandering(_overrun(np.asarray(line, float), how.overrun_mm, rng), how.wander_mm, rng)
    if len(whole) < 12 or rng.uniform() >= how.broken:
        return [whole]
    cut = int(rng.integers(4, len(whole) - 4))
    back = int(rng.integers(-3, 4))
    return [whole[:cut], whole[max(cut + back, 0) :]]


def _overrun(line: np.ndarray, most: float, rng: np.random.Generator) -> np.ndarray:
    """Ends that run past, or stop a little short."""
    length = float(np.hypot(*np.diff(line, axis=0).T).sum())
    reach = rng.uniform(-0.3, 1.0, 2) * min(most, length / 6.0)
    ends = []
    for k, (a, b) in enumerate(((line[0], line[1]), (line[-1], line[-2]))):
        leg = a - b
        ends.append(a + leg / max(float(np.hypot(*leg)), 1e-9) * max(reach[k], 0.0))
    return np.vstack([ends[0], line, ends[1]])


def _wandering(line: np.ndarray, wander: float, rng: np.random.Generator) -> np.ndarray:
    """The line as one loose pass: off by slow waves."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    keep = np.concatenate([[True], np.diff(s) > 1e-9])
    s, line = s[keep], line[keep]
    at = np.union1d(np.linspace(0.0, s[-1], max(int(s[-1] / 0.6), 6)), s[1:-1][_turned(line) > SHARP_DEG])
    p = np.column_stack([np.interp(at, s, line[:, k]) for k in (0, 1)])
    knots = np.linspace(0.0, s[-1], max(int(s[-1] / 9.0) + 2, 4))
    off = read_at(knots, rng.normal(0.0, wander, (len(knots), 2)), at) * min(1.0, s[-1] / 12.0 + 0.25)
    far = np.hypot(*off.T)[:, None]
    return p + off * np.minimum(1.0, MOST_WANDER_MM / np.maximum(far, 1e-9))


def _turned(line: np.ndarray) -> np.ndarray:
    """Degrees (n - 2,) by which a polyline turns at its inner points."""
    a, b = line[1:-1] - line[:-2], line[2:] - line[1:-1]
    out: np.ndarray = np.degrees(np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))))
    return out


def _draw(draw: ImageDraw.ImageDraw, p: np.ndarray, scale: float, rng: np.random.Generator) -> None:
    """Short pieces of varying pressure, lighter at both ends."""
    n = len(p)
    u = np.linspace(0.0, 1.0, n)
    press = 0.72 + 0.2 * np.sin(2 * np.pi * (u * rng.uniform(0.6, 1.8) + rng.uniform()))
    press *= np.clip(np.minimum(u, 1.0 - u) * 9.0 + 0.35, 0.0, 1.0)
    q, turned = p * scale, _turned(p)
    for k in range(n - 1):
        tone = round(255 * float(np.clip(press[k], 0.1, 1.0)))
        width = max(1, round(PENCIL_MM * scale * (0.75 + 0.35 * press[k])))
        draw.line([tuple(q[k]), tuple(q[k + 1])], fill=tone, width=width)
        if k > 0 and turned[k - 1] > SHARP_DEG:
            # A pencil's point is round: no notch is left outside of a corner.
            x, y = q[k].tolist()
            draw.ellipse([x - width / 2, y - width / 2, x + width / 2, y + width / 2], fill=tone)
