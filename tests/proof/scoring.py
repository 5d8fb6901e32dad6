"""Scores of the proof on planted drawings: what of it was found, and what was told that is not there."""

import json
from dataclasses import dataclass

import numpy as np

from plain_stride.board.page import Page as BoardPage
from plain_stride.hand.nib import standard_nibs
from plain_stride.job.changes import make_all
from plain_stride.job.job_files import load, new_job
from plain_stride.job.opening import open_store
from plain_stride.job.proof_told import proof_of_job, told_finding
from plain_stride.job.reading import import_changes
from plain_stride.job.shapes import Shapes

NEAR_MM = 2.5


@dataclass
class Score:
    planted: int = 0
    found: int = 0
    told: int = 0
    right: int = 0

    @property
    def recall(self):
        return self.found / max(self.planted, 1)

    @property
    def precision(self):
        return self.right / max(self.told, 1)


def proofed(folder, sheet, only=(), changes=()):
    """All that is told of a drawing, as JSON has it."""
    told = with_job(
        folder, sheet, lambda job, shapes: proof_of_job(job, shapes, only, lambda share: True).told, changes
    )
    return [told_finding(one) for one in told]


def with_job(folder, sheet, work, changes=()):
    """Does some work on a job that holds a drawing, in `planted.stride`."""
    path = folder / "planted.stride"
    path.unlink(missing_ok=True)
    new_job(path, BoardPage(sheet.size, 600.0))
    store = open_store(path, write=True)
    try:
        job = load(store)
        shapes = Shapes(job, store)
        told = {"units": "mm", "lines": [told_line(one) for one in sheet.lines]}
        wanted = import_changes(json.loads(json.dumps(told)), standard_nibs()["3"])
        store.commit(make_all(job, shapes, [*changes, *wanted], "planted").commit)
        return work(job, shapes)
    finally:
        store.close()


def told_line(one):
    return {**one, "points": np.round(one["points"], 5).tolist(), "widths": np.round(one["widths"], 5).tolist()}


def points_at(one, planted):
    """The planted faults that a finding points at, naming a line of theirs."""
    places = np.array([[one["x"], one["y"]], *one["extent"]])
    return [k for k, (lines, at) in enumerate(planted) if set(lines) & set(one["lines"])
            and np.hypot(*(places - at).T).min() <= NEAR_MM]  # fmt: skip


def scored(told, planted, kind):
    """The score of one kind. A finding is right where it points at a planted place and names a line of it."""
    score = Score(planted=len(planted))
    told = [one for one in told if one["kind"] == kind]
    score.told = len(told)
    hit = set()
    for one in told:
        near = points_at(one, planted)
        score.right += bool(near)
        hit.update(near)
    score.found = len(hit)
    return score
