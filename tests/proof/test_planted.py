"""Faults planted by a script, and what the proof finds of them. Outside: planted sizes are measured with shapely; the
Hershey letters (U.S. National Bureau of Standards, 1967, by the package HersheyFonts). Larger sets: `./run bench
proofing`."""

import numpy as np
import pytest

from tests.proof import bases, planting
from tests.proof.planting import ON, SIZES, TWICE, UNDER
from tests.proof.scoring import proofed, scored

RECALL, PRECISION, PLANTED = 0.95, 0.9, 8
MUST_PER_100, SHOULD_PER_100 = 1.0, 3.0
MARGIN = ("board", {"margin_mm": planting.MARGIN_MM})


@pytest.mark.parametrize("kind", SIZES)
def test_faults_at_twice_the_limit_are_found_and_little_else(kind, tmp_path):
    planted = found = told = right = 0
    for seed, name in enumerate(ON[kind][:1]):
        sheet = getattr(bases, name)(40 + seed)
        made = planting.plant(sheet, kind, SIZES[kind][TWICE], PLANTED, np.random.default_rng(seed))
        score = scored(proofed(tmp_path, sheet, (), [MARGIN] if kind == "off-board" else ()), made, kind)
        planted, found = planted + score.planted, found + score.found
        told, right = told + score.told, right + score.right
    assert planted >= 4
    assert found >= RECALL * planted and right >= PRECISION * told


@pytest.mark.parametrize(
    "kind", ["overshoot", "wobble", "blob", "too-thin", "fill-in", "stray", "tangent", "flat-weight"]
)
def test_what_lies_just_under_its_limit_is_not_told(kind, tmp_path):
    sheet = getattr(bases, ON[kind][0])(7)
    made = planting.plant(sheet, kind, SIZES[kind][UNDER], PLANTED, np.random.default_rng(3))
    assert made and scored(proofed(tmp_path, sheet, (kind,)), made, kind).found == 0


def test_clean_drawings_are_left_in_peace(tmp_path):
    lines, must, should = 0, 0, 0
    for seed, name in enumerate(("figures", "houses", "hills", "hair", "hatching", "letters")):
        sheet = getattr(bases, name)(60 + seed)
        told = proofed(tmp_path, sheet)
        lines += len(sheet.lines)
        must += sum(one["severity"] == "must" for one in told)
        should += sum(one["severity"] == "should" for one in told)
    assert must <= MUST_PER_100 * lines / 100 and must + should <= SHOULD_PER_100 * lines / 100
