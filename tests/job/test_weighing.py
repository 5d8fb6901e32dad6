"""The plan laid on a job: as whole, as it changes, by its changes and from the command line."""

import gzip
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from plain_stride.cli import main
from plain_stride.errors import StrideError
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import opened
from plain_stride.job.reports import inked_of, weigh
from plain_stride.job.shapes import Shapes
from plain_stride.job.weighing import told_by
from plain_stride.lines.given import form_from_points
from plain_stride.weight.hierarchy import by_role, extremes, histogram
from plain_stride.weight.scene import Scene
from plain_stride.weight.weighing import weighed
from tests.conftest import plain_rows

OLD = Path(__file__).parent / "old"


def full_at(open_job, key, s):
    return float(np.sum(open_job.shapes[key].body.at(np.array([s]))))


def lowest_and_highest(open_job, key):
    points, s = open_job.shapes[key].flat
    return full_at(open_job, key, float(s[points[:, 1].argmax()])), full_at(
        open_job, key, float(s[points[:, 1].argmin()])
    )


@pytest.fixture
def disc(open_job):
    return open_job.do("draw", shape="ellipse", points=[[60, 45], [85, 70]], nib="7", role="outer")


def crowd(open_job, n=24, seed=3):
    """Discs, strokes and stems over three parts."""
    rng = np.random.default_rng(seed)
    for name, tier in (("N", "near"), ("M", "middle"), ("F", "far")):
        open_job.do("part", name=name, tier=tier)
    keys = []
    for k in range(n):
        part, role = "NMF"[k % 3], ("outer", "inner", "detail")[k % 3 if k % 2 else 0]
        x, y = rng.uniform(15, 105), rng.uniform(15, 75)
        if k % 2:
            far = (x + rng.uniform(-30, 30), y + rng.uniform(-20, 20))
            keys.append(open_job.pull((x, y), ((x + far[0]) / 2, y + 3), far, part=part, role=role))
        else:
            keys.append(open_job.do("draw", shape="ellipse", points=[[x, y], [x + rng.uniform(3, 14), y + 8]], nib="6",
                                    role=role, part=part))  # fmt: skip
    return keys


def test_the_underside_is_heavier_and_the_hand_comes_back(open_job, disc):
    before = plain_rows(open_job.job)
    hand, middle = lowest_and_highest(open_job, disc), open_job.shapes[disc].flat[0]
    open_job.do("plan", share=100)
    low, high = lowest_and_highest(open_job, disc)
    assert low > 1.5 * high
    # A line's middle never moves when its weight changes.
    assert np.array_equal(open_job.shapes[disc].flat[0], middle)
    open_job.do("plan", light="none")
    assert lowest_and_highest(open_job, disc)[0] == pytest.approx(lowest_and_highest(open_job, disc)[1], rel=0.01)
    open_job.do("plan", share=0)
    assert lowest_and_highest(open_job, disc) == pytest.approx(hand, abs=1e-9)
    for _ in range(3):
        open_job.undo()
    assert plain_rows(open_job.job) == before


def test_every_part_of_the_plan_can_be_changed(open_job, disc):
    open_job.do("plan", share=100, light=90)
    points, s = open_job.shapes[disc].flat
    assert full_at(open_job, disc, float(s[points[:, 0].argmin()])) > 1.5 * full_at(
        open_job, disc, float(s[points[:, 0].argmax()])
    )
    open_job.do("plan", light=[{"from": 315}, {"at": [60, 10]}], lean=0.8, floor=True)
    assert [lamp.at for lamp in open_job.job.plan.lamps] == [None, (60.0, 10.0)]
    open_job.do("plan", light=[60, 10])
    assert open_job.job.plan.lamps[0].at == (60.0, 10.0)
    open_job.do(
        "plan", rules=[{"rule": "light", "on": False}, {"rule": "bends", "bend": 1.0}], order=["meetings", "depth"]
    )
    plan = open_job.job.plan
    assert not plan.is_on("light") and plan.rule("bends")["bend"] == 1.0
    assert [rule.name for rule in plan.rules[:3]] == ["meetings", "depth", "outline"]
    open_job.do("plan", plan="Light first")
    assert open_job.job.plan.name == "Light first" and open_job.job.plan.share == 1.0
    assert open_job.again().job.plan == open_job.job.plan


@pytest.mark.parametrize("wrong", [
    {"light": "bright"}, {"light": [{"from": 0}, {"from": 180}]}, {"light": 900}, {"plan": "nonsense"}, {"plan": {}},
    {"rules": [{"rule": "none"}]}, {"rules": {}}, {"rules": [{"rule": "light", "away": 99}]}, {"order": ["light", "light"]},
    {"order": ["none"]}, {"lean": 2}, {"floor": 1}, {"share": 101}, {"base": 0},
])  # fmt: skip
def test_nonsense_is_refused_and_nothing_changed(open_job, disc, wrong):
    before = plain_rows(open_job.job)
    with pytest.raises(StrideError):
        open_job.do("plan", **wrong)
    assert plain_rows(open_job.job) == before


def test_each_line_and_part_has_its_own_share(open_job, disc):
    other = open_job.do("draw", shape="ellipse", points=[[25, 45], [38, 58]], nib="7", role="outer", part="B")
    hand = lowest_and_highest(open_job, other)
    open_job.do("plan", share=100)
    assert lowest_and_highest(open_job, other) != pytest.approx(hand, rel=0.05)
    open_job.do("part", name="B", share=0)
    assert lowest_and_highest(open_job, other) == pytest.approx(hand, abs=1e-9)
    open_job.do("weight", lines=[other], share=100)
    assert lowest_and_highest(open_job, other)[0] > 1.5 * lowest_and_highest(open_job, other)[1]
    open_job.do("weight", lines=[other], share="part")
    assert lowest_and_highest(open_job, other) == pytest.approx(hand, abs=1e-9)
    open_job.do("plan", share=0)
    open_job.do("weight", lines=[disc], share=100)
    assert lowest_and_highest(open_job, disc)[0] > 1.5 * lowest_and_highest(open_job, disc)[1]
    for wrong in ({"share": 120}, {"form": "up"}, {"form": ""}, {"throws": 1}, {"pinned": "yes"}):
        with pytest.raises(JobError):
            open_job.do("weight", lines=[disc], **wrong)


def test_a_pinned_line_stays_whatever_the_plan_wants(open_job, disc):
    open_job.do("plan", share=100)
    kept = lowest_and_highest(open_job, disc)
    open_job.do("weight", lines=[disc], pinned=True)
    open_job.do("plan", light=180, base=1.0)
    assert lowest_and_highest(open_job, disc) == pytest.approx(kept, abs=1e-6)
    assert lowest_and_highest(open_job.again(), disc) == pytest.approx(kept, abs=1e-6)
    # Neither does it go with the plan when that is lifted off.
    open_job.do("plan", share=0)
    assert lowest_and_highest(open_job, disc) == pytest.approx(kept, abs=1e-6)
    open_job.do("plan", share=100)
    open_job.do("weight", lines=[disc], pinned=False)
    low, high = lowest_and_highest(open_job, disc)
    assert high > 1.5 * low


def test_the_form_is_on_the_other_side(open_job, disc):
    open_job.do("plan", share=100)
    open_job.do("weight", lines=[disc], form="other")
    low, high = lowest_and_highest(open_job, disc)
    assert high > 1.5 * low
    open_job.do("weight", lines=[disc], form="other")
    assert lowest_and_highest(open_job, disc)[0] > 1.5 * lowest_and_highest(open_job, disc)[1]
    open_job.do("weight", lines=[disc], form="found", throws=True)
    assert open_job.job.rows.lines[disc].weight.form == ""


def test_swells_stay_on_top_and_as_planned_takes_them_off(open_job, disc):
    open_job.do("plan", share=100)
    plain = lowest_and_highest(open_job, disc)
    open_job.do("swell", line=disc, factor=1.5)
    assert lowest_and_highest(open_job, disc) == pytest.approx([1.5 * v for v in plain], rel=0.02)
    open_job.do("plan", light=180)
    turned = lowest_and_highest(open_job, disc)
    assert turned == pytest.approx([1.5 * v for v in plain[::-1]], rel=0.1)
    open_job.do("weight", lines=[disc], share=50)
    open_job.do("as-planned", lines=[disc])
    assert lowest_and_highest(open_job, disc) == pytest.approx([v / 1.5 for v in turned], rel=0.02)


def test_a_locked_part_is_left_alone(open_job, disc):
    open_job.do("part", name="Lines", locked=True)
    for name, arguments in (("weight", {"throws": True}), ("as-planned", {})):
        with pytest.raises(JobError, match="locked"):
            open_job.do(name, lines=[disc], **arguments)


def test_what_is_worked_out_bit_by_bit_equals_the_whole(open_job):
    keys = crowd(open_job)
    open_job.do("plan", share=100)
    rng = np.random.default_rng(1)
    for _ in range(12):
        key = keys[int(rng.integers(len(keys)))]
        if key not in open_job.job.rows.lines:
            continue
        what = int(rng.integers(5))
        if what == 0:
            open_job.do("affine", lines=[key], matrix=[1, 0, 0, 1, *rng.uniform(-8, 8, 2).tolist()])
        elif what == 1:
            open_job.do("delete", lines=[key])
        elif what == 2:
            open_job.do("set", lines=[key], role=("outer", "inner")[int(rng.integers(2))])
        elif what == 3:
            open_job.do("part", name="NMF"[int(rng.integers(3))], hidden=bool(rng.integers(2)))
        else:
            open_job.undo()
        fresh = Shapes(open_job.job, open_job.store)
        own, whole = open_job.shapes.weighing.now(), fresh.weighing.now()
        assert own.scene.known.places.lines == whole.scene.known.places.lines
        assert np.array_equal(own.scene.role, whole.scene.role)
        assert own.wide == pytest.approx(whole.wide, abs=1e-4)
        assert len(own.gave_way) == len(whole.gave_way)


def test_while_a_worker_weighs_lines_keep_what_they_had(open_job, disc):
    open_job.do("plan", share=100)
    low = lowest_and_highest(open_job, disc)
    open_job.shapes.weighing.beside = True
    open_job.do("plan", light=180)
    assert lowest_and_highest(open_job, disc) == pytest.approx(low)
    fresh = Shapes(open_job.job, open_job.store)
    answer = fresh.weighing.changes_since((0, 0)).profiles
    assert open_job.shapes.weighing.take(answer, fresh.weighing.sides) == [disc]
    assert lowest_and_highest(open_job, disc)[1] > 1.5 * lowest_and_highest(open_job, disc)[0]
    assert open_job.shapes.weighing.take(answer, {}) == []


def test_with_roles_unset_hardly_anything_changes(drawn_demo):
    """The demo's own roles, true by construction, against those that the drawing tells; depths kept. Details and texture
    are the inker's word: they are kept as well."""
    with opened(drawn_demo) as (job, store):
        scene = Shapes(job, store).weighing.now().scene
        told = weighed(scene, job.plan)
        from dataclasses import replace

        from plain_stride.form.roles import whole_role

        lines = {key: replace(line, roles=whole_role(line.role, "found")) if line.role in ("outer", "inner") else line
                 for key, line in scene.drawing.lines.items()}  # fmt: skip
        unset = Scene(replace(scene.drawing, lines=lines), scene.known, scene.says)
        found = weighed(unset, job.plan)
    places = scene.known.places
    other = np.abs(np.log2(found.wide / told.wide)) > 0.25
    share = float(places.weight[other & ~scene.known.hidden].sum() / places.weight[~scene.known.hidden].sum())
    assert share <= 0.25, f"{share:.1%} of the demo's length"


def test_report_figures_against_the_widths_as_json_tells_them(open_job):
    crowd(open_job)
    open_job.do("plan", share=100)
    inked = inked_of(open_job.job, open_job.shapes)
    told = weigh(open_job.job, open_job.shapes)
    total = {role: [0.0, 0.0] for role in by_role(inked)}
    for key, row in open_job.job.rows.lines.items():
        shape = open_job.shapes[key]
        s = np.linspace(0, shape.length, 400)
        w = np.sum(shape.body.at(s), axis=0)
        total[row.role][0] += shape.length * w.mean()
        total[row.role][1] += shape.length
    for role, (area, length) in total.items():
        assert told["roles"][role] == pytest.approx(area / length, rel=0.02)
        assert told["shares"][role] == pytest.approx(length / sum(one[1] for one in total.values()), abs=0.01)
    edges = np.array([0.0, 0.3, 0.6, 5.0])
    assert histogram(inked, edges).sum() == pytest.approx(sum(one[1] for one in total.values()), rel=0.01)
    for part, ends in extremes(inked).items():
        keys = [key for key, row in open_job.job.rows.lines.items() if row.part == part]
        assert ends.heaviest == pytest.approx(
            max(float(open_job.shapes[key].body.full.max()) for key in keys), rel=0.03
        )


def test_the_command_line_lays_plans_and_lamps(open_job, disc, capsys, tmp_path):
    open_job.store.close()
    job, out = str(open_job.path), tmp_path / "mine.json"

    def run(*words):
        code = main(["weigh", job, "--json", *map(str, words)])
        return code or 0, json.loads(capsys.readouterr().out or "null")

    code, told = run("--plan", "light first", "--plan-out", out)
    assert code == 0 and told["plan"] == "Light first" and told["share"] == 100
    assert told["clashes"] == [] and set(told["parts"][0]) >= {"lightest", "heaviest"}
    code, told = run("--light", 315, "--light-at", "40,20", "--share", 60)
    assert code == 0 and told["share"] == 60
    with opened(open_job.path) as (again, _):
        assert [lamp.at for lamp in again.plan.lamps] == [None, (40.0, 20.0)]
    assert run("--plan", out)[1]["plan"] == "Light first"
    out.write_text('{"kind": "plain stride plan"}')
    for wrong in (
        ("--plan", out),
        ("--plan", "nonsense"),
        ("--plan", tmp_path / "none.json"),
        ("--light", 0, "--light", 180),
    ):
        assert run(*wrong)[0] == 1
    with pytest.raises(SystemExit):
        run("--light-at", "40")


def test_a_file_of_the_ninth_schema_keeps_its_light(tmp_path):
    path = tmp_path / "schema-9.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-9.stride.gz").read_bytes()))
    with opened(path, write=True) as (job, store):
        plan = job.plan
        # 135 degrees, counted from the right, are 45 to the left of straight from above.
        assert [lamp.degrees for lamp in plan.lamps] == [315.0] and plan.share == 1.0
        assert {rule.name for rule in plan.rules if rule.on} == {"outline", "depth", "light", "bends"}
        shapes = Shapes(job, store)
        round_one = next(key for key in job.rows.lines if shapes[key].closed)
        points, s = shapes[round_one].flat
        full = [float(np.sum(shapes[round_one].body.at(np.array([at])))) for at in s]
        heaviest, middle = points[int(np.argmax(full))], points.mean(axis=0)
        assert (heaviest - middle > 0).all()


def test_an_import_with_one_width_and_no_roles_is_not_flat(open_job):
    form = form_from_points(np.array([(60 + 30 * np.cos(a), 45 + 30 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 60)[:-1]]),
                            np.full(59, 0.4), np.full(59, 0.4), True)  # fmt: skip
    line = open_job.do("line", form=form, nib=open_job.job.nibs()["6"], found=True)
    open_job.do("plan", share=100)
    low, high = lowest_and_highest(open_job, line)
    assert low > 1.5 * high


def test_a_plan_is_learned_on_the_command_line_and_nothing_changed(open_job, capsys, tmp_path):
    crowd(open_job)
    before = plain_rows(open_job.job)
    open_job.store.close()
    assert main(["weigh", str(open_job.path), "--learn", "--plan-out", str(tmp_path / "mine.json")]) in (0, None)
    told = json.loads(capsys.readouterr().out)
    assert told["lines"] >= 20 and 0.0 <= told["explained"] <= 1.0
    assert {one["figure"] for one in told["figures"]} >= {"base", "outer", "bend"}
    assert all(("value" in one) == one["enough"] for one in told["figures"])
    assert json.loads((tmp_path / "mine.json").read_text())["name"] == "Learned"
    with opened(open_job.path) as (job, _):
        assert plain_rows(job) == before


def test_too_little_to_learn_from_is_said(open_job, disc, capsys):
    open_job.store.close()
    assert main(["weigh", str(open_job.path), "--learn"]) == 1
    assert "too little" in capsys.readouterr().err


def test_two_jobs_of_a_series_are_compared(open_job, disc, capsys, tmp_path):
    import shutil

    open_job.do("plan", share=100)
    open_job.store.close()
    shutil.copy(open_job.path, tmp_path / "other.stride")
    assert main(["edit", str(tmp_path / "other.stride"), str(edits(tmp_path, base=0.7))]) in (0, None)
    capsys.readouterr()
    assert main(["weigh", str(open_job.path), "--like", str(tmp_path / "other.stride")]) in (0, None)
    told = {one["of"]: one for one in json.loads(capsys.readouterr().out)["like"]}
    assert set(told) == {"middle", "outer"} and told["outer"]["times"] == pytest.approx(0.5, rel=0.02)


def edits(folder, **plan):
    path = folder / "e.json"
    path.write_text(json.dumps({"changes": [{"change": "plan", **plan}]}))
    return path


def test_a_step_that_fails_in_its_middle_leaves_every_width(open_job, disc):
    from plain_stride.job.changes import make_all

    open_job.do("plan", share=100)
    before = lowest_and_highest(open_job, disc)
    with pytest.raises(JobError):
        make_all(open_job.job, open_job.shapes, [("plan", {"light": 180}), ("weight", {"lines": [disc], "pinned": True}),
                                                 ("delete", {"lines": ["nobody"]})])  # fmt: skip
    assert lowest_and_highest(open_job, disc) == pytest.approx(before, abs=1e-12)
    assert lowest_and_highest(open_job.again(), disc) == pytest.approx(before, abs=1e-6)


@pytest.mark.parametrize("share", [0, 60, 100])
def test_nothing_is_thinner_than_the_floor_where_that_is_asked_for(open_job, share):
    """Whatever makes it thin: the hand, the plan, a shave. Ends and halos apart."""
    from plain_stride.job.board_facts import floor_of_job

    thin = open_job.pull((10, 20), (60, 24), (110, 20), role="texture", pressure=0.01)
    halo = open_job.pull((10, 60), (110, 60), role="halo")
    open_job.do("swell", line=thin, factor=0.2)
    open_job.do("plan", base=0.05, share=share)
    floor = floor_of_job(open_job.job).mm
    before = open_job.shapes[halo].body.full.copy()
    assert open_job.shapes[thin].body.full.min() < floor
    open_job.do("plan", floor=True)
    assert open_job.shapes[thin].body.full.min() == pytest.approx(floor)
    assert np.array_equal(open_job.shapes[halo].body.full, before)
    # Another print target has another floor.
    open_job.do("target", name=open_job.job.board.target, line_mm=floor * 3)
    assert open_job.shapes[thin].body.full.min() == pytest.approx(floor * 3)
    open_job.do("plan", floor=False)
    assert open_job.shapes[thin].body.full.min() < floor


def test_a_halo_keeps_its_ends_under_a_plan(open_job):
    halo = open_job.pull((10, 60), (110, 60), role="halo")
    tip = float(open_job.shapes[halo].widths.full[0])
    open_job.do("plan", share=100)
    assert open_job.shapes[halo].ends[0] == "pointed"
    assert float(open_job.shapes[halo].widths.full[0]) == pytest.approx(tip)


def test_the_form_of_a_line_that_nobody_has_weighed_is_on_its_convex_side(open_job, disc):
    open_job.shapes.weighing.leave_to_worker()
    told = open_job.shapes.weighing.form_side(disc)
    fresh = Shapes(open_job.job, open_job.store)
    assert told == fresh.weighing.form_side(disc)


def test_bands_come_up_to_the_width_on_the_demo(drawn_demo):
    """The strip stacks what each rule adds; what slope and smoothing make of it is small for most of the length."""
    with opened(drawn_demo) as (job, store):
        whole = Shapes(job, store).weighing.now()
    places, seen = whole.scene.known.places, ~whole.scene.known.hidden
    total = sum(whole.bands.values()) + whole.guarantees
    off = np.abs(total - 2.0 * np.log2(whole.wide / whole.plan.base))
    assert np.average(off[seen] <= 0.25, weights=places.weight[seen]) >= 0.93


def test_the_first_line_on_an_empty_board_is_weighed(open_job):
    open_job.do("plan", share=100)
    assert not len(open_job.shapes.weighing.now().wide)
    key = open_job.pull((20, 20), (80, 40))
    assert open_job.shapes.weighing.now().scene.known.places.lines == (key,)


def test_what_nobody_could_see_is_not_told_again(open_job):
    crowd(open_job)
    whole = open_job.shapes.weighing.now()
    told, lines = told_by(whole)
    assert len(lines) == len(whole.scene.known.places.lines)
    for by, some in ((0.0004, 0), (0.0006, 1)):
        wide = whole.wide.copy()
        wide[0] += by
        assert len(told_by(replace(whole, wide=wide), told)[1]) == some
