"""The job file. Outside: Python's stock sqlite3, used as docs/job-format.md says and without our code."""

import json
import os
import re
import sqlite3
import struct
import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from plain_stride.board.page import Page
from plain_stride.hand.pull import Pull
from plain_stride.job.changes import make
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import load, new_job, opened
from plain_stride.job.kept import KEPT_ROWS
from plain_stride.job.opening import open_store
from plain_stride.job.records import RECORDS
from plain_stride.job_mark import APPLICATION_ID
from tests.conftest import OpenJob, samples_along

DOCS = Path(__file__).parents[2] / "docs"


def test_the_file_is_read_with_stock_sqlite(open_job):
    """Only what docs/job-format.md says is used here."""
    key = open_job.pull((10, 20), (100, 20), part="frame", role="outer")
    open_job.do("plan", share=50)
    open_job.store.close()
    db = sqlite3.connect(open_job.path)
    assert db.execute("PRAGMA application_id").fetchone()[0] == 0x53545244
    assert db.execute("PRAGMA user_version").fetchone()[0] == 14
    assert db.execute("SELECT width_mm, height_mm, dpi FROM board").fetchall() == [(120.0, 90.0, 300.0)]
    part, pull, roles = db.execute("SELECT part, pull, roles FROM lines WHERE id = ?", [key]).fetchone()
    assert db.execute("SELECT name FROM parts WHERE id = ?", [part]).fetchone() == ("frame",)
    assert json.loads(roles) == [[None, None, "outer"]]
    samples = np.frombuffer(db.execute("SELECT samples FROM pulls WHERE id = ?", [pull]).fetchone()[0], "<f4").reshape(
        -1, 5
    )
    assert samples[0, :2] == pytest.approx([10, 20])
    assert samples[-1, :2] == pytest.approx([100, 20])
    head = int(db.execute("SELECT value FROM state WHERE key = 'head'").fetchone()[0])
    before, after = db.execute("SELECT before, after FROM step_rows WHERE step = ?", [head]).fetchone()
    assert (json.loads(before)["share"], json.loads(after)["share"]) == (0.0, 0.5)
    db.close()


def test_the_docs_name_every_table_and_column():
    text = (DOCS / "job-format.md").read_text()
    tables = {
        **{t: list(r.columns()) for t, r in RECORDS.items()},
        **{t: list(r.names()) for t, r in KEPT_ROWS.items()},
    }
    for table, columns in tables.items():
        row = re.search(rf"^\| `{table}` \|(.*)$", text, re.MULTILINE)
        assert row, table
        for column in columns:
            assert f"`{column}`" in row[1] or column == "id", f"{table}.{column}"


def test_pencil_bytes_stay_as_they_came(open_job, tmp_path):
    from plain_stride.pencils.scanner import scan

    data = scan([np.array([[5.0, 5.0], [50.0, 50.0]])], (60.0, 60.0), 100.0, 1)
    open_job.do("pencils-add", data=data, name="rough")
    open_job.do("pencils-add", data=data, name="again")
    open_job.again()
    sheets = open_job.job.pencils()
    assert [open_job.job.image(row.image) for _, row in sheets] == [data, data]
    db = sqlite3.connect(open_job.path)
    assert db.execute("SELECT count(*) FROM images").fetchone() == (1,)
    db.close()


def test_kept_fits_are_used_and_may_be_emptied(open_job):
    from dataclasses import replace

    from plain_stride.job.changes import make
    from plain_stride.job.shapes import Shapes

    key = open_job.pull((10, 20), (60, 40), (100, 20))
    made = make(open_job.job, open_job.shapes, "plan", {"share": 10})
    open_job.store.commit(replace(made.commit, fits=open_job.shapes.fresh_fits()))
    want = open_job.shapes[key].curve
    open_job.again()
    assert (open_job.shapes[key].curve == want).all()
    assert open_job.shapes.fresh_fits() == ()
    without = Shapes(open_job.job)
    assert (without[key].curve == want).all()
    assert len(without.fresh_fits()) == 1


def test_a_second_writer_is_told_who_holds_the_job(job_path):
    first = open_store(job_path, write=True)
    with pytest.raises(JobError, match=rf"process {os.getpid()}"):
        open_store(job_path, write=True)
    with opened(job_path) as (job, _):
        assert job.name == "board"
    first.close()
    open_store(job_path, write=True).close()


def test_nothing_is_left_beside_a_closed_job(open_job):
    open_job.pull((0, 0), (9, 9))
    open_job.store.close()
    assert [p.name for p in open_job.path.parent.iterdir()] == [open_job.path.name]


def test_a_copy_is_complete_and_never_overwrites(open_job, tmp_path):
    key = open_job.pull((10, 20), (100, 20))
    copy = tmp_path / "copy.stride"
    open_job.store.save_copy(copy)
    with opened(copy) as (job, _):
        assert key in job.rows.lines
        assert job.history.undo_count() == open_job.job.history.undo_count()
    with pytest.raises(JobError, match="already"):
        open_job.store.save_copy(copy)


def test_new_refuses_to_overwrite(job_path):
    before = job_path.read_bytes()
    with pytest.raises(JobError, match="already"):
        new_job(job_path, Page((10.0, 10.0), 300.0))
    assert job_path.read_bytes() == before


def test_a_job_ends_with_its_suffix(tmp_path):
    with pytest.raises(JobError, match="stride"):
        new_job(tmp_path / "board.sqlite", Page((10.0, 10.0), 300.0))


def damaged(path: Path, how: str) -> bytes:
    whole = path.read_bytes()
    return {
        "empty": b"",
        "text": b"not a job at all" * 20,
        "cut short": whole[:3000],
        "cut in the middle": whole[: len(whole) // 8192 * 4096],
        "another database": whole[:68] + b"\0\0\0\0" + whole[72:],
        "header only": whole[:100],
        "garbled": whole[:100] + bytes(len(whole) - 100),
    }[how]


@pytest.mark.parametrize(
    "how", ["empty", "text", "cut short", "cut in the middle", "another database", "header only", "garbled"]
)
@pytest.mark.parametrize("write", [False, True])
def test_a_damaged_job_is_refused_and_left_alone(open_job, tmp_path, how, write):
    open_job.pull((0, 0), (90, 9))
    open_job.store.close()
    bad = tmp_path / "bad.stride"
    bad.write_bytes(damaged(open_job.path, how))
    before = bad.read_bytes()
    with pytest.raises(JobError) as fault:
        store = open_store(bad, write)
        try:
            load(store)
        finally:
            store.close()
    assert "\n" not in str(fault.value)
    assert bad.read_bytes() == before


def test_a_newer_job_is_read_but_not_written(job_path):
    data = bytearray(job_path.read_bytes())
    data[60:64] = struct.pack(">I", 99)
    job_path.write_bytes(data)
    with opened(job_path) as (job, _):
        assert job.schema == 99
    with pytest.raises(JobError, match="newer"):
        open_store(job_path, write=True)


def test_a_folder_without_the_right_to_write():
    """As another user where the tests run as root, since root may write everywhere."""
    code = (
        "import os, sys; from pathlib import Path\n"
        "from plain_stride.job.job_files import new_job; from plain_stride.board.page import Page\n"
        "from plain_stride.job.errors import JobError\n"
        "if os.geteuid() == 0: os.setresuid(65534, 65534, 65534)\n"
        "for name in sys.argv[1:]:\n"
        "    try: new_job(Path(name), Page((10., 10.), 300.))\n"
        "    except JobError as fault: print(fault)\n"
    )
    with tempfile.TemporaryDirectory() as name:
        closed, private = Path(name) / "closed", Path(name) / "private"
        closed.mkdir(mode=0o555)
        private.mkdir(mode=0o700)
        os.chmod(name, 0o755)
        private.chmod(0o000)
        done = _as_child(code, str(closed / "x.stride"), str(private / "x.stride"))
        private.chmod(0o700)
        assert done.stdout.count("cannot be written") == 2, done.stderr
        assert [*closed.iterdir(), *private.iterdir()] == []


def _as_child(code: str, *arguments: str) -> subprocess.CompletedProcess:
    return subprocess.run([sys.executable, "-c", code, *arguments], capture_output=True, text=True, timeout=60)


def test_a_full_disk_is_said_and_changes_nothing(open_job):
    open_job.store._db.execute("PRAGMA max_page_count = 1")
    pages = open_job.store._db.execute("PRAGMA page_count").fetchone()[0]
    open_job.store._db.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(JobError, match="disk is full"):
        for k in range(60):
            open_job.pull((0, k), (90, 9 + k), n=1500)
    in_file = set(open_job.store.rows("lines"))
    assert in_file < set(open_job.job.rows.lines)
    open_job.again()
    assert set(open_job.job.rows.lines) == in_file


def test_an_interrupted_creation_leaves_nothing(tmp_path, monkeypatch):
    from plain_stride.job import creating

    def fail(*_):
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(creating, "write_commit", fail)
    with pytest.raises(JobError, match="full"):
        new_job(tmp_path / "x.stride", Page((10.0, 10.0), 300.0))
    assert list(tmp_path.iterdir()) == []
    assert APPLICATION_ID == 0x53545244


# The file goes away under an open job


def test_a_deleted_job_is_put_back_whole(open_job):
    first = open_job.pull((10, 20), (60, 20))
    open_job.path.unlink()
    second = open_job.pull((10, 40), (60, 40))
    assert open_job.store.path == open_job.path
    assert set(open_job.again().job.rows.lines) == {first, second}


def test_a_moved_job_is_put_back_and_the_moved_one_stays(open_job, tmp_path):
    first = open_job.pull((10, 20), (60, 20))
    open_job.path.rename(tmp_path / "elsewhere.stride")
    open_job.pull((10, 40), (60, 40))
    assert len(open_job.again().job.rows.lines) == 2
    with opened(tmp_path / "elsewhere.stride") as (job, _):
        assert set(job.rows.lines) <= {first}


def test_a_replaced_job_goes_on_beside_what_replaced_it(open_job, tmp_path):
    first = open_job.pull((10, 20), (60, 20))
    other = tmp_path / "other.stride"
    new_job(other, Page((50.0, 50.0), 100.0))
    other.replace(open_job.path)
    before = open_job.path.read_bytes()
    second = open_job.pull((10, 40), (60, 40))
    kept = open_job.store.path
    assert kept.name == f"{open_job.path.stem} kept 1.stride"
    assert open_job.path.read_bytes() == before
    open_job.store.close()
    with opened(kept) as (job, _):
        assert set(job.rows.lines) == {first, second}


def test_a_job_whose_folder_is_gone_says_so(open_job, tmp_path):
    open_job.pull((10, 20), (60, 20))
    folder = open_job.path.parent
    folder.rename(tmp_path.with_name(tmp_path.name + "-moved"))
    with pytest.raises(JobError, match="cannot be written there"):
        open_job.pull((10, 40), (60, 40))
    tmp_path.with_name(tmp_path.name + "-moved").rename(folder)


def test_packing_gives_room_back_and_keeps_the_history(open_job):
    for k in range(12):
        open_job.pull((10, 5 + k), (60, 9 + k), n=1500)
    open_job.store._db.execute("CREATE TABLE waste AS SELECT zeroblob(500000)")
    open_job.store._db.execute("DROP TABLE waste")
    before, history = open_job.store.sizes()
    open_job.store.pack()
    after, still = open_job.store.sizes()
    assert after < before
    assert still == history > 0
    again = open_job.again()
    for _ in range(12):
        again.undo()
    assert again.job.rows.lines == {}


@pytest.mark.parametrize("value", [np.nan, np.inf, -1e300])
def test_a_kept_fit_that_is_none_is_done_without(job_path, value):
    """What the file keeps of a fitted line is a cache: a curve of no numbers is fitted anew from the pull."""
    first = OpenJob(job_path)
    pull = {"pull": Pull(samples_along([(10, 10), (50, 30)]))}
    made = make(first.job, first.shapes, "pull", pull)
    first.store.commit(replace(made.commit, fits=first.shapes.fresh_fits()))
    key, before = made.results[0], first.shapes[made.results[0]].curve
    first.store.close()
    db = sqlite3.connect(job_path)
    ((curve,),) = db.execute("SELECT curve FROM fits").fetchall()
    bad = np.frombuffer(curve, "<f8").copy()
    bad[3] = value
    db.execute("UPDATE fits SET curve = ?", (bad.tobytes(),))
    db.commit()
    db.close()
    again = OpenJob(job_path)
    assert np.allclose(again.shapes[key].curve, before)
    again.store.close()


def test_a_file_that_is_written_while_it_is_looked_at_is_looked_at_again(job_path, monkeypatch):
    """Read without its log, a file that another program writes may look torn for a moment: it is no damaged one."""
    from plain_stride.job import opening
    from plain_stride.job.errors import DamagedError

    whole, torn = opening.check_tables, [2]

    def check(db):
        if torn[0]:
            torn[0] -= 1
            os.utime(job_path)
            raise DamagedError("torn")
        whole(db)

    monkeypatch.setattr(opening, "check_tables", check)
    opening.open_store(job_path, write=False).close()
    assert torn == [0]
    monkeypatch.setattr(opening, "check_tables", lambda db: (_ for _ in ()).throw(DamagedError("damaged for good")))
    with pytest.raises(JobError):
        opening.open_store(job_path, write=False)
