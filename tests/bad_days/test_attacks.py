"""Attacks on files, names, locks and imports: each ends in one sentence or in success, in a few seconds, and what is not
a job of ours, or is one already, is never touched. Small forms of what once hung, crashed or destroyed something."""

import hashlib
import json
import os
import shutil
import sqlite3
import subprocess
import sys
from contextlib import closing
from xml.etree import ElementTree

import numpy as np
import pytest

from plain_stride import cli
from plain_stride.finish import svg_in, svg_shapes
from plain_stride.job import checking
from plain_stride.job.errors import JobError, OverwrittenError
from plain_stride.job.job_files import opened
from plain_stride.job.opening import open_store
from plain_stride.lines.black import BlackError, filled_rings
from tests.bad_days.test_bad_files import contents, tried
from tests.conftest import OpenJob

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">'
LINE = '<path d="M5 5L90 60" fill="none" stroke="black" stroke-width=".4"/>'


@pytest.fixture
def job(tmp_path):
    path = tmp_path / "j.stride"
    assert cli.main(["new", str(path), "--size", "100x100mm", "--dpi", "150"]) == 0
    return path


def imported(job, body, capsys):
    """(status, what was said) of an SVG's import."""
    art = job.with_name("a.svg")
    art.write_text(HEAD + body + "</svg>")
    capsys.readouterr()
    status = cli.main(["import", str(job), str(art)])
    said = capsys.readouterr().err
    assert "something went wrong" not in said and len(said) < 1500
    return status, said


# Work that multiplies

DOUBLED = "".join(f'<g id="a{n}"><use href="#a{n + 1}"/><use href="#a{n + 1}"/></g>' for n in range(40))


@pytest.mark.parametrize(
    "body",
    [DOUBLED + '<g id="a40"/>', DOUBLED + '<path id="a40" d="M0 0L9 9" stroke="black"/>'],
    ids=["of nothing", "of a line"],
)
def test_uses_of_uses_have_a_limit(job, capsys, body):
    before = contents(job)
    status, said = imported(job, body, capsys)
    assert status == 1 and "uses its parts more than" in said and contents(job) == before


@pytest.mark.parametrize(
    "body",
    [
        '<g id="a"><use href="#a"/><use href="#a"/></g>',
        '<symbol id="s"><use href="#t"/><use href="#t"/></symbol><symbol id="t"><use href="#s"/></symbol><use href="#s"/>',
    ],
)
def test_what_uses_itself_draws_nothing_more(job, capsys, body):
    status, said = imported(job, LINE + body, capsys)
    assert status == 0 and "uses of what they stand in" in said
    with opened(job) as (found, _):
        assert len(found.rows.lines) == 1


@pytest.mark.parametrize(
    "sheet",
    [" " * 90_000 + "a", "@" * 90_000, "a" * 100_000 + "{fill:red}", "{" * 3000, "g " * 18 + "rect{stroke:red}",
     "((((" * 2000 + "{}", "g>" * 30 + "path{fill:red}"],
    ids=["blanks", "ats", "letters", "braces", "descendants", "brackets", "children"],
)  # fmt: skip
def test_style_sheets_that_once_hung(job, capsys, sheet):
    body = f"<style>{sheet.replace('<', '')}</style>" + "<g>" * 40 + LINE * 40 + "</g>" * 40
    assert imported(job, body, capsys)[0] in (0, 1)


def test_style_rules_have_a_limit_and_stay_what_they_say(job, capsys):
    rules = "".join(f"g.c{n} g g g g path{{stroke:red}}" for n in range(3000))
    status, said = imported(job, f"<style>{rules}</style>" + "<g>" * 50 + LINE * 60 + "</g>" * 50, capsys)
    assert status in (0, 1) and (status == 0 or "more work than any drawing" in said)


def test_numbers_of_thousands_of_digits(job, capsys):
    many = "1" * 30_000
    body = f'{LINE}<path d="M0 0L{many} 9" stroke="black"/><circle r="{many}"/><path d="M0 0L9 9" stroke="black" stroke-width="{many}"/>'
    status, said = imported(job, body, capsys)
    assert status == 0 and "Could not be read" in said


def test_paths_and_dashes_have_limits(job, capsys, monkeypatch):
    monkeypatch.setattr(svg_shapes, "MOST_PIECES", 300)
    monkeypatch.setattr(svg_in, "MOST_DASHES", 50)
    long = "M0 0" + "".join(f"L{n % 90} {n % 70}" for n in range(400))
    body = f'<path d="{long}" stroke="black" fill="none"/><path d="M0 9L90 9" stroke="black" stroke-dasharray=".1 .1"/>'
    status, said = imported(job, body, capsys)
    assert status == 0 and "more than 300 pieces" in said and "too fine to count" in said
    with opened(job) as (found, _):
        assert len(found.rows.lines) == 1


def test_a_fill_that_crosses_itself_everywhere():
    """A star of n points crosses itself some n^2 / 2 times: what is honest is filled, what is not is refused early."""

    def star(n):
        return [50 + 45 * np.column_stack([np.cos(np.arange(n) * 2.39996), np.sin(np.arange(n) * 2.39996)])]

    assert filled_rings(star(60), "nonzero")
    with pytest.raises(BlackError, match="crosses itself"):
        filled_rings(star(4000), "nonzero")


def test_groups_that_are_not_seen_are_no_ink(job, capsys):
    body = f'<g opacity="0">{LINE}</g><g opacity=".0"><g>{LINE}</g></g><g opacity="50%">{LINE}</g>'
    status, said = imported(job, body, capsys)
    assert status == 0 and "see-through" in said
    with opened(job) as (found, _):
        assert len(found.rows.lines) == 1


# Limits, whatever the way in

FAR = ["L1e9 5", "L1e308 5", "L-1e7 5"]


@pytest.mark.parametrize("piece", FAR)
def test_places_beyond_any_sheet_are_refused_at_the_door(job, capsys, piece):
    before = contents(job)
    status, said = imported(job, f'<path d="M0 0{piece}" stroke="black" fill="none"/>', capsys)
    assert status == 1 and "nothing was imported" in said and contents(job) == before


@pytest.mark.parametrize("width", ["1e400", "1e300", "99999"])
def test_widths_beyond_any_line_are_refused_at_the_door(job, capsys, width):
    status, said = imported(job, f'<path d="M0 0L9 5" stroke="black" fill="none" stroke-width="{width}"/>', capsys)
    assert status == 1 and "nothing was imported" in said


BIG = int("9" * 400)
WRONG_JSON = [
    {"lines": [{"points": [[5, BIG], [9, 9]]}]}, {"lines": [{"points": [[5, 5], [9, 9]], "widths": [BIG, 1]}]},
    {"lines": [{"points": [[5, 5], [1e8, 9]]}]}, {"lines": [{"part": ["a"], "points": [[5, 5], [9, 9]]}]},
    {"lines": [{"part": "a\ud800b", "points": [[5, 5], [9, 9]]}]}, {"lines": [{"id": "x\uffff", "points": [[5, 5], [9, 9]]}]},
    {"lines": [{"part": "a\u0000b", "points": [[5, 5], [9, 9]]}]}, {"pulls": [{"samples": [[BIG, 1, 0.5, 0]]}]},
    {"blacks": [{"outlines": [[[0, 0], [1e9, 0], [0, 9]]]}]}, {"lines": [{"points": [[5, 5], [9, 9]], "part": "x" * 100_000}]},
]  # fmt: skip


@pytest.mark.parametrize("data", WRONG_JSON, ids=range(len(WRONG_JSON)))
def test_json_that_once_crashed_or_poisoned(job, capsys, data):
    before = contents(job)
    job.with_name("a.json").write_text(json.dumps({"units": "mm", **data}))
    _, said = tried(["import", job, job.with_name("a.json")], capsys, (1,))
    assert len(said) < 1000 and contents(job) == before


@pytest.mark.parametrize(
    "change",
    [{"change": "move", "lines": ["q"], "by": [BIG, 0]}, {"change": "part", "name": ["a"]},
     {"change": "part", "name": "a\u0001"}, {"change": "part", "name": "A", "rename": "\ud800"},
     {"change": "swell", "line": "q", "factor": BIG}, {"change": "board", "dpi": BIG},
     {"change": "nib", "key": "3", "name": "\u0000"}, {"change": "delete", "lines": [["q"]]}],
    ids=range(8),
)  # fmt: skip
def test_edits_that_once_crashed(job, capsys, change):
    job.with_name("l.json").write_text('{"lines": [{"id": "q", "points": [[5, 5], [90, 60]]}]}')
    assert cli.main(["import", str(job), str(job.with_name("l.json"))]) == 0
    job.with_name("e.json").write_text(json.dumps({"changes": [change]}))
    tried(["edit", job, job.with_name("e.json")], capsys, (1,))


def test_swells_of_a_line_have_a_limit(open_job, monkeypatch):
    from plain_stride.job import line_changes

    monkeypatch.setattr(line_changes, "MOST_EDITS", 5)
    key = open_job.pull((10, 10), (110, 10))
    for _ in range(5):
        open_job.do("swell", line=key, factor=1.1)
    with pytest.raises(JobError, match="at most 5 swells"):
        open_job.do("swell", line=key, factor=1.1)


def test_a_line_that_lies_too_far_out_already_is_set_apart(open_job, capsys):
    """As older versions let it come in: it stays in the file, and neither the window nor a command works it out."""
    from tests.job.test_no_trace import straight

    far = open_job.do("line", form=straight(20), nib=open_job.job.nibs()["3"])
    near = open_job.do("line", form=straight(40), nib=open_job.job.nibs()["3"])
    form = open_job.job.rows.lines[far].form
    path = open_job.path
    open_job.store.close()
    with closing(sqlite3.connect(path)) as db, db:
        curve = np.frombuffer(db.execute("SELECT curve FROM forms WHERE id = ?", (form,)).fetchone()[0]).copy()
        db.execute("UPDATE forms SET curve = ? WHERE id = ?", (curve * 1e7, form))
    capsys.readouterr()
    assert cli.main(["lines", str(path), "--json"]) == 0
    told = capsys.readouterr()
    assert [line["id"] for line in json.loads(told.out)["lines"]] == [near]
    assert "1 line or black lies farther out" in told.err
    again = OpenJob(path)
    assert list(again.job.apart) == [far]
    again.undo()
    again.undo()
    again.redo()
    again.redo()
    assert list(again.job.apart) == [far] and list(again.job.rows.lines) == [near]
    again.store.close()


# Outputs, names, links


def test_no_output_ever_takes_the_place_of_a_job(job, capsys, tmp_path):
    other = tmp_path / "page.svg"
    shutil.copy(job, other)
    before = {p: hashlib.sha256(p.read_bytes()).hexdigest() for p in (job, other)}
    for command in (["nibs", job, "--out", job], ["nibs", job, "--out", other], ["board", job, "--targets-out", other],
                    ["export", other, other], ["export", job, other], ["demo", "--job", job]):  # fmt: skip
        _, said = tried(command, capsys, (1,))
        assert "was not touched" in said
    assert {p: hashlib.sha256(p.read_bytes()).hexdigest() for p in before} == before


def test_what_is_no_file_is_not_waited_for(job, capsys, tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    tried(["info", pipe, "--json"], capsys, (1,))
    tried(["import", job, pipe], capsys, (1,))
    tried(["export", job, tmp_path / "pipe.svg"], capsys, (0,))
    os.mkfifo(tmp_path / "p2.svg")
    tried(["export", job, tmp_path / "p2.svg"], capsys, (1,))


def test_long_names_and_names_that_are_no_text(capsys, tmp_path):
    long = tmp_path / ("x" * 240 + ".stride")
    tried(["new", long, "--size", "60x40mm", "--dpi", "150"], capsys, (1,))
    strange = os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.stride")
    for command in (["new", strange, "--size", "60x40mm", "--dpi", "150"], ["info", strange, "--json"],
                    ["export", strange, tmp_path / "o.svg"]):  # fmt: skip
        tried(command, capsys, (0,))
    ElementTree.parse(tmp_path / "o.svg")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["caf\udce9.stride", "o.svg"]


def test_a_full_disk_where_the_answer_goes(job):
    with open("/dev/full", "w") as full:
        done = subprocess.run([sys.executable, "-m", "plain_stride.cli_main", "info", str(job), "--json"],
                              stdout=full, stderr=subprocess.PIPE, text=True)  # fmt: skip
    assert done.returncode == 1 and done.stderr.count("\n") == 1 and "No space left" in done.stderr


def test_nothing_is_left_beside_a_job_that_was_only_read(job, capsys, tmp_path):
    for command in (["info", job, "--json"], ["lines", job, "--json"], ["board", job]):
        tried(command, capsys, (0,))
        assert [p.name for p in tmp_path.iterdir()] == ["j.stride"]


@pytest.mark.parametrize("no_links", [1, 95])
def test_file_systems_without_hard_links(tmp_path, monkeypatch, no_links):
    def refuse(*_):
        raise OSError(no_links, os.strerror(no_links))

    monkeypatch.setattr(os, "link", refuse)
    path = tmp_path / "f.stride"
    new = ["new", str(path), "--size", "60x40mm", "--dpi", "150"]
    assert cli.main(new) == 0 and cli.main(new) == 1
    with opened(path) as (found, store):
        assert found.page.dpi == 150
        store.save_copy(tmp_path / "copy.stride")
    assert sorted(p.name for p in tmp_path.iterdir()) == ["copy.stride", "f.stride"]


# Locks


@pytest.mark.parametrize("how", ["a link", "a link to nothing", "another's file", "a folder", "a second name"])
def test_what_stands_where_a_lock_belongs_is_left_alone(job, capsys, tmp_path, how):
    lock, precious = tmp_path / "j.stride-lock", tmp_path / "precious.txt"
    precious.write_text("Do not touch")
    if how == "a link":
        lock.symlink_to(precious)
    elif how == "a link to nothing":
        lock.symlink_to(tmp_path / "made by us")
    elif how == "another's file":
        lock.write_text("somebody's notes")
    elif how == "a second name":
        precious.write_text("")
        os.link(precious, lock)
    else:
        lock.mkdir()
    before = precious.read_text()
    tried(["undo", job], capsys, (1,))
    assert precious.read_text() == before and os.path.lexists(lock) and not (tmp_path / "made by us").exists()
    tried(["info", job, "--json"], capsys, (0,))


def test_a_lock_that_was_taken_away_and_made_anew_counts_for_nothing(job):
    """Its file is unlinked by one that lets go while another waits to hold it: then two would write."""
    first = open_store(job, write=True)
    lock = job.with_name(job.name + "-lock")
    lock.unlink()
    second = open_store(job, write=True)
    first.close()
    assert lock.exists()
    with pytest.raises(JobError, match="being written by"):
        open_store(job, write=True)
    second.close()
    assert not lock.exists()


def test_many_writers_at_once_lose_nothing(job, tmp_path):
    """Each is done or is told that another writes; lines and steps agree afterwards."""
    (tmp_path / "l.json").write_text('{"lines": [{"points": [[5, 5], [90, 60]]}]}')
    command = [sys.executable, "-m", "plain_stride.cli_main", "import", str(job), str(tmp_path / "l.json")]
    running = [subprocess.Popen(command, stderr=subprocess.PIPE, text=True) for _ in range(8)]
    said = [(process.communicate(timeout=60)[1], process.returncode) for process in running]
    done = sum(1 for _, status in said if status == 0)
    assert done and all(status == 0 or "is being written by" in words for words, status in said)
    with opened(job) as (found, _):
        assert len(found.rows.lines) == found.history.undo_count() == done


# A job whose file is moved, replaced or written over while it is open


def lines_in(path):
    with opened(path) as (found, _):
        return sorted(found.rows.lines)


def test_a_newer_version_moved_over_an_open_job_is_left_whole(open_job, tmp_path):
    """Once it was destroyed by the old job's log: 'damaged', or the old lines made permanent by its next change."""
    open_job.pull((10, 10), (110, 10))
    newer = tmp_path / "newer.stride"
    open_job.store.save_copy(newer)
    other = OpenJob(newer)
    for y in (40, 50, 60):
        other.pull((10, y), (110, y))
    theirs = sorted(other.job.rows.lines)
    other.store.close()
    open_job.pull((10, 20), (110, 20))
    # As the window's writer does whenever nothing waits.
    open_job.store.rest()
    newer.replace(open_job.path)
    assert lines_in(open_job.path) == theirs
    open_job.pull((10, 30), (110, 30))
    ours, kept = sorted(open_job.job.rows.lines), open_job.store.path
    assert kept.name == "board kept 1.stride"
    open_job.store.close()
    assert lines_in(kept) == ours and lines_in(open_job.path) == theirs
    changed = OpenJob(open_job.path)
    changed.undo()
    changed.store.close()
    assert lines_in(open_job.path) == theirs[:-1]
    assert sorted(p.name for p in tmp_path.iterdir()) == ["board kept 1.stride", "board.stride"]


def test_a_job_that_was_moved_away_goes_on_whole(open_job, tmp_path):
    open_job.pull((10, 10), (110, 10))
    open_job.path.replace(tmp_path / "elsewhere.stride")
    open_job.pull((10, 30), (110, 30))
    open_job.store.close()
    assert len(lines_in(open_job.path)) == 2
    assert len(lines_in(tmp_path / "elsewhere.stride")) in (1, 2)


def test_a_job_that_is_copied_over_in_place_goes_on_beside(open_job, tmp_path):
    """What was drawn is in memory alone then, and goes into a file of its own; the other's work stays."""
    open_job.pull((10, 10), (110, 10))
    other = tmp_path / "other.stride"
    assert cli.main(["new", str(other), "--size", "60x40mm", "--dpi", "150"]) == 0
    open_job.store.rest()
    with other.open("rb") as source, open_job.path.open("r+b") as target:
        target.write(source.read())
        target.truncate()
    with pytest.raises(OverwrittenError, match="nothing was written to it"):
        open_job.pull((10, 30), (110, 30))
    beside = tmp_path / "board kept 1.stride"
    open_job.store.go_on_as(beside, open_job.job.whole())
    open_job.pull((10, 50), (110, 50))
    open_job.store.close()
    assert len(lines_in(beside)) == 3
    with opened(beside) as (found, _):
        assert found.history.undo_count() == 3
    with opened(open_job.path) as (found, _):
        assert found.page.size_mm == (60.0, 40.0)


# Files that are no jobs, though they look like one


def spoiled(job, *statements):
    with closing(sqlite3.connect(job)) as db, db:
        for statement in statements:
            db.execute(statement)


@pytest.mark.parametrize(
    ("statement", "words"),
    [
        ("CREATE VIEW more AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x FROM n) SELECT x FROM n", "a view"),
        ("CREATE TRIGGER t AFTER INSERT ON steps BEGIN DELETE FROM lines; END", "a trigger"),
        ("CREATE TABLE strangers (x)", "a table 'strangers'"), ("DROP TABLE fits", "'fits' is missing"),
        ("ALTER TABLE lines DROP COLUMN span", "lacks column 'span'"), ("UPDATE plan SET base = 'x'", "no number"),
        ("UPDATE board SET width_mm = 9e5", "not possible"), ("UPDATE state SET value = '77' WHERE key = 'head'", "step 77"),
        ("UPDATE steps SET parent = id", "stands on step"), ("UPDATE lines SET nib = '{\"name\": NaN}'", "no JSON"),
        ("UPDATE pulls SET samples = zeroblob(7)", "of 'pulls'"), ("UPDATE lines SET part = 'g99'", "in no part"),
        ("DELETE FROM nibs WHERE id = '4'", "nib is missing"), ("UPDATE parts SET tier = 'up'", "tier 'up'"),
    ],
)  # fmt: skip
def test_a_broken_or_hostile_job_is_one_sentence(open_job, capsys, statement, words):
    open_job.pull((10, 10), (110, 10))
    path = open_job.path
    open_job.store.close()
    spoiled(path, statement)
    before = path.read_bytes()
    for command in (["info", path, "--json"], ["undo", path], ["export", path, path.with_suffix(".svg")]):
        _, said = tried(command, capsys, (1,))
        assert words in said and "was not touched" in said
    assert path.read_bytes() == before


def test_rows_that_take_too_much_are_not_read(open_job, capsys, monkeypatch):
    open_job.pull((10, 10), (110, 10))
    path = open_job.path
    open_job.store.close()
    monkeypatch.setattr(checking, "MOST_BLOB", 1000)
    _, said = tried(["info", path, "--json"], capsys, (1,))
    assert "takes" in said and "bytes" in said


def test_kept_results_that_are_too_large_or_broken_are_left_out(open_job):
    """They are a cache: the job opens, and works its lines out anew."""
    key = open_job.pull((10, 10), (110, 10))
    path, length = open_job.path, open_job.shapes[key].length
    open_job.store.close()
    spoiled(path, "INSERT INTO fits VALUES ('p1', 'after', 'auto', 5, zeroblob(70), zeroblob(48), zeroblob(24))")
    again = OpenJob(path)
    assert again.store.fits(5) == [] and again.shapes[key].length == pytest.approx(length)
    again.store.close()


def test_closed_targets_may_repeat_their_first_point(job, capsys):
    ring = [[40, 20], [60, 20], [60, 40], [40, 40], [40, 20]]
    job.with_name("t.json").write_text(json.dumps({"targets": [{"points": ring, "closed": True}]}))
    assert cli.main(["pull", str(job), str(job.with_name("t.json")), "--hand", "calm"]) == 0
    with opened(job) as (found, _):
        assert found.line_count == 1
