"""Final art: what every export is made from. Pencils are no part of it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.board.page import Page
from plain_stride.finish.errors import FinishError
from plain_stride.form.cover import Cover, seen_rings
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape

Ink = tuple[str, list[np.ndarray]]
"""The name of an ink, and rings (n, 2) in mm that it fills."""
Progress = Callable[[float], bool]
"""Told the share done; answers False to stop."""


class ExportStopped(FinishError):
    """An export was stopped before it was done: nothing is written."""


@dataclass(frozen=True, eq=False)
class ArtLine:
    """covers: those that reach it, so that part of it may be hidden."""

    id: str
    role: str
    shape: Shape
    covers: tuple[Cover, ...] = ()

    def seen(self) -> list[np.ndarray]:
        """Rings (n, 2) in mm of what is seen of it."""
        return seen_rings(self.shape.rings, self.covers) if self.covers else self.shape.rings


@dataclass(frozen=True, eq=False)
class ArtBlack:
    """A filled shape; covers as for a line."""

    id: str
    shape: Black
    covers: tuple[Cover, ...] = ()

    def seen(self) -> list[np.ndarray]:
        """Rings (n, 2) in mm of what is seen of it."""
        return seen_rings(self.shape.rings, self.covers) if self.covers else self.shape.rings


@dataclass(frozen=True, eq=False)
class ArtPart:
    """lines: lines and blacks, back to front; covers: what lies in front of the part and hides it; own: its own cover,
    so that it can be had again; over_frames: whether frames do not clip it."""

    name: str
    tier: str
    ink: str
    lines: tuple[ArtLine | ArtBlack, ...]
    covers: tuple[Cover, ...] = ()
    own: "OwnCover | None" = None
    over_frames: bool = False


@dataclass(frozen=True)
class OwnCover:
    """How a part hides what lies behind it. form: outlines of [x, y] mm, None: found from its outer lines; gap: mm."""

    form: Sequence[Sequence[Sequence[float]]] | None
    gap: float


@dataclass(frozen=True, eq=False)
class Art:
    """parts: back to front, hidden ones left out; bleed: mm round the page that are written as well."""

    name: str
    page: Page
    parts: tuple[ArtPart, ...]
    bleed: float = 0.0

    @property
    def whole(self) -> Page:
        """The page that is written: the finished sheet and its bleed."""
        w, h = self.page.size_mm
        return replace(self.page, size_mm=(w + 2.0 * self.bleed, h + 2.0 * self.bleed))
