"""The plan, the report, scans. Outside: Pillow reads what the simulated scanner writes; DESIGN's steps of sqrt 2."""

import io

import numpy as np
import pytest
from PIL import Image

from plain_stride.errors import StrideError
from plain_stride.form.roles import check_role
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.lines.curve import straight
from plain_stride.lines.edits import End
from plain_stride.lines.given import form_of_width
from plain_stride.lines.recipe import Recipe, given_centreline, shape_of
from plain_stride.lines.shape import Shape
from plain_stride.pencils.picture import PictureError, darkness, picture_facts
from plain_stride.pencils.scanner import scan
from plain_stride.weight.plan import Plan, PlanError, check_tier
from plain_stride.weight.report import ceiling, spread_of


def line(width: float, length: float) -> Shape:
    form = form_of_width(straight(np.array([[0.0, 0.0], [length, 0.0]])), False, width)
    return shape_of(
        Recipe(given_centreline(form.curve), DEFAULT_NIB, (End("flat", 0), End("flat", 0)), given=form.widths)
    )


@pytest.mark.parametrize(
    ("role", "tier", "mm"),
    [("inner", "middle", 0.35), ("outer", "near", 0.7), ("inner", "far", 0.35 / 2**0.5), ("texture", "middle", 0.175),
     ("ruled", "middle", 0.35), ("halo", "far", 0.35)],
)  # fmt: skip
def test_widths_of_the_plan(role, tier, mm):
    assert Plan().width(role, tier) == pytest.approx(mm)


@pytest.mark.parametrize("wrong", [{"share": 1.5}, {"share": float("nan")}, {"base": 0.0}])
def test_impossible_plans_are_refused(wrong):
    with pytest.raises(PlanError):
        Plan(**wrong)


def test_unknown_roles_and_tiers_are_refused():
    for check in (check_role, check_tier):
        with pytest.raises(StrideError, match="not known"):
            check("sideways")


def test_means_are_by_length():
    s = spread_of(np.array([0.2, 0.8]), np.array([30.0, 10.0]))
    assert s is not None
    assert s.mean == pytest.approx((0.2 * 30 + 0.8 * 10) / 40)
    assert (s.low, s.high) == pytest.approx((0.2, 0.8), abs=0.01)
    assert spread_of(np.zeros(0), np.zeros(0)) is None


def test_the_ceiling_is_a_geometric_mean_by_length():
    assert ceiling([line(0.2, 10.0), line(0.8, 10.0)]) == pytest.approx(0.4)
    assert ceiling([]) is None


def png(mode="L", size=(40, 30), value=200, **save) -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, value).save(out, save.pop("format", "PNG"), **save)
    return out.getvalue()


def test_facts_of_a_scan():
    facts = picture_facts(png(dpi=(300, 300)))
    assert facts.pixels == (40, 30)
    assert facts.dpi == pytest.approx((300, 300), abs=0.01)
    assert picture_facts(png()).dpi is None


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF", "WEBP"])
def test_kinds_of_files(kind):
    assert picture_facts(png(format=kind)).kind == kind
    assert darkness(png(format=kind)).mean() == pytest.approx(55, abs=2)


@pytest.mark.parametrize(
    ("mode", "value"), [("RGB", (200, 200, 200)), ("RGBA", (200, 200, 200, 255)), ("P", 0), ("1", 1), ("I;16", 40000)]
)
def test_kinds_of_pixels(mode, value):
    dark = darkness(png(mode, value=value))
    assert dark.shape == (30, 40)
    assert dark.dtype == np.uint8


def test_transparency_counts_as_paper():
    assert darkness(png("RGBA", value=(0, 0, 0, 0))).max() == 0


def test_sixteen_bits_keep_their_range():
    assert darkness(png("I;16", value=65535)).max() == 0
    assert darkness(png("I;16", value=32768)).mean() == pytest.approx(127, abs=1)


@pytest.mark.parametrize("data", [b"", b"no picture", b"\x89PNG\r\n\x1a\n half", png()[:60], b"GIF89a" + b"\0" * 40])
def test_bad_pictures_get_one_clear_sentence(data):
    with pytest.raises(PictureError) as fault:
        picture_facts(data)
    assert "\n" not in str(fault.value)


def test_a_bomb_is_refused_before_it_opens():
    out = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(out, "PNG")
    with pytest.raises(PictureError, match="too many"):
        picture_facts(out.getvalue())


def test_the_simulated_scan_is_dark_where_the_lines_are():
    target = np.array([[10.0, 20.0], [70.0, 20.0]])
    data = scan([target], (80.0, 40.0), 200.0, 1)
    facts = picture_facts(data)
    assert facts.pixels == (630, 315)
    assert facts.dpi == pytest.approx((200, 200), abs=0.1)
    dark = darkness(data).astype(float)
    rows = dark[:, 200:400].mean(axis=1)
    assert abs(rows.argmax() / 315 * 40.0 - 20.0) < 1.0
    assert rows.max() > 3 * np.median(rows)
    assert scan([target], (80.0, 40.0), 200.0, 1) == data
