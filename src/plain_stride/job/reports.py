"""What a job says of itself: the JSON of `info`, `lines` and `weigh` (the command line's contract)."""

import math
from collections import Counter
from typing import Any

import numpy as np

from plain_stride.hand.steady import LIVE_LAG_S
from plain_stride.job.art import drafts_of
from plain_stride.job.board_report import board_report
from plain_stride.job.covers import Covers
from plain_stride.job.inks import Colours
from plain_stride.job.job import Job
from plain_stride.job.records import LineRecord
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.told_meetings import ToldMeeting, by_line, told_meetings
from plain_stride.lines.shape import Shape
from plain_stride.lines.straying import farthest_sample
from plain_stride.weight.guarantees import GaveWay
from plain_stride.weight.hierarchy import Clash, Extremes, Inked, by_role, by_tier, clashes, extremes, inked_scene
from plain_stride.weight.learning import Figure, Learned, Odd
from plain_stride.weight.weighing import Weighed
from plain_stride.weight.white import ClosedPair, closed_pairs


def info(job: Job) -> dict[str, Any]:
    """Sizes in mm and pixels, parts near to far, counts, pencils."""
    page = job.page
    counts = Counter(row.part for row in job.rows.lines.values())
    names, colours = {key: row.name for key, row in job.rows.parts.items()}, Colours(job)
    return {
        "units": "mm",
        "name": job.name,
        "schema": job.schema,
        "size_mm": [_tidy(v) for v in page.size_mm],
        "dpi": _tidy(page.dpi),
        "pixels": list(page.pixels),
        "enlarge": _tidy(page.enlarge),
        "parts": [
            {
                "name": part.name,
                "order": part.order,
                "tier": part.tier,
                "lines": counts[part.id],
                "locked": part.locked,
                "hidden": part.hidden,
                "ink": colours.name_of(job.rows.parts[part.id].colour or part.ink),
                "cover": part.cover,
                "cover_gap": _tidy(part.cover_gap),
                "over_frames": part.over_frames,
                "inside": names.get(part.inside or ""),
            }
            for part in job.parts()
        ],
        "lines": len(job.rows.lines),
        "pulls": job.pull_count,
        "undo": job.history.undo_count(),
        "redo": job.history.redo_count(),
        "drafts": len(drafts_of(job)),
        "apart": len(job.apart),
        "board": board_report(job),
        "pencils": [
            {
                "name": row.name,
                "pixels": [row.px_w, row.px_h],
                "placed_mm": [row.x_mm, row.y_mm, row.w_mm, row.h_mm],
                "sheet": key,
                "kind": row.kind,
                "turn": row.turn,
                "hidden": row.hidden,
                "locked": row.locked,
            }
            for key, row in job.pencils()
        ],
    }


def history(job: Job, whole: int, of_history: int) -> dict[str, Any]:
    """How far the history reaches and what it takes: bytes of the file, and of the rows that its steps keep."""
    return {
        "steps": len(job.history.steps),
        "undo": job.history.undo_count(),
        "redo": job.history.redo_count(),
        "bytes": whole,
        "history_bytes": of_history,
        "marks": [{"name": name, "step": step} for name, step in job.history.marks.items()],
    }


def lines(job: Job, shapes: Shapes) -> dict[str, Any]:
    """All lines, back to front."""
    parts = {part.id: part for part in job.parts()}
    covers = Covers(job, shapes)
    meetings = by_line(told_meetings(job, shapes))
    out = []
    for key in job.line_ids():
        row = job.rows.lines[key]
        part = parts[row.part]
        points, left, right = shapes[key].width_points()
        out.append(
            {
                "id": key,
                "part": part.name,
                "role": row.role,
                "roles": [[0.0, round(shapes[key].length, 4), row.role]],
                "role_by": row.roles[0].by,
                "tier": part.tier,
                "closed": shapes[key].closed,
                "points": np.round(points, 6).tolist(),
                "widths": np.round(left + right, 6).tolist(),
                "left": np.round(left, 6).tolist(),
                "right": np.round(right, 6).tolist(),
                "ends": list(shapes[key].ends),
                "meetings": [_meeting(one) for one in meetings.get(key, ())],
                "draft": row.draft,
                "hidden": [[round(a, 3), round(b, 3)] for a, b in covers.hidden(part.id, shapes[key])],
                "report": line_report(job, shapes, key) | {"farthest": _farthest(job, row, shapes[key])},
            }
        )
    return {"units": "mm", "lines": out, "blacks": blacks(job, shapes)}


def _meeting(told: ToldMeeting) -> dict[str, Any]:
    x, y = told.meeting.at
    return {"kind": told.meeting.kind, "lines": list(told.meeting.lines), "at": [round(x, 4), round(y, 4)],
            "held": told.held}  # fmt: skip


def _farthest(job: Job, row: LineRecord, shape: Shape) -> float | None:
    """Told in JSON alone: the window, which asks for a line's other figures after every pull, does not show it."""
    return None if row.pull is None else round(farthest_sample(job.pull(row.pull), shape), 4)


def blacks(job: Job, shapes: Shapes) -> list[dict[str, Any]]:
    """All blacks, back to front: outlines of points in mm, filled by even-odd."""
    parts = {part.id: part for part in job.parts()}
    out = []
    for key in job.in_order(job.rows.blacks):
        part = parts[job.rows.blacks[key].part]
        rings = [np.round(ring, 6).tolist() for ring in shapes.black(key).rings]
        out.append({"id": key, "part": part.name, "tier": part.tier, "outlines": rings})
    return out


def line_report(job: Job, shapes: Shapes, key: str) -> dict[str, Any]:
    """Figures of one line: mm, seconds, mm/s, degrees clockwise from straight up; None where it has no pull."""
    row, shape = job.rows.lines[key], shapes[key]
    # Where a broken end leaves the paper there is no ink that could be thin.
    full = shape.widths.full[shape.widths.full > 0.0]
    out: dict[str, Any] = {
        "length": round(shape.length, 4),
        "width_range": [round(float(full.min()), 4), round(float(full.max()), 4)],
        "direction": _direction(shape),
        "tremor_removed": None,
        "shape_moved": None,
        "own_leeway": None,
        "lag_ms": None,
        "duration": None,
        "speed": None,
    }
    if row.pull is not None:
        centre = shapes.centre(row)
        duration = float(shape.source_t[-1] - shape.source_t[0])
        out |= {
            "tremor_removed": round(centre.tremor_mm, 4),
            "shape_moved": round(centre.moved_mm, 4),
            "own_leeway": round(centre.own_leeway_mm, 4),
            "lag_ms": round(LIVE_LAG_S * 1000.0) if row.school == "live" else 0,
            "duration": round(duration, 4),
            "speed": round(shape.length / duration, 2) if duration > 0 else None,
        }
    return out


def weigh(job: Job, shapes: Shapes) -> dict[str, Any]:
    """The plan, and what is seen of the lines measures by role and by tier, mm, by length, ends left out: each stretch
    by the role that the plan gives it; what outweighs what it should not; what the plan could not do."""
    inked = inked_of(job, shapes)
    found, whole = clashes(inked), shapes.weighing.now()
    return {
        "units": "mm",
        "plan": job.plan.name,
        "share": _tidy(round(job.plan.share * 100.0, 6)),
        "roles": {role: round(s.mean, 4) for role, (s, _) in by_role(inked).items()},
        "tiers": {
            tier: {"mean": round(s.mean, 4), "low": round(s.low, 4), "high": round(s.high, 4)}
            for tier, (s, _) in by_tier(inked).items()
        },
        "shares": {name: round(share, 4) for name, (_, share) in (by_role(inked) | by_tier(inked)).items()},
        "clashes": [_clash(one) for one in found],
        "gave_way": [_gave_way(whole, one) for one in whole.gave_way],
        "closed": [_closed(one) for one in closed_pairs(whole.scene, whole.closed)],
        "parts": [_extremes(job, part, ends) for part, ends in extremes(inked).items()],
    }


def told_learned(found: Learned) -> dict[str, Any]:
    """A plan that was learned, as JSON: figures in steps of sqrt 2, the base in mm, with 95 % of where each lies."""
    return {
        "units": "mm",
        "lines": found.lines,
        "explained": round(found.explained, 4),
        "figures": [_told_figure(one) for one in found.figures],
        "breaks": [_told_odd(one) for one in found.odd],
    }


def _told_odd(one: Odd) -> dict[str, Any]:
    x, y = one.at
    return {"line": one.line, "x": round(x, 3), "y": round(y, 3), "is": round(one.is_mm, 4),
            "would_be": round(one.would_mm, 4)}  # fmt: skip


def _told_figure(one: Figure) -> dict[str, Any]:
    known = {"value": round(one.value, 4), "low": round(one.low, 4), "high": round(one.high, 4)} if one.enough else {}
    return {"figure": one.name, "enough": one.enough, "lines": one.lines, **known}


def likeness(here: Inked, there: Inked) -> list[dict[str, Any]]:
    """How the weights of a job lie against those of another of the same series: mm of each tier and role that both
    have, and how many times as heavy this one is."""
    out = []
    for mine, theirs in ((by_tier(here), by_tier(there)), (by_role(here), by_role(there))):
        for name in mine.keys() & theirs.keys():
            a, b = mine[name][0].mean, theirs[name][0].mean
            out.append({"of": name, "here": round(a, 4), "there": round(b, 4), "times": round(a / max(b, 1e-6), 3)})
    return sorted(out, key=lambda one: -abs(math.log(one["times"])))


def inked_of(job: JobRows, shapes: Shapes) -> Inked:
    """The drawing with the widths that its lines have."""
    scene = shapes.weighing.scene()
    return inked_scene(scene, job.plan, {key: shapes[key].body for key in scene.known.places.lines})


def _clash(one: Clash) -> dict[str, Any]:
    x, y = one.at
    return {"kind": one.kind, "x": round(x, 3), "y": round(y, 3), "lines": list(one.lines),
            "measured": [round(mm, 4) for mm in one.measured], "cures": [cure.says for cure in one.cures]}  # fmt: skip


def _gave_way(whole: Weighed, one: GaveWay) -> dict[str, Any]:
    places = whole.scene.known.places
    x, y = places.points[one.places[1]].tolist()
    lines = [places.lines[int(places.line[place])] for place in one.places]
    return {"rule": one.rule, "x": round(x, 3), "y": round(y, 3), "lines": lines}


def _closed(pair: ClosedPair) -> dict[str, Any]:
    x, y = pair.at
    return {"x": round(x, 3), "y": round(y, 3), "lines": list(pair.lines), "length": round(pair.length, 2)}


def _extremes(job: JobRows, part: str, ends: Extremes) -> dict[str, Any]:
    return {"part": job.rows.parts[part].name, "lightest": round(ends.lightest, 4),
            "lightest_at": [round(v, 3) for v in ends.lightest_at], "heaviest": round(ends.heaviest, 4),
            "heaviest_at": [round(v, 3) for v in ends.heaviest_at]}  # fmt: skip


def _direction(shape: Shape) -> float | None:
    a, b = shape.curve[0, 0], shape.curve[-1, 3]
    if shape.closed or np.hypot(*(b - a)) < 1e-6:
        return None
    return round(math.degrees(math.atan2(b[0] - a[0], a[1] - b[1])) % 360.0, 1)


def _tidy(value: float) -> float | int:
    return int(value) if float(value).is_integer() else value
