"""Final art: what every export is made from. Pencils are no part of it."""

from dataclasses import dataclass

from plain_stride.board.page import Page
from plain_stride.lines.recipe import Shape


@dataclass(frozen=True, eq=False)
class ArtLine:
    id: str
    role: str
    shape: Shape


@dataclass(frozen=True, eq=False)
class ArtPart:
    """lines: back to front."""

    name: str
    tier: str
    ink: str
    lines: tuple[ArtLine, ...]


@dataclass(frozen=True, eq=False)
class Art:
    """parts: back to front, hidden ones left out."""

    name: str
    page: Page
    parts: tuple[ArtPart, ...]
