"""Known smoothers beside ours: how much shake each takes out at each loss of shape, as numbers and as a picture.

Compared: moving average; 1-euro (Casiez, Roussel and Vogel 2012); a lagging string; Savitzky and Golay 1964 with a
cubic; penalised third differences (Whittaker 1923, Eilers 2003). Each is run at many strengths, ours at many cutoffs
round its own. Removed and loss as in `hand`, average hand, before fitting.
"""

from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from scipy.signal import savgol_filter

from benchmarks.hand import Pair, measured, pairs
from benchmarks.told import told
from plain_stride.compiled.ready import load_if_compiled
from plain_stride.hand import steady as steadying
from plain_stride.hand.nib import Steadying
from plain_stride.hand.simulated import HANDS, PACES
from plain_stride.hand.solve import penalty_for, steady_solve

PICTURE = Path(__file__).parent.parent / "docs" / "screenshots" / "steadying.png"
FONT = Path(__file__).parent.parent / "src/plain_stride/desk/fonts/Rosario_400Regular.ttf"
LOSSES = {"careful": 0.12, "normal": 0.25, "fast": 0.8}
"""mm of shape lost at the right edge of each part of the picture."""
OURS = "ours"
CUTOFFS = (0.75, 0.85, 1.0, 1.15, 1.3, 1.5)
Curve = list[tuple[float, float]]


def main() -> None:
    load_if_compiled()
    curves = {pace: _curves(pace) for pace in PACES}
    for pace, found in curves.items():
        for name, curve in found.items():
            behind = [own - removed for loss, removed in curve if name != OURS
                      and (own := removed_at(found[OURS], loss)) is not None]  # fmt: skip
            if behind:
                told(f"{pace}: ours ahead of {name} at equal loss, least", min(behind), 0.0, "least", "%")
    picture(curves).save(PICTURE)
    print(f"    the curves are in docs/screenshots/{PICTURE.name}")


def removed_at(curve: Curve, loss: float) -> float | None:
    """Share removed at a loss on a curve; None outside of it."""
    rising = sorted(curve)
    x, y = [p[0] for p in rising], np.maximum.accumulate([p[1] for p in rising])
    return float(np.interp(loss, x, y)) if x[0] <= loss <= x[-1] else None


def _curves(pace: str) -> dict[str, Curve]:
    pulls = pairs(pace, HANDS["average"], range(20))
    ways: dict[str, tuple[Callable[[float, np.ndarray], np.ndarray], Iterable[float]]] = {
        "moving average": (mean, (2, 4, 6, 8, 11, 14, 18, 24, 30)),
        "1-euro": (lambda k, p: one_euro(p, k), (8.0, 5.0, 3.0, 2.0, 1.4, 1.0, 0.7)),
        "lagging string": (string, (0.05, 0.1, 0.2, 0.3, 0.5, 0.8, 1.2)),
        "Savitzky-Golay": (savitzky, (5, 8, 12, 16, 20, 25, 32, 40, 50)),
        "Whittaker-Eilers": (whittaker, (12.0, 9.0, 7.0, 6.0, 5.0, 4.0, 3.2, 2.6, 2.0)),
    }
    out = {name: [_place(partial(way, k), pulls) for k in strengths] for name, (way, strengths) in ways.items()}
    out[OURS] = [_place(partial(ours, k), pulls) for k in CUTOFFS]
    return out


def _place(smooth: Callable[[np.ndarray], np.ndarray], pulls: list[Pair]) -> tuple[float, float]:
    """(loss mm, share removed)."""
    removed, loss, _ = measured(pulls, [(smooth(a), smooth(b)) for a, b in pulls])
    return loss, removed


def ours(times: float, p: np.ndarray) -> np.ndarray:
    """Auto with all its cutoffs so many times as high."""
    kept = steadying.FIRST_HZ, steadying.BASE_HZ, steadying.LOW_HZ, steadying.HIGH_HZ
    steadying.FIRST_HZ, steadying.BASE_HZ, steadying.LOW_HZ, steadying.HIGH_HZ = (hz * times for hz in kept)
    try:
        return steadying.steady(p, Steadying()).path
    finally:
        steadying.FIRST_HZ, steadying.BASE_HZ, steadying.LOW_HZ, steadying.HIGH_HZ = kept


def mean(k: float, p: np.ndarray) -> np.ndarray:
    long = 2 * int(k) + 1
    padded = np.pad(p[:, :2], ((long // 2, long // 2), (0, 0)), mode="edge")
    return np.column_stack([np.convolve(padded[:, c], np.full(long, 1.0 / long), "valid") for c in (0, 1)])


def one_euro(p: np.ndarray, least_hz: float, beta: float = 0.02, slope_hz: float = 1.0) -> np.ndarray:
    """A low-pass of first order whose cutoff is least_hz + beta |speed|, the speed itself low-passed at slope_hz."""
    out = p[:, :2].copy()
    speed = np.zeros(2)
    for k in range(1, len(p)):
        dt = max(p[k, 3] - p[k - 1, 3], 1e-4)
        speed += gain(slope_hz, dt) * ((p[k, :2] - p[k - 1, :2]) / dt - speed)
        out[k] = out[k - 1] + gain(least_hz + beta * np.hypot(*speed), dt) * (p[k, :2] - out[k - 1])
    return out


def gain(hz: float, dt: float) -> float:
    """Share of a step that a first-order low-pass takes in one sample: 1 / (1 + tau / dt), tau = 1 / (2 pi hz)."""
    turn = 2.0 * np.pi * hz * dt
    return float(turn / (turn + 1.0))


def string(long: float, p: np.ndarray) -> np.ndarray:
    """What is drawn is pulled by the pen on a string of so many mm, and reaches it at the end."""
    out = [p[0, :2]]
    for at in p[1:, :2]:
        gap = at - out[-1]
        far = float(np.hypot(*gap))
        out.append(out[-1] + gap * max(0.0, 1.0 - long / far) if far > 1e-9 else out[-1])
    return np.vstack([*out, p[-1:, :2]])


def savitzky(k: float, p: np.ndarray) -> np.ndarray:
    out: np.ndarray = savgol_filter(p[:, :2], min(2 * int(k) + 1, len(p) - 1 + len(p) % 2), 3, axis=0)
    return out


def whittaker(hz: float, p: np.ndarray) -> np.ndarray:
    return steady_solve(p[:, :2], np.full(len(p) - 3, penalty_for(hz, 200.0)))


INKS = {OURS: "#0E6B70", "moving average": "#302D33", "1-euro": "#655F66", "lagging string": "#B0876A",
        "Savitzky-Golay": "#46678B", "Whittaker-Eilers": "#7A5C94"}  # fmt: skip


def picture(curves: dict[str, dict[str, Curve]]) -> Image.Image:
    """Removed against loss, a part for each pace; up and to the left is better."""
    wide, high, room = 420, 360, 56
    image = Image.new("RGB", (3 * wide + 20, high + 90), "#F3EEE4")
    draw, font = ImageDraw.Draw(image), ImageFont.truetype(str(FONT), 15)
    for n, (pace, found) in enumerate(curves.items()):
        x0, y0, w, h = n * wide + room, 40, wide - room - 20, high - 80
        draw.rectangle((x0, y0, x0 + w, y0 + h), fill="#FDFBF6", outline="#CBC1B0")
        draw.text((x0, 14), f"{pace}: shake removed, %", fill="#302D33", font=font)
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            draw.text((x0 - 34, y0 + h * (1.0 - share) - 9), f"{share * 100:.0f}", fill="#655F66", font=font)
        for k in range(3):
            loss = LOSSES[pace] * k / 2.0
            draw.text((x0 + w * k / 2.0 - 12, y0 + h + 6), f"{loss:.2f}", fill="#655F66", font=font)
        draw.text((x0, y0 + h + 26), "shape lost, mm (95th percentile)", fill="#655F66", font=font)
        for name, curve in found.items():
            points = [(x0 + w * loss / LOSSES[pace], y0 + h * (1.0 - max(removed, 0.0)))
                      for loss, removed in sorted(curve) if loss <= LOSSES[pace]]  # fmt: skip
            draw.line(points, fill=INKS[name], width=4 if name == OURS else 2, joint="curve")
            for x, y in points:
                draw.ellipse((x - 3, y - 3, x + 3, y + 3), fill=INKS[name])
    x = 20
    for name, ink in INKS.items():
        draw.line((x, high + 60, x + 26, high + 60), fill=ink, width=4 if name == OURS else 2)
        draw.text((x + 34, high + 50), name, fill="#302D33", font=font)
        x += 60 + int(draw.textlength(name, font=font)) + 20
    return image
