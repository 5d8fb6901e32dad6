"""What a job's board comes to, as JSON and for the Board station: floor, ladder, enlargement, other uses, frames."""

from datetime import date
from typing import Any

import numpy as np

from plain_stride.board.advice import advice
from plain_stride.board.enlarging import USUAL_TREMOR_MM, Worth, after_reduction, worth
from plain_stride.board.ladder import ENLARGEMENTS, ladder
from plain_stride.board.targets import PrintTarget
from plain_stride.board.uses import USES, Fallen, fallen
from plain_stride.job.art import is_draft
from plain_stride.job.board_facts import edges_of, floor_of_job, frames_of, sheet_of, target_of, targets_of
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes

ENOUGH_PULLS, TREMOR_PULLS, PLACES = 12, 60, 24
"""Pulls from which a hand's tremor is taken as measured; how many of the newest are looked at; places along a line at
which its width is looked at."""


def board_report(job: Job) -> dict[str, Any]:
    """The board without what needs the lines worked out."""
    edges, floor, sheet = edges_of(job), floor_of_job(job), sheet_of(job)
    return {
        "bleed_mm": edges.bleed,
        "margin_mm": edges.margin,
        "gutter_mm": edges.gutter,
        "frames": [{"frame": key, "x": f.x, "y": f.y, "w": f.w, "h": f.h} for key, f in frames_of(job).items()],
        "target": target_json(target_of(job)),
        "floor": {"mm": round(floor.mm, 4), "set_by": floor.why, "print": floor.line_mm,
                  "seen": round(floor.seen_mm, 4), "pixel": round(floor.pixel_mm, 4)},
        "job_sheet": sheet.as_row(),
        "days_left": sheet.days_left(date.today()),
    }  # fmt: skip


def whole_report(job: Job, shapes: Shapes) -> dict[str, Any]:
    """All of it: the ladder, the enlargement that is worth it, other uses, advice, the targets to choose from."""
    tremor, measured = tremor_of(job, shapes)
    plan = worth(tremor, target_of(job))
    return {
        "units": "mm",
        **board_report(job),
        "ladder": [
            {"mm": s.mm, "pt": round(s.pt, 3), "px": round(s.px, 2), "verdict": s.verdict,
             "pen_px": {f"{times:g}": round(px, 2) for times, px in zip(ENLARGEMENTS, s.pen_px, strict=True)}}
            for s in ladder(job.page, target_of(job))
        ],
        "enlarging": {"tremor": round(tremor, 4), "measured": measured, "worth": plan.times,
                      "bump": round(plan.bump_mm, 4), "seen": round(plan.seen_mm, 4), "reached": plan.reached,
                      "pen_3px": [round(v, 4) for v in after_reduction(3.0, job.page)]},
        "uses": [fallen_json(one) for one in other_uses(job, shapes)],
        "advice": [sentence.replace("**", "") for sentence in advice(job.page)],
        "targets": [target_json(target) for target in targets_of(job).values()],
    }  # fmt: skip


def target_json(target: PrintTarget) -> dict[str, Any]:
    return {**target.as_row(), "own": target.own, "source": "own value" if target.own else "common practice"}


def fallen_json(one: Fallen) -> dict[str, Any]:
    return {"name": one.use.name, "target": one.use.target.name, "factor": round(one.factor, 4),
            "floor": round(one.floor_mm, 4), "dpi": round(one.dpi, 1), "below": list(one.lines),
            "of": one.of}  # fmt: skip


def tremor_of(job: Job, shapes: Shapes) -> tuple[float, bool]:
    """(the hand's shake in one direction, mm RMS on the tablet; whether it was measured): the median of what steadying
    took out of the newest pulls, each times how large the sheet lay on the glass. An average hand's where there are
    too few."""
    found = []
    for key in reversed(job.line_ids()):
        row = job.rows.lines[key]
        if row.pull is None or row.school != "after":
            continue
        pull = job.pull(row.pull)
        # A mouse's raster is no hand's shake, and nothing is known of the tablet of what was brought in.
        if pull.device != "import" and pull.raster is None:
            found.append(shapes.centre(row).tremor_mm * pull.view.scale)
            if len(found) >= TREMOR_PULLS:
                break
    return (float(np.median(found)), True) if len(found) >= ENOUGH_PULLS else (USUAL_TREMOR_MM, False)


def worth_of(job: Job, shapes: Shapes) -> tuple[Worth, bool]:
    """(the enlargement that is worth it, whether the hand was measured for it)."""
    tremor, measured = tremor_of(job, shapes)
    return worth(tremor, target_of(job)), measured


def other_uses(job: Job, shapes: Shapes) -> list[Fallen]:
    """What falls below the floor at each of the usual other uses."""
    widths = {key: _widths(shapes, key) for key in job.rows.lines if not is_draft(job, key)}
    return [fallen(use, job.page, widths) for use in USES]


def _widths(shapes: Shapes, key: str) -> np.ndarray:
    shape = shapes[key]
    left, right = shape.widths.at(np.linspace(0.0, shape.length, PLACES))
    return np.asarray(left + right)
