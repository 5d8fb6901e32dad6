"""The proof of a job as JSON tells it."""

from collections.abc import Sequence
from typing import Any

from plain_stride.job.job import Job
from plain_stride.job.proof_page import page_of
from plain_stride.job.shapes import Shapes
from plain_stride.proof.checks import proof_of
from plain_stride.proof.finding import Finding


def told_proof(job: Job, shapes: Shapes, only: Sequence[str] = ()) -> dict[str, Any]:
    """All findings of a job, of some kinds where these are named."""
    found = [one for one in proof_of(page_of(job, shapes)) if not only or one.kind in only]
    return {"units": "mm", "findings": [told_finding(one) for one in found]}


def told_finding(one: Finding) -> dict[str, Any]:
    """A finding as JSON."""
    x, y = one.at
    return {
        "id": one.id,
        "kind": one.kind,
        "severity": one.severity,
        "x": x,
        "y": y,
        "extent": [list(place) for place in one.extent],
        "lines": list(one.lines),
        "measured": round(one.measured, 4),
        "limit": round(one.limit, 4),
        "unit": one.unit,
        "advice": one.advice,
        "mend": one.mend.says if one.mend else None,
    }
