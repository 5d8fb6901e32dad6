"""The log, the order of work and the forecast of a job: read off its history, told by the command line, written."""

import gzip
import io
import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest

from plain_stride.board.page import Page
from plain_stride.errors import StrideError
from plain_stride.finish.log_sheets import log_csv, log_html, log_markdown, log_pdf
from plain_stride.job import job as job_module
from plain_stride.job import red_review
from plain_stride.job.calendar import calendar_of
from plain_stride.job.commit import as_kept
from plain_stride.job.diary import log_json, notes_here, pictures_of
from plain_stride.job.errors import JobError
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.job_forecast import forecast_json, forecast_of, hours_until, what_would_help
from plain_stride.job.ledger import ledger
from plain_stride.job.log_changes import order_row, schedule_row
from plain_stride.job.log_errands import ReadFolder, WriteCalendar, WriteLog
from plain_stride.job.log_files import folder_log, job_log
from plain_stride.job.months import month_bounds
from plain_stride.job.page_asks import hatched
from plain_stride.job.red_review import give_out, remarks_back
from plain_stride.job.series import next_page
from plain_stride.job.serving import StoppedError
from plain_stride.job.work_order import pieces_of, steps_of_job, told_steps
from plain_stride.job.worked import by_change, by_part, by_station, done_lines, pace_of, taken_back, worked
from plain_stride.lines.black import black_of_rings
from plain_stride.order.pauses import PAUSE_S
from plain_stride.order.pieces import INNER, Piece
from plain_stride.pencils.read.reading import Reading, ReadLine
from tests.conftest import OpenJob

OLD = Path(__file__).parent / "old"
MORNING = datetime(2026, 11, 30, 8, 0, tzinfo=UTC)


def logged(job):
    return log_json(job, worked(job))


class Clock:
    """Says when steps are made."""

    def __init__(self):
        self.at = MORNING

    def __call__(self):
        return as_kept(self.at)

    def after(self, **time):
        self.at += timedelta(**time)


@pytest.fixture
def clock(monkeypatch):
    clock = Clock()
    monkeypatch.setattr(job_module, "now", clock)
    return clock


def work(open_job, clock, lines=6, part="Coat", apart=20):
    """Lines of 80 mm, 20 s from one to the next, one taken back and pulled again among them."""
    for n in range(lines):
        clock.after(seconds=apart)
        open_job.pull((10, 10 + 8 * n), (90, 10 + 8 * n), part=part, seconds=2.0)
        if n == 2:
            open_job.undo()
            clock.after(seconds=apart)
            open_job.pull((10, 10 + 8 * n), (90, 12 + 8 * n), part=part, seconds=2.0)


def test_the_history_tells_time_lines_and_what_was_taken_back(open_job, clock):
    work(open_job, clock)
    clock.after(hours=3)
    open_job.do("plan", plan="Standard", share=50.0)
    found = worked(open_job.job)
    assert len(found.sittings) == 2 and len(found.works) == 8
    assert found.sittings[0].active == 2.0 + 6 * 20.0
    assert found.active == 122.0
    assert taken_back(found.works) == pytest.approx(1 / 7)
    pace = pace_of(found.works)
    assert (pace.lines, pace.takes_a_line) == (6, pytest.approx(7 / 6))
    assert pace.mm_an_hour == pytest.approx(480.0 / (122.0 / 3600.0), rel=1e-3)
    assert pace.lines_an_hour == pytest.approx(6 / (122.0 / 3600.0))
    assert by_change(found.works) == {"pull": 122.0, "plan": 0.0}
    assert worked(open_job.job, pause=15.0).active == 7 * 2.0
    assert by_station(found.works) == {"Pull": 122.0, "Weigh": 0.0}
    assert by_part(open_job.job, found.works) == {"Coat": 122.0}
    done = done_lines(open_job.job, found)
    assert len(done.mm) == 6 and done.mm == pytest.approx([80.0] * 6, rel=1e-3)
    assert done.seconds[2] == 40.0 and done.seconds.sum() == 122.0


def test_the_log_tells_each_sitting(open_job, clock):
    work(open_job, clock)
    open_job.store.mark("lines in", open_job.job.history.set_mark("lines in"))
    clock.after(hours=3)
    work(open_job, clock, 3, "Gate")
    told = logged(open_job.job)
    first, second = told["sittings"]
    assert (first["lines"], first["pulls"], second["lines"]) == (6, 7, 3)
    assert first["mm"] == pytest.approx(480.0, rel=1e-3)
    assert first["marks"] == ["lines in"] and told["marks"][0]["name"] == "lines in"
    assert first["nibs"][0]["nib"] == "3" and first["nibs"][0]["lines"] == 7
    assert datetime.fromisoformat(first["begun"]) == MORNING + timedelta(seconds=18)
    assert second["before"] == first["after"] and list(second["parts"]) == ["Gate"]
    assert "9 lines in 2 sittings" in told["sentence"]


def test_a_clock_that_went_back_loses_nothing(open_job, clock):
    work(open_job, clock, 3)
    clock.after(days=-1)
    work(open_job, clock, 3)
    told = logged(open_job.job)
    assert sum(one["lines"] for one in told["sittings"]) == 6
    assert "the clock went back by 24 h before step" in told["clock"][0]
    assert all(one["active_s"] < 100.0 for one in told["sittings"])


def test_a_job_in_which_nothing_was_done_says_so(open_job):
    told = logged(open_job.job)
    assert told["sittings"] == [] and told["sentence"] == "Nothing has been done in it yet."


def test_pictures_show_before_and_after(open_job, clock):
    from PIL import Image

    work(open_job, clock, 3)
    told = logged(open_job.job)
    pictures = pictures_of(open_job.job, open_job.shapes, told, lambda share: True)
    before, after = (np.asarray(Image.open(io.BytesIO(pictures[told["sittings"][0][word]])).convert("L"))
                     for word in ("before", "after"))  # fmt: skip
    assert before.min() == 255 and after.min() < 60


# Notes


def test_notes_are_pinned_found_altered_and_undone(open_job):
    line = open_job.pull((10, 10), (90, 10), part="Coat")
    heavy = open_job.do("note", words="undersides HEAVY", rule="light")
    coat = open_job.do("note", words="velvet", part="Coat")
    here = open_job.do("note", words="leave open", at=[20.0, 30.0])
    on = open_job.do("note", words="this one twice", line=line)
    free = open_job.do("note", words="due on Friday")
    assert notes_here(open_job.job, "heavy") == [heavy]
    part = open_job.job.part_named("Coat").id
    assert set(notes_here(open_job.job, part=part, lines=[line])) == {coat, on, free}
    assert heavy in notes_here(open_job.job, rules=["light"]) and here not in notes_here(open_job.job)
    open_job.do("note-set", note=coat, words="wool")
    assert open_job.job.rows.notes[coat].words == "wool"
    open_job.do("note-delete", notes=[coat, on])
    open_job.undo()
    assert open_job.again().job.rows.notes.keys() == {heavy, coat, here, on, free}


@pytest.mark.parametrize("told", [{"words": " "}, {"words": "x" * 5000}, {"words": "a", "part": "none"},
                                  {"words": "a", "rule": "none"}, {"words": "a", "line": "l99"},
                                  {"words": "a", "at": [1e9, 0]}, {"words": "a", "made": "yesterday"}])  # fmt: skip
def test_a_note_that_cannot_be_is_refused(open_job, told):
    with pytest.raises(JobError):
        open_job.do("note", **told)
    assert not open_job.job.rows.notes


# The order of work


def reading(*lines):
    told = [ReadLine(np.array(points, float), False, 0.9, 0.6) for points in lines]
    return Reading("clean", told, [], [], 1.0)


def dense(y, x0=10.0, x1=90.0):
    return np.column_stack([np.linspace(x0, x1, 160), np.full(160, y)])


def test_steps_tick_themselves_off_as_ink_covers_them(open_job):
    rough = reading(dense(20.0), dense(40.0))
    before = steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, rough))
    assert sum(step.mm_left for step in before) == pytest.approx(160.0, rel=0.01)
    open_job.pull((10, 20), (90, 20), part="Coat")
    steps = steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, rough))
    assert sum(step.mm_left for step in steps) == pytest.approx(80.0, rel=0.02)
    told = told_steps(open_job.job, steps, {})
    done = [one for one in told["steps"] if one["done"] > 0.9]
    assert len(done) == 1 and done[0]["part"] == "Coat"
    left = next(one for one in told["steps"] if one["done"] < 0.1)
    assert told["next"] == left["id"] and left["y"] == pytest.approx(40.0, abs=0.5)


def test_a_marked_area_is_ticked_off_by_black(open_job):
    open_job.do("area", kind="fill", outline=[[10, 10], [30, 10], [30, 30], [10, 30]])
    open_job.do("black", black=black_of_rings([np.array([[9.0, 9], [31, 9], [31, 20], [9, 20]])]), part="Coat")
    (step,) = steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, None))
    assert step.done == pytest.approx(0.5, abs=0.01)
    open_job.do("black", black=black_of_rings([np.array([[9.0, 20], [31, 20], [31, 31], [9, 31]])]), part="Coat")
    (step,) = steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, None))
    assert step.ticked


def test_marked_areas_and_remarks_are_steps(open_job):
    open_job.do("area", kind="fill", outline=[[10, 10], [30, 10], [30, 30], [10, 30]])
    remark = open_job.do("remark", at=[50.0, 50.0], words="heavier")
    steps = {step.kind: step for step in steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, None))}
    assert steps["blacks"].mm_left == pytest.approx(80.0) and steps["to draw again"].lines_left == 1
    open_job.do("remark-set", remark=remark, done=True)
    steps = {step.kind: step for step in steps_of_job(open_job.job, pieces_of(open_job.job, open_job.shapes, None))}
    assert steps["to draw again"].ticked


def test_where_to_begin_is_the_nearest_bare_stretch(open_job):
    open_job.pull((10, 20), (50, 20), part="Coat")
    (piece,) = pieces_of(open_job.job, open_job.shapes, reading(dense(20.0)))
    assert 0.4 < piece.inked < 0.6 and piece.at == pytest.approx((70.0, 20.0), abs=3.0)


def test_the_order_is_kept_and_undone(open_job):
    open_job.pull((10, 20), (90, 20), part="Coat")
    open_job.do("order", school="far to near", first=["Coat"])
    open_job.do("order", sequence=["details/a", "inner lines/a"])
    open_job.do("step-aside", step="details/a")
    open_job.do("step-split", step="inner lines/a", axis="x", at=12.5)
    own = order_row(open_job.again().job).own
    assert own.school == "far to near" and own.aside == ("details/a",) and own.splits["inner lines/a"].at == 12.5
    assert own.first == (open_job.job.part_named("Coat").id,)
    open_job.do("step-split", step="inner lines/a")
    open_job.do("step-aside", step="details/a", aside=False)
    assert not order_row(open_job.job).own.splits and not order_row(open_job.job).aside
    open_job.do("order", school="part by part")
    assert order_row(open_job.job).sequence == ()
    for wrong in ({"school": "none"}, {"first": ["nobody"]}, {"sequence": [3]}):
        with pytest.raises(JobError):
            open_job.do("order", **wrong)
    for axis, at in (("z", 1.0), ("x", None), ("x", float("nan")), ("x", True)):
        with pytest.raises(JobError):
            open_job.do("step-split", step="a", axis=axis, at=at)


# The forecast


def left(mm, lines):
    return [Piece(INNER, "", mm / lines, 0.0, (0.0, 0.0)) for _ in range(lines)]


def test_a_forecast_is_told_against_the_deadline(open_job, clock):
    work(open_job, clock, 40)
    open_job.do("schedule", deadline="2026-12-01T18:00:00+00:00", hours=2.0, days=[0, 1, 2, 3, 4])
    found = forecast_of(open_job.job, worked(open_job.job), left(8000.0, 100), MORNING)
    told = forecast_json(open_job.job, found)
    assert told["left"] == {"mm": 8000.0, "lines": 100} and told["from_lines"] == 40
    assert told["low"] < 100 * 20.5 / 3600.0 < told["high"]
    assert told["deadline"]["enough"] and told["deadline"]["hours_left"] == pytest.approx(4.0)
    assert "Until the deadline there are 4 h: enough" in told["sentence"]
    short = forecast_of(open_job.job, worked(open_job.job), left(80_000.0, 1000), MORNING)
    told = forecast_json(open_job.job, short)
    assert told["deadline"]["short_by_hours"] == pytest.approx(told["hours"] - 4.0, abs=0.01)
    helps = what_would_help(open_job.job, short, steps_of_job(open_job.job, left(80_000.0, 1000)))
    assert helps[0].endswith("hours a working day in place of 2") and helps[1].startswith(
        "leave rougher: inner lines of no part yet"
    )


def test_a_deadline_in_the_past_and_one_without_lines_are_run(open_job):
    open_job.do("schedule", deadline="2020-01-01T18:00:00+00:00")
    found = forecast_of(open_job.job, worked(open_job.job), left(100.0, 3), MORNING)
    assert "no pace" in forecast_json(open_job.job, found)["sentence"]
    assert forecast_json(open_job.job, found)["deadline"]["enough"] is None
    open_job.pull((10, 20), (90, 20))
    told = forecast_json(open_job.job, forecast_of(open_job.job, worked(open_job.job), left(100.0, 3), MORNING))
    assert "The deadline is over." in told["sentence"] and told["low"] is None
    assert "Nothing is left" in forecast_json(
        open_job.job, forecast_of(open_job.job, worked(open_job.job), [], MORNING)
    )["sentence"]  # fmt: skip


@pytest.mark.parametrize("told", [{"deadline": "tomorrow"}, {"deadline": "2026-12-01"}, {"hours": 30}, {"hours": "x"},
                                  {"days": []}, {"days": [9]}])  # fmt: skip
def test_a_schedule_that_cannot_be_is_refused(open_job, told):
    with pytest.raises(JobError):
        open_job.do("schedule", **told)


def test_hours_until_a_deadline_are_those_of_working_days(open_job):
    """Friday 18:00 from Monday 8:00 UTC: five days of 6 hours; Saturday and Sunday are none. Another zone is the same
    moment."""
    for deadline in ("2026-12-04T18:00:00+00:00", "2026-12-04T19:00:00+01:00"):
        open_job.do("schedule", deadline=deadline, hours=6.0, days=[0, 1, 2, 3, 4])
        assert hours_until(schedule_row(open_job.job), MORNING) == pytest.approx(30.0)
    open_job.do("schedule", deadline="2026-12-06T18:00:00+00:00")
    assert hours_until(schedule_row(open_job.job), MORNING) == pytest.approx(30.0)
    assert hours_until(schedule_row(open_job.job), MORNING + timedelta(days=20)) == 0.0


def test_the_calendar_is_read_by_another_library():
    """RFC 5545, read back by vobject: each day's hours, one job after the other, none on days off."""
    vobject = pytest.importorskip("vobject")
    base = {"hours_a_day": 2.0, "days": [0, 1, 2, 3, 4], "sentence": "3 lines; 2 h, 1, 3"}
    jobs = [{"job": "B, late", "hours": 3.0, "deadline": None, **base},
            {"job": "A", "hours": 5.0, "deadline": {"at": "2026-12-04T18:00:00+00:00"}, **base}]  # fmt: skip
    read = vobject.readOne(calendar_of(jobs, MORNING).decode())
    events = [(e.summary.value, e.dtstart.value, e.dtend.value) for e in read.vevent_list]
    hours = {name: sum((end - begin).total_seconds() for n, begin, end in events if n == name) / 3600.0
             for name in ("A", "B, late")}  # fmt: skip
    assert hours == {"A": 5.0, "B, late": 3.0}
    assert all(begin.weekday() < 5 for _, begin, _ in events)
    assert max(end for n, _, end in events if n == "A") <= min(begin for n, begin, _ in events if n == "B, late")
    assert [n for n, *_ in events][-1] == "A: due"
    assert len({e.uid.value for e in read.vevent_list}) == len(events)


# Files


def test_a_log_is_written_in_every_form(open_job, clock, tmp_path):
    work(open_job, clock, 3, "Coat | gate <1>")
    open_job.do("note", words="*heavy* <b>", at=[1.0, 2.0])
    told = logged(open_job.job)
    pictures = pictures_of(open_job.job, open_job.shapes, told, lambda share: True)
    text = log_markdown(told, {step: f"<p/{step}.png>" for step in pictures}).decode()
    assert "\\*heavy\\* \\<b\\>" in text and "![after](<p/" in text
    page = log_html(told, pictures).decode()
    assert "&lt;b&gt;" in page and page.count("data:image/png;base64,") == 2 and "<b>" not in page
    table = log_csv(told).decode().splitlines()
    assert len(table) == 2 and table[0].startswith("job,begun")
    pdfium = pytest.importorskip("pypdfium2")
    read = pdfium.PdfDocument(log_pdf(told, pictures))
    words = read[0].get_textpage().get_text_range()
    assert "Log of board" in words and "3 lines" in words


def test_a_log_goes_to_files_whole(open_job, clock, tmp_path):
    work(open_job, clock, 3)
    for kind in (".md", ".html", ".pdf", ".csv", ".json"):
        job_log(open_job.job, open_job.shapes, PAUSE_S, tmp_path / f"log{kind}", lambda share: True)
        assert (tmp_path / f"log{kind}").stat().st_size > 100
    assert len(list((tmp_path / "log pictures").glob("*.png"))) == 2
    assert json.loads((tmp_path / "log.json").read_text())["units"] == "mm"


def test_stopped_is_nothing_written(open_job, clock, tmp_path):
    work(open_job, clock, 3)
    open_job.store.close()
    out = tmp_path / "out"
    out.mkdir()
    stop = lambda share: False  # noqa: E731
    for errand in (WriteLog(open_job.path, PAUSE_S, out / "a.md"), ReadFolder(tmp_path, PAUSE_S, out / "b.md"),
                   WriteCalendar(tmp_path, PAUSE_S, out / "c.ics")):  # fmt: skip
        with pytest.raises(StoppedError):
            errand.answered(None, stop)
    assert list(out.iterdir()) == []


def test_the_calendar_of_a_folder_tells_what_cannot_be_opened(open_job, clock, tmp_path):
    work(open_job, clock, 3)
    open_job.do("remark", at=[1, 1], words="again")
    open_job.store.close()
    (tmp_path / "broken.stride").write_bytes(b"nothing")
    told = WriteCalendar(tmp_path, PAUSE_S, tmp_path / "c.ics").answered(None, lambda share: True)
    assert told[0].startswith("board: 1 line, 0 mm are left") and told[1].startswith("broken.stride: ")
    assert b"SUMMARY:board" in (tmp_path / "c.ics").read_bytes()


def test_a_full_disk_under_the_ledger_is_said(tmp_path, open_job, clock):
    work(open_job, clock, 3)
    with pytest.raises(StrideError, match="jobs are untouched"), ledger(tmp_path / "ledger.db") as book:
        pages = book._db.execute("PRAGMA page_count").fetchone()[0]
        book._db.execute(f"PRAGMA max_page_count = {pages}")
        for n in range(200):
            book.keep(f"job {n}", "0", {**logged(open_job.job), "notes": ["x" * 4000]})


def test_a_folder_is_logged_by_months_and_looked_at_once(open_job, clock, tmp_path):
    work(open_job, clock, 3)
    clock.after(days=3)
    work(open_job, clock, 2)
    open_job.store.close()
    (tmp_path / "broken.stride").write_bytes(b"nothing")
    paths = sorted(tmp_path.glob("*.stride"))
    with ledger(tmp_path / "cache" / "ledger.db") as book:
        told = folder_log(book, paths, tmp_path / "all.md", lambda share: True)
        assert [m["month"] for m in told["months"]] == ["2026-11", "2026-12"]
        assert told["months"][0]["lines"] == 3 and told["months"][0]["days"][0]["jobs"] == ["board"]
        assert len(told["faults"]) == 1 and "broken.stride" in told["faults"][0]
        begin, end = month_bounds("2026-12")
        assert [one["lines"] for one in book.between(begin, end)] == [2]
    open_job.__init__(open_job.path)
    work(open_job, clock, 1)
    open_job.store.close()
    with ledger(tmp_path / "cache" / "ledger.db") as book:
        assert folder_log(book, paths, None, lambda share: True)["months"][1]["lines"] == 3
    assert "## 2026-12: " in (tmp_path / "all.md").read_text()


def test_a_damaged_ledger_is_made_anew(tmp_path, open_job, clock):
    work(open_job, clock, 3)
    (tmp_path / "ledger.db").write_bytes(b"no database" * 200)
    with ledger(tmp_path / "ledger.db") as book:
        assert book.look_at([open_job.path]) == []
        assert len(book.jobs([open_job.path])) == 1


def test_a_job_of_before_opens_with_neither_notes_nor_order(tmp_path):
    path = tmp_path / "schema-13.stride"
    path.write_bytes(gzip.decompress((OLD / "schema-13.stride.gz").read_bytes()))
    with opened(path, write=True) as (job, _):
        assert len(job.rows.lines) == 2 and not job.rows.notes and not job.rows.schedule
        assert order_row(job).school == "big to small" and len(job.rows.inks) == 1


# The review, the next page


def test_remarks_come_back_from_a_copy_and_from_no_other_job(open_job, clock, tmp_path):
    """Two jobs of one size, each with a line of the same id, are no copies of each other."""
    work(open_job, clock, 2)
    open_job.store.close()
    give_out(open_job.path, tmp_path / "copy.stride")
    new_job(tmp_path / "other.stride", Page((120.0, 90.0), 300.0))
    for name, words in (("copy", "heavier"), ("other", "not ours")):
        there = OpenJob(tmp_path / f"{name}.stride")
        clock.after(hours=1)
        if name == "other":
            there.pull((10, 10), (90, 10), part="Coat")
            assert set(there.job.rows.lines) & set(open_job.job.rows.lines)
        there.do("remark", at=[20.0, 20.0], words=words, by="S.")
        there.store.close()
    open_job.again()
    assert [told["words"] for _, told in remarks_back(open_job.job, tmp_path / "copy.stride")] == ["heavier"]
    with pytest.raises(JobError, match="no copy of this job"):
        remarks_back(open_job.job, tmp_path / "other.stride")


def test_a_review_goes_out_whole_or_not_at_all(open_job, clock, tmp_path, monkeypatch):
    work(open_job, clock, 2)

    def full(*_):
        raise JobError("there is no room on the disk")

    monkeypatch.setattr(red_review, "write_whole", full)
    with pytest.raises(JobError, match="no room"):
        give_out(open_job.path, tmp_path / "copy.stride")
    assert not (tmp_path / "copy.stride").exists() and not (tmp_path / "copy.pdf").exists()


def test_the_next_page_carries_hours_and_school_but_no_steps(open_job, clock, tmp_path):
    work(open_job, clock, 2)
    open_job.do("order", school="far to near", sequence=["a"])
    open_job.do("schedule", deadline="2030-01-01T18:00:00+00:00", hours=3.5)
    next_page(open_job.job, tmp_path / "next.stride")
    with opened(tmp_path / "next.stride") as (job, _):
        assert (schedule_row(job).hours, schedule_row(job).deadline) == (3.5, None)
        assert (order_row(job).school, order_row(job).sequence) == ("far to near", ())
        assert not job.rows.lines and job.part_named("Coat") is not None
        assert job.new_id("l") not in open_job.job.rows.lines


def test_hatching_is_found_in_pencils():
    strokes = [np.column_stack([np.linspace(0.0, 8.0, 20) + 1.2 * n, np.linspace(0.0, 8.0, 20)]) for n in range(16)]
    long = np.column_stack([np.linspace(0.0, 90.0, 100), np.full(100, 40.0)])
    alone = np.array([[60.0, 60.0], [64.0, 63.0], [68.0, 66.0]])
    assert hatched([*strokes, long, alone]).tolist() == [True] * 16 + [False, False]
    assert hatched([]).tolist() == []


# The command line


def test_the_command_line_tells_log_order_and_forecast(run, open_job, clock, tmp_path):
    work(open_job, clock, 5)
    open_job.do("remark", at=[10, 10], words="again")
    open_job.store.close()
    path = open_job.path
    assert "5 lines in 1 sitting" in run("log", path)
    assert "5 lines in 1 sitting" not in run("log", path, tmp_path / "log.json")
    assert json.loads((tmp_path / "log.json").read_text())["sittings"][0]["lines"] == 5
    told = json.loads(run("order", path, "--json"))
    assert told["steps"][0]["kind"] == "to draw again" and {
        "id",
        "kind",
        "part",
        "mm_left",
        "hours",
        "done",
        "x",
        "y",
    } <= set(told["steps"][0])
    assert "to draw again" in run("order", path)
    told = json.loads(run("forecast", path, "--json", "--calendar", tmp_path / "c.ics"))
    assert {"left", "hours", "low", "high", "from_lines", "deadline"} <= set(told)
    assert (tmp_path / "c.ics").read_bytes().startswith(b"BEGIN:VCALENDAR")
    assert "board: 1 line, 0 mm are left: " in run("forecast", tmp_path)
    assert "1 job" in run("log", tmp_path)
    assert "a log is written as" in run("log", path, tmp_path / "log.xls", want=2)
    (tmp_path / "empty").mkdir()
    assert "no jobs" in run("log", tmp_path / "empty", want=1)
    for wrong in ("0", "nan", "long"):
        assert f"a pause is 5 to 1800 s, not {wrong}" in run("log", path, "--pause", wrong, want=2)


def test_the_command_line_practises_into_a_book_of_its_own(run, tmp_path):
    assert "hand book is empty" in run("practice")
    assert "name it by --book" in run("practice", "--drill", "circles", want=2)
    assert "no drill 'nothing'" in run("practice", "--drill", "nothing", "--book", tmp_path / "b.db", want=1)
    told = json.loads(run("practice", "--drill", "circles", "--count", 5, "--book", tmp_path / "b.db", "--json"))
    assert told["hands"][0]["pulls"] == 5 and told["units"] == "mm"
    (tmp_path / "x.json").write_text("{}")
    assert "no hand book" in run("practice", "--take-in", tmp_path / "x.json", "--book", tmp_path / "b.db", want=1)
