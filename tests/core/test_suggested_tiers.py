"""Depths that a drawing suggests, on drawings whose depths are plain (common practice: what covers is nearer, what ends
on another lies behind it, what stands lower and larger is nearer)."""

from plain_stride.weight.suggested_tiers import suggested_tiers
from tests.drawings import disc, scene_of, stroke


def told(lines, **more):
    scene = scene_of(lines, **more)
    return {one.part: one for one in suggested_tiers(scene.drawing, scene.known)}


def test_hills_behind_a_tree_behind_a_stone():
    lines = {"stone": disc(60, 90, 22, role="outer", part="Stone"), "tree": disc(60, 55, 12, role="outer", part="Tree"),
             "trunk": stroke((60, 67), (60, 68.1), role="outer", part="Tree"),
             "hill": stroke((5, 40), (48.2, 52), role="outer", part="Hills"),
             "hill 2": stroke((71.8, 52), (115, 40), role="outer", part="Hills")}  # fmt: skip
    found = told(lines, parts=(("Hills", "middle"), ("Tree", "middle"), ("Stone", "middle")))
    assert found["Stone"].tier == "near" and found["Hills"].tier == "far"
    assert "low on the sheet" in found["Stone"].reasons
    assert any("end on others" in reason for reason in found["Hills"].reasons)
    assert all(one.now == "middle" for one in found.values())


def test_one_part_suggests_nothing():
    assert told({"a": disc(50, 50, 10)}) == {}
