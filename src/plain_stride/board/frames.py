"""Frames (panels) and the gutters between them: made, split, merged; rectangles in mm of the finished sheet."""

from collections.abc import Sequence
from dataclasses import dataclass

from plain_stride.board.errors import BoardError
from plain_stride.board.page import Page

LEAST_MM = 2.0


class FrameError(BoardError):
    """A frame that cannot be."""


@dataclass(frozen=True)
class Frame:
    """x, y: the upper left corner; mm."""

    x: float
    y: float
    w: float
    h: float

    def __post_init__(self) -> None:
        if min(self.w, self.h) < LEAST_MM:
            raise FrameError(f"a frame of {self.w:.1f} × {self.h:.1f} mm is too small: {LEAST_MM:g} mm a side at least")

    @property
    def box(self) -> tuple[float, float, float, float]:
        return self.x, self.y, self.x + self.w, self.y + self.h

    def holds(self, x: float, y: float) -> bool:
        return self.x <= x <= self.x + self.w and self.y <= y <= self.y + self.h


def drawn(x0: float, y0: float, x1: float, y1: float) -> Frame:
    """The frame between two corners, in either order. Raises FrameError where it is too small. All in mm."""
    return Frame(min(x0, x1), min(y0, y1), abs(x1 - x0), abs(y1 - y0))


def split(frame: Frame, way: str, gutter: float, share: float = 0.5) -> tuple[Frame, Frame]:
    """Two frames with a gutter between them. way: 'across' (one above the other) or 'down' (side by side); share of
    the room that is left that goes to the first. Raises FrameError."""
    if way not in ("across", "down"):
        raise FrameError("a frame is split across or down")
    long = (frame.w if way == "down" else frame.h) - gutter
    if not 0.0 < share < 1.0 or min(long * share, long * (1.0 - share)) < LEAST_MM:
        raise FrameError("there is no room for two frames and the gutter between them")
    first, second = long * share, long * (1.0 - share)
    if way == "down":
        return (Frame(frame.x, frame.y, first, frame.h), Frame(frame.x + first + gutter, frame.y, second, frame.h))
    return (Frame(frame.x, frame.y, frame.w, first), Frame(frame.x, frame.y + first + gutter, frame.w, second))


def merged(frames: Sequence[Frame]) -> Frame:
    """The frame that goes round several. Raises FrameError where there are fewer than two."""
    if len(frames) < 2:
        raise FrameError("two frames at least are needed to make one of them")
    boxes = [frame.box for frame in frames]
    return drawn(min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))


def grid(page: Page, margin: float, gutter: float, rows: int, columns: int) -> list[Frame]:
    """Even frames inside the margin, row after row. Raises FrameError where they would be too small. All in mm."""
    if not (1 <= rows <= 30 and 1 <= columns <= 30):
        raise FrameError("frames go in 1 to 30 rows and 1 to 30 columns")
    w = (page.size_mm[0] - 2.0 * margin - gutter * (columns - 1)) / columns
    h = (page.size_mm[1] - 2.0 * margin - gutter * (rows - 1)) / rows
    return [
        Frame(margin + c * (w + gutter), margin + r * (h + gutter), w, h) for r in range(rows) for c in range(columns)
    ]
