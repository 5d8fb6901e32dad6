"""The proof of a job as JSON tells it."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from plain_stride.job.job import Job
from plain_stride.job.proof_page import against_of, manners_of, meant_of, page_of, parts_of_ink
from plain_stride.job.rows import JobRows
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes
from plain_stride.job.tone_balance import job_balance
from plain_stride.proof.against_pencils import LOST, STRAYING, UNFINISHED
from plain_stride.proof.balance import Balance, balance_of
from plain_stride.proof.checks import proof_of
from plain_stride.proof.finding import LOOK, MUST, SHOULD, Finding
from plain_stride.proof.intent import sorted_by_intent
from plain_stride.proof.limits import KINDS

OF_PENCILS = {LOST, STRAYING, UNFINISHED}
"""Kinds for which the pencils must be read."""
CLASS_NAMES = ("fine", "light", "medium", "heavy")
WITHOUT_PENCILS = tuple(kind for kind in KINDS if kind not in OF_PENCILS)


@dataclass(frozen=True)
class Proof:
    """told: findings, the most severe first; meant: those that the inker says are meant so, with the id of what says
    it; balance: figures that stand beside them."""

    told: tuple[Finding, ...]
    meant: tuple[tuple[Finding, str], ...]
    balance: Balance | None = None


def told_proof(job: Job, shapes: Shapes, proof: Proof) -> dict[str, Any]:
    """All of a proof as JSON."""
    meant = [told_finding(one) | {"meant": by, "reason": job.rows.meant[by].reason} for one, by in proof.meant]
    return {"units": "mm", "sentence": sentence_of(job, proof.told),
            "findings": [told_finding(one) for one in proof.told], "meant": meant,
            "manners": manners_of(job).as_row(), "remarks": told_remarks(job),
            "balance": _told_balance(job, shapes, proof.balance)}  # fmt: skip


def proof_of_job(job: Job, shapes: Shapes, only: Sequence[str], progress: Progress) -> Proof:
    """All findings of a job, of some kinds where these are named. Raises StoppedError."""
    wants_pencils = not only or bool(OF_PENCILS & set(only))
    against = against_of(job, shapes, progress) if wants_pencils else None
    page = page_of(job, shapes, None, against)
    found = [one for one in proof_of(page) if not only or one.kind in only]
    return sorted_out(job, found, balance_of(page))


def sorted_out(job: JobRows, found: Sequence[Finding], balance: Balance) -> Proof:
    """Findings, without what is meant so."""
    meant = meant_of(job)
    names = {id(one): key for key, one in meant.items()}
    told, said = sorted_by_intent(found, list(meant.values()), parts_of_ink(job))
    return Proof(tuple(told), tuple((one, names[id(by)]) for one, by in said), balance)


def _told_balance(job: Job, shapes: Shapes, balance: Balance | None) -> dict[str, Any] | None:
    if balance is None:
        return None
    dark = job_balance(job, shapes).of
    return {"ink": round(dark.ink, 4), "black": round(dark.black, 4),
            "dense_mm_per_cm2": round(balance.dense, 1), "usual_mm_per_cm2": round(balance.usual, 1),
            "dense_at": list(balance.dense_at), "rest": round(balance.rest, 4),
            "classes": dict(zip(CLASS_NAMES, (round(share, 4) for share in balance.classes), strict=True))}  # fmt: skip


def told_remarks(job: JobRows) -> list[dict[str, Any]]:
    """The reviewer's remarks as JSON."""
    return [{"id": key, "x": row.x_mm, "y": row.y_mm, "words": row.words, "strokes": len(row.strokes),
             "by": row.author, "answer": row.answer, "done": row.done}
            for key, row in job.rows.remarks.items()]  # fmt: skip


def sentence_of(job: Job, found: Sequence[Finding]) -> str:
    """What the proof comes to."""
    if not any(not row.draft for row in job.rows.lines.values()) and not job.rows.blacks:
        has = "The pencils are there, and nothing is inked yet" if job.rows.pencils else "The board is empty"
        return f"{has}: there is nothing to proof."
    if not found:
        return "Nothing is marked: no check found anything over its limit."
    counts = Counter(one.severity for one in found)
    return f"{counts[MUST]} to be mended, {counts[SHOULD]} that should be, {counts[LOOK]} to look at."


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
