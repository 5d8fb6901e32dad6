"""Reading a job's pencils, and laying what was read as draft lines."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.form.cover import Cover
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.areas import no_need
from plain_stride.job.board_facts import target_of
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import raster_to_read
from plain_stride.job.reading import Wanted
from plain_stride.lines.given import GivenError, form_from_points
from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.read.reading import Reading, ReadLine, read_pencils, ready_share
from plain_stride.pencils.read.undecided import Limits, Place
from plain_stride.pencils.x_marks import x_marks

DRAFTS = "Drafts"
DRAFT_MM, TIP_SHARE = 0.35, 0.15
"""mm, the plan's base; share of it at a free end."""
KNOT_STEP, SHORTEST_POINTS = 3, 5
EDGE_MM = 1.0
FIRST_MM = 40.0
"""How far round the middle of the view lines are read first."""
MOST_LINES = 4000
"""More than that is no drawing on one sheet, and nobody wants it laid unasked."""


def read_job(job: Job, progress: Callable[[float], bool] | None = None) -> Reading:
    """The reading of a job's pencils, in mm of the sheet, where no ink is needed left out. Raises StrideError."""
    raster = raster_to_read(job)
    x, y, _, h = raster.place
    limits = Limits(min(nib.lightest for nib in job.nibs().values()), target_of(job).gap_mm, target_of(job).line_mm)
    reading = read_pencils(raster.dark, raster.per_mm, progress, limits)
    stretch = np.array([1.0, h / raster.dark.shape[0] * raster.per_mm])
    placed = moved_reading(reading, stretch, np.array([x, y]))
    hidden = no_need(job)
    return placed if hidden is None else without(placed, hidden)


def lines_round(job: Job, middle: tuple[float, float], progress: Callable[[float], bool]) -> list[dict[str, Any]]:
    """The lines within FIRST_MM round a place of the sheet, as the reading tells them; none where there is nothing to
    be read. It is soon there, whatever the size of the sheet."""
    try:
        raster = raster_to_read(job)
        x, y, w, h = raster.place
        scale = np.array([raster.dark.shape[1] / w, raster.dark.shape[0] / h])
        low, high = ((np.array(middle) + off - (x, y)) * scale for off in (-FIRST_MM, FIRST_MM))
        (left, top), (right, bottom) = (np.clip(at, 0, raster.dark.shape[::-1]).astype(int) for at in (low, high))
        reading = read_pencils(raster.dark[top:bottom, left:right], raster.per_mm, progress)
    except PencilsError:
        return []
    placed = moved_reading(reading, np.array([1.0, raster.per_mm / scale[1]]), (left, top) / scale + (x, y))
    return [] if reading.doubt else [_line_json(line) for line in placed.lines]


def lines_from_json(told: Sequence[Mapping[str, Any]]) -> list[ReadLine]:
    """Lines as a reading tells them."""
    return [_line_from_json(line) for line in told]


def moved_reading(reading: Reading, stretch: np.ndarray, shift: np.ndarray) -> Reading:
    """A reading whose places (mm) are stretched and then moved."""

    def line(one: ReadLine) -> ReadLine:
        return replace(one, points=one.points * stretch + shift)

    def place(one: Place) -> Place:
        x, y = np.array([one.x, one.y]) * stretch + shift
        return replace(one, x=float(x), y=float(y), h=one.h * float(stretch[1]))

    return replace(
        reading,
        lines=[line(one) for one in reading.lines],
        guides=[line(one) for one in reading.guides],
        undecided=[place(one) for one in reading.undecided],
        too_fine=[place(one) for one in reading.too_fine],
        patches=[patch * stretch + shift for patch in reading.patches],
    )


def without(reading: Reading, hidden: Cover) -> Reading:
    """A reading without what lies in an area: lines end at its edge, places whose middle lies in it go."""
    lines = [piece for line in reading.lines for piece in _outside(line, hidden)]
    guides = [piece for line in reading.guides for piece in _outside(line, hidden)]

    def kept(places: list[Place]) -> list[Place]:
        inside = hidden.holds(np.array([[p.x, p.y] for p in places], float).reshape(-1, 2))
        return [place for place, gone in zip(places, inside, strict=True) if not gone]

    undecided = kept(reading.undecided)
    patches = [patch for patch in reading.patches if not hidden.holds(patch.mean(axis=0)[None])[0]]
    return replace(reading, lines=lines, guides=guides, undecided=undecided, too_fine=kept(reading.too_fine),
                   patches=patches,
                   ready=ready_share([line.points for line in lines], undecided))  # fmt: skip


def _outside(line: ReadLine, hidden: Cover) -> list[ReadLine]:
    inside = hidden.holds(line.points)
    if inside.any():
        inside = _farther_in(line.points, inside, hidden)
    if not inside.any():
        return [line]
    seen = np.flatnonzero(np.diff(np.concatenate([[False], ~inside, [False]]).astype(int)))
    out = []
    for a, b in zip(seen[::2], seen[1::2], strict=True):
        if b - a > SHORTEST_POINTS:
            corners = tuple(k - int(a) for k in line.corners if a <= k < b)
            out.append(replace(line, points=line.points[a:b], closed=False, corners=corners))
    return out


def _farther_in(points: np.ndarray, inside: np.ndarray, hidden: Cover) -> np.ndarray:
    """Which points (n,) lie in an area on stretches that go farther in than EDGE_MM: a line along its edge, as that of
    a frame, wavers in and out of it, and is one line."""
    import shapely

    out = inside.copy()
    edge = shapely.boundary(hidden.area)
    turns = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(int)))
    for a, b in zip(turns[::2], turns[1::2], strict=True):
        if float(shapely.distance(edge, shapely.points(points[a:b])).max()) <= EDGE_MM:
            out[a:b] = False
    return out


def reading_json(reading: Reading) -> dict[str, Any]:
    """The reading as the command line tells it."""
    return {
        "units": "mm",
        "ready": round(reading.ready, 4),
        "sentence": reading.sentence,
        "pencils": reading.kind,
        "doubt": reading.doubt or None,
        "undecided": [_place_json(place) for place in reading.undecided],
        "too_fine": [_place_json(place) for place in reading.too_fine],
        "x_marks": [
            {"x": round(mark.x, 3), "y": round(mark.y, 3), "outline": np.round(mark.outline, 3).tolist()}
            for mark in x_marks(reading.lines)
        ],
        "patches": [{"outline": np.round(patch, 3).tolist()} for patch in reading.patches],
        "lines": [_line_json(line) for line in reading.lines],
        "guides": [_line_json(line) for line in reading.guides],
    }


def _line_json(line: ReadLine) -> dict[str, Any]:
    return {
        "points": np.round(line.points, 4).tolist(),
        "closed": line.closed,
        "confidence": round(line.confidence, 3),
        "rough_width": round(line.rough_width, 3),
        "corners": list(line.corners),
    }


def _place_json(place: Place) -> dict[str, Any]:
    return {"x": round(place.x, 3), "y": round(place.y, 3), "w": round(place.w, 3), "h": round(place.h, 3),
            "reason": place.reason, "measured": place.measured, "unit": place.unit}  # fmt: skip


def draft_changes(job: Job, lines: Sequence[ReadLine], widths: np.ndarray | None = None) -> Wanted:
    """The changes that lay read lines as drafts, in a part of their own that is not there yet. Raises StrideError
    where there are too many to be a drawing, or none.

    widths: mm at places spread evenly along a line, as the hand draws them; without them a taper. widths: mm by
    lengths in mm, (n, 2), None for a taper."""
    if len(lines) > MOST_LINES:
        raise StrideError(
            f"{len(lines):,} lines were read, more than {MOST_LINES:,}: this is hardly a drawing, and no drafts"
            " were laid. Crop or clean the scan first"
        )
    taken = {part.name for part in job.parts()}
    name = DRAFTS if DRAFTS not in taken else next(n for k in range(2, 10_000) if (n := f"{DRAFTS} {k}") not in taken)
    out: Wanted = [("part", {"name": name})]
    for line in lines:
        try:
            form = _form(line, widths)
        except GivenError:
            continue
        out.append(("line", {"form": form, "nib": DEFAULT_NIB, "ends": ("round", "round"), "part": name,
                             "draft": True}))  # fmt: skip
    if len(out) == 1:
        raise StrideError("no line was read there that is as sure as you ask for: no drafts were laid")
    return out


def sure_lines(reading: Reading, confidence: float) -> list[ReadLine]:
    """Lines of at least this confidence; below the least of them, construction lines come as well. confidence: 0 to
    1. Confidence has no unit, 0 to 1."""
    return [line for line in (*reading.lines, *reading.guides) if line.confidence >= confidence]


def _form(line: ReadLine, widths: np.ndarray | None) -> Any:
    """A line through every third point, all corners and both ends, as wide as told, else tapered where it ends."""
    n = len(line.points)
    keep = set(range(0, n, KNOT_STEP)) | {k for k in line.corners if 0 <= k < n}
    if not line.closed:
        keep |= {n - 1}
    # Knots beside a corner stay clear of it, so that its two sides are their own.
    near = {c + d for c in line.corners for d in (-1, 1)}
    order = sorted(keep - near | {k for k in line.corners if 0 <= k < n})
    points = line.points[order]
    width = np.full(len(points), DRAFT_MM)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    if widths is not None:
        width = np.interp(s / max(float(s[-1]), 1e-9), np.linspace(0.0, 1.0, len(widths)), widths)
    elif not line.closed and len(points) > 4:
        away = np.minimum(s, s[-1] - s)
        reach = min(6.0, s[-1] / 3.0)
        width = DRAFT_MM * (TIP_SHARE + (1.0 - TIP_SHARE) * np.sin(np.clip(away / reach, 0.0, 1.0) * np.pi / 2.0))
    return form_from_points(points, width / 2.0, width / 2.0, line.closed)


def reading_from_json(data: dict[str, Any]) -> Reading:
    """The reading that `reading_json` told. Raises KeyError, TypeError or ValueError."""
    lines = [_line_from_json(line) for line in data["lines"]]
    guides = [_line_from_json(line) for line in data["guides"]]
    places = [[_place_from_json(place) for place in data[key]] for key in ("undecided", "too_fine")]
    patches = [np.array(patch["outline"], float).reshape(-1, 2) for patch in data["patches"]]
    ready, doubt = float(data["ready"]), data["doubt"] or ""
    return Reading(str(data["pencils"]), lines, places[0], places[1], ready, guides, doubt, patches)


def _line_from_json(line: Mapping[str, Any]) -> ReadLine:
    points = np.array(line["points"], float).reshape(-1, 2)
    corners = tuple(int(k) for k in line.get("corners", ()))
    return ReadLine(points, bool(line["closed"]), float(line["confidence"]), float(line["rough_width"]), corners)


def _place_from_json(p: dict[str, Any]) -> Place:
    x, y, w, h = (float(p[key]) for key in "xywh")
    return Place(x, y, w, h, str(p["reason"]), float(p["measured"]), str(p["unit"]))
