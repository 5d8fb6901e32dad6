"""Restated lines: several strokes over or close beside each other where one is meant."""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.proof.beside import Beside
from plain_stride.proof.finding import MUST, Finding, Mend
from plain_stride.proof.page import Page

KIND = "restated"
WHITE_MM, LEAST_MM, ALONG, SAME_MM = 0.25, 3.0, 0.94, 0.02
"""White that does not part two strokes; over how many mm at least; the cosine between them; so near each other
all along that one is drawn twice."""
STEADY_MM, CLEAR_MM = 0.05, 0.01
"""Two lines that keep the same white between them all along, and as much of it, are a doubled line that is meant."""


def find(page: Page, pairs: Sequence[Beside]) -> Iterator[Finding]:
    """Bundles of strokes among pairs that lie beside each other: one finding for each bundle."""
    hits = [(pair, over) for pair in pairs if (over := _over(page, pair)) is not None]
    for bundle in _bundles(hits):
        yield _finding(page, bundle)


def _over(page: Page, pair: Beside) -> np.ndarray | None:
    """Where a pair restates (n,); None for one that does not."""
    if page.apart(pair.a, pair.b) or "texture" in (page.roles[pair.a], page.roles[pair.b]):
        return None
    over = (pair.white <= WHITE_MM) & (pair.along >= ALONG)
    if over.any() and not page.seen(pair.a, float(np.median(pair.s[over]))):
        return None
    if pair.share(over) < page.limit(KIND) or over.sum() * pair.step < LEAST_MM:
        return None
    white = pair.white[over]
    return None if white.min() > CLEAR_MM and np.std(white) < STEADY_MM else over


def _bundles(hits: list[tuple[Beside, np.ndarray]]) -> list[list[tuple[Beside, np.ndarray]]]:
    """Pairs that share a line, together."""
    root: dict[str, str] = {}

    def top(key: str) -> str:
        while root.setdefault(key, key) != key:
            key = root[key]
        return key

    for pair, _ in hits:
        root[top(pair.a)] = top(pair.b)
    out: dict[str, list[tuple[Beside, np.ndarray]]] = {}
    for pair, over in hits:
        out.setdefault(top(pair.a), []).append((pair, over))
    return list(out.values())


def _finding(page: Page, bundle: list[tuple[Beside, np.ndarray]]) -> Finding:
    lines = tuple(dict.fromkeys(key for pair, _ in bundle for key in (pair.a, pair.b)))
    pair, over = max(bundle, key=lambda one: one[0].share(one[1]))
    where = pair.points[over]
    twice = all(np.abs(one.white + 2.0 * one.half).max() <= SAME_MM for one, _ in bundle)
    share = pair.share(over)
    if twice:
        says = "This line lies twice over itself: take one of the two away."
        mend = Mend("take the copy away", ({"change": "delete", "lines": list(lines[1:])},))
    else:
        says = (
            f"{len(lines)} strokes run within {WHITE_MM:g} mm of each other for {share:.0%} of the shorter: join them."
        )
        mend = Mend("join them to one line", ({"change": "join", "lines": list(lines)},), safe=False)
    return page.found(
        KIND, where[len(where) // 2], where, lines, share, says, severity=MUST if twice else None, mend=mend
    )
