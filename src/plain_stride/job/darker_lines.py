"""Line colours that are darker than the flats beside the lines by a set step of lightness."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride import colour
from plain_stride.job.flats import Flats
from plain_stride.job.shapes import Shapes
from plain_stride.lines.shape import Shape
from plain_stride.lines.stretches import beside as along_sides

STEP_MM, BESIDE_MM = 0.8, 0.2
"""Along a line flats are looked up so often, so far beyond its edges."""
LEAST_SHARE = 0.05
"""Of a line's length: a flat that is beside less of it counts for nothing."""


@dataclass(frozen=True)
class Darker:
    """What a line's colour would be. beside: colours of the flats at its sides, with the share of the length, the most
    first; colour: what it would be, None where it cannot; why: why not."""

    line: str
    beside: tuple[tuple[str, float], ...]
    colour: str | None
    why: str = ""


def beside(shape: Shape, flats: Flats) -> tuple[tuple[str, float], ...]:
    """(colour, share of both sides' length) of the flats beside a line, the most first."""
    found = flats.colours_at(np.vstack(along_sides(shape, STEP_MM, BESIDE_MM)[1:]))
    shares = {name: found.count(name) / len(found) for name in dict.fromkeys(found) if name is not None}
    some = [(name, share) for name, share in shares.items() if share >= LEAST_SHARE]
    return tuple(sorted(some, key=lambda one: (-one[1], one[0])))


def darker_lines(shapes: Shapes, flats: Flats, lines: Sequence[str], step: float) -> list[Darker]:
    """For each line the colour that has the hue of the flat that is beside most of it, and is darker by a step of L*
    than the darkest flat beside it; where there is none, why."""
    out = []
    for key in lines:
        near = beside(shapes[key], flats)
        if not near:
            out.append(Darker(key, near, None, "no flat lies beside it"))
            continue
        darkest = min(colour.lightness(name) for name, _ in near)
        if darkest < step:
            out.append(Darker(key, near, None, f"the flat beside it has a lightness of {darkest:.0f}: nothing is darker"
                                               f" by {step:g}"))  # fmt: skip
            continue
        # Rounding to whole steps of sRGB never leaves it lighter than was asked.
        wanted = darkest - step
        made = colour.with_lightness(near[0][0], round(wanted, 4))
        while colour.lightness(made) > darkest - step and wanted > 0.0:
            wanted -= 0.1
            made = colour.with_lightness(near[0][0], round(max(wanted, 0.0), 4))
        out.append(Darker(key, near, made))
    return out


def darker_by(shapes: Shapes, flats: Flats, colours: Mapping[str, str]) -> dict[str, float]:
    """By how much of L* lines, each of a colour, are darker than the darkest flat beside them; those that have none
    beside them are left out."""
    out = {}
    for key, own in colours.items():
        near = beside(shapes[key], flats)
        if near:
            out[key] = min(colour.lightness(name) for name, _ in near) - colour.lightness(own)
    return out
