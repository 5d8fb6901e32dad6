"""Lines that run beside each other: how much white lies between two of them, place by place along the shorter one."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.form.contacts import BESIDE, CROSSING, Contact
from plain_stride.proof.ends import MET_MM, other_of, place_on
from plain_stride.proof.fine import Stroke
from plain_stride.proof.page import Page

WITHIN_MM, TURNED_DEG = 0.4, 25.0
"""Pairs whose ink comes no nearer are not looked at, nor those that only cross, at a steeper angle."""


@dataclass(frozen=True, eq=False)
class Beside:
    """a, b: ids, a the shorter; points (n, 2): places of a, mm; white (n,): mm between their edges,
    below 0 where they lie over each other; along (n,): cosine between their ways; s, other_s (n,): mm
    along a and b; half (n,): mm, the mean of their widths; contacts: theirs."""

    a: str
    b: str
    points: np.ndarray
    white: np.ndarray
    along: np.ndarray
    s: np.ndarray
    other_s: np.ndarray
    half: np.ndarray
    step: float
    contacts: tuple[Contact, ...]

    def share(self, those: np.ndarray) -> float:
        """Which share of the shorter line those places are."""
        return float(np.count_nonzero(those)) / max(len(those), 1)

    @cached_property
    def joined_at(self) -> np.ndarray:
        """(k,) mm along a at which the two meet."""
        return np.array([place_on(c, self.a) for c in self.contacts if c.kind != BESIDE
                         and c.gap <= MET_MM])  # fmt: skip


def pairs_beside(page: Page, lines: Sequence[str]) -> Iterator[Beside]:
    """The pairs among some lines and all that lie near them, each once. Strokes of one set are no pair."""
    told, of = set[tuple[str, str]](), page.sets.of
    for line in lines:
        by_other: dict[str, list[Contact]] = {}
        for contact in page.contacts.get(line, ()):
            by_other.setdefault(other_of(contact, line), []).append(contact)
        for other, contacts in by_other.items():
            pair = (min(line, other), max(line, other))
            if pair in told or (line in of and of.get(other) == of[line]) or not any(map(_near, contacts)):
                continue
            told.add(pair)
            if page.is_black(other) and (made := _beside(page, *pair, tuple(contacts))) is not None:
                yield made


def _near(contact: Contact) -> bool:
    if contact.kind == BESIDE:
        return contact.gap <= WITHIN_MM
    return contact.angle <= TURNED_DEG and (contact.kind != CROSSING or contact.gap <= WITHIN_MM)


def _beside(page: Page, a: str, b: str, contacts: tuple[Contact, ...]) -> Beside | None:
    if _one_family(page, a, b):
        return None
    if page.shapes[a].length > page.shapes[b].length:
        a, b = b, a
    one, two = page.stroke(a), page.stroke(b)
    far, k, u = _nearest(one.points, two)
    half = (one.full + two.full[k] * (1.0 - u) + two.full[k + 1] * u) / 2.0
    along = np.abs((one.way * two.way[k]).sum(axis=1))
    s = two.s[k] + u * two.step
    return Beside(a, b, one.points, far - half, along, one.s, s, half, one.step, contacts)


def _one_family(page: Page, a: str, b: str) -> bool:
    """Whether two lines were laid as one series: parallels, turned and mirrored ones."""
    families = page.drawing.lines[a].family, page.drawing.lines[b].family
    return (families[0] or a) == (families[1] or b)


def _nearest(points: np.ndarray, to: Stroke) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(mm (n,), piece (n,), share of it (n,)) of the nearest place of a line to each point."""
    from scipy.spatial import cKDTree

    nearest = cKDTree(to.points).query(points)[1]
    best = np.full(len(points), np.inf)
    at, share = np.zeros(len(points), int), np.zeros(len(points))
    for piece in (np.clip(nearest - 1, 0, len(to.s) - 2), np.clip(nearest, 0, len(to.s) - 2)):
        d = to.points[piece + 1] - to.points[piece]
        u = np.clip(((points - to.points[piece]) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-18), 0.0, 1.0)
        far = np.hypot(*(to.points[piece] + d * u[:, None] - points).T)
        better = far < best
        best, at, share = np.where(better, far, best), np.where(better, piece, at), np.where(better, u, share)
    return best, at, share
