"""Final art: what every export is made from. Pencils are no part of it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plain_stride.board.page import Page
from plain_stride.colour import is_grey
from plain_stride.finish.errors import FinishError
from plain_stride.finish.passes import Soft
from plain_stride.form.cover import Cover, seen_rings
from plain_stride.lines.affine import Affine
from plain_stride.lines.black import Black
from plain_stride.lines.edge_curves import edge_curves
from plain_stride.lines.shape import Shape

Ink = tuple[str, list[np.ndarray]]
"""A colour, as `colour` has them, and rings (n, 2) in mm that it fills."""
Progress = Callable[[float], bool]
"""Told the share done; answers False to stop."""


def share_of(progress: Progress | None, k: int, of: int) -> Progress:
    """What tells the progress of the k-th of several works as that of them all."""
    return (lambda share: True) if progress is None else lambda share: progress((k + share) / of)


class ExportStopped(FinishError):
    """An export was stopped before it was done: nothing is written."""


@dataclass(frozen=True, eq=False)
class ArtLine:
    """covers: those that reach it, so that part of it may be hidden; colour: of its ink; tone: the kind of tone that it
    is a stroke of, '' for none."""

    id: str
    role: str
    shape: Shape
    covers: tuple[Cover, ...] = ()
    colour: str = "black"
    tone: str = ""

    def seen(self) -> list[np.ndarray]:
        """Rings (n, 2) in mm of what is seen of it."""
        return seen_rings(self.shape.rings, self.covers) if self.covers else self.shape.rings

    def seen_curves(self) -> Sequence[np.ndarray]:
        """The same as closed chains of cubics (m, 4, 2), mm."""
        if self.covers:
            return edge_curves(self.seen(), len(self.shape.curve))
        return self.shape.edge_curves

    @property
    def even_odd(self) -> bool:
        """Whether what is seen fills by even-odd, else where it is gone round."""
        return False


@dataclass(frozen=True, eq=False)
class ArtBlack:
    """A filled shape; covers and colour as for a line."""

    id: str
    shape: Black
    covers: tuple[Cover, ...] = ()
    colour: str = "black"

    def seen(self) -> list[np.ndarray]:
        """Rings (n, 2) in mm of what is seen of it."""
        return seen_rings(self.shape.rings, self.covers) if self.covers else self.shape.rings

    def seen_curves(self) -> Sequence[np.ndarray]:
        """The same as closed chains of cubics (m, 4, 2), mm."""
        if self.covers:
            return edge_curves(self.seen(), sum(map(len, self.shape.curves)))
        return self.shape.curves

    @property
    def even_odd(self) -> bool:
        """Whether what is seen fills by even-odd, else where it is gone round."""
        return not self.covers and self.shape.rule == "evenodd"


@dataclass(frozen=True, eq=False)
class ArtCopy:
    """A copy of what is seen of a line or a black, somewhere else, in a colour."""

    of: "ArtLine | ArtBlack | ArtCopy"
    matrix: Affine
    colour: str

    @property
    def id(self) -> str:
        """That of what it is a copy of."""
        return self.of.id

    @property
    def box(self) -> tuple[float, float, float, float]:
        """(x0, y0, x1, y1) mm that holds it."""
        x0, y0, x1, y1 = box_of(self.of)
        corners = self.matrix.of(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))
        (u0, v0), (u1, v1) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
        return u0, v0, u1, v1

    def seen(self) -> list[np.ndarray]:
        """Rings (n, 2) in mm of what is seen of it."""
        return [self.matrix.of(ring) for ring in self.of.seen()]

    def seen_curves(self) -> Sequence[np.ndarray]:
        """The same as closed chains of cubics (m, 4, 2), mm."""
        return [self.matrix.of(curve.reshape(-1, 2)).reshape(-1, 4, 2) for curve in self.of.seen_curves()]

    @property
    def even_odd(self) -> bool:
        """Whether what is seen fills by even-odd, else where it is gone round."""
        return self.of.even_odd


Inked = ArtLine | ArtBlack | ArtCopy


def box_of(item: Inked) -> tuple[float, float, float, float]:
    """(x0, y0, x1, y1) mm that holds all of it."""
    return item.box if isinstance(item, ArtCopy) else item.shape.box


@dataclass(frozen=True, eq=False)
class ArtPart:
    """ink: black, or white over black; lines: lines and blacks, back to front; covers: what lies in front of the part
    and hides it; own: its own cover, so that it can be had again; over_frames: whether frames do not clip it; colour:
    of most of its ink; finish: the title of the pass that added it."""

    name: str
    tier: str
    ink: str
    lines: tuple[Inked, ...]
    covers: tuple[Cover, ...] = ()
    own: "OwnCover | None" = None
    over_frames: bool = False
    colour: str = "black"
    finish: str = ""


@dataclass(frozen=True)
class OwnCover:
    """How a part hides what lies behind it. form: outlines of [x, y] mm, None: found from its outer lines; gap: mm."""

    form: Sequence[Sequence[Sequence[float]]] | None
    gap: float


@dataclass(frozen=True, eq=False)
class SoftCopy:
    """A blurred copy of ink, which is a picture in any file. The copied ink back to front; see `passes.Soft`."""

    of: tuple[Inked, ...]
    told: Soft


@dataclass(frozen=True, eq=False)
class ArtScan:
    """A scan that is final art: grey (h, w) uint8, 255 paper, `matrix` takes its pixels to mm of the sheet."""

    name: str
    grey: np.ndarray
    matrix: Affine


@dataclass(frozen=True, eq=False)
class ArtFlats:
    """The flats map: (name, colour, Shapely area in mm) of each area, back to front."""

    areas: tuple[tuple[str, str, Any], ...]


Thing = ArtPart | SoftCopy | ArtScan | ArtFlats


@dataclass(frozen=True, eq=False)
class Art:
    """things: back to front, hidden parts left out; bleed: mm round the page that are written as well; seen: the box
    (x0, y0, x1, y1) mm that alone is wanted, None for the page and its bleed."""

    name: str
    page: Page
    things: tuple[Thing, ...]
    bleed: float = 0.0
    seen: tuple[float, float, float, float] | None = None

    @property
    def parts(self) -> tuple[ArtPart, ...]:
        """The parts among the things."""
        return tuple(one for one in self.things if isinstance(one, ArtPart))

    @property
    def coloured(self) -> bool:
        """Whether any of it is neither black nor white nor grey."""
        colours = {line.colour for part in self.parts for line in part.lines}
        colours |= {area[1] for one in self.things if isinstance(one, ArtFlats) for area in one.areas}
        return any(not is_grey(one) for one in colours)

    @property
    def has_pictures(self) -> bool:
        """Whether any of it is a picture in every file."""
        return any(isinstance(one, SoftCopy | ArtScan) for one in self.things)

    @property
    def whole(self) -> Page:
        """The page that is written: the finished sheet and its bleed, or what alone is wanted."""
        if self.seen is not None:
            x0, y0, x1, y1 = self.seen
            return replace(self.page, size_mm=(x1 - x0, y1 - y0))
        w, h = self.page.size_mm
        return replace(self.page, size_mm=(w + 2.0 * self.bleed, h + 2.0 * self.bleed))

    @property
    def corner(self) -> np.ndarray:
        """(2,) mm of the upper left corner of what is written, on the sheet."""
        return np.array(self.seen[:2]) if self.seen is not None else np.full(2, -self.bleed)
