"""The proof of jobs: depths, light, halos, pencils, mends, what is meant, from the command line. Outside: pypdfium2 reads
the PDF, the standard library's csv and html parsers the others."""

import csv
import gzip
import html.parser
import json
from pathlib import Path

import numpy as np
import pypdfium2
import pytest

from plain_stride.cli.entry import main
from plain_stride.errors import StrideError
from plain_stride.job.changes import make_all
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.following import JobAtWork
from plain_stride.job.job_files import opened
from plain_stride.job.proof_keeping import ProofKeeper
from plain_stride.job.proof_mends import make_mends, safe_ones
from plain_stride.job.proof_records import RemarkRecord
from plain_stride.job.proof_told import proof_of_job
from plain_stride.pencils.scanner import scan
from plain_stride.proof.limits import KINDS
from tests.job.test_tones import closed_box
from tests.proof import bases
from tests.proof.scoring import with_job

OLD = Path(__file__).parents[1] / "job" / "old"


def found_in(open_job, *kinds):
    return list(proof_of_job(open_job.job, open_job.shapes, kinds, lambda share: True).told)


def line(open_job, points, widths, **more):
    told = {"lines": [{"points": points, "widths": widths, **more}]}
    from plain_stride.hand.nib import standard_nibs
    from plain_stride.job.reading import import_changes

    made = make_all(open_job.job, open_job.shapes, import_changes(told, standard_nibs()["3"]))
    open_job.store.commit(made.commit)
    return made.results[0]


def test_a_farther_line_that_outweighs_the_nearer_one_it_ends_on(open_job):
    near = line(open_job, [[20, 40], [100, 40]], [0.3, 0.3], part="Gate", role="outer", tier="near")
    far = line(open_job, [[60, 10], [60, 40]], [0.6, 0.6], part="Hill", role="outer", tier="far")
    (one,) = found_in(open_job, "tier-inversion")
    assert one.lines == (far, near) and one.measured == pytest.approx(2.0, abs=0.05)


def test_a_lit_side_heavier_than_the_shaded_one(open_job):
    open_job.do("plan", light=0.0, share=0)
    for y, wide in ((20, 0.8), (60, 0.3)):
        line(open_job, [[20, y], [80, y]], [wide, wide], part="Box", role="outer")
    for x in (20, 80):
        line(open_job, [[x, 20], [x, 60]], [0.5, 0.5], part="Box", role="outer")
    (one,) = found_in(open_job, "light-inversion")
    assert one.measured == pytest.approx(0.8 / 0.3, rel=0.15)


def test_a_halo_that_does_not_come_round_and_one_of_two_widths(open_job):
    """Outside: the white is told by Shapely's areas."""
    closed_box(open_job, 20, 20, 30)
    open_job.do("blacken", at=[35, 35])
    black = next(iter(open_job.job.rows.blacks))
    tone = open_job.do("halo", black=black, mm=0.6)
    assert not found_in(open_job, "halo-open", "halo-uneven")
    white = next(key for key in open_job.job.tone_ink(tone) if key in open_job.job.rows.blacks)
    open_job.do("affine", lines=[white], matrix=[1, 0, 0, 1, 0.35, 0.0])
    kinds = {one.kind: one for one in found_in(open_job, "halo-open", "halo-uneven")}
    assert "halo-uneven" in kinds and kinds["halo-uneven"].others == (tone,)
    assert kinds["halo-uneven"].measured == pytest.approx(0.7 / 0.6, rel=0.5)


def test_pencils_without_ink_and_ink_beside_its_pencils(open_job):
    straights = [np.array([[15.0, y], [100.0, y]]) for y in (15.0, 30.0, 45.0, 60.0, 75.0)]
    open_job.do("pencils-add", data=scan(straights, (120.0, 90.0), 150.0, 3), name="rough")
    for n, y in enumerate((15.0, 30.0, 45.0)):
        line(open_job, [[15, y], [100, y]], [0.4, 0.4])
        assert n < 3
    stray = line(open_job, [[15, 60], [55, 61.6], [100, 60]], [0.4, 0.4, 0.4])
    told = found_in(open_job, "unfinished", "straying")
    assert [one.kind for one in told if one.kind == "straying"] == ["straying"] and stray in told[-1].lines + told[
        0
    ].lines
    bare = max((one for one in told if one.kind == "unfinished"), key=lambda one: one.measured)
    assert bare.measured == pytest.approx(85.0, abs=4.0) and abs(bare.at[1] - 75.0) < 1.0


def test_resolution_and_margin_go_by_the_board(open_job):
    line(open_job, [[2, 40], [60, 40]], [0.4, 0.4], role="outer")
    (one,) = found_in(open_job, "low-resolution")
    assert (one.measured, one.limit) == (300.0, 600.0)
    assert not found_in(open_job, "off-board")
    open_job.do("board", margin_mm=6.0)
    (off,) = found_in(open_job, "off-board")
    assert off.measured == pytest.approx(6.0 - 2.0 + 0.2, abs=0.02)


# Mends


def faulty(open_job):
    """A rail with posts: two stop short of it, two run past."""
    keys = [line(open_job, [[10, 40], [110, 40]], [0.6, 0.6])]
    for x, y in ((20, 40.9), (40, 41.2), (60, 38.6), (80, 38.2)):
        keys.append(line(open_job, [[x, 80], [x, y]], [0.4, 0.4]))
    return keys


def test_safe_mends_are_one_step_and_leave_nothing_of_the_kind(open_job):
    faulty(open_job)
    before = found_in(open_job, "gap", "overshoot")
    assert sorted(one.kind for one in before) == ["gap", "gap", "overshoot", "overshoot"]
    steps = open_job.job.history.undo_count()
    done = make_mends(open_job.job, open_job.shapes, safe_ones(before), "mends")
    assert len(done.mended) == 4 and not done.left and not found_in(open_job, "gap", "overshoot")
    assert open_job.job.history.undo_count() == steps + 1
    open_job.job.undo()
    assert len(found_in(open_job, "gap", "overshoot")) == 4


def test_what_lies_in_a_locked_part_is_left_and_said(open_job):
    faulty(open_job)
    before = found_in(open_job, "gap", "overshoot")
    line(open_job, [[20, 85], [100, 85]], [0.5, 0.5], part="Kept")
    line(open_job, [[50, 60], [50, 84.2]], [0.5, 0.5], part="Kept")
    open_job.do("part", name="Kept", locked=True)
    found = safe_ones(found_in(open_job, "gap", "overshoot"))
    done = make_mends(open_job.job, open_job.shapes, found, "mends")
    assert len(done.mended) == len(before) and len(done.left) == 1 and "locked" in done.left[0][1]


def test_a_stopped_mending_leaves_the_job_as_it_was(open_job):
    faulty(open_job)
    found = safe_ones(found_in(open_job, "gap", "overshoot"))
    with pytest.raises(StrideError):
        make_mends(open_job.job, open_job.shapes, found, "mends", lambda share: False)
    assert len(found_in(open_job, "gap", "overshoot")) == 4


# Kept from one state to the next


def test_findings_kept_are_those_found_from_nothing(open_job):
    keys = faulty(open_job)
    for k in range(14):
        line(open_job, [[12 + 1.1 * k, 5], [12 + 1.1 * k, 15]], [0.3, 0.3], role="texture")
    keeper, drawing, rng = ProofKeeper(), JobDrawing(open_job.job, open_job.shapes), np.random.default_rng(2)
    at = JobAtWork(open_job.job, open_job.shapes)
    at.__dict__["drawing"] = drawing
    for n in range(16):
        key = keys[1 + n % 4]
        if n % 5 == 4:
            drawing.changed(open_job.job.undo().rows)
        else:
            from plain_stride.job.changes import make

            by = rng.uniform(-1.2, 1.2, 2).tolist()
            drawing.changed(
                make(open_job.job, open_job.shapes, "affine", {"lines": [key], "matrix": [1, 0, 0, 1, *by]}).commit.rows
            )
        kept = keeper.now(open_job.job, open_job.shapes, drawing.now, None)
        fresh = ProofKeeper().now(open_job.job, open_job.shapes, drawing.now, None)
        assert {one.id for one in kept.told} == {one.id for one in fresh.told} and kept.balance == fresh.balance


def test_what_is_found_far_from_a_change_is_found_anew(tmp_path):
    """Lines at the trim are told together side by side of the sheet, and some lie at both."""
    sheet, rng = bases.houses(3), np.random.default_rng(5)
    far = sheet.size[0] - 0.2
    across = [sheet.lay([[start, 20.0 + 8.0 * k], [end, 22.0 + 8.0 * k]], 0.4, part="Hills")["id"]
              for k, (start, end) in enumerate(((0.2, far), (0.2, far - 90.0), (90.0, far)) * 4)]  # fmt: skip

    def edited(job, shapes):
        nonlocal across
        keeper, drawing = ProofKeeper(), JobDrawing(job, shapes)
        keeper.now(job, shapes, drawing.now, None)
        for n in range(14):
            key = str(rng.choice(across if n % 3 == 2 else sorted(job.rows.lines)))
            by = rng.normal(0.0, (0.3, 3.0, 12.0, 3.0)[n % 4], 2).tolist()
            moved = ("affine", {"lines": [key], "matrix": [1, 0, 0, 1, *by]})
            made = make_all(job, shapes, [("delete", {"lines": [key]}) if n % 4 == 1 else moved])
            across = [one for one in across if one in job.rows.lines]
            drawing.changed(made.commit.rows)
            kept, fresh = (one.now(job, shapes, drawing.now, None) for one in (keeper, ProofKeeper()))
            assert sorted(one.id for one in kept.told) == sorted(one.id for one in fresh.told)

    with_job(tmp_path, sheet, edited, [("board", {"bleed_mm": 3.0})])


# Meant, manners, remarks: in the file, and undone


def test_what_is_meant_stays_away_until_its_place_changes(open_job):
    keys = faulty(open_job)
    one = next(one for one in found_in(open_job, "gap") if keys[1] in one.lines)
    said = open_job.do("meant", scope="finding", kind="gap", lines=list(one.lines), at=list(one.at),
                       measured=one.measured, reason="light")  # fmt: skip
    assert one.id not in {other.id for other in found_in(open_job, "gap")}
    again = open_job.again()
    assert again.job.rows.meant[said].reason == "light"
    assert one.id not in {other.id for other in found_in(again, "gap")}
    again.do("affine", lines=[keys[1]], matrix=[1, 0, 0, 1, 3.0, 0.0])
    assert any(keys[1] in other.lines for other in found_in(again, "gap"))
    again.do("meant", scope="kind", kind="gap")
    assert not found_in(again, "gap")
    again.do("meant-off", meant=list(again.job.rows.meant))
    assert len(found_in(again, "gap")) == 2


def test_manners_change_limits_and_switch_kinds_off(open_job):
    faulty(open_job)
    open_job.do("manners", name="poster", limits={"overshoot": 1.3}, severities={"gap": "off"})
    (one,) = found_in(open_job, "gap", "overshoot")
    assert one.limit == 1.3
    for wrong in ({"limits": {"gap": -1}}, {"limits": {"nothing": 1}}, {"severities": {"gap": "loud"}}, {"name": 3}):
        with pytest.raises(StrideError):
            open_job.do("manners", **wrong)


def test_remarks_are_kept_answered_and_taken_away(open_job):
    key = open_job.do("remark", at=[10, 10], words="calmer", strokes=[[[5, 5, 0.5], [20, 6, 0.7]]], by="senior")
    open_job.do("remark-set", remark=key, answer="done so", done=True)
    row = open_job.again().job.rows.remarks[key]
    assert (row.words, row.answer, row.done, len(row.strokes[0])) == ("calmer", "done so", True, 2)
    for wrong in ({"at": [1, 1]}, {"at": [1], "words": "x"}, {"at": [1, 1], "strokes": [[]]},
                  {"at": [1, 1], "strokes": [[["x", 1, 1]]]}, {"at": [1, 1], "strokes": 5},
                  {"at": [1, 1], "strokes": [[[1, 2]]]}, {"at": [1, 1], "strokes": [[[1, 2, 1e999]]]},
                  {"at": [1, 1], "words": "x", "by": 5}):  # fmt: skip
        with pytest.raises(StrideError):
            open_job.do("remark", **wrong)
    for wrong in ({"scope": "all"}, {"scope": "finding", "kind": "gaps"}, {"scope": "line", "lines": []},
                  {"scope": "line", "lines": ["nobody"]}, {"scope": "part", "part": "None"},
                  {"scope": "kind", "kind": "gap", "measured": 1e999}, {"scope": ["kind"], "kind": "gap"}):  # fmt: skip
        with pytest.raises(StrideError):
            open_job.do("meant", **wrong)


def test_a_number_that_is_none_never_reaches_the_file(open_job):
    """A file that held one could not be opened again."""
    endless = float("inf")
    with open_job.job.step("remark", "", {}) as draft:
        draft.put("r1", RemarkRecord(x_mm=1.0, y_mm=1.0, strokes=(((1.0, 1.0, endless),),)))
    with pytest.raises(ValueError, match="JSON"):
        open_job.store.commit(draft.commit)
    assert not open_job.again().job.rows.remarks
    with pytest.raises(ValueError, match="JSON"), open_job.job.step("remark", "", {"at": endless}) as draft:
        draft.put("r1", RemarkRecord(x_mm=1.0, y_mm=1.0, words="calm"))
    assert not open_job.job.rows.remarks


def test_a_file_of_the_eleventh_schema_comes_over(tmp_path):
    path = tmp_path / "schema-11.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-11.stride.gz").read_bytes()))
    with opened(path, write=True) as (job, _):
        assert len(job.rows.tones) == 1 and len(job.rows.lines) > 40
        assert not job.rows.meant and not job.rows.manners and not job.rows.remarks
        assert job.undo() is not None and not job.rows.tones


# From the command line


@pytest.fixture
def rail(open_job):
    faulty(open_job)
    open_job.do("remark", at=[10, 10], words="<b>calmer</b>")
    open_job.store.close()
    yield open_job.path
    open_job.again()


def test_the_command_tells_writes_compares_and_mends(rail, tmp_path, capsys):
    assert main(["proof", str(rail), "--json", "--to", str(tmp_path / "p.json")]) == 0
    told = json.loads(capsys.readouterr().out)
    assert {one["kind"] for one in told["findings"]} >= {"gap", "overshoot", "low-resolution"}
    assert all(one["kind"] in KINDS and one["severity"] in ("must", "should", "look") for one in told["findings"])
    assert main(["proof", str(rail), "--only", "gap", "--to", str(tmp_path / "p.csv")]) == 0
    rows = list(csv.DictReader((tmp_path / "p.csv").read_text().splitlines()))
    assert len(rows) == 2 and rows[0]["kind"] == "gap" and float(rows[0]["measured"]) > 0.1
    assert main(["mend", str(rail)]) == 0
    assert "4 mended" in capsys.readouterr().out
    assert main(["proof", str(rail), "--since", str(tmp_path / "p.json"), "--json"]) == 0
    since = json.loads(capsys.readouterr().out)["since"]
    assert len(since["gone"]) == 4 and not since["new"]


def test_sheets_are_read_by_others(rail, tmp_path):
    for kind in ("html", "pdf"):
        assert main(["proof", str(rail), "--to", str(tmp_path / f"p.{kind}")]) == 0
    seen = []
    reader = html.parser.HTMLParser()
    reader.handle_starttag = lambda tag, attributes: seen.append(tag)
    reader.feed((tmp_path / "p.html").read_text())
    assert seen.count("tr") >= 5 and seen.count("circle") >= 5 and "b" in seen
    text = (tmp_path / "p.html").read_text()
    assert "&lt;b&gt;calmer" in text and "http" not in text
    pages = pypdfium2.PdfDocument(tmp_path / "p.pdf")
    words = "".join(page.get_textpage().get_text_bounded() for page in pages)
    assert len(pages) >= 2 and "Open end" in words and "limit 0.10 mm" in words and "calmer" in words


def test_wrong_uses_are_said(rail, tmp_path, capsys):
    assert main(["proof", str(rail), "--to", "p.doc"]) == 2
    with pytest.raises(SystemExit):
        main(["proof", str(rail), "--only", "gaps"])
    assert main(["proof", str(tmp_path / "none.stride")]) == 1
    (tmp_path / "old.json").write_text('{"findings": [{"kind": "gap"}]}')
    assert main(["proof", str(rail), "--since", str(tmp_path / "old.json")]) == 1
    assert "no proof" in capsys.readouterr().err
    (tmp_path / "empty").mkdir()
    assert main(["proof", str(tmp_path / "empty")]) == 1


def test_a_folder_is_proofed_whole_and_what_cannot_be_opened_is_named(rail, capsys):
    (rail.parent / "broken.stride").write_bytes(b"nothing")
    assert main(["proof", str(rail.parent), "--json"]) == 1
    rows = json.loads(capsys.readouterr().out)["jobs"]
    assert len(rows) == 2 and "fault" in rows[1 if rows[0]["job"] == rail.name else 0]
    assert main(["mend", str(rail.parent)]) == 1
    assert "4 mended" in capsys.readouterr().out


def test_an_empty_board_and_pencils_alone_are_told_in_a_sentence(open_job, capsys):
    open_job.store.close()
    for words in ("empty", "nothing is inked"):
        assert main(["proof", str(open_job.path), "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        assert not told["findings"] and words in told["sentence"]
        with opened(open_job.path, write=True) as (job, store):
            from plain_stride.job.shapes import Shapes

            picture = scan([np.array([[10.0, 10.0], [90.0, 60.0]])], (120.0, 90.0), 100.0, 1)
            store.commit(make_all(job, Shapes(job), [("pencils-add", {"data": picture, "name": "x"})]).commit)
    open_job.again()


def test_hatching_is_held_against_print_as_one_thing(open_job):
    """Closed form: strokes of a share of ink a at a pitch p leave (1 - a) p of white."""
    tone = open_job.do("hatch", around=[[10, 10], [60, 10], [60, 60], [10, 60]], grey=0.6, pitch=0.5)
    assert not found_in(open_job, "too-thin")
    open_job.do("board", target="newsprint")
    (clogs,) = found_in(open_job, "fill-in")
    assert clogs.others == (tone,) and clogs.measured == pytest.approx(0.4 * 0.5, abs=0.02) and clogs.limit == 0.35
    open_job.do("tone-set", tone=tone, to={"grey": 0.2})
    (thin,) = found_in(open_job, "too-thin")
    assert thin.others == (tone,) and thin.measured == pytest.approx(0.1, abs=0.01)


def test_a_gap_that_a_fill_runs_out_by_is_told_with_its_area(open_job):
    """Closed form: a box of 30 mm, less half a line all round."""
    for a, b in (((20, 20), (50, 20)), ((50, 20), (50, 50)), ((50, 50), (20, 50)), ((20, 50), (20, 21.0))):
        line(open_job, [list(a), list(b)], [0.4, 0.4], role="outer")
    (one,) = found_in(open_job, "gap")
    assert one.severity == "should" and "900 mm2" in one.advice
    open_job.do("job-sheet", ink="for colour")
    assert found_in(open_job, "gap")[0].severity == "must"
    line(open_job, [[80, 20], [80, 50]], [0.4, 0.4])
    line(open_job, [[80.9, 35], [110, 35]], [0.4, 0.4])
    assert sorted("mm2" in other.advice for other in found_in(open_job, "gap")) == [False, True]
