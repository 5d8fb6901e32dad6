"""Passes over the final art. Outside: an edge blurred by a Gaussian is the error function (closed form), SciPy's
gaussian_filter, Shapely for areas."""

import io
import itertools
import json
import re
from dataclasses import fields, replace
from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image
from scipy.ndimage import gaussian_filter
from scipy.special import erf

from plain_stride.cli import main
from plain_stride.finish.art import ArtCopy, SoftCopy
from plain_stride.finish.choices import Choices
from plain_stride.finish.passes import PASSES, PassError, Soft, pass_from_row, passes_from_json
from plain_stride.finish.writers import WRITERS
from plain_stride.job.art import art_of
from plain_stride.job.errors import JobError
from plain_stride.job.finished import finished_art, passes_of
from plain_stride.job.finishes_told import told_finishes
from plain_stride.job.flats import flats_of
from plain_stride.measure import MM_PER_INCH
from plain_stride.render.export import Pixels


def ours(art, dpi=None, **choices):
    art = art if dpi is None else replace(art, page=replace(art.page, dpi=float(dpi)))
    data = WRITERS[".png"].write(art, Choices(**choices), Pixels(), None)
    return np.asarray(Image.open(io.BytesIO(data)).convert("L"), float)


@pytest.fixture
def inked(open_job):
    """A bar, a curve and a ring, in two parts."""
    bar = [[20.0, 20.0], [60.0, 20.0], [60.0, 70.0], [20.0, 70.0]]
    open_job.do("black", black=_black(bar), part="Bar")
    open_job.pull((70, 70), (90, 20), (112, 66), part="Curve", role="outer", pressure=0.8)
    open_job.do("draw", shape="ellipse", points=[[75, 40], [100, 60]], part="Curve")
    return open_job


def _black(ring):
    from plain_stride.lines.black import black_of_rings

    return black_of_rings([np.array(ring)])


def soft_alone(art):
    return replace(art, things=tuple(one for one in art.things if isinstance(one, SoftCopy)))


def lay(job, *rows):
    return job.do("finishes", finishes=list(rows))


@pytest.mark.parametrize("dpi", [150, 300, 1200])
@pytest.mark.parametrize("radius", [0.3, 1.5])
def test_a_soft_edge_is_the_error_function(inked, dpi, radius):
    lay(inked, {"pass": "soft", "radius": radius, "strength": 1.0, "lines": list(inked.job.rows.blacks)})
    art = finished_art(inked.job, inked.shapes)
    page = ours(soft_alone(art), dpi)
    x = (np.arange(page.shape[1]) + 0.5) / dpi * MM_PER_INCH
    wanted = 0.5 * (erf((x - 20.0) / radius / np.sqrt(2)) - erf((x - 60.0) / radius / np.sqrt(2)))
    got = 1.0 - page[round(45 / MM_PER_INCH * dpi)] / 255.0
    # A pixel holds the mean of what lies in it: at 150 dpi and 0.3 mm that is seen.
    assert np.abs(got - wanted).max() < (0.02 if dpi * radius > 80 else 0.06)


def test_a_round_copy_is_what_scipy_blurs(inked):
    plain = 255.0 - ours(art_of(inked.job, inked.shapes), 400)
    lay(inked, {"pass": "soft", "radius": 0.4, "strength": 0.6})
    art = finished_art(inked.job, inked.shapes)
    soft = 255.0 - ours(soft_alone(art), 400)
    wanted = 0.6 * gaussian_filter(plain, 0.4 / MM_PER_INCH * 400)
    assert np.abs(soft - wanted).mean() < 0.15 and np.abs(soft - wanted).max() < 6.0


@pytest.mark.parametrize("told", [{"radius": 0.4}, {"radius": 0.5, "way": "along", "angle": 30.0},
                                  {"radius": 0.8, "way": "out", "centre": [60.0, 45.0], "reach": 40.0},
                                  {"radius": 0.25, "over": True}])  # fmt: skip
def test_the_same_finish_looks_the_same_at_any_resolution(inked, told):
    lay(inked, {"pass": "soft", "strength": 0.7, **told}, {"pass": "off-register", "by": [0.6, 0.4], "turn": 1.0},
        {"pass": "tooth"}, {"pass": "second-pass"}, {"pass": "thinned"})  # fmt: skip
    art = finished_art(inked.job, inked.shapes)
    coarse, fine = ours(art, 300), ours(art, 1200)
    high, wide = (n // 4 for n in fine.shape)
    small = fine[: high * 4, : wide * 4].reshape(high, 4, wide, 4).mean(axis=(1, 3))
    high, wide = min(high, coarse.shape[0]), min(wide, coarse.shape[1])
    assert np.abs(coarse[:high, :wide] - small[:high, :wide]).mean() <= 2.0


def test_a_blur_along_a_way_leaves_its_sides_sharp(inked):
    lay(inked, {"pass": "soft", "way": "along", "angle": 90.0, "radius": 2.0, "strength": 1.0,
                "lines": list(inked.job.rows.blacks)})  # fmt: skip
    art = finished_art(inked.job, inked.shapes)
    page = 255.0 - ours(soft_alone(art), 300)
    px = 300 / MM_PER_INCH
    across, along = page[:, round(40 * px)], page[round(45 * px)]
    assert ((across > 12) & (across < 243)).sum() <= 8
    assert ((along > 12) & (along < 243)).sum() > 80


def test_a_blur_out_from_a_place_grows_with_how_far_it_is(inked):
    lay(inked, {"pass": "soft", "way": "out", "centre": [25.0, 45.0], "reach": 30.0, "radius": 2.0, "strength": 1.0,
                "lines": list(inked.job.rows.blacks)})  # fmt: skip
    art = finished_art(inked.job, inked.shapes)
    row = (255.0 - ours(soft_alone(art), 300))[round(45 * 300 / MM_PER_INCH)]
    soft = (row > 12) & (row < 243)
    near, far = soft[: round(30 * 300 / MM_PER_INCH)].sum(), soft[round(50 * 300 / MM_PER_INCH) :].sum()
    assert far > 4 * near


def test_a_copy_off_register_lies_where_it_was_shifted(inked):
    lay(inked, {"pass": "off-register", "by": [1.5, -0.7], "colour": "#d9603a", "parts": ["Curve"]})
    art = finished_art(inked.job, inked.shapes)
    added = next(part for part in art.parts if part.finish)
    assert art.things.index(added) < next(
        k for k, part in enumerate(art.things) if part.name == "Curve" and not part.finish
    )
    for copy in added.lines:
        assert isinstance(copy, ArtCopy) and copy.colour == "#d9603a"
        for new, old in zip(copy.seen(), copy.of.seen(), strict=True):
            assert np.allclose(new - old, (1.5, -0.7))


def test_a_second_pass_is_looser_lighter_and_the_same_for_a_seed(inked):
    lay(inked, {"pass": "second-pass", "hand": "shaky", "weight": 0.5, "seed": 3, "parts": ["Curve"]})
    again = [next(part for part in finished_art(inked.job, inked.shapes).parts if part.finish) for _ in range(2)]
    assert all(np.array_equal(a.shape.curve, b.shape.curve) for a, b in zip(*(one.lines for one in again), strict=True))
    line = again[0].lines[0]
    first = inked.shapes[line.id]
    away = shapely.distance(shapely.points(line.shape.flat[0]), shapely.LineString(first.flat[0]))
    assert 0.05 < away.max() < 3.0
    assert line.shape.widths.full.max() == pytest.approx(first.widths.full.max() * 0.5, rel=0.02)


def test_thinned_ink_is_drawn_in_from_both_edges(inked):
    lay(inked, {"pass": "thinned", "mm": 0.1, "least": 0.15})
    curve, ring, bar = (line for part in finished_art(inked.job, inked.shapes).parts for line in part.lines)
    assert shapely.Polygon(bar.shape.rings[0]).area == pytest.approx(39.8 * 49.8, rel=1e-3)
    s = np.linspace(3.0, curve.shape.length - 3.0, 50)
    before, after = (sum(shape.widths.at(s)) for shape in (inked.shapes[curve.id], curve.shape))
    assert np.allclose(after, np.maximum(before - 0.2, np.minimum(before, 0.15)), atol=0.02)
    assert ring.shape.closed


def test_tooth_wears_thin_lines_more_and_leaves_textured_ones(inked):
    thin = inked.do("draw", shape="straight", points=[[10, 80], [60, 80]], nib="6", part="Thin")
    wide = inked.do("draw", shape="straight", points=[[10, 85], [60, 85]], nib="5", part="Thin")
    lay(inked, {"pass": "tooth", "grain": 0.06})
    art = finished_art(inked.job, inked.shapes)
    deep = {line.id: line.shape.edge.grain for part in art.parts for line in part.lines if hasattr(line.shape, "edge")}
    assert deep[_one(thin)] > deep[_one(wide)] and max(deep.values()) <= 0.12


def _one(made):
    return made if isinstance(made, str) else made[0]


def test_lines_go_where_flats_part_and_the_kept_stay(open_job):
    """Two boxes beside each other: the line between them goes, the outline stays."""
    for points in ([[20, 20], [60, 20], [60, 70], [20, 70], [20, 20]], [[60, 20], [100, 20], [100, 70], [60, 70]]):
        for a, b in itertools.pairwise(points):
            open_job.do("draw", shape="straight", points=[a, b], nib="7", part="Boxes", role="outer")
    middle = open_job.job.line_ids()[1]
    open_job.do("flat", at=[40, 45], colour="#c06040")
    open_job.do("flat", at=[80, 45], colour="#4060c0")
    lay(open_job, {"pass": "lines-away", "difference": 10.0})
    left = {line.id for part in finished_art(open_job.job, open_job.shapes).parts for line in part.lines}
    assert middle not in left and len(left) == 6
    lay(open_job, {"pass": "lines-away", "difference": 10.0, "keep": [middle]})
    assert middle in {line.id for part in finished_art(open_job.job, open_job.shapes).parts for line in part.lines}
    open_job.do("flat", at=[80, 45], colour="#c06040")
    lay(open_job, {"pass": "lines-away", "difference": 10.0})
    assert len({line.id for part in finished_art(open_job.job, open_job.shapes).parts for line in part.lines}) == 7
    assert flats_of(open_job.job, open_job.shapes).at(40, 45).colour == "#c06040"


def test_a_tint_keeps_values(inked):
    from plain_stride import colour

    inked.do("ink", name="grey", colour="#808080")
    inked.do("part", name="Curve", ink="grey")
    lay(inked, {"pass": "tint", "colour": "#8a5a2a"})
    colours = {line.colour for part in finished_art(inked.job, inked.shapes).parts for line in part.lines}
    assert "black" in colours and len(colours) == 2
    tinted = next(one for one in colours if one != "black")
    assert not colour.is_grey(tinted)
    assert colour.lightness(tinted) == pytest.approx(colour.lightness("#808080"), abs=0.5)


def test_passes_are_ordered_switched_lifted_off_and_undone(inked):
    plain = ours(art_of(inked.job, inked.shapes))
    lay(inked, {"pass": "second-pass"}, {"pass": "off-register"})
    one = ours(finished_art(inked.job, inked.shapes))
    lay(inked, {"pass": "off-register"}, {"pass": "second-pass"})
    other = ours(finished_art(inked.job, inked.shapes))
    assert (one != plain).any() and (one != other).any()
    lay(inked, {"pass": "off-register", "on": False}, {"pass": "thinned", "mm": 0.2, "on": False})
    assert np.array_equal(ours(finished_art(inked.job, inked.shapes)), plain)
    lay(inked)
    assert not inked.job.rows.finishes
    inked.undo()
    assert len(passes_of(inked.job)) == 2
    assert np.array_equal(ours(finished_art(inked.job, inked.shapes, plain=True)), plain)


def test_vector_passes_stay_vectors_and_soft_ones_are_pictures(inked):
    lay(inked, {"pass": "off-register"}, {"pass": "second-pass"}, {"pass": "tooth"}, {"pass": "thinned"})
    art = finished_art(inked.job, inked.shapes)
    assert b"<image" not in WRITERS[".svg"].write(art, Choices(), Pixels(), None)
    lay(inked, {"pass": "soft"})
    art = finished_art(inked.job, inked.shapes)
    assert WRITERS[".svg"].write(art, Choices(), Pixels(), None).count(b"<image") == 1
    assert b"/Subtype /Image" in WRITERS[".pdf"].write(art, Choices(), Pixels(), None)


BAD = [
    {"pass": "glow"}, {"radius": 1.0}, {"pass": "soft", "radius": -1.0}, {"pass": "soft", "radius": 1e400},
    {"pass": "soft", "strength": 0.0}, {"pass": "soft", "way": "up"}, {"pass": "soft", "over": 1},
    {"pass": "tint", "colour": "brown"}, {"pass": "off-register", "by": [1.0]}, {"pass": "second-pass", "seed": 1.5},
    {"pass": "soft", "parts": "Curve"}, {"pass": "soft", "blur": 3}, [], "soft", None,
]  # fmt: skip


@pytest.mark.parametrize("row", BAD)
def test_what_is_no_finish_is_refused(row):
    with pytest.raises(PassError):
        pass_from_row(row)


def test_what_is_there_no_more_is_refused_and_the_job_stays(inked):
    before = dict(inked.job.rows.finishes)
    for rows in (
        [{"pass": "soft", "parts": ["Nobody"]}],
        [{"pass": "soft", "lines": ["l999"]}],
        [{"pass": "soft"}] * 41,
    ):
        with pytest.raises(JobError):
            lay(inked, *rows)
    assert inked.job.rows.finishes == before


def test_each_kind_goes_to_json_and_back(inked):
    lay(inked, *({"pass": kind, "parts": ["Curve"]} for kind in PASSES))
    told = json.loads(json.dumps(told_finishes(inked.job, passes_of(inked.job))))
    assert told["finishes"][0] == {"pass": "soft", "parts": ["Curve"]}
    assert [one.kind for one in passes_from_json(told)] == list(PASSES)
    assert all(one.says and one.title for one in passes_from_json(told))


def test_the_command_lays_a_stack_and_takes_it_off(inked, tmp_path, capsys):
    inked.store.close()
    path = tmp_path / "f.json"
    path.write_text(json.dumps({"units": "mm", "finishes": [{"pass": "soft", "radius": 0.4}]}))
    assert main(["finish", str(inked.path), str(path)]) == 0
    assert json.loads(capsys.readouterr().out)["finishes"] == [{"pass": "soft", "radius": 0.4}]
    assert main(["export", str(inked.path), str(tmp_path / "a.svg")]) == 0
    assert "soft: is a picture" in capsys.readouterr().err
    path.write_text("[]")
    assert main(["finish", str(inked.path), str(path)]) == 0
    assert json.loads(capsys.readouterr().out)["finishes"] == []
    for wrong in ('{"finishes": [{"pass": "soft", "radius": 99}]}', "{}", "7", '{"units": "in", "finishes": []}'):
        path.write_text(wrong)
        assert main(["finish", str(inked.path), str(path)]) == 1
        assert "finish" in capsys.readouterr().err


def test_softness_needs_no_ink(open_job):
    lay(open_job, {"pass": "soft"}, {"pass": "second-pass"})
    assert ours(finished_art(open_job.job, open_job.shapes)).min() == 255.0
    assert Soft().says.startswith("a copy blurred by 0.3 mm")


def test_the_docs_name_every_pass_and_what_it_takes():
    text = (Path(__file__).parents[2] / "docs" / "handing-over.md").read_text()
    rows = dict(re.findall(r"^\| `([a-z-]+)` \| (.*?) \|", text, re.MULTILINE))
    assert list(rows) == list(PASSES)
    for kind, one in PASSES.items():
        own = {field.name for field in fields(one)} - {"name", "on", "parts", "lines"}
        assert own == set(re.findall(r"`(\w+)`", rows[kind]))
