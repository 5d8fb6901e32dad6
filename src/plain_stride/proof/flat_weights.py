"""Flat weight: long free lines of one width from end to end, where the rest of the drawing has weights that live."""

from collections.abc import Iterator
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.lines.shape import Shape
from plain_stride.proof.finding import Finding, Mend
from plain_stride.proof.page import Page

KIND = "flat-weight"
LEAST_MM, STYLE_SHARE, ENDS_SHARE = 25.0, 0.5, 0.12
"""A shorter line may be even; where so many of the long ones are, that is the style; what of a line its ends are."""
PLACES = 120


def find(page: Page) -> Iterator[Finding]:
    """The flat ones; none where flat is the style of the drawing."""
    places = page.inked.scene.known.places
    long = [places.lines[k] for k in np.flatnonzero(places.length >= LEAST_MM).tolist()]
    spreads = {key: spread for key in long if (spread := _spread(page, key)) is not None}
    limit = page.limit(KIND)
    flat = [key for key, spread in spreads.items() if spread < limit]
    if len(flat) > STYLE_SHARE * len(spreads):
        return
    for key in filter(page.is_black, flat):
        stroke = page.stroke(key)
        middle = stroke.points[len(stroke.points) // 2]
        says = f"{stroke.length:.0f} mm at one width, while other lines swell: give it a middle, or a lighter end."
        quarter = round(stroke.length / 4.0, 2)
        mend = Mend("swell its middle by a quarter",
                    ({"change": "swell", "line": key, "from": quarter, "to": round(3.0 * quarter, 2), "factor": 1.25},),
                    safe=False)  # fmt: skip
        yield page.found(KIND, middle, stroke.points, (key,), spreads[key], says, mend=mend)


def _spread(page: Page, line: str) -> float | None:
    """The coefficient of variation of a long free line's widths; None for what is no such line."""
    shape = page.shapes[line]
    if page.roles[line] not in ("outer", "inner") or page.sets.holds(line):
        return None
    kept = _kept.get(shape)
    if kept is None:
        inner = np.interp(
            np.linspace(ENDS_SHARE, 1.0 - ENDS_SHARE, PLACES) * shape.length, shape.body.s, shape.body.full
        )
        kept = _kept[shape] = float(np.std(inner) / max(float(np.mean(inner)), 1e-9))
    return kept


_kept: WeakKeyDictionary[Shape, float] = WeakKeyDictionary()
