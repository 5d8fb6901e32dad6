"""Figures of the proof against what shapely, scikit-image and closed forms say of the same drawings."""

import re

import numpy as np
import pytest
import shapely

from plain_stride.proof.comparing import CompareError, compared, findings_in
from plain_stride.proof.intent import Meant, as_meant, sorted_by_intent
from plain_stride.proof.limits import KINDS, LIMITS, Manners, MannersError, manners_from_json, manners_json
from tests.proof.bases import Sheet, bow, ellipse
from tests.proof.planting import ink
from tests.proof.scoring import proofed


def told_of(tmp_path, sheet, kind, *changes):
    return [one for one in proofed(tmp_path, sheet, (kind,), changes) if one["kind"] == kind]


@pytest.mark.parametrize("gap", [0.15, 0.3, 0.7, 1.2])
@pytest.mark.parametrize("turn", [90.0, 60.0])
def test_a_gap_is_the_distance_of_the_two_inks(tmp_path, gap, turn):
    """Outside: shapely's distance between the inks as polygons."""
    sheet = Sheet(0)
    sheet.lay([[20, 60], [120, 60]], 0.6, swell=0.0)
    way = np.array([np.cos(np.radians(turn)), -np.sin(np.radians(turn))])
    start = np.array([70.0, 60.0]) + way * (0.3 + gap + 0.2) / np.sin(np.radians(turn))
    sheet.lay([start, start + way * 30], 0.4, swell=0.0)
    (one,) = told_of(tmp_path, sheet, "gap")
    assert abs(one["measured"] - ink(sheet.lines[0]).distance(ink(sheet.lines[1]))) < 0.02
    assert one["mend"] is not None and len(one["lines"]) == 2


@pytest.mark.parametrize("over", [0.4, 0.9, 1.8])
def test_an_overshoot_is_how_far_ink_reaches_beyond_the_line(tmp_path, over):
    """Outside: the Hausdorff distance of what lies beyond from the ink that is crossed (shapely)."""
    sheet = Sheet(0)
    sheet.lay([[20, 60], [120, 60]], 0.6, swell=0.0)
    sheet.lay([[70, 30], [70, 60.3 + over - 0.2]], 0.4, swell=0.0)
    (one,) = told_of(tmp_path, sheet, "overshoot")
    beyond = ink(sheet.lines[1]).intersection(shapely.box(0, 60.3, 200, 200))
    assert abs(one["measured"] - max(p[1] for p in beyond.exterior.coords) + 60.3) < 0.03


def test_wobble_of_a_sine_is_its_root_mean_square(tmp_path):
    """Closed form: amplitude / sqrt 2, for waves much shorter than what is smoothed over."""
    sheet = Sheet(0)
    x = np.linspace(20, 120, 2000)
    sheet.lay(np.column_stack([x, 60 + 0.2 * np.sin(2 * np.pi * x / 2.2)]), 0.4, swell=0.0)
    (one,) = told_of(tmp_path, sheet, "wobble")
    assert abs(one["measured"] - 0.2 / np.sqrt(2)) < 0.1 * 0.2 / np.sqrt(2)


def test_a_smooth_bend_and_a_corner_do_not_shiver(tmp_path):
    sheet = Sheet(0)
    sheet.lay(ellipse(60, 60, 12, 8), 0.4, closed=True, swell=0.0)
    sheet.lay([[100, 20], [130, 20], [130, 50], [100, 50], [100, 20]], 0.4, swell=0.0)
    t = np.linspace(0, 1, 300)
    sheet.lay(np.column_stack([20 + 130 * t, 100 + 4 * np.sin(2 * np.pi * 130 * t / 9)]), 0.4, swell=0.0)
    assert not told_of(tmp_path, sheet, "wobble")


def test_white_that_closes_is_that_between_edges(tmp_path):
    """Closed form: parallels, their middles apart less their widths."""
    sheet = Sheet(0)
    sheet.lay([[20, 60], [120, 60]], 0.5, swell=0.0)
    sheet.lay([[40, 60.57], [60, 60.57]], 0.5, swell=0.0)
    (one,) = told_of(tmp_path, sheet, "fill-in")
    assert abs(one["measured"] - 0.07) < 0.005 and one["limit"] == 0.15


def test_uneven_hatching_is_the_deviation_of_its_pitches(tmp_path):
    """Closed form: the coefficient of variation of pitches drawn by a generator, without a trend."""
    sheet, rng = Sheet(0), np.random.default_rng(5)
    pitches = 1.0 + 0.4 * rng.uniform(-1, 1, 39)
    places = np.concatenate([[0.0], np.cumsum(pitches)])
    for k, x in enumerate(places):
        sheet.lay([[30 + x, 40], [30 + x, 60]], 0.3, "texture", swell=0.0, name=f"h{k}")
    (one,) = told_of(tmp_path, sheet, "uneven-hatch", ("manners", {"limits": {"uneven-hatch": 0.1}}))
    assert abs(one["measured"] - pitches.std() / pitches.mean()) < 0.03


def test_a_line_too_thin_for_print_tells_its_thinnest_place(tmp_path):
    sheet = Sheet(0)
    line = sheet.lay([[20, 60], [120, 60]], 0.3, swell=0.0)
    x = line["points"][:, 0]
    line["widths"] = 0.3 - 0.25 * np.exp(-(((x - 70) / 8.0) ** 2))
    (one,) = told_of(tmp_path, sheet, "too-thin")
    assert abs(one["measured"] - line["widths"].min()) < 0.005 and abs(one["x"] - 70) < 0.5
    assert told_of(tmp_path, sheet, "too-thin", ("board", {"target": "newsprint"}))[0]["limit"] == 0.25


def test_what_lies_in_a_black_or_behind_a_cover_is_not_marked(tmp_path):
    sheet = Sheet(0)
    sheet.lay([[20, 60], [120, 60]], 0.6, swell=0.0)
    sheet.lay([[70, 30], [70, 61.5]], 0.4, swell=0.0)
    assert told_of(tmp_path, sheet, "overshoot")
    from plain_stride.lines.black import black_of_rings

    over = black_of_rings([np.array([[60.0, 50], [80, 50], [80, 70], [60, 70]])])
    assert not told_of(tmp_path, sheet, "overshoot", ("black", {"black": over}))


def test_lines_of_a_nearer_part_end_where_they_like(tmp_path):
    def crossing(near, far):
        sheet = Sheet(0)
        sheet.lay([[20, 60], [120, 60]], 0.6, part=far, swell=0.0)
        sheet.lay([[70, 30], [70, 61.5]], 0.4, part=near, swell=0.0)
        return sheet

    parts = [("part", {"name": "Front", "order": 1}), ("part", {"name": "Back", "order": 2})]
    assert not told_of(tmp_path, crossing("Front", "Back"), "overshoot", *parts)
    assert told_of(tmp_path, crossing("Back", "Front"), "overshoot", *parts)


def test_broken_ends_and_one_flat_style_are_meant(tmp_path):
    sheet = Sheet(0)
    sheet.lay([[20, 60], [120, 60]], 0.6, swell=0.0)
    loose = sheet.lay([[70, 30], [70, 59.3]], 0.4, swell=0.0)
    assert told_of(tmp_path, sheet, "gap")
    loose["ends"] = ["broken", "broken"]
    assert not told_of(tmp_path, sheet, "gap")
    flat = Sheet(1)
    for k in range(6):
        flat.lay(bow([20, 20 + 15 * k], [120, 20 + 15 * k], 0.05), 0.5, swell=0.0)
    assert not told_of(tmp_path, flat, "flat-weight")


# Manners, intent, comparing


def test_manners_are_held_to_their_bounds_and_come_back_from_a_file():
    manners = Manners("cover", {"gap": 0.4}, {"stray": "off"})
    import json

    assert manners_from_json(json.loads(manners_json(manners))) == manners
    for wrong in ({"limits": {"gap": 9}}, {"limits": {"gaps": 1}}, {"severities": {"gap": "loud"}}, {"name": ""},
                  {"limits": {"gap": True}}, {"limits": [1]}, {"form": "a plan"}):  # fmt: skip
        with pytest.raises(MannersError):
            manners_from_json(wrong)
    assert set(LIMITS) == set(KINDS) and all(one.low <= one.value <= one.high and one.reason for one in LIMITS.values())


def test_a_finding_that_is_meant_is_told_again_once_it_changes():
    from dataclasses import replace

    from plain_stride.proof.finding import Finding

    one = Finding("gap", "should", (10.0, 10.0), ((10.0, 10.0),), ("a", "b"), 0.5, 0.1, "mm", "…")
    meant = [as_meant(one, "light")]
    assert sorted_by_intent([one], meant, {}) == ([], [(one, meant[0])])
    for other in (replace(one, at=(13.0, 10.0)), replace(one, measured=0.9), replace(one, lines=("a", "c"))):
        assert sorted_by_intent([other], meant, {})[0] == [other]
    part = Meant("part", "gap", ("g1",))
    assert not sorted_by_intent([one], [part], {"a": "g1"})[0] and sorted_by_intent([one], [part], {"a": "g2"})[0]


def test_two_proofs_are_compared_by_place_and_line():
    def one(kind, x, lines, measured=1.0):
        return {"kind": kind, "x": x, "y": 0.0, "lines": lines, "measured": measured}

    before = [one("gap", 10, ["a"]), one("gap", 50, ["b"]), one("blob", 10, ["a"])]
    now = [one("gap", 11, ["a", "c"], 0.5), one("blob", 90, ["a"])]
    both = compared(before, now)
    assert len(both.gone) == 2 and len(both.new) == 1 and len(both.stayed) == 1 and "1 of them less" in both.sentence
    # A line that is thinner than before is no better.
    for kind, measured, better in (("too-thin", 0.5, False), ("too-thin", 2.0, True), ("gap", 2.0, False)):
        stayed = compared([one(kind, 10, ["a"])], [one(kind, 10, ["a"], measured)])
        assert ("less so" in stayed.sentence) == better
    whole = one("gap", 10, ["a"])
    wrong = ({"x": "a"}, {"lines": 5}, {"lines": [[1]]}, {"measured": None}, {"y": 1e999}, {"kind": ["gap"]})
    for told in ({"kind": "gap"}, *(whole | more for more in wrong)):
        with pytest.raises(CompareError):
            findings_in({"findings": [told]})


def test_balance_of_a_ruled_square_is_its_closed_form(tmp_path):
    """20 lines of 20 mm, 1 mm apart: 100 mm for each cm2 in a cell that they fill; the rest of the sheet but 5 mm round
    them is at rest."""
    from plain_stride.job.proof_told import proof_of_job
    from tests.proof.scoring import with_job

    sheet = Sheet(0, (100.0, 100.0))
    for k in range(20):
        sheet.lay([[40, 40.5 + k], [60, 40.5 + k]], 0.3, swell=0.0)
    balance = with_job(
        tmp_path, sheet, lambda job, shapes: proof_of_job(job, shapes, ("gap",), lambda share: True).balance
    )
    assert balance.dense == pytest.approx(100.0, rel=0.04) and 40 <= balance.dense_at[0] <= 60
    round_it = (20 * 20 + 4 * 20 * 5 + np.pi * 25) / 100**2
    assert balance.rest == pytest.approx(1.0 - round_it, abs=0.02)
    assert balance.classes[1] == pytest.approx(1.0)


def test_the_page_on_the_proof_has_every_kind_with_its_limit():
    from pathlib import Path

    text = (Path(__file__).parents[2] / "docs" / "proof.md").read_text()
    rows = dict(
        re.findall(r"^\| `([a-z-]+)` \| .*? \| ((?:below )?[\d.]+ [^|]+?) \| (?:must|should|look) \|", text, re.M)
    )
    assert rows == {kind: f"{'below ' * one.below}{one.value:g} {one.unit}" for kind, one in LIMITS.items()}
