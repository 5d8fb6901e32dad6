"""A job's pencils against its ink: coverage, straying, and what the ink lost."""

import base64
import io
from typing import Any

import numpy as np

from plain_stride.job.art import is_draft
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import raster_to_read
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.shape import Shape
from plain_stride.pencils.coverage import Coverage, Pencil, coverage
from plain_stride.pencils.lost import DARK, PER_MM, Lost, LostPlace, ink_tone, lost
from plain_stride.pencils.read.flat import flattened, resized
from plain_stride.pencils.read.reading import Reading


def pencils_of(reading: Reading) -> list[Pencil]:
    return [Pencil(line.points, line.rough_width, line.closed) for line in reading.lines]


def ink_of(job: JobRows, shapes: Shapes) -> dict[str, np.ndarray]:
    """Centrelines (n, 2) mm of the lines that are seen and no drafts, by key."""
    hidden = {part.id for part in job.parts() if part.hidden}
    return {key: shapes[key].flat[0] for key, row in job.rows.lines.items()
            if row.part not in hidden and not is_draft(job, key)}  # fmt: skip


def coverage_of(job: JobRows, shapes: Shapes, reading: Reading) -> Coverage:
    rows, ink = job.rows.lines, ink_of(job, shapes)
    drawn = {key: points for key, points in ink.items() if rows[key].tone is None}
    return coverage(pencils_of(reading), drawn, [ink[key] for key in ink.keys() - drawn.keys()])


def lost_of(job: Job, shapes: Shapes, reading: Reading) -> Lost:
    """What the ink lacks of what the pencils had. Raises StrideError where there are no pencils to read."""
    raster = raster_to_read(job)
    x, y = raster.place[:2]
    flat = flattened(raster.dark, raster.per_mm)
    rough = np.minimum(resized(flat.dark, PER_MM / flat.per_mm), 1.0)
    size = (rough.shape[1], rough.shape[0])
    shown = {part.id for part in job.parts() if not part.hidden and part.ink == "black"}
    lines = [(shape.flat[0], _widths(shape)) for key, row in job.rows.lines.items()
             if row.part in shown and not is_draft(job, key) and (shape := shapes[key]) is not None]  # fmt: skip
    blacks = [shapes.black(key).rings for key, row in job.rows.blacks.items() if row.part in shown]
    tone = ink_tone(lines, blacks, (x, y), size)
    return lost(rough, tone, (x, y), pencils_of(reading), ink_of(job, shapes))


def _widths(shape: Shape) -> np.ndarray:
    left, right = shape.widths.at(shape.flat[1])
    return np.asarray(left + right)


def coverage_json(found: Coverage) -> dict[str, Any]:
    """straying: the lines that stray farthest, the worst first; own: lines with stretches that no pencil has."""
    worst = sorted(found.straying.items(), key=lambda item: (not item[1].over, -item[1].most))
    return {
        "inked": round(found.inked, 4),
        "bare_mm": round(found.bare_mm, 1),
        "own_mm": round(found.own_mm, 1),
        "by_line": [round(share, 3) for share in found.by_line],
        "own": sorted(found.own),
        "straying": [{"line": key, "rms": round(s.rms, 3), "most": round(s.most, 3), "over": s.over,
                      "x": round(s.at[0], 2), "y": round(s.at[1], 2)} for key, s in worst],
    }  # fmt: skip


def lost_json(found: Lost, with_map: bool = False) -> dict[str, Any]:
    """with_map: the map of lacking darkness as well, as a grey PNG in base64, 255 for all of it."""
    out: dict[str, Any] = {"places": [_place_json(place) for place in found.places], "unfinished": found.unfinished}
    if with_map:
        from PIL import Image

        file = io.BytesIO()
        Image.fromarray(np.round(found.map * 255.0).astype(np.uint8)).save(file, "PNG")
        out |= {"map": base64.b64encode(file.getvalue()).decode(), "origin": list(found.origin), "per_mm": PER_MM}
    return out


def _place_json(p: LostPlace) -> dict[str, Any]:
    return {"x": round(p.x, 2), "y": round(p.y, 2), "w": round(p.w, 2), "h": round(p.h, 2), "kind": p.kind,
            "rough": p.rough, "ink": p.ink, "unit": "of black" if p.kind == DARK else "degrees"}  # fmt: skip


def lost_places_from_json(data: dict[str, Any]) -> list[LostPlace]:
    """Raises KeyError, TypeError or ValueError."""
    return [LostPlace(float(p["x"]), float(p["y"]), float(p["w"]), float(p["h"]), str(p["kind"]), float(p["rough"]),
                      float(p["ink"]))
            for p in data["places"]]  # fmt: skip
