"""Ends of lines as gaps and overshoots see them: where each lies, which way it points, what it meets."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.form.contacts import Contact
from plain_stride.lines.shape import Shape
from plain_stride.proof.page import Page

MET_MM, NEAR_MM, BLUNT = 0.02, 1.0, 0.5
"""Inks that lie nearer touch; contacts so near an end, past its width, are its own; an end that keeps such a share of
the line's width stops, one with less fades out."""
LOOSE = ("broken", "dotted", "stutter")
"""Ends that are meant to leave the paper."""


@dataclass(frozen=True, eq=False)
class LineEnd:
    """at (2,) mm; out (2,): the way it points; s: where along its line; half: mm of ink to either side; cap: mm of ink
    beyond it; contacts: those that are its own, the nearest first."""

    shape: Shape
    line: str
    at_end: bool
    at: np.ndarray
    out: np.ndarray
    s: float
    half: float
    cap: float
    contacts: tuple[Contact, ...]

    @property
    def name(self) -> str:
        """As changes have it."""
        return "end" if self.at_end else "start"

    @property
    def kind(self) -> str:
        """How it ends."""
        return self.shape.ends[self.at_end]

    @cached_property
    def fades(self) -> bool:
        """Whether it comes to a point."""
        body = self.shape.body
        inside = np.abs(body.s - self.s) <= max(self.shape.length / 4.0, 1.0)
        return 2.0 * self.half < BLUNT * float(np.median(body.full[inside]))

    def from_end(self, contact: Contact) -> float:
        """mm along the line from a contact to this end."""
        return abs(self.s - place_on(contact, self.line))


def place_on(contact: Contact, line: str) -> float:
    """Where a contact lies along one of its lines, mm."""
    return contact.places[0] if contact.lines[0] == line else contact.places[1]


def other_of(contact: Contact, line: str) -> str:
    """The other line of a contact."""
    return contact.lines[1] if contact.lines[0] == line else contact.lines[0]


def ends_of(page: Page, line: str) -> Iterator[LineEnd]:
    """Both ends of an open line."""
    shape = page.shapes[line]
    if shape.closed:
        return
    contacts, length = page.contacts.get(line, ()), shape.length
    for at_end in (False, True):
        s = length if at_end else 0.0
        half = float(shape.widths.left[-at_end] + shape.widths.right[-at_end]) / 2.0
        reach = min(NEAR_MM + half, length / 2.0)
        own = [c for c in contacts if abs(place_on(c, line) - s) <= reach and page.is_black(other_of(c, line))]
        yield LineEnd(shape, line, at_end, shape.curve[-1, 3] if at_end else shape.curve[0, 0], _out(shape, at_end), s,
                      half, half if shape.ends[at_end] == "round" else 0.0,
                      tuple(sorted(own, key=lambda c: c.gap)))  # fmt: skip


def _out(shape: Shape, at_end: bool) -> np.ndarray:
    """The way (2,) that a line points at an end."""
    piece = shape.curve[-1][::-1] if at_end else shape.curve[0]
    away = next((leg for leg in piece[0] - piece[1:] if np.hypot(*leg) > 1e-9), np.array([1.0, 0.0]))
    return np.asarray(away / np.hypot(*away))


def nearest_on(page: Page, line: str, at: np.ndarray) -> tuple[float, float, np.ndarray]:
    """(mm, arc length, place (2,)) of the place of a line's middle that lies nearest to another one."""
    away, s, feet = nearest_to_all(page, line, at[None])
    return float(away[0]), float(s[0]), feet[0]


def nearest_to_all(page: Page, line: str, places: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(mm (k,), arc lengths (k,), places (k, 2)) of the places of a line's middle that lie nearest to others (k, 2).
    Grows with the product of both."""
    stroke = page.stroke(line)
    p = stroke.points
    a, d = p[:-1], np.diff(p, axis=0)
    u = ((places[:, None] - a) * d).sum(axis=2) / np.maximum((d * d).sum(axis=1), 1e-18)
    u = np.minimum(np.maximum(u, 0.0), 1.0)
    off = a + d * u[:, :, None] - places[:, None]
    far = (off * off).sum(axis=2)
    rows, k = np.arange(len(places)), far.argmin(axis=1)
    share = u[rows, k]
    return np.sqrt(far[rows, k]), stroke.s[k] + share * stroke.step, a[k] + d[k] * share[:, None]


def half_at(page: Page, line: str, s: float) -> float:
    """Half the width of a line's ink at an arc length, mm; nought at the very end of one that is not round there."""
    stroke, shape = page.stroke(line), page.shapes[line]
    half = float(np.interp(s, stroke.s, stroke.full)) / 2.0
    if shape.closed:
        return half
    beyond = (s if shape.ends[0] != "round" else half, stroke.length - s if shape.ends[1] != "round" else half)
    return min(half, *beyond)


def white_to(page: Page, end: LineEnd, other: str) -> tuple[float, np.ndarray]:
    """(mm of white between the ink of an end and that of another line, below 0 where they lie over each other; the
    place (2,) on the other's middle)."""
    away, s, foot = nearest_on(page, other, end.at)
    return away - end.cap - half_at(page, other, s), foot
