"""Named changes of frames (panels)."""

import numpy as np

from plain_stride.board.frames import Frame, drawn, grid, merged, split
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.board_facts import edges_of, frames_of
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import line
from plain_stride.job.making import Making, change, number
from plain_stride.lines.given import form_from_points

FRAME_LINES, FRAME_LINE_MM = "Frames", 0.7


@change
def frame(m: Making, x: float, y: float, w: float, h: float, frame: str | None = None) -> str:
    """Makes a frame (panel), or places the one named: mm, x and y of its upper left corner."""
    x, y, w, h = (number(v, "a frame's place or size", -1e4, 1e4) for v in (x, y, w, h))
    return _put_frame(m, drawn(x, y, x + w, y + h), _frame_key(m, frame) if frame is not None else None)


@change
def frame_split(m: Making, frame: str, way: str, share: float = 0.5) -> list[str]:
    """Makes two frames of one, with the board's gutter between them. way: across or down."""
    key = _frame_key(m, frame)
    first, second = split(frames_of(m.job)[key], way, edges_of(m.job).gutter, number(share, "a share", 0.0, 1.0))
    return [_put_frame(m, first, key), _put_frame(m, second)]


@change
def frame_merge(m: Making, frames: list[str]) -> str:
    """Makes one frame of several, round them all."""
    if not isinstance(frames, list):
        raise JobError("frames are a list of keys")
    keys = [_frame_key(m, key) for key in dict.fromkeys(frames)]
    whole = merged([frames_of(m.job)[key] for key in keys])
    for key in keys[1:]:
        m.draft.put("frames", key, None)
    return _put_frame(m, whole, keys[0])


@change
def frame_delete(m: Making, frames: list[str]) -> None:
    """Takes frames away. No line is touched."""
    if not isinstance(frames, list):
        raise JobError("frames are a list of keys")
    for key in [_frame_key(m, key) for key in dict.fromkeys(frames)]:
        m.draft.put("frames", key, None)


@change
def frame_grid(m: Making, rows: int, columns: int) -> list[str]:
    """Even frames inside the margin with the board's gutter between them, instead of those that are there."""
    whole = [int(number(v, "a number of frames", 1, 30)) for v in (rows, columns)]
    made = grid(m.job.page, edges_of(m.job).margin, edges_of(m.job).gutter, *whole)
    for key in frames_of(m.job):
        m.draft.put("frames", key, None)
    return [_put_frame(m, one) for one in made]


@change
def frame_lines(m: Making, width: float = FRAME_LINE_MM) -> list[str]:
    """Lays a ruled line round each frame, in a part of its own that runs over the frames."""
    width = number(width, "a width", 0.02, 20.0)
    if not m.job.rows["frames"]:
        raise JobError("there are no frames to line: draw one, or make even ones")
    part = m.open_part(FRAME_LINES)
    m.draft.change("parts", part, over_frames=1)
    out = []
    for one in frames_of(m.job).values():
        x0, y0, x1, y1 = one.box
        corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        half = np.full(4, width / 2.0)
        form = form_from_points(corners, half, half, True)
        out.append(str(line(m, form, DEFAULT_NIB, ("flat", "flat"), FRAME_LINES, "ruled")))
    return out


def _frame_key(m: Making, key: object) -> str:
    if not isinstance(key, str) or key not in m.job.rows["frames"]:
        raise JobError(f"there is no frame '{key}'; there are: {', '.join(frames_of(m.job)) or 'none'}")
    return key


def _put_frame(m: Making, one: Frame, key: str | None = None) -> str:
    key = key or m.job.new_id("r")
    m.draft.put("frames", key, {"x_mm": one.x, "y_mm": one.y, "w_mm": one.w, "h_mm": one.h})
    return key
