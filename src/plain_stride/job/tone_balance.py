"""How black lies on a job's sheet, and near, middle and far in it."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.job.art import parts_of_art
from plain_stride.job.covers import Covers
from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.area_black import area_of_black
from plain_stride.tone.balance import Balance, balance_of
from plain_stride.tone.covered import inked_page
from plain_stride.weight.plan import TIERS

PER_MM, MOST_PX = 5.0, 4_000_000


@dataclass(frozen=True)
class JobBalance:
    """of: the whole sheet; tiers: shares of the sheet that blacks of each tier cover."""

    of: Balance
    tiers: dict[str, float]


@dataclass(frozen=True)
class BalanceNow:
    """How black lies on the sheet."""

    def answered(self, at: DrawingAtWork, progress: object) -> JobBalance:
        return job_balance(at.job, at.shapes)


def job_balance(job: JobRows, shapes: Shapes) -> JobBalance:
    """The balance of the sheet as it would be exported."""
    wide, high = job.page.size_mm
    per_mm = min(PER_MM, float(np.sqrt(MOST_PX / (wide * high))))
    ink = [(part.ink == "black", line.seen()) for part in parts_of_art(job, shapes) for line in part.lines]
    dark = inked_page(ink, (0.0, 0.0, wide, high), per_mm)
    return JobBalance(balance_of(dark, per_mm), _by_tier(job, shapes))


def _by_tier(job: JobRows, shapes: Shapes) -> dict[str, float]:
    """Black of each tier: a black lies on the nearest part whose cover holds it; else it is of its own part's tier, or
    far where that is one of tones."""
    import shapely

    wide, high = job.page.size_mm
    covers, parts, toned = Covers(job, shapes).now(), job.parts(), job.parts_of_tones()
    by_key = {part.id: part for part in parts}
    areas: dict[str, list[Any]] = {tier: [] for tier in TIERS}
    for key, row in job.rows.blacks.items():
        own = by_key[row.part]
        if own.hidden or own.ink != "black":
            continue
        area = area_of_black(shapes.black(key))
        at = np.asarray([area.representative_point().coords[0]])
        on = next((part for part in parts if part.id in covers and covers[part.id].holds(at)[0]), None)
        areas[on.tier if on is not None else TIERS[-1] if row.part in toned else own.tier].append(area)
    out, before = {}, shapely.Polygon()
    for tier in TIERS:
        # What lies on a nearer black is no black of its own.
        whole = shapely.difference(shapely.union_all(areas[tier]), before) if areas[tier] else shapely.Polygon()
        out[tier] = float(whole.area) / (wide * high)
        before = before.union(whole)
    return out
