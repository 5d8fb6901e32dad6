"""The drills: what each asks for in one sentence, its targets one after the other, and the figures that tell of it.

What is drilled, and which joint long and short lines are pulled from, is common practice of the trade.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plain_stride.practice.errors import PracticeError
from plain_stride.practice.targets import (
    Target,
    arc,
    beside_each_other,
    ellipse,
    s_curve,
    spiral,
    stepped,
    straight,
    swelling,
)

WRIST_MM, ELBOW_MM = 25.0, 90.0
"""Longer lines are pulled from the elbow, and from the shoulder: common practice, a matter of the hand's size."""
PITCH_MM = 3.0
HATCH_PITCH_MM = 1.5
LEVELS = (0.1, 0.3, 0.5, 0.7, 0.9)
LIGHT, FIRM = 0.15, 0.85
GOLDEN_DEG = 137.5
SAME_STROKE = "the same stroke"
"""The one drill whose target never changes: what is tried at several speeds and sizes."""


@dataclass(frozen=True)
class Drill:
    """name; words: what to do, one sentence; target: of the nth pull, from 0; figures: what it is judged by, the
    first foremost; at_once: how many targets stand beside each other."""

    name: str
    words: str
    target: Callable[[int], Target]
    figures: tuple[str, ...]
    at_once: int = 1

    def targets(self, n: int) -> list[Target]:
        """All that are shown for the nth pull; the one to be pulled is `n % at_once`."""
        first = n - n % self.at_once
        return [self.target(first + k) for k in range(self.at_once)]


def pivot(length: float) -> str:
    """The joint that a line of so many mm is pulled from."""
    return "wrist" if length <= WRIST_MM else "elbow" if length <= ELBOW_MM else "shoulder"


def _turn(n: int, half: float = 360.0) -> float:
    """Directions that differ from each other and come round evenly."""
    return (n * GOLDEN_DEG) % half


def _aim(n: int) -> Target:
    return Target(straight(40.0 + 15.0 * (n % 4), _turn(n)), dots=True)


def _thick_and_thin(n: int) -> Target:
    points = s_curve(110.0, 9.0, 90.0 + 30.0 * (n % 3 - 1))
    return Target(points, shares=swelling(points))


def _steps(n: int) -> Target:
    points = straight(120.0, 90.0)
    return Target(points, shares=stepped(points, LEVELS if n % 2 == 0 else LEVELS[::-1]))


def _light_and_firm(n: int) -> Target:
    points = straight(70.0, 60.0)
    return Target(points, shares=np.full(len(points), FIRM if n % 2 else LIGHT))


def _parallel(n: int) -> Target:
    return Target(beside_each_other(straight(80.0, 60.0), PITCH_MM, 10)[n % 10])


def _hatched(n: int) -> Target:
    """Between two edges that draw apart."""
    lines = beside_each_other(straight(24.0, 30.0), HATCH_PITCH_MM, 16)
    long = [0.6 + 0.4 * k / 15.0 for k in range(16)]
    cut = [line[: max(2, round(len(line) * share))] for line, share in zip(lines, long, strict=True)]
    edges = (np.array([line[0] for line in cut]), np.array([line[-1] for line in cut]))
    return Target(cut[n % 16], edges=edges)


DRILLS: tuple[Drill, ...] = (
    Drill("straight lines", "Pull each line in one go, looking at its end, not at the nib.",
          lambda n: Target(straight(70.0, _turn(n))), ("wander", "shake", "end")),
    Drill("arcs", "Pull the arc from one end to the other without stopping.",
          lambda n: Target(arc(35.0, 130.0, _turn(n))), ("wander", "shake", "end")),
    Drill("circles", "Go round once and meet where you began.",
          lambda n: Target(ellipse(14.0, 14.0, _turn(n)), closed=True), ("wander", "end", "shake")),
    Drill("ellipses", "Go round once; the narrow ends are as smooth as the long sides.",
          lambda n: Target(ellipse(24.0, 11.0, _turn(n, 180.0)), closed=True), ("wander", "end", "shake")),
    Drill("spirals", "From inside out, the turns equally far apart.",
          lambda n: Target(spiral(3.0, 30.0)), ("wander", "shake")),
    Drill("S-curves", "Both halves swing alike, without a stop in the middle.",
          lambda n: Target(s_curve(90.0, 14.0, _turn(n))), ("wander", "shake", "end")),
    Drill(SAME_STROKE, "The same stroke again and again: let it become one movement.",
          lambda n: Target(s_curve(70.0, 8.0, 70.0)), ("wander", "end", "shake")),
    Drill("aim at a dot", "From dot to dot in one pull: the eye rests on the second.",
          _aim, ("end", "wander")),
    Drill("thick to thin", "Thin, thick in the middle, thin again: press and let go evenly.",
          _thick_and_thin, ("width", "shake")),
    Drill("steps of pressure", "Five widths, each held even for its fifth of the line.",
          _steps, ("width",)),
    Drill("light and firm", "As light as it holds, then as firm as is easy, in turn.",
          _light_and_firm, ("width", "pressure")),
    Drill("parallel lines", "Ten lines, all equally far apart.",
          _parallel, ("pitch", "wander"), 10),
    Drill("hatching", "From edge to edge, equally far apart, equally heavy.",
          _hatched, ("pitch", "end", "width_cv"), 16),
    Drill("from the wrist", "Short lines: only the wrist moves.",
          lambda n: Target(straight(18.0, _turn(n))), ("shake", "end")),
    Drill("from the elbow", "The forearm swings round the elbow; wrist and fingers keep still.",
          lambda n: Target(arc(90.0, 50.0, _turn(n, 90.0) - 45.0)), ("wander", "end")),
    Drill("from the shoulder", "The whole arm moves from the shoulder, the hand only glides.",
          lambda n: Target(straight(140.0, 60.0 + 20.0 * (n % 4))), ("wander", "end")),
)  # fmt: skip
PENCILS = "your own pencils"
"""A drill of lines of the inker's own pages."""


def drill_named(name: str) -> Drill:
    """Raises PracticeError."""
    found = next((drill for drill in DRILLS if drill.name == name), None)
    if found is None:
        raise PracticeError(f"there is no drill '{name}': {', '.join(drill.name for drill in DRILLS)}")
    return found


def drill_of(curves: list[np.ndarray]) -> Drill:
    """The drill of an inker's own lines, in turn; each (n, 2) mm of the practice sheet."""
    return Drill(PENCILS, "Lines of your own pages that went worst: once more, without the page.",
                 lambda n: Target(curves[n % len(curves)]), ("wander", "end", "shake"))  # fmt: skip
