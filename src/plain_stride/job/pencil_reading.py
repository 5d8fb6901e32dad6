"""Reading a job's pencils, and laying what was read as draft lines."""

from collections.abc import Callable
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.job.job import Job
from plain_stride.job.reading import Wanted
from plain_stride.lines.given import GivenError, form_from_points
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.reading import Reading, ReadLine, read_pencils
from plain_stride.pencils.read.undecided import Place

DRAFTS = "Drafts"
DRAFT_MM, TIP_SHARE = 0.35, 0.15
"""mm, the plan's base; share of it at a free end."""
KNOT_STEP = 3
MOST_LINES = 4000
"""More than that is no drawing on one sheet, and nobody wants it laid unasked."""


def pencils_to_read(job: Job) -> Any:
    """The row of the pencils that are read: the uppermost that are shown. Raises StrideError where there are none."""
    shown = [row for _, row in job.pencils() if not row["hidden"]]
    if not shown:
        if job.pencils():
            raise StrideError("all pencils of this job are hidden: show those that should be read")
        raise StrideError("this job has no pencils: place a scan first")
    return shown[-1]


def read_job(job: Job, progress: Callable[[float], bool] | None = None) -> Reading:
    """The reading of a job's pencils, in mm of the sheet. Raises StrideError."""
    row = pencils_to_read(job)
    dark = darkness(job.image(str(row["image"])))
    per_mm = row["px_w"] / row["w_mm"]
    across = (row["w_mm"] / row["px_w"], row["h_mm"] / row["px_h"])
    reading = read_pencils(dark, per_mm, progress)
    stretch = np.array([1.0, across[1] / across[0]])
    shift = np.array([row["x_mm"], row["y_mm"]])

    def placed(line: ReadLine) -> ReadLine:
        return ReadLine(line.points * stretch + shift, line.closed, line.confidence, line.rough_width, line.corners)

    def moved(place: Place) -> Place:
        x, y = np.array([place.x, place.y]) * stretch + shift
        return Place(float(x), float(y), place.w, place.h * float(stretch[1]), place.reason, place.measured, place.unit)

    return Reading(reading.kind, [placed(line) for line in reading.lines], [moved(p) for p in reading.undecided],
                   [moved(p) for p in reading.too_fine], reading.ready)  # fmt: skip


def reading_json(reading: Reading) -> dict[str, Any]:
    """The reading as the command line tells it."""
    return {
        "units": "mm",
        "ready": round(reading.ready, 4),
        "sentence": reading.sentence,
        "pencils": reading.kind,
        "undecided": [_place_json(place) for place in reading.undecided],
        "too_fine": [_place_json(place) for place in reading.too_fine],
        "lines": [
            {
                "points": np.round(line.points, 4).tolist(),
                "closed": line.closed,
                "confidence": round(line.confidence, 3),
                "rough_width": round(line.rough_width, 3),
                "corners": list(line.corners),
            }
            for line in reading.lines
        ],
    }


def _place_json(place: Place) -> dict[str, Any]:
    return {"x": round(place.x, 3), "y": round(place.y, 3), "w": round(place.w, 3), "h": round(place.h, 3),
            "reason": place.reason, "measured": place.measured, "unit": place.unit}  # fmt: skip


def draft_changes(job: Job, reading: Reading) -> Wanted:
    """The changes that lay what was read as lines, in a part of their own that is not there yet. Raises StrideError
    where there are too many to be a drawing."""
    if len(reading.lines) > MOST_LINES:
        raise StrideError(
            f"{len(reading.lines):,} lines were read, more than {MOST_LINES:,}: this is hardly a drawing, and no drafts"
            " were laid. Crop or clean the scan first"
        )
    taken = {part.name for part in job.parts()}
    name = DRAFTS if DRAFTS not in taken else next(n for k in range(2, 10_000) if (n := f"{DRAFTS} {k}") not in taken)
    out: Wanted = [("part", {"name": name})]
    for line in reading.lines:
        try:
            form = _form(line)
        except GivenError:
            continue
        out.append(("line", {"form": form, "nib": DEFAULT_NIB, "ends": ("round", "round"), "part": name}))
    return out


def _form(line: ReadLine) -> Any:
    """A line through every third point, all corners and both ends, tapered where it ends free."""
    n = len(line.points)
    keep = set(range(0, n, KNOT_STEP)) | {k for k in line.corners if 0 <= k < n}
    if not line.closed:
        keep |= {n - 1}
    # Knots beside a corner stay clear of it, so that its two sides are their own.
    near = {c + d for c in line.corners for d in (-1, 1)}
    order = sorted(keep - near | {k for k in line.corners if 0 <= k < n})
    points = line.points[order]
    width = np.full(len(points), DRAFT_MM)
    if not line.closed and len(points) > 4:
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
        away = np.minimum(s, s[-1] - s)
        reach = min(6.0, s[-1] / 3.0)
        width = DRAFT_MM * (TIP_SHARE + (1.0 - TIP_SHARE) * np.sin(np.clip(away / reach, 0.0, 1.0) * np.pi / 2.0))
    return form_from_points(points, width / 2.0, width / 2.0, line.closed)


def reading_from_json(data: dict[str, Any]) -> Reading:
    """The reading that `reading_json` told. Raises KeyError, TypeError or ValueError."""
    lines = [_line_from_json(line) for line in data["lines"]]
    places = [[_place_from_json(place) for place in data[key]] for key in ("undecided", "too_fine")]
    return Reading(str(data["pencils"]), lines, places[0], places[1], float(data["ready"]))


def _line_from_json(line: dict[str, Any]) -> ReadLine:
    points = np.array(line["points"], float).reshape(-1, 2)
    corners = tuple(int(k) for k in line.get("corners", ()))
    return ReadLine(points, bool(line["closed"]), float(line["confidence"]), float(line["rough_width"]), corners)


def _place_from_json(p: dict[str, Any]) -> Place:
    x, y, w, h = (float(p[key]) for key in "xywh")
    return Place(x, y, w, h, str(p["reason"]), float(p["measured"]), str(p["unit"]))
