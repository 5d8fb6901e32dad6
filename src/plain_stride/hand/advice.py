"""Advice on how a line was pulled, tied to its fault: a sentence where a figure passes its threshold, else none."""

from dataclasses import dataclass

import numpy as np

from plain_stride.hand.along import lengths_along, places_at


@dataclass(frozen=True)
class Thresholds:
    """shake: mm RMS to the side, on the glass, taken out, from which a hand was shaky; helped: mm RMS from which its
    going is worth a word, where it is more than the shape was moved; slow: mm/s on the glass below which it was
    slow; flat: mm by which steadying moved the shape in a bend of less than `tight` mm radius; long: mm on the glass
    beyond which a pull leaves the reach of the wrist; missed: mm on the glass by which it ends beside
    its pencils."""

    shake: float = 0.07
    helped: float = 0.015
    slow: float = 25.0
    flat: float = 0.04
    tight: float = 6.0
    long: float = 160.0
    missed: float = 0.6


@dataclass(frozen=True)
class PulledLine:
    """What is known of a line: shake and move of its shape, mm; length, mm; seconds; the tightest bend's radius, mm;
    glass: mm on the glass for one mm of the sheet; missed: mm by which it ends beside the pencil line it follows, None
    where none is known."""

    shake: float
    moved: float
    length: float
    seconds: float
    tightest: float
    glass: float
    missed: float | None = None


def advice_on(line: PulledLine, at: Thresholds | None = None) -> list[str]:
    """The gravest first; empty where nothing passes its threshold. No two sentences ask for opposite things."""
    at = at or Thresholds()
    speed = line.length * line.glass / line.seconds if line.seconds > 0.0 else 0.0
    shake, length, missed = line.shake * line.glass, line.length * line.glass, (line.missed or 0.0) * line.glass
    shaky, far = shake > at.shake, missed > at.missed or length > at.long
    slow = shaky and 0.0 < speed < at.slow
    out = []
    if shaky:
        way = "pull faster" if slow else "pull it in sections" if far else "enlarge the board"
        out.append(f"Shaky, **{shake:.2f} mm** on the tablet: {way}.")
    if hurt(line, at):
        way = "steady it less in bends" if slow else "pull slower there, or steady it less in bends"
        out.append(f"Steadying hurt it, **{line.moved:.2f} mm** in a bend of {line.tightest:.0f} mm: {way}.")
    elif line.shake > at.helped and line.moved < line.shake:
        out.append("Steadying helped.")
    # A shaky line wants a larger board: where it wants a smaller reach too, sections give it both.
    if missed > at.missed:
        way = "the line in sections" if shaky else "the board reduced or the line in sections"
        out.append(f"Its end misses the pencils by **{missed:.1f} mm** on the tablet: a smaller reach hits it, with"
                   f" {way}.")  # fmt: skip
    if length > at.long:
        way = "pull it in sections" if shaky else "reduce the board, or pull it in sections"
        out.append(f"**{length:.0f} mm** on the tablet is beyond the wrist: {way}.")
    return out


def hurt(line: PulledLine, at: Thresholds | None = None) -> bool:
    """Whether steadying flattened a tight bend."""
    at = at or Thresholds()
    return line.moved > at.flat and line.tightest < at.tight


def tightest_bend(points: np.ndarray, span: float = 1.5) -> float:
    """The radius (mm) of the tightest bend of a line (n, 2), looked at over a span."""
    s = lengths_along(points)
    if s[-1] < 3.0 * span:
        return float("inf")
    at = np.arange(0.0, s[-1], span / 3.0)
    p = places_at(points, s, at)
    a, b = p[3:-3] - p[:-6], p[6:] - p[3:-3]
    turn = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
    return float(span / max(float(turn.max(initial=0.0)), 1e-9))
