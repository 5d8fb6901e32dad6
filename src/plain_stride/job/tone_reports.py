"""What a tone measures, as it lies: told by JSON and by the window."""

from dataclasses import asdict
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.job.black_told import ink_of, round_halo
from plain_stride.job.board_facts import target_of
from plain_stride.job.errors import JobError
from plain_stride.job.hatch_told import HatchTold, hatch_told
from plain_stride.job.job import Job
from plain_stride.job.records import BLACK, HALO, HATCH, TEXTURE
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.tone_balance import job_balance
from plain_stride.job.tone_fields import field_told
from plain_stride.lines.area_black import area_of_black, area_of_rings
from plain_stride.tone.halos import measured
from plain_stride.tone.hatching import Set
from plain_stride.tone.measured import (
    Evenness,
    Wanted,
    cells_of,
    coverage,
    evenness_of,
    prints,
    reads_as_grid,
    shares_along,
)

CLOGS, SAME_FIELD = 0.01, 0.01
"""Where more of a field closes in print than this share, it is told."""


def tone_report(job: JobRows, shapes: Shapes, key: str) -> dict[str, Any]:
    """Figures of a tone; mm, shares 0 to 1, degrees. Where its field can no longer be found, as one between lines that
    have gone, `fault` says so: its strokes stay."""
    row, ink = job.rows.tones[key], job.tone_ink(key)
    lines = [one for one in ink if one in job.rows.lines]
    out = {
        "id": key,
        "kind": row.kind,
        "part": job.part_of(ink[0]).name if ink else None,
        "strokes": len(lines),
        "blacks": len(ink) - len(lines),
    }
    more = _MORE.get(row.kind)
    try:
        return out | (more(job, shapes, key, ink) if more and ink else {})
    except StrideError as fault:
        return out | {"fault": str(fault)}


def told_strokes(job: Job, shapes: Shapes, name: str) -> dict[str, Any]:
    """How even the strokes of texture of a part lie that belong to no tone. Raises JobError for an unknown part."""
    part = job.part_named(name)
    if part is None:
        raise JobError(f"there is no part '{name}'")
    lines = [key for key, row in job.rows.lines.items()
             if row.part == part.id and row.tone is None and not row.draft and row.role == "texture"]  # fmt: skip
    found = strokes_measured(shapes, lines)
    return {"part": name, "lines": len(lines), **{key: round(value, 4) for key, value in asdict(found).items()}}


def strokes_measured(shapes: Shapes, lines: list[str]) -> Evenness:
    """How even strokes of one set lie that were pulled by hand: a smooth trend across them is taken for meant."""
    widths = [shapes[key].middle_width for key in lines]
    return evenness_of([shapes[key].flat[0] for key in lines], np.array(widths))


def told_balance(job: Job, shapes: Shapes) -> dict[str, Any]:
    """How black lies on the sheet: shares, 0 to 1."""
    found = job_balance(job, shapes)
    return {
        "ink": round(found.of.ink, 4),
        "black": round(found.of.black, 4),
        "centre": [round(value, 3) for value in found.of.centre],
        "most": found.of.heaviest,
        "tiers": {tier: round(share, 4) for tier, share in found.tiers.items()},
    }


def _black_report(job: JobRows, shapes: Shapes, key: str, ink: list[str]) -> dict[str, Any]:
    """What blacks cover, and what print makes of the largest of them."""
    areas = [area_of_black(shapes.black(one)) for one in ink]
    wide, high = job.page.size_mm
    largest = max(areas, key=lambda area: float(area.area))
    target = target_of(job)
    made = prints([ring for one in ink for ring in shapes.black(one).rings], largest, target)
    return {
        "area_mm2": round(sum(area.area for area in areas), 2),
        "share_of_sheet": round(sum(area.area for area in areas) / (wide * high), 4),
        "print": {"target": target.name, "lost": round(made.lost, 4)},
    }


def _halo_report(job: JobRows, shapes: Shapes, key: str, ink: list[str]) -> dict[str, Any]:
    """How wide a halo is, whether it comes round, and where it has made a black edge white on both sides."""
    told = job.rows.tones[key].told
    source = told.get("black") or told.get("line")
    mm = float(told.get("mm", job.plan.halo))
    if source not in job.inked_rows() or not ink:
        return {"mm": mm, "narrowest_mm": None, "widest_mm": None, "closed": None, "doubled_mm": None}
    white = area_of_rings([ring for one in ink for ring in shapes.black(one).rings])
    edge = area_of_rings(shapes.ink(str(source)).rings)
    found = measured(white, edge.boundary, ink_of(job, shapes, round_halo(white, mm)).difference(white), mm)
    return {
        "mm": mm,
        "narrowest_mm": round(found.narrowest, 4),
        "widest_mm": round(found.widest, 4),
        "closed": found.closed,
        "doubled_mm": round(found.doubled, 2),
    }


def _hatch_report(job: JobRows, shapes: Shapes, key: str, ink: list[str]) -> dict[str, Any]:
    lines = [one for one in ink if one in job.rows.lines]
    row = job.rows.tones[key]
    told = hatch_told(job, shapes, row.told)
    if abs(told.field.area.area - row.area) > SAME_FIELD * row.area:
        raise JobError("its field is another one than when it was laid: lay it anew, and it is measured")
    sets, rings = told.sets(), [ring for line in lines for ring in shapes[line].rings]
    even = [_set_evenness(job, shapes, [line for line in lines if job.rows.lines[line].member == k], one)
            for k, one in enumerate(sets, 1)]  # fmt: skip
    pitches = [one.pitch for one in even]
    cells = cells_of(pitches, told.hatch.crossing[0]) if len(pitches) > 1 else None
    made = prints(rings, told.field.area, told.target)
    return {
        "grey": _grey(told, rings),
        "pitch_mm": round(pitches[0], 4),
        "pitches_mm": [round(pitch, 4) for pitch in pitches],
        "cv_pitch": round(max(one.cv_pitch for one in even), 4),
        "cv_width": round(max(one.cv_width for one in even), 4),
        "width_mm": round(float(np.mean([one.width for one in even])), 4),
        "cells": None if cells is None else {name: round(value, 3) for name, value in asdict(cells).items()},
        "print": {"target": told.target.name, **{name: round(value, 4) for name, value in asdict(made).items()}},
        "clogs": made.closed > CLOGS,
        "reads_as_grid": reads_as_grid(max(pitches), told.target.distance_mm),
    }


def _grey(told: HatchTold, rings: list[np.ndarray]) -> dict[str, Any]:
    """What was asked, and what an export at 600 dpi covers: one share, or both ends of a ramp."""
    grey = told.grey
    if grey.even:
        return {"asked": grey.start, "measured": round(coverage(rings, told.field.area), 4)}
    ends = shares_along(rings, told.field.area, grey.way, grey.low, grey.high)
    return {"asked": [grey.start, grey.end], "measured": [round(share, 4) for share in ends]}


def _set_evenness(job: JobRows, shapes: Shapes, lines: list[str], one: Set) -> Evenness:
    """How even the strokes of a set lie, against where and how wide they were asked."""
    from scipy.spatial import cKDTree

    centres = [shapes[line].flat[0] for line in lines]
    if not centres:
        return Evenness(0.0, 0.0, 0.0, 0.0, 0)
    middles = np.array([shapes[line].middle for line in lines])
    widths = np.array([shapes[line].middle_width for line in lines])
    _, near = cKDTree(one.strokes.middles).query(middles)
    wanted = Wanted(one.strokes.row[near], one.strokes.apart[near], one.strokes.asked[near])
    return evenness_of(centres, widths, wanted)


def _texture_report(job: JobRows, shapes: Shapes, key: str, ink: list[str]) -> dict[str, Any]:
    """What a texture covers of its field."""
    told = job.rows.tones[key].told
    field = field_told(job, shapes, told)
    found = round(coverage([ring for one in ink for ring in shapes.ink(one).rings], field.area), 4)
    return {"motif": told["motif"], "grey": {"asked": told.get("grey"), "measured": found}}


_MORE = {HATCH: _hatch_report, BLACK: _black_report, HALO: _halo_report, TEXTURE: _texture_report}
"""What is told of each kind besides."""
