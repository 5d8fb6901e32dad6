"""Halos: whether their white has one width, comes round, and leaves no thin black along its edge."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.proof.finding import Finding, Mend
from plain_stride.proof.page import HaloInk, Page
from plain_stride.tone.halos import HaloMeasured, far_side, measured

UNEVEN, OPEN, DOUBLED = "halo-uneven", "halo-open", "doubled-edge"
BESIDE, APART_MM = 0.3, 0.1
"""So near the white, as a share of its width, an edge has it; edges without white nearer each other than this are one
place."""


@dataclass(frozen=True, eq=False)
class _Halo:
    ink: HaloInk

    @cached_property
    def found(self) -> HaloMeasured:
        return measured(self.ink.white, self.ink.edge, self.ink.dark, self.ink.mm)

    @cached_property
    def bare(self) -> Any:
        """What of the edge has no white beside it."""
        import shapely

        near = shapely.buffer(self.ink.white, BESIDE * self.ink.mm, quad_segs=8)
        return shapely.difference(self.ink.edge, near)


def find(page: Page) -> Iterator[Finding]:
    """What is wrong with the halos of a page."""
    for ink in page.halos:
        if ink.white.is_empty:
            continue
        halo = _Halo(ink)
        for check in (_uneven, _open, _doubled):
            if (found := check(page, halo)) is not None:
                yield found


def _uneven(page: Page, halo: _Halo) -> Finding | None:
    import shapely

    found, mm = halo.found, halo.ink.mm
    spread = (found.widest - found.narrowest) / mm
    if spread <= page.limit(UNEVEN):
        return None
    far = far_side(halo.ink.white, halo.ink.edge, mm)
    away = shapely.distance(shapely.points(far), halo.ink.edge)
    at = far[int(np.argmax(np.abs(away - np.median(away))))]
    says = f"This halo is {found.narrowest:.2f} to {found.widest:.2f} mm wide: lay it anew at one width."
    return page.found(UNEVEN, at, at[None], (), spread, says, mend=_anew(halo), others=(halo.ink.id,))


def _open(page: Page, halo: _Halo) -> Finding | None:
    import shapely

    if not halo.ink.comes_round or halo.bare.length <= page.limit(OPEN):
        return None
    piece = max(shapely.get_parts(shapely.line_merge(halo.bare)), key=lambda one: one.length)
    where = shapely.get_coordinates(shapely.segmentize(piece, 0.5))
    mm = float(halo.bare.length)
    says = f"{mm:.1f} mm of this edge have no white: there two blacks run into one."
    return page.found(OPEN, where[len(where) // 2], where, (), mm, says, mend=_anew(halo), others=(halo.ink.id,))


def _doubled(page: Page, halo: _Halo) -> Finding | None:
    import shapely

    mm = halo.found.doubled
    if mm <= page.limit(DOUBLED):
        return None
    at = shapely.get_coordinates(halo.ink.white.representative_point())[0]
    where = shapely.get_coordinates(shapely.segmentize(halo.ink.edge, 2.0))
    near = where[np.argsort(np.hypot(*(where - at).T))[:12]]
    says = f"A black thinner than the halo runs along {mm:.1f} mm of this edge, white on both sides: clear one side."
    return page.found(DOUBLED, near[0], near, (), mm, says, others=(halo.ink.id,))


def _anew(halo: _Halo) -> Mend:
    return Mend("lay the halo anew where its edge lies now", ({"change": "tone-set", "tone": halo.ink.id},), safe=False)
