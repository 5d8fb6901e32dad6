"""Named changes of frames (panels)."""

import numpy as np

from plain_stride.board.frames import Frame, drawn, grid, merged, split
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.board_facts import edges_of, frames_of
from plain_stride.job.change_context import ChangeContext, change, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import line
from plain_stride.job.records import FrameRecord
from plain_stride.lines.given import form_from_points

FRAME_LINES, FRAME_LINE_MM = "Frames", 0.7
ON_MM = 0.01
"""How near to a frame's edge its border lies."""


@change
def frame(m: ChangeContext, x: float, y: float, w: float, h: float, frame: str | None = None) -> str:
    """Makes a frame (panel), or places the one named, its border with it: mm, x and y of its upper left corner."""
    x, y, w, h = (number(v, "a frame's place or size", -1e4, 1e4) for v in (x, y, w, h))
    key = _frame_key(m, frame) if frame is not None else None
    widths = _without_borders(m, [key] if key is not None else [])
    made = _put_frame(m, drawn(x, y, x + w, y + h), key)
    _with_borders(m, [made], widths)
    return made


@change
def frame_split(m: ChangeContext, frame: str, way: str, share: float = 0.5) -> list[str]:
    """Makes two frames of one, with the board's gutter between them. way: across or down."""
    key = _frame_key(m, frame)
    first, second = split(frames_of(m.job)[key], way, edges_of(m.job).gutter, number(share, "a share", 0.0, 1.0))
    widths = _without_borders(m, [key])
    made = [_put_frame(m, first, key), _put_frame(m, second)]
    _with_borders(m, made, widths)
    return made


@change
def frame_merge(m: ChangeContext, frames: list[str]) -> str:
    """Makes one frame of several, round them all."""
    keys = _frame_keys(m, frames)
    whole = merged([frames_of(m.job)[key] for key in keys])
    widths = _without_borders(m, keys)
    for key in keys[1:]:
        m.draft.remove("frames", key)
    made = _put_frame(m, whole, keys[0])
    _with_borders(m, [made], widths)
    return made


@change
def frame_delete(m: ChangeContext, frames: list[str]) -> None:
    """Takes frames away, and the borders that were laid round them. No other line is touched."""
    keys = _frame_keys(m, frames)
    _without_borders(m, keys)
    for key in keys:
        m.draft.remove("frames", key)


@change
def frame_grid(m: ChangeContext, rows: int, columns: int) -> list[str]:
    """Even frames inside the margin with the board's gutter between them, instead of those that are there."""
    whole = [int(number(v, "a number of frames", 1, 30)) for v in (rows, columns)]
    made = grid(m.job.page, edges_of(m.job).margin, edges_of(m.job).gutter, *whole)
    widths = _without_borders(m, list(frames_of(m.job)))
    for key in frames_of(m.job):
        m.draft.remove("frames", key)
    keys = [_put_frame(m, one) for one in made]
    _with_borders(m, keys, widths)
    return keys


@change
def frame_lines(m: ChangeContext, width: float = FRAME_LINE_MM) -> list[str]:
    """Lays a ruled line round each frame, in a part of its own that runs over the frames, in place of those that
    were laid before. width: mm. Raises JobError."""
    width = number(width, "a width", 0.02, 20.0)
    if not m.job.rows.frames:
        raise JobError("there are no frames to line: draw one, or make even ones")
    part = m.open_part(FRAME_LINES)
    m.draft.change("parts", part, over_frames=True)
    keys = list(frames_of(m.job))
    _without_borders(m, keys)
    return _with_borders(m, keys, [width])


def _with_borders(m: ChangeContext, keys: list[str], widths: list[float]) -> list[str]:
    """Lays lines round frames, as wide as those were that were there; none where there were none."""
    if not widths:
        return []
    out = []
    for key in keys:
        x0, y0, x1, y1 = frames_of(m.job)[key].box
        corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        half = np.full(4, widths[0] / 2.0)
        form = form_from_points(corners, half, half, True)
        out.append(str(line(m, form, DEFAULT_NIB, ("flat", "flat"), FRAME_LINES, "ruled")))
    return out


def _without_borders(m: ChangeContext, keys: list[str]) -> list[float]:
    """Takes away the lines that were laid round frames: closed ones of their part that lie on a frame's edge. Gives
    their widths, mm."""
    part = m.job.part_named(FRAME_LINES)
    boxes = [frames_of(m.job)[key].box for key in keys]
    widths = []
    for key, row in list(m.job.rows.lines.items()):
        if part is None or row.part != part.id or row.form is None or row.matrix is not None:
            continue
        form = m.job.form(row.form)
        points = form.curve.reshape(-1, 2)
        box = (*points.min(axis=0), *points.max(axis=0))
        if form.closed and any(np.abs(np.subtract(box, other)).max() < ON_MM for other in boxes):
            m.line(key)
            widths.append(float(form.widths.full.max()))
            m.remove(key)
    return widths


def _frame_keys(m: ChangeContext, frames: object) -> list[str]:
    if not isinstance(frames, list):
        raise JobError("frames are a list of keys")
    return [_frame_key(m, key) for key in dict.fromkeys(frames)]


def _frame_key(m: ChangeContext, key: object) -> str:
    if not isinstance(key, str) or key not in m.job.rows.frames:
        raise JobError(f"there is no frame '{key}'; there are: {', '.join(frames_of(m.job)) or 'none'}")
    return key


def _put_frame(m: ChangeContext, one: Frame, key: str | None = None) -> str:
    key = key or m.job.new_id("r")
    m.draft.put(key, FrameRecord(x_mm=one.x, y_mm=one.y, w_mm=one.w, h_mm=one.h))
    return key
