"""The command line in one process: statuses, one clear line on errors, nothing half done. The contract's own check
runs in CI besides."""

import itertools
import json
import subprocess
import sys

import numpy as np
import pytest

from plain_stride.cli import main
from plain_stride.demo.scene import crosses, scene, seen
from plain_stride.job import reports
from plain_stride.job.job_files import opened
from plain_stride.job.shapes import Shapes
from tests.conftest import samples_along


@pytest.fixture
def job(run, tmp_path):
    path = tmp_path / "a.stride"
    run("new", path, "--size", "120x90mm", "--dpi", 300)
    return path


def put(path, data):
    path.write_text(data if isinstance(data, str) else json.dumps(data))
    return path


def pulls(*lines, **more):
    return {"units": "mm", "pulls": [{"samples": samples_along(p)[:, :4].tolist(), **more} for p in lines]}


def lines_of(run, job):
    return json.loads(run("lines", job, "--json"))["lines"]


def test_new_and_info(run, job):
    info = json.loads(run("info", job, "--json"))
    assert (info["size_mm"], info["pixels"], info["dpi"]) == ([120, 90], [1417, 1063], 300)
    assert (info["lines"], info["undo"], info["redo"], info["parts"]) == (0, 0, 0, [])


@pytest.mark.parametrize(
    "arguments",
    [("--size", "0x9mm", "--dpi", 300), ("--size", "120x90mm", "--dpi", 0), ("--size", "120", "--dpi", 300),
     ("--size", "120x90mm", "--dpi", "nan"), ("--size", "4000x4000mm", "--dpi", 2400),
     ("--size", "120x90mm", "--dpi", 300, "--enlarge", 99), ("--size", "9x9mm", "--dpi", 300, "--pencils", "none.png")],
)  # fmt: skip
def test_a_new_job_that_cannot_be_made_leaves_nothing(run, tmp_path, arguments):
    run("new", tmp_path / "b.stride", *arguments, want=1)
    assert list(tmp_path.iterdir()) == []


def test_import_keeps_order_ids_and_says_what_a_pull_was(run, job, tmp_path):
    run(
        "import",
        job,
        put(tmp_path / "p.json", pulls([(10, 20), (100, 20)], [(60, 10), (60, 80)], part="frame", role="outer")),
    )
    lines = lines_of(run, job)
    assert [line["role"] for line in lines] == ["outer", "outer"]
    report = lines[0]["report"]
    assert report["length"] == pytest.approx(90, abs=0.2)
    assert report["duration"] == pytest.approx(1.0, abs=0.01)
    assert report["speed"] == pytest.approx(90, abs=1)
    assert report["direction"] == pytest.approx(90.0, abs=0.5)  # clockwise from straight up
    assert lines[1]["report"]["direction"] == pytest.approx(180.0, abs=0.5)
    assert json.loads(run("info", job, "--json"))["undo"] == 1


def test_a_role_that_nobody_gave_is_found_and_comes_back_as_found(run, job, tmp_path):
    square = [(10, 10), (90, 10), (90, 70), (10, 70), (10, 10)]
    lines = [{"points": [list(a), list(b)], "widths": [0.4, 0.4]} for a, b in itertools.pairwise(square)]
    lines += [{"points": [[20, 30], [60, 40]], "widths": [0.4, 0.4]},
              {"points": [[20, 50], [60, 60]], "widths": [0.4, 0.4], "role": "texture"}]  # fmt: skip
    run("import", job, put(tmp_path / "l.json", {"lines": lines}))
    told = lines_of(run, job)
    assert [(line["role"], line["role_by"]) for line in told] == [("inner", "found")] * 5 + [("texture", "hand")]
    run("edit", job, put(tmp_path / "e.json", {"changes": [{"change": "find-roles"}]}))
    told = lines_of(run, job)
    roles = [(line["role"], line["role_by"]) for line in told]
    assert roles == [("outer", "found")] * 4 + [("inner", "found"), ("texture", "hand")]
    again = tmp_path / "again.stride"
    run("new", again, "--size", "120x90mm", "--dpi", "300")
    run("import", again, put(tmp_path / "back.json", {"lines": told}))
    back = lines_of(run, again)
    assert [(line["role"], line["role_by"]) for line in back] == roles


def test_steadying_nib_and_leeway_act_on_pulls(run, job, tmp_path):
    source = put(tmp_path / "p.json", pulls([(10, 20), (100, 20)]))
    run("import", job, source, "--steady", "off", "--nib", 7)
    run("import", job, source, "--leeway", "0.05")
    run("import", job, source, "--leeway", "auto", "--steady", "live")
    with opened(job) as (loaded, _):
        rows = [loaded.rows.lines[k] for k in loaded.line_ids()]
    assert [(r.school, r.leeway, r.nib.heaviest) for r in rows] == [
        ("off", None, 0.5), ("after", 0.05, 1.0), ("live", None, 1.0)
    ]  # fmt: skip


def test_an_import_that_disagrees_on_a_tier_is_an_error(run, job, tmp_path):
    line = {"points": [[0, 0], [9, 9]], "widths": [1, 1], "part": "sky", "tier": "far"}
    run("import", job, put(tmp_path / "l.json", {"lines": [line]}))
    assert "far, not near" in run(
        "import", job, put(tmp_path / "m.json", {"lines": [{**line, "tier": "near"}]}), want=1
    )


def test_lines_come_back_as_they_were_given(run, job, tmp_path):
    a = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    ring = np.column_stack([50 + 20 * np.cos(a), 45 + 20 * np.sin(a)]).tolist()
    given = [
        {"id": "ring", "closed": True, "points": ring, "widths": [0.5] * 90},
        {"id": "swelling", "points": [[5, 5], [25, 5], [45, 5]], "left": [0, 0.4, 0], "right": [0, 0.2, 0]},
        {"points": [[70, 70]], "widths": [2.0]},
        {"id": "ring", "points": [[0, 80], [9, 80]]},
    ]
    run("import", job, put(tmp_path / "l.json", {"units": "mm", "lines": given, "unknown": 7}))
    out = lines_of(run, job)
    assert out[0]["id"] == "ring"
    assert out[0]["closed"]
    assert out[3]["id"] != "ring"
    assert np.median(out[3]["widths"]) == pytest.approx(0.35)
    swelling = out[1]
    middle = np.abs(np.array(swelling["points"])[:, 0] - 25).argmin()
    assert swelling["left"][middle] == pytest.approx(0.4, abs=0.01)
    assert swelling["right"][middle] == pytest.approx(0.2, abs=0.01)
    assert out[2]["widths"][0] == pytest.approx(2.0)
    again = tmp_path / "again.stride"
    run("new", again, "--size", "120x90mm", "--dpi", 300)
    run("import", again, put(tmp_path / "o.json", {"lines": out}))
    for x, y in zip(out, lines_of(run, again), strict=True):
        assert x["id"] == y["id"]
        assert np.median(x["widths"]) == pytest.approx(np.median(y["widths"]), abs=0.005)


BAD = [
    "", "{", "[]", "7", '"x"', "{}", '{"units":"in","pulls":[]}', '{"pulls":[]}', '{"pulls":{}}', '{"pulls":[7]}',
    '{"pulls":[{"samples":[]}]}', '{"pulls":[{"samples":[[1,2,0.5,"x"]]}]}', '{"pulls":[{"samples":[[1,2,NaN,0]]}]}',
    '{"pulls":[{"samples":[[1,2,0.5,0]],"role":"sideways"}]}', '{"pulls":[{"samples":[[1,2,0.5,0]],"part":7}]}',
    '{"lines":[{"points":[[0,0],[NaN,1]]}]}', '{"lines":[{"points":[[0,0],[1,1]],"widths":[1]}]}',
    '{"lines":[{"points":[[0,0],[1,1]],"widths":[1,-1]}]}', '{"lines":[{"points":[[0,0],[1,1]],"closed":"yes"}]}',
    '{"lines":[{"points":[[0,0],[1,1]],"ends":["frayed","round"]}]}', '{"lines":[{"points":[]}]}', '{"lines":[{}]}',
    '{"lines":[{"points":[[0,0],[1,1]],"tier":"up"}]}', "[" * 100_000, '{"pulls":[{"samples":[[1e400,2,0.5,0]]}]}',
]  # fmt: skip


@pytest.mark.parametrize("text", BAD, ids=lambda t: t[:40])
def test_nonsense_is_refused_and_nothing_changes(run, job, tmp_path, text):
    before = job.read_bytes()
    run("import", job, put(tmp_path / "bad.json", text), want=1)
    assert job.read_bytes() == before


@pytest.mark.parametrize("data", [b"\xff\xfe\x00", b"\x00" * 50])
def test_bytes_that_are_no_text(run, job, tmp_path, data):
    (tmp_path / "x.json").write_bytes(data)
    run("import", job, tmp_path / "x.json", want=1)
    run("import", job, tmp_path / "none.json", want=1)
    run("import", job, tmp_path, want=1)


def test_simulated_pulls_are_announced_when_they_are_saved(run, job, tmp_path):
    targets = {"targets": [{"id": f"t{k}", "points": [[10, 10 + k], [60, 14 + k], [110, 10 + k]]} for k in range(3)]}
    said = run("pull", job, put(tmp_path / "t.json", targets), "--hand", "calm", "--seed", 4)
    assert said.split() == ["saved", "t0", "saved", "t1", "saved", "t2"]
    first = lines_of(run, job)
    assert np.hypot(*(np.array(first[0]["points"][0]) - (10, 10))) < 1.0
    other = tmp_path / "o.stride"
    run("new", other, "--size", "120x90mm", "--dpi", 300)
    run("pull", other, tmp_path / "t.json", "--hand", "calm", "--seed", 4)
    assert lines_of(run, other) == first


@pytest.mark.parametrize(
    "targets",
    [{}, {"targets": []}, {"targets": [{"points": [[1, 1]]}]}, {"targets": [{"points": [[1, 1], [9, 9]], "pace": "sprint"}]},
     {"targets": [{"points": "x"}]}, {"targets": [{"points": [[1, 1], [9, 1, 2]]}]}],
)  # fmt: skip
def test_bad_targets_are_refused(run, job, tmp_path, targets):
    run("pull", job, put(tmp_path / "t.json", targets), want=1)


def test_an_unknown_hand_is_refused(run, job, tmp_path):
    run("pull", job, put(tmp_path / "t.json", {"targets": [{"points": [[1, 1], [9, 9]]}]}), "--hand", "steady", want=1)


def test_edits_undo_redo(run, job, tmp_path):
    run("import", job, put(tmp_path / "p.json", pulls([(10, 20), (100, 20)], [(60, 10), (60, 80)])))
    first = lines_of(run, job)
    key = first[0]["id"]
    changes = [{"change": "trim", "line": key, "at": [90, 20]}, {"change": "set", "lines": [key], "role": "detail"}]
    run("edit", job, put(tmp_path / "e.json", {"changes": changes}))
    edited = lines_of(run, job)
    assert edited[0]["role"] == "detail"
    run("undo", job)
    assert lines_of(run, job) == first
    run("redo", job, 1)
    assert lines_of(run, job) == edited
    assert "1 steps" not in run("undo", job, 9, want=1)
    assert lines_of(run, job) == edited
    run("undo", job, 0, want=1)


@pytest.mark.parametrize(
    "edits",
    [{}, {"changes": []}, {"changes": [{}]}, {"changes": [{"change": "pull"}]}, {"changes": [{"change": "no such change"}]},
     {"changes": [{"change": "delete", "lines": ["nobody"]}]}, {"changes": [{"change": "plan", "share": "much"}]}],
)  # fmt: skip
def test_bad_edits_are_refused(run, job, tmp_path, edits):
    run("edit", job, put(tmp_path / "e.json", edits), want=1)


def test_weigh_lays_the_plan_and_reports(run, job, tmp_path):
    run("import", job, put(tmp_path / "p.json", pulls([(10, 20), (100, 20)], part="a", role="outer")))
    report = json.loads(run("weigh", job, "--json"))
    assert report["share"] == 100
    assert report["roles"]["outer"] == pytest.approx(0.495, abs=0.01)
    assert report["tiers"]["middle"]["mean"] == pytest.approx(0.495, abs=0.01)
    assert report["clashes"] == []
    assert json.loads(run("weigh", job, "--share", 0, "--json"))["roles"]["outer"] == pytest.approx(0.6, abs=0.03)
    run("weigh", job, "--share", 120, want=1)


@pytest.mark.parametrize(
    "arguments", [(), ("no-such-command",), ("info",), ("new", "x.stride"), ("undo", "x.stride", "many")]
)
def test_wrong_use(run, arguments):
    run(*arguments, want=2)


def test_formats_and_options_that_are_not_built(run, job, tmp_path):
    run("export", job, tmp_path / "o.gif", want=2)
    run("export", job, tmp_path / "o.csv", "--dpi", "300", want=2)
    run("export", job, tmp_path / "o.pdf", "--transparent", want=2)
    run("export", job, tmp_path / "o.png", "--dpi", "300", "--width", "900", want=2)
    run("export", job, tmp_path / "o.svg", "--bw", want=2)
    run("export", job, tmp_path / "no" / "o.png", want=1)


def test_a_held_job_is_read_but_not_changed(run, job, tmp_path):
    from plain_stride.job.opening import open_store

    holder = open_store(job, write=True)
    assert "being written by" in run("weigh", job, want=1)
    run("info", job, "--json")
    holder.close()


def test_the_help_names_all_commands(run):
    text = run("--help")
    assert "weigh" in text
    assert all(word in text for word in ("forecast", "practice", "order", "log"))
    assert run("--version").startswith("plain-stride ")


def test_the_command_line_loads_no_qt_and_no_slow_parts(job):
    code = "import sys; from plain_stride.cli import main; main(['info', sys.argv[1], '--json']); print(sorted(m for m in sys.modules if m in ('PySide6', 'shapely', 'scipy.interpolate', 'scipy.optimize')))"
    done = subprocess.run([sys.executable, "-c", code, str(job)], capture_output=True, text=True, timeout=60)
    assert done.stdout.strip().endswith("[]"), done.stdout


def test_the_demo_is_half_inked_in_three_depths_and_told_whole(tmp_path, capsys):
    path = tmp_path / "Lock keeper.stride"
    assert main(["demo", "--job", str(path)]) == 0
    assert [p.name for p in tmp_path.iterdir()] == [path.name]
    assert main(["lines", str(path), "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)["lines"]) > 100
    assert main(["export", str(path), str(tmp_path / "d.json")]) == 0
    assert main(["demo", "--job", str(path)]) == 1
    assert "was not touched" in capsys.readouterr().err
    with opened(path) as (job, store):
        parts = job.parts()
        assert {p.tier for p in parts} == {"near", "middle", "far"}
        assert {"Heron", "Lantern", "Coat", "Cat", "Beam", "Gate", "Lock house", "Poplars", "Water"} <= {
            p.name for p in parts
        }
        drawn = sum(len(thing.lines) for thing in seen(scene()))
        inked = sum(row.tone is None for row in job.rows.lines.values())
        assert drawn >= 150 and 0.4 < inked / drawn < 0.7
        assert {row.kind for row in job.rows.tones.values()} == {"hatch", "black"}
        assert len(job.rows.blacks) >= 10 and len(crosses(scene())) >= 10
        assert len(job.pencils()) == 1 and list(job.history.marks) == ["The keeper stands"]
        tiers = reports.weigh(job, Shapes(job, store))["tiers"]
        assert tiers["near"]["mean"] > 1.2 * tiers["middle"]["mean"] > 1.2 * 1.1 * tiers["far"]["mean"]


def test_nothing_shows_through_the_heron():
    import shapely

    things = seen(scene())
    for n, thing in enumerate(things):
        covers = [shapely.make_valid(shapely.Polygon(c)).buffer(-0.05) for t in things[:n] for c in t.covers]
        hidden = shapely.unary_union(covers)
        for line in thing.lines:
            assert shapely.intersection(shapely.LineString(line.points), hidden).length < 0.05, thing.part


def test_nibs_go_from_job_to_job(run, job, tmp_path):
    run(
        "edit",
        job,
        put(tmp_path / "e.json", {"changes": [{"change": "nib", "key": "2", "name": "reeds", "leeway": 0.3}]}),
    )
    run("nibs", job, "--out", tmp_path / "mine.json")
    other = tmp_path / "b.stride"
    run("new", other, "--size", "120x90mm", "--dpi", 300)
    run("nibs", other, "--in", tmp_path / "mine.json")
    given, taken = (json.loads(run("nibs", path))["nibs"] for path in (job, other))
    assert given == taken and next(nib for nib in taken if nib["key"] == "2")["name"] == "reeds"
    spoilt = put(tmp_path / "spoilt.json", {"form": "plain-stride nibs", "nibs": [{"key": "12"}]})
    assert "keys 1 to 9" in run("nibs", other, "--in", spoilt, want=1)
    assert json.loads(run("nibs", other))["nibs"] == taken
    run("undo", other)
    assert json.loads(run("nibs", other))["nibs"][1]["name"] == "2"
