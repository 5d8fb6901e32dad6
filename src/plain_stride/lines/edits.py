"""What an inker decided about a line's ends, stretch and widths: records, kept by the line's source parameter."""

from collections.abc import Callable
from dataclasses import dataclass

SIDES = ("both", "left", "right")
Place = Callable[[float], float]
"""What a source parameter is on another line."""


@dataclass(frozen=True)
class End:
    """kind: pointed, round or flat; mm: its length, None for the nib's own."""

    kind: str
    mm: float | None = None


@dataclass(frozen=True)
class Span:
    """The source parameters between which trims have left a line. On a closed one `end` may lie past its last: the
    stretch goes over the seam."""

    start: float
    end: float


@dataclass(frozen=True)
class Swell:
    """A stretch made heavier (factor > 1) or lighter (a shave) between two source parameters; None is past the end."""

    start: float | None
    end: float | None
    factor: float
    side: str = "both"

    def placed_by(self, new: Place) -> "Swell":
        """The same on a line whose source parameters are others now."""
        start, end = (None if v is None else new(v) for v in (self.start, self.end))
        return Swell(start, end, self.factor, self.side)

    def mirrored(self) -> "Swell":
        """The same on a line whose left and right have changed places."""
        return Swell(self.start, self.end, self.factor, {"left": "right", "right": "left"}.get(self.side, self.side))


@dataclass(frozen=True)
class SetWidth:
    """The width wanted at a source parameter, mm; over `reach` mm to either side it goes back to what it was."""

    at: float
    mm: float
    reach: float
    side: str = "both"

    def placed_by(self, new: Place) -> "SetWidth":
        """The same on a line whose source parameters are others now."""
        return SetWidth(new(self.at), self.mm, self.reach, self.side)

    def mirrored(self) -> "SetWidth":
        """The same on a line whose left and right have changed places."""
        return SetWidth(self.at, self.mm, self.reach, {"left": "right", "right": "left"}.get(self.side, self.side))


@dataclass(frozen=True)
class Profile:
    """Half-widths, mm, at even shares of the line's length, instead of those that it had: another line's, or even
    ones."""

    left: tuple[float, ...]
    right: tuple[float, ...]

    def placed_by(self, new: Place) -> "Profile":
        """The same on a line whose source parameters are others now: it goes by shares."""
        return self

    def mirrored(self) -> "Profile":
        """The same on a line whose left and right have changed places."""
        return Profile(self.right, self.left)


WidthEdit = Swell | SetWidth | Profile
"""What edits of widths there are, in the order in which they are made. Each kind has a tag in `job.records`."""
