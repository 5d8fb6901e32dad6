"""All checks of the proof, and the proof of a page."""

from collections.abc import Callable, Iterable, Iterator, Sequence

from plain_stride.proof import (
    against_pencils,
    blobs,
    fill_in,
    flat_weights,
    gaps,
    halos,
    hatch_in_print,
    inversions,
    loose_strands,
    low_resolution,
    off_board,
    overshoots,
    pale_colours,
    restated,
    strays,
    tangents,
    too_thin,
    uneven_hatch,
    wobbles,
)  # fmt: skip
from plain_stride.proof.beside import pairs_beside
from plain_stride.proof.finding import SEVERITIES, Finding
from plain_stride.proof.limits import OFF
from plain_stride.proof.page import Page

Check = Callable[[Page, Sequence[str]], Iterable[Finding]]
BY_LINE: tuple[Check, ...] = (gaps.find, overshoots.find, wobbles.find, blobs.find, too_thin.find)
"""Checks of some lines, which look at no more than what lies round them."""
OF_ALL: tuple[Callable[[Page], Iterable[Finding]], ...] = (flat_weights.find, strays.find, off_board.find,
                                                            loose_strands.find, inversions.find, uneven_hatch.find,
                                                            low_resolution.find, halos.find, against_pencils.find,
                                                            hatch_in_print.find, pale_colours.find)  # fmt: skip
"""Checks of a page as a whole: what they tell of a line hangs on lines far from it."""
FOLDED_SHARE, FOLDED_LEAST = 0.15, 2
"""What more strokes of a set have than this is how the set was drawn, and no fault of each."""


def proof_of(page: Page) -> list[Finding]:
    """All findings of a page, the most severe first."""
    return told_of(page, of_lines(page, page.black_lines))


def told_of(page: Page, of_its_lines: Iterable[Finding]) -> list[Finding]:
    """The same, where those of its lines are known, as of `of_lines`."""
    return _in_order(_kept(page, [*of_its_lines, *(one for check in OF_ALL for one in check(page))]))


def of_lines(page: Page, lines: Sequence[str]) -> list[Finding]:
    """What is found on some lines, whatever becomes of it."""
    found = [one for check in BY_LINE for one in check(page, lines)]
    pairs = list(pairs_beside(page, lines))
    again = list(restated.find(page, pairs))
    told = {frozenset(one.lines) for one in again}
    free = [pair for pair in pairs if not any({pair.a, pair.b} <= lines for lines in told)]
    found += again
    found += fill_in.find(page, free)
    found += tangents.find(page, lines, free)
    return found


def _kept(page: Page, found: Iterable[Finding]) -> Iterator[Finding]:
    """Without kinds that are off, and with what all strokes of a set have in common left out."""
    wanted = [one for one in found if one.severity != OFF]
    by_set: dict[tuple[str, int], int] = {}
    for one in wanted:
        for key in one.lines[:1]:
            if key in page.sets.of:
                by_set[one.kind, page.sets.of[key]] = by_set.get((one.kind, page.sets.of[key]), 0) + 1
    for one in wanted:
        row = page.sets.of.get(one.lines[0]) if one.lines else None
        many = 0 if row is None or one.kind == uneven_hatch.KIND else by_set[one.kind, row]
        if row is None or many <= max(FOLDED_LEAST, FOLDED_SHARE * len(page.sets.rows[row])):
            yield one


def _in_order(found: Iterable[Finding]) -> list[Finding]:
    """By severity, the farthest over its limit first."""
    return sorted(found, key=lambda one: (SEVERITIES.index(one.severity), -one.weight, one.kind, one.at))
