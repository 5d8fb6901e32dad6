"""Ink against its pencils: what has none yet, what lies beside them, what the rough had and the ink lost."""

from collections.abc import Iterator

import numpy as np

from plain_stride.pencils.lost import DARK, LostPlace
from plain_stride.proof.finding import LOOK, Finding
from plain_stride.proof.page import Page

UNFINISHED, STRAYING, LOST = "unfinished", "straying", "lost"
BEGUN = 0.5
"""Where less of the pencils is inked, that is told once, and not of each line."""
FOLLOWS, TIMES = 0.8, 2.0
"""A line follows its pencils where so much of it does; over rough pencils all lines lie beside them: one strays that
does so many times as much as most."""
SWING_TURNS = 90.0
"""Degrees of swing that count as all of a place's tone does."""


def find(page: Page) -> Iterator[Finding]:
    """What the pencils of a page tell; nothing without them."""
    if page.against is None:
        return
    yield from _unfinished(page)
    follows = {line: strays for line, strays in page.against.coverage.straying.items()
               if line in page.roles and strays.share >= FOLLOWS and not strays.over}  # fmt: skip
    usual = float(np.median([strays.rms for strays in follows.values()])) if follows else 0.0
    for line, strays in follows.items():
        if strays.rms > max(page.limit(STRAYING), TIMES * usual):
            at = np.array(strays.at)
            says = f"This line lies {strays.rms:.2f} mm beside its pencils (RMS), {strays.most:.2f} mm at most."
            yield page.found(STRAYING, at, page.stroke(line).points, (line,), strays.rms, says)
    for place in page.against.lost:
        yield from _lost(page, place)


def _unfinished(page: Page) -> Iterator[Finding]:
    assert page.against is not None
    cover, limit = page.against.coverage, page.limit(UNFINISHED)
    bare = [(run, _long(run)) for run in cover.bare]
    long = [(run, mm) for run, mm in bare if mm > limit]
    if not long:
        return
    if cover.inked < BEGUN:
        worst = max(long, key=lambda one: one[1])[0]
        says = (
            f"{cover.inked:.0%} of the pencils have ink, {cover.bare_mm:.0f} mm have none yet: ink first, then proof."
        )
        yield page.found(UNFINISHED, worst[len(worst) // 2], worst, (), cover.bare_mm, says, severity=LOOK)
        return
    for run, mm in long:
        says = f"{mm:.0f} mm of pencils have no ink here: pull the line, or mark that it needs none."
        yield page.found(UNFINISHED, run[len(run) // 2], run, (), mm, says)


def _lost(page: Page, place: LostPlace) -> Iterator[Finding]:
    dark = place.kind == DARK
    measured = place.rough - place.ink if dark else (place.rough - place.ink) / SWING_TURNS
    if measured <= page.limit(LOST):
        return
    at = np.array([place.x, place.y])
    half = np.array([place.w, place.h]) / 2.0
    where = at + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
    lack = f"The rough turned by {place.rough:.0f} degrees here and the ink by {place.ink:.0f}."
    if dark:
        lack = f"The rough was {place.rough:.0%} dark here and the ink is {place.ink:.0%}: blacks, hatching or weight."
    yield page.found(LOST, at, where, (), measured, lack)


def _long(points: np.ndarray) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())
