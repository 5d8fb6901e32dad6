"""A simulated scanner: what comes back when pencil lines are drawn in a few wandering passes and scanned."""

import io
from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw

from plain_stride.hand.resample import read_at

OVER = 2
"""Drawn this much larger and reduced, so that strokes have soft edges."""
PENCIL_MM = 0.42
WANDER_MM = 0.28
PAPER, GRAPHITE = 246.0, 92.0


def scan(lines: Sequence[np.ndarray], size_mm: tuple[float, float], dpi: float, seed: int, passes: int = 2) -> bytes:
    """A grey PNG with its dpi written in, of polylines (n, 2) in mm, each drawn in `passes` that wander about it."""
    rng = np.random.default_rng(seed)
    scale = dpi / 25.4
    w, h = (round(side * scale) for side in size_mm)
    dark: np.ndarray = np.zeros((h * OVER, w * OVER), np.float32)
    for _ in range(passes):
        layer = Image.new("L", (w * OVER, h * OVER), 0)
        draw = ImageDraw.Draw(layer)
        for line in lines:
            _stroke(draw, _wandering(line, rng), scale * OVER, rng)
        dark = 1.0 - (1.0 - dark) * (1.0 - 0.6 * np.asarray(layer, np.float32) / 255.0)
    dark = dark.reshape(h, OVER, w, OVER).mean(axis=(1, 3))
    grain = rng.normal(0.0, 1.0, dark.shape).astype(np.float32)
    dark *= np.clip(1.0 + 0.28 * grain, 0.25, 1.4)
    grey = PAPER + 1.6 * rng.normal(0.0, 1.0, dark.shape) - dark * (PAPER - GRAPHITE)
    out = io.BytesIO()
    Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8)).save(out, "PNG", dpi=(dpi, dpi), optimize=True)
    return out.getvalue()


def _wandering(line: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The line as one loose pass: off by slow waves, a little short of its ends or past them."""
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0.0, s[-1], max(int(s[-1] / 0.6), 6))
    p = np.column_stack([np.interp(at, s, line[:, k]) for k in (0, 1)])
    knots = np.linspace(0.0, s[-1], max(int(s[-1] / 9.0) + 2, 4))
    off = read_at(knots, rng.normal(0.0, WANDER_MM, (len(knots), 2)), at)
    return p + off * min(1.0, s[-1] / 12.0 + 0.25)


def _stroke(draw: ImageDraw.ImageDraw, p: np.ndarray, scale: float, rng: np.random.Generator) -> None:
    """Short pieces of varying pressure, lighter at both ends."""
    n = len(p)
    u = np.linspace(0.0, 1.0, n)
    press = 0.72 + 0.2 * np.sin(2 * np.pi * (u * rng.uniform(0.6, 1.8) + rng.uniform()))
    press *= np.clip(np.minimum(u, 1.0 - u) * 9.0 + 0.35, 0.0, 1.0)
    q = p * scale
    for k in range(n - 1):
        tone = round(255 * float(np.clip(press[k], 0.1, 1.0)))
        width = max(1, round(PENCIL_MM * scale * (0.75 + 0.35 * press[k])))
        draw.line([tuple(q[k]), tuple(q[k + 1])], fill=tone, width=width)
