"""Inks, flats and deliveries of a job. Outside: SHA-256 of the standard library, Pillow and zipfile on what was written,
CIE lightness by scikit-image."""

import hashlib
import io
import itertools
import json
import os
import zipfile

import numpy as np
import pytest
from PIL import Image
from skimage import color as skcolor

from plain_stride import colour
from plain_stride.cli import main
from plain_stride.finish.art import ArtFlats
from plain_stride.finish.delivery import USUAL, DeliveryError, checked_delivery
from plain_stride.job.art import art_of
from plain_stride.job.darker_lines import darker_lines
from plain_stride.job.delivered import changed_since, deliveries_of, last_delivered
from plain_stride.job.delivering import MANIFEST, DeliverError, deliver
from plain_stride.job.errors import JobError
from plain_stride.job.finished import finished_art
from plain_stride.job.finished_keeping import keeper_of
from plain_stride.job.flats import flats_of, told_flats
from plain_stride.job.inks import Colours
from plain_stride.render.export import Pixels

BOX = [[20, 20], [60, 20], [60, 70], [20, 70], [20, 20]]


def box(job, points=BOX, part="Box", nib="7"):
    return [_one(job.do("draw", shape="straight", points=[a, b], nib=nib, part=part, role="outer"))
            for a, b in itertools.pairwise(points)]  # fmt: skip


def _one(made):
    return made if isinstance(made, str) else made[0]


# Inks


def test_a_line_has_its_own_ink_else_its_parts_else_its_roles(open_job):
    line = open_job.pull((10, 10), (80, 20), part="A", role="detail")
    inks = {
        name: open_job.do("ink", name=name, colour=hue)
        for name, hue in (("a", "#112233"), ("b", "#445566"), ("c", "#778899"))
    }
    assert Colours(open_job.job).of(line) == "black"
    open_job.do("ink", name="a", roles=["detail"])
    assert Colours(open_job.job).of(line) == "#112233"
    open_job.do("part", name="A", ink="b")
    assert Colours(open_job.job).of(line) == "#445566"
    open_job.do("recolour", lines=[line], ink="c")
    assert Colours(open_job.job).of(line) == "#778899"
    open_job.do("recolour", lines=[line], ink="black")
    assert Colours(open_job.job).of(line) == "black"
    open_job.do("recolour", lines=[line], ink="as the part")
    open_job.do("ink-delete", name="b")
    assert Colours(open_job.job).of(line) == "#112233" and inks["b"] not in open_job.job.rows.inks
    open_job.do("part", name="A", ink="white")
    assert Colours(open_job.job).of(line) == "white"
    assert open_job.again().job.rows.inks[inks["a"]].roles == ("detail",)


def test_colour_never_changes_geometry_and_recolouring_is_one_step(open_job):
    lines = [open_job.pull((10, 10 + 8 * k), (90, 12 + 8 * k), part="A") for k in range(3)]
    open_job.do("ink", name="umber", colour="#5a3a22")
    before = [line.shape.rings for part in art_of(open_job.job, open_job.shapes).parts for line in part.lines]
    open_job.do("recolour", lines=lines, ink="umber")
    after = art_of(open_job.job, open_job.shapes)
    for old, line in zip(before, (line for part in after.parts for line in part.lines), strict=True):
        assert line.colour == "#5a3a22" and all(
            np.array_equal(a, b) for a, b in zip(old, line.shape.rings, strict=True)
        )
    open_job.undo()
    assert not art_of(open_job.job, open_job.shapes).coloured


@pytest.mark.parametrize(("change", "arguments"), [
    ("ink", {"name": "black", "colour": "#101010"}), ("ink", {"name": "new"}), ("ink", {"name": "", "colour": "#101010"}),
    ("ink", {"name": "x", "colour": "blue"}), ("ink", {"name": "x", "colour": "#101010", "roles": ["hat"]}),
    ("ink-delete", {"name": "none"}), ("recolour", {"lines": ["l1"], "ink": "none"}), ("recolour", {"lines": [], "ink": "black"}),
    ("part", {"name": "A", "ink": "none"}), ("flat", {"at": [500, 5], "colour": "#101010"}), ("flat", {"at": "here"}),
    ("flat", {"at": [5, 5], "colour": "pale"}), ("flat", {"at": [5, 5], "part": "Nobody"}), ("flat-split", {"line": [[5, 5]]}),
    ("flat-clear", {"keys": ["a1"]}), ("hand-over", {"bridge": 99.0}), ("hand-over", {"step": 0.0}),
    ("darker", {"lines": ["l1"], "step": 300}), ("darker", {"lines": ["l1"], "colours": ["red"]}),
    ("delivery", {"name": "x", "told": {}}), ("delivery-delete", {"name": "x"}), ("finishes", {"finishes": [{"pass": "x"}]}),
])  # fmt: skip
def test_what_cannot_be_is_refused_and_the_job_stays(open_job, change, arguments):
    open_job.pull((10, 10), (80, 20), part="A")
    step = open_job.job.history.head
    with pytest.raises(JobError):
        open_job.do(change, **arguments)
    assert open_job.job.history.head == step


def test_locked_parts_keep_their_colour(open_job):
    line = open_job.pull((10, 10), (80, 20), part="A")
    open_job.do("ink", name="umber", colour="#5a3a22")
    open_job.do("part", name="A", locked=True)
    for change in ({"change": "recolour", "ink": "umber"}, {"change": "darker"}):
        with pytest.raises(JobError, match="locked"):
            open_job.do(change.pop("change"), lines=[line], **change)


# Darker than the flats beside


def test_a_line_is_darker_than_both_flats_beside_it(open_job):
    lines = box(open_job) + box(open_job, [[60, 20], [100, 20], [100, 70], [60, 70]], "Other")
    open_job.do("flat", at=[40, 45], colour="#d0a070")
    open_job.do("flat", at=[80, 45], colour="#7090b0")
    found = flats_of(open_job.job, open_job.shapes)
    would = {one.line: one for one in darker_lines(open_job.shapes, found, lines, 20.0)}
    middle = would[lines[1]]
    assert {name for name, _ in middle.beside} == {"#d0a070", "#7090b0"}
    darkest = min(skcolor.rgb2lab(np.array([[colour.rgb(v)]]))[0, 0, 0] for v in ("#d0a070", "#7090b0"))
    made = skcolor.rgb2lab(np.array([[colour.rgb(middle.colour)]]))[0, 0, 0]
    assert darkest - 21.5 < made <= darkest - 20.0 + 0.02
    open_job.do("darker", lines=lines)
    assert all(Colours(open_job.job).of(key) == would[key].colour for key in lines)
    open_job.undo()
    assert not open_job.job.rows.inks


def test_where_nothing_is_darker_or_no_flat_lies_beside_it_is_listed(open_job):
    lines = box(open_job)
    open_job.do("flat", at=[40, 45], colour="#181818")
    free = open_job.pull((80, 80), (110, 85))
    found = flats_of(open_job.job, open_job.shapes)
    why = {one.line: one.why for one in darker_lines(open_job.shapes, found, [*lines, free], 20.0)}
    assert "nothing is darker" in why[lines[0]] and "no flat" in why[free]
    with pytest.raises(JobError, match="no line has a flat"):
        open_job.do("darker", lines=[free])


# Flats


def test_what_was_said_of_a_flat_goes_along_when_lines_move(open_job):
    lines = box(open_job)
    box(open_job, [[70, 20], [100, 20], [100, 60], [70, 60], [70, 20]], "Other")
    open_job.do("flat", at=[40, 45], colour="#c06040")
    for k in range(4):
        open_job.do("move", lines=lines, by=[0.0, 7.0 if k % 2 else -9.0])
    open_job.do("move", lines=lines, by=[-15.0, 12.0])
    one = flats_of(open_job.job, open_job.shapes).at(25, 55)
    assert (one.colour, one.part) == ("#c06040", "Box")
    open_job.do("delete", lines=lines)
    assert len(flats_of(open_job.job, open_job.shapes).lost) == 1


def test_flats_are_joined_split_named_and_taken_back(open_job):
    box(open_job)
    box(open_job, [[70, 20], [100, 20], [100, 60], [70, 60], [70, 20]], "Other")
    key = open_job.do("flat", at=[[40, 45], [85, 40]], colour="#406080", part="Other")
    one = flats_of(open_job.job, open_job.shapes).at(40, 45)
    assert (one.part, len(one.areas), one.area.area) == ("Other", 2, pytest.approx(2000 + 1200, rel=1e-3))
    cut = open_job.do("flat-split", line=[[15, 45], [65, 45]])
    found = flats_of(open_job.job, open_job.shapes)
    assert found.at(40, 30).id != found.at(40, 60).id
    open_job.do("flat-clear", keys=[key, cut])
    found = flats_of(open_job.job, open_job.shapes)
    assert found.at(40, 45).part == "Box" and not open_job.job.rows.flats
    assert flats_of(open_job.again().job, open_job.shapes).at(40, 45).part == "Box"


def test_the_map_kept_beside_the_window_is_the_map_from_nothing_after_many_edits(open_job):
    rng = np.random.default_rng(5)
    lines = []
    for n in range(8):
        x, y = rng.uniform((5, 5), (80, 60))
        lines += box(open_job, [[x, y], [x + 20, y], [x + 20, y + 15], [x, y + 15], [x, y]], f"P{n % 3}")
    for n in range(100):
        some = [key for key in lines if key in open_job.job.rows.lines]
        key = some[int(rng.integers(len(some)))]
        kind = n % 5
        if kind == 0:
            open_job.do("move", lines=[key], by=rng.normal(0, 2, 2).round(2).tolist())
        elif kind == 1:
            x, y = rng.uniform((5, 5), (110, 85))
            open_job.do("flat", at=[round(x, 1), round(y, 1)], colour=f"#{int(rng.integers(0x1000000)):06x}")
        elif kind == 2:
            lines.append(_one(open_job.do("duplicate", lines=[key], by=[3.0, 1.0])))
        elif kind == 3 and len(some) > 20:
            open_job.do("delete", lines=[key])
        else:
            open_job.undo()
        kept = keeper_of(open_job.shapes).flats(open_job.job, open_job.shapes)
        if n % 10 == 0:
            assert told_flats(kept) == told_flats(flats_of(open_job.job, open_job.shapes))
    assert told_flats(keeper_of(open_job.shapes).flats(open_job.job, open_job.shapes)) == told_flats(
        flats_of(open_job.again().job, open_job.shapes))  # fmt: skip


def test_leaks_are_told_and_those_on_purpose_are_not(open_job):
    box(open_job, BOX[:4])
    open_job.do("draw", shape="straight", points=[[20, 70], [20, 23]], nib="7", part="Box", role="outer")
    (leak,) = flats_of(open_job.job, open_job.shapes).leaks
    assert leak.gap == pytest.approx(3.0 - 0.5, abs=0.1)
    open_job.do("meant", scope="finding", kind="gap", lines=list(leak.lines), at=list(leak.at), measured=leak.gap)
    assert flats_of(open_job.job, open_job.shapes).leaks == ()


def test_the_command_writes_flats_of_each_kind(open_job, tmp_path, capsys):
    box(open_job)
    open_job.do("flat", at=[40, 45], colour="#c06040")
    open_job.store.close()
    assert main(["flats", str(open_job.path), str(tmp_path / "f.json"), "--gap", "0.5"]) == 0
    told = json.loads((tmp_path / "f.json").read_text())
    by = {area["part"]: area for area in told["areas"]}
    assert by["Box"]["area_mm2"] == pytest.approx(2000, rel=1e-3) and by["Box"]["colour"] == "#c06040"
    assert by[None]["open"] and not by["Box"]["open"]
    assert main(["flats", str(open_job.path), str(tmp_path / "f.png")]) == 0
    picture = Image.open(io.BytesIO((tmp_path / "f.png").read_bytes())).convert("RGBA")
    values, counts = np.unique(np.asarray(picture).reshape(-1, 4), axis=0, return_counts=True)
    assert {tuple(v) for v in values.tolist()} == {(0, 0, 0, 0), (0xC0, 0x60, 0x40, 255)}
    assert counts.min() / (300 / 25.4) ** 2 == pytest.approx(2000, rel=0.005)
    assert main(["flats", str(open_job.path), str(tmp_path / "f.svg")]) == 0
    assert (tmp_path / "f.svg").read_text().count('fill="#c06040"') == 1
    assert main(["flats", str(open_job.path), str(tmp_path / "f.gif")]) == 2
    assert main(["flats", str(open_job.path), str(tmp_path / "f.png"), "--gap", "99"]) == 2


def test_files_with_flats_have_them_below_the_ink(open_job):
    box(open_job)
    open_job.do("flat", at=[40, 45], colour="#c06040")
    art = finished_art(open_job.job, open_job.shapes, flats=True, trapped=True)
    assert isinstance(art.things[0], ArtFlats) and art.coloured


# Deliveries


def sent(job, wanted, out, progress=lambda share: True):
    return deliver(job.job, job.shapes, checked_delivery(wanted), out, Pixels, progress)


@pytest.mark.parametrize("name", USUAL)
@pytest.mark.parametrize("ending", ["", ".zip"])
def test_each_usual_delivery_is_whole_and_its_manifest_true(open_job, tmp_path, name, ending):
    box(open_job)
    open_job.do("board", bleed_mm=2.0)
    out = tmp_path / f"out{ending}"
    told = sent(open_job, USUAL[name], out).manifest
    if ending:
        with zipfile.ZipFile(out) as file:
            held = {one: file.read(one) for one in file.namelist()}
    else:
        held = {path.name: path.read_bytes() for path in out.iterdir()}
    assert set(held) == {MANIFEST, *(row["name"] for row in told["files"])}
    assert json.loads(held[MANIFEST]) == told
    for row in told["files"]:
        assert row["bytes"] == len(held[row["name"]])
        assert row["sha256"] == hashlib.sha256(held[row["name"]]).hexdigest()
        if row["kind"] in ("png", "tif"):
            picture = Image.open(io.BytesIO(held[row["name"]]))
            assert list(picture.size) == row["pixels"]
            assert float(picture.info["dpi"][0]) == pytest.approx(row["dpi"], abs=0.1)
    assert not [one for one in tmp_path.iterdir() if one.name.startswith(".")]


def test_sizes_of_a_set_for_screens_and_places_of_parts(open_job, tmp_path):
    box(open_job)
    open_job.pull((70, 10), (110, 80), part="Other")
    sent(open_job, {"files": [{"name": "s", "kind": "png", "width": 300, "scales": [1, 2, 3]},
                              {"name": "p", "kind": "png", "width": 600, "each": True, "transparent": True}]}, tmp_path / "o")  # fmt: skip
    sizes = [Image.open(io.BytesIO((tmp_path / "o" / f"s-{k}x.png").read_bytes())).size[0] for k in (1, 2, 3)]
    assert sizes == [300, 600, 900]
    told = json.loads((tmp_path / "o" / "p places.json").read_text())
    whole = Image.new("RGBA", tuple(told["pixels"]), "white")
    for one in told["parts"]:
        picture = Image.open(io.BytesIO((tmp_path / "o" / one["file"]).read_bytes()))
        assert picture.size == (one["w"], one["h"])
        whole.alpha_composite(picture, (one["x"], one["y"]))
        assert one["mm"][0] == pytest.approx(one["x"] / told["dpi"] * 25.4, abs=0.01)
    from dataclasses import replace

    from plain_stride.render.export import png_of

    art = art_of(open_job.job, open_job.shapes)
    art = replace(art, page=replace(art.page, dpi=told["dpi"]))
    plain = np.asarray(Image.open(io.BytesIO(png_of(art, False, False))).convert("L"), int)
    assert np.abs(np.asarray(whole.convert("L"), int) - plain).max() <= 2


def test_limits_are_measured_and_broken_ones_told(open_job, tmp_path):
    box(open_job)
    open_job.do("draw", shape="straight", points=[[70, 20], [100, 20]], nib="1", pressure=0.0, part="Thin")
    wanted = {
        "files": [{"name": "a", "kind": "png", "dpi": 150}],
        "limits": {"least_mm": 0.15, "least_dpi": 300, "most_mb": 5},
    }
    made = sent(open_job, wanted, tmp_path / "o")
    assert [(row["limit"], row["holds"]) for row in made.manifest["limits"]] == [
        ("least_mm", False), ("least_dpi", False), ("most_mb", True)]  # fmt: skip
    assert made.manifest["limits"][1]["measured"] == pytest.approx(150, abs=0.1) and len(made.broken) == 2


def test_a_finish_says_what_it_is_and_nothing_else_leaves_at_part_strength(open_job, tmp_path):
    box(open_job)
    open_job.do("finishes", finishes=[{"pass": "soft", "radius": 0.4, "strength": 0.3}])
    made = sent(open_job, USUAL["Screen"], tmp_path / "o")
    assert made.manifest["finishes"] == ["soft: a copy blurred by 0.4 mm, at 30%, under the ink"]
    assert made.manifest["pictures"] == ["soft"]
    made = sent(open_job, {"files": [{"name": "a", "kind": "png", "plain": True, "bw": True}]}, tmp_path / "p")
    assert made.manifest["finishes"] == []


def test_what_is_there_is_never_touched_and_stopping_leaves_nothing(open_job, tmp_path):
    box(open_job)
    out = tmp_path / "o"
    sent(open_job, USUAL["Screen"], out)
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    for there in (out, tmp_path / "o.zip"):
        if there.suffix:
            there.write_bytes(b"mine")
        with pytest.raises(DeliverError, match="is there already"):
            sent(open_job, USUAL["Screen"], there)
    assert {path.name: path.read_bytes() for path in out.iterdir()} == before
    assert (tmp_path / "o.zip").read_bytes() == b"mine"
    for at in (0.1, 0.6, 0.97):
        with pytest.raises(Exception, match="stopped"):
            sent(open_job, USUAL["Archive"], tmp_path / "new", lambda share, at=at: share < at)
    assert not (tmp_path / "new").exists() and not [one for one in tmp_path.iterdir() if one.name.startswith(".")]
    with pytest.raises(DeliverError, match="no folder"):
        sent(open_job, USUAL["Screen"], tmp_path / "nowhere" / "o")


def test_a_full_disk_in_mid_delivery_leaves_nothing(open_job, tmp_path, monkeypatch):
    box(open_job)
    from pathlib import Path

    real, written = Path.write_bytes, []

    def full(path, data):
        if written:
            raise OSError(28, os.strerror(28))
        written.append(path)
        return real(path, data)

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(DeliverError, match="No space left"):
        sent(open_job, USUAL["Screen"], tmp_path / "o")
    assert not (tmp_path / "o").exists() and not [one for one in tmp_path.iterdir() if one.name.startswith(".")]


def test_an_empty_board_is_not_delivered(open_job, tmp_path):
    with pytest.raises(DeliverError, match="nothing is inked"):
        sent(open_job, USUAL["Screen"], tmp_path / "o")


BAD = [{}, [], {"files": []}, {"files": [{"kind": "gif"}]}, {"files": [{"kind": "png", "name": "../x"}]},
       {"files": [{"kind": "png", "dpi": 1e9}]}, {"files": [{"kind": "png", "scales": [7]}]}, {"files": [{"kind": "png"}] * 2},
       {"files": [{"kind": "png", "bw": 1}]}, {"files": [{"kind": "png", "pencils": True}]}, {"files": [{"kind": "png", "what": 1}]}, {"files": [{"kind": "png"}], "limits": {"x": 1}},
       {"files": [{"kind": "png"}], "to": ""}, {"files": [{"kind": "png", "name": f"{n}"} for n in range(70)]}]  # fmt: skip


@pytest.mark.parametrize("told", BAD)
def test_what_is_no_delivery_is_refused(told):
    with pytest.raises(DeliveryError):
        checked_delivery(told)


def test_the_command_delivers_notes_it_and_tells_what_changed_since(open_job, tmp_path, capsys):
    lines = box(open_job)
    open_job.store.close()
    out = tmp_path / "d.json"
    out.write_text(json.dumps({"name": "Poster", "to": "printer", "files": [{"name": "{job}", "kind": "pdf"}]}))
    assert main(["deliver", str(open_job.path), str(out), str(tmp_path / "one"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["noted"] and told["since_last"] == [] and (tmp_path / "one" / "board.pdf").exists()
    open_job.again()
    assert last_delivered(open_job.job, "Poster").manifest["files"][0]["sha256"] == told["files"][0]["sha256"]
    open_job.do("delete", lines=lines[:1])
    open_job.do("move", lines=lines[1:2], by=[1, 0])
    open_job.do("ink", name="umber", colour="#5a3a22")
    assert changed_since(open_job.job, last_delivered(open_job.job, "Poster").step) == [
        "1 line gone",
        "1 line changed",
        "inks changed",
    ]
    open_job.undo()
    assert last_delivered(open_job.job, "Poster") is not None
    open_job.store.close()
    assert main(["deliver", str(open_job.path), str(out), str(tmp_path / "two")]) == 0
    assert "1 line gone" in capsys.readouterr().out
    assert main(["deliver", str(open_job.path), "Nobody", str(tmp_path / "three")]) == 1
    assert main(["deliver", str(open_job.path), "Screen", str(tmp_path / "two")]) == 1
    assert "is there already" in capsys.readouterr().err


def test_own_deliveries_are_kept_and_stand_in_place_of_the_usual(open_job):
    told = {"to": "my printer", "files": [{"name": "x", "kind": "tif"}]}
    open_job.do("delivery", name="Printer", told=told)
    assert deliveries_of(open_job.again().job)["Printer"].to == "my printer"
    open_job.do("delivery-delete", name="Printer")
    assert deliveries_of(open_job.job)["Printer"].to == "printer"


def test_a_copy_of_a_job_knows_what_was_delivered(open_job, tmp_path):
    open_job.pull((10, 10), (80, 20))
    open_job.store.add_delivered("Printer", open_job.job.history.head, {"files": []})
    open_job.again()
    open_job.store.save_copy(tmp_path / "copy.stride")
    from tests.conftest import OpenJob

    other = OpenJob(tmp_path / "copy.stride")
    assert [one.name for one in other.job.sent] == ["Printer"]
    assert other.job.whole().sent[0][1] == "Printer"
    other.store.close()


def test_the_proof_tells_of_colours_that_are_too_pale(open_job):
    from plain_stride.job.proof_told import WITHOUT_PENCILS, proof_of_job

    lines = box(open_job)
    open_job.do("ink", name="tan", colour="#c09060")
    open_job.do("part", name="Box", ink="tan")

    def pale():
        told = proof_of_job(open_job.job, open_job.shapes, WITHOUT_PENCILS, lambda share: True).told
        return {one.lines[0]: one.measured for one in told if one.kind == "pale-colour"}

    assert pale() == {}
    open_job.do("flat", at=[40, 45], colour="#d0a070")
    lab = [skcolor.rgb2lab(np.array([[colour.rgb(v)]]))[0, 0, 0] for v in ("#d0a070", "#c09060")]
    assert pale() == {key: pytest.approx(lab[0] - lab[1], abs=0.05) for key in lines}
    open_job.do("darker", lines=lines, step=20.0)
    assert pale() == {}
