"""A job made, told of, changed, and taken back and forth."""

import argparse
import json
from pathlib import Path
from typing import Any

from plain_stride.cli.telling import (
    MANY_LINES,
    Command,
    commit_made,
    print_json,
    progress_shown,
    tell_apart,
)
from plain_stride.errors import StrideError


def add_commands(command: Command) -> None:
    _add_new(command)
    _add_reports(command)
    _add_board(command)
    _add_nibs(command)
    _add_edit(command)
    _add_history(command)
    _add_weigh(command)


def _add_new(command: Command) -> None:
    new = command("new", _new, "make a job")
    new.add_argument("job", type=Path, metavar="JOB")
    new.add_argument("--size", required=True, help="finished size: 120x90mm, 8x10in or 2000x1500px")
    new.add_argument("--dpi", required=True, type=float, help="resolution of every export")
    new.add_argument("--enlarge", default="1", help="how much larger it is inked than printed: 2, or 200%%")
    new.add_argument("--pencils", type=Path, metavar="SCAN", help="a scan to ink: PNG, JPEG, TIFF or WebP")


def _add_reports(command: Command) -> None:
    for name, work, words in (
        ("info", _info, "what a job holds, as JSON"),
        ("lines", _lines, "all lines with their widths, as JSON"),
    ):
        sub = command(name, work, words)
        sub.add_argument("job", type=Path, metavar="JOB")
        sub.add_argument("--json", action="store_true", help="as JSON (the only form)")


def _add_board(command: Command) -> None:
    board = command("board", _board, "what the board comes to: ladder, floor, enlargement, other uses, as JSON")
    board.add_argument("job", type=Path, metavar="JOB")
    board.add_argument("--json", action="store_true", help="as JSON (the only form)")
    moves = board.add_mutually_exclusive_group()
    moves.add_argument("--targets-out", type=Path, metavar="FILE", help="write own print targets to give away")
    moves.add_argument("--targets-in", type=Path, metavar="FILE", help="take print targets from such a file")


def _add_nibs(command: Command) -> None:
    nibs = command("nibs", _nibs, "the nibs on the number keys, as JSON that another job can take")
    nibs.add_argument("job", type=Path, metavar="JOB")
    sets = nibs.add_mutually_exclusive_group()
    sets.add_argument("--out", type=Path, metavar="FILE", help="write them to a file, to keep or to give away")
    sets.add_argument("--in", type=Path, metavar="FILE", dest="source", help="take nibs from such a file, as one step")
    sets.add_argument(
        "--sheet", type=Path, metavar="OUT.svg|pdf", help="a sheet of all nibs at all pressures, to print"
    )


def _add_edit(command: Command) -> None:
    edit = command("edit", _edit, "make the named changes of a file, as one step")
    edit.add_argument("job", type=Path, metavar="JOB")
    edit.add_argument("edits", type=Path, metavar="EDITS.json")
    for name, work, words in (("undo", _undo, "take steps back"), ("redo", _redo, "do steps again")):
        sub = command(name, work, words)
        sub.add_argument("job", type=Path, metavar="JOB")
        sub.add_argument("count", type=int, nargs="?", default=1, metavar="N")


def _add_history(command: Command) -> None:
    history = command("history", _history, "how large the history is, and its marks")
    history.add_argument("job", type=Path, metavar="JOB")
    history.add_argument("--json", action="store_true", help="as JSON (the only form)")
    verbs = history.add_mutually_exclusive_group()
    verbs.add_argument("--mark", metavar="NAME", help="name this moment")
    verbs.add_argument("--go", metavar="NAME", help="go to a mark; the way that is left stays")
    verbs.add_argument("--forget", metavar="NAME", help="forget all steps before a mark, for good")
    verbs.add_argument("--pack", action="store_true", help="give back the room of what is gone; the history stays")


def _add_weigh(command: Command) -> None:
    weigh = command("weigh", _weigh, "lay the plan, and report the weights")
    weigh.add_argument("job", type=Path, metavar="JOB")
    weigh.add_argument("--share", type=float, default=100.0, help="0..100 per cent plan against the hand (100)")
    weigh.add_argument("--plan", metavar="NAME|FILE", help="a plan by its name, or the JSON file of one")
    weigh.add_argument("--json", action="store_true", help="report the weights as JSON")
    lamps = "twice for two lamps"
    weigh.add_argument("--light", type=_lamp_from, action="append", dest="lamps", metavar="DEG",
                       help=f"where the light comes from, clockwise, 0 straight from above; {lamps}")  # fmt: skip
    weigh.add_argument("--light-at", type=_lamp_at, action="append", dest="lamps", metavar="X,Y",
                       help=f"a lamp at a place on the sheet, mm; {lamps}")  # fmt: skip
    weigh.add_argument("--like", type=Path, metavar="JOB", help="compare the weights with another job's, of a series")
    weigh.add_argument("--learn", action="store_true", help="tell the plan that the hand's widths follow; lays none")
    weigh.add_argument(
        "--plan-out", type=Path, metavar="FILE", help="write the plan to a file, to keep or to give away"
    )


def _lamp_from(words: str) -> dict[str, float]:
    return {"from": float(words)}


def _lamp_at(words: str) -> dict[str, list[float]]:
    x, y = words.split(",")
    return {"at": [float(x), float(y)]}


def _new(a: argparse.Namespace) -> None:
    from plain_stride.board.page import Page
    from plain_stride.job.job_files import new_job, opened
    from plain_stride.job.reading import read_bytes
    from plain_stride.job.whole_files import made_whole
    from plain_stride.measure import parse_size, parse_times
    from plain_stride.pencils.picture import picture_facts

    page = Page(parse_size(a.size, a.dpi), a.dpi, parse_times(a.enlarge))
    data = None
    if a.pencils is not None:
        data = read_bytes(a.pencils)
        picture_facts(data)
    with made_whole(a.job) as part:
        new_job(part, page)
        if data is not None:
            from plain_stride.job.changes import make
            from plain_stride.job.shapes import Shapes

            with opened(part, write=True) as (job, store):
                commit_made(store, make(job, Shapes(job), "pencils-add", {"data": data, "name": a.pencils.stem}))


def _info(a: argparse.Namespace) -> None:
    from plain_stride.job import reports
    from plain_stride.job.job_files import opened

    with opened(a.job) as (job, _):
        print_json(reports.info(job))


def _lines(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job import reports
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    with opened(a.job) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        print_json(reports.lines(job, Shapes(job, store)))
        tell_apart(job)


def _board(a: argparse.Namespace) -> None:
    from plain_stride.board.targets import targets_from_json, targets_json
    from plain_stride.finish.write import write_whole
    from plain_stride.job.board_facts import targets_of
    from plain_stride.job.board_report import whole_report
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.reading import read_json
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=a.targets_in is not None) as (job, store):
        shapes = Shapes(job, store)
        if a.targets_in is not None:
            found = targets_from_json(read_json(a.targets_in))
            commit_made(store, make_all(job, shapes, [("target", t.as_row()) for t in found], "print targets"))
        elif a.targets_out is not None:
            own = [target for target in targets_of(job).values() if target.own] or list(targets_of(job).values())
            write_whole(a.targets_out, targets_json(own).encode())
        else:
            print_json(whole_report(job, shapes))


def _nibs(a: argparse.Namespace) -> None:
    from plain_stride.finish.nib_sheet import WRITERS, nib_sheet
    from plain_stride.finish.write import WriteError, write_whole
    from plain_stride.hand.nib_sets import nibs_from_json, nibs_json
    from plain_stride.job.board_changes import nib_changes
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.reading import read_json
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=a.source is not None) as (job, store):
        if a.source is not None:
            wanted = nib_changes(nibs_from_json(read_json(a.source)))
            commit_made(store, make_all(job, Shapes(job, store), wanted, "nibs taken"))
            return
        if a.sheet is not None:
            writer = WRITERS.get(a.sheet.suffix.lower())
            if writer is None:
                raise WriteError(f"a sheet of nibs is written as {' or '.join(WRITERS)}, not {a.sheet.suffix}")
            write_whole(a.sheet, writer(nib_sheet(job.nibs(), job.name)))
            return
        text = nibs_json(a.out.stem if a.out is not None else job.name, job.nibs())
        if a.out is not None:
            write_whole(a.out, text.encode())
        else:
            print(text, end="")


def _edit(a: argparse.Namespace) -> None:
    from plain_stride.job import reading
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    wanted = reading.edits(reading.read_json(a.edits))
    with opened(a.job, write=True) as (job, store):
        shapes = Shapes(job, store)
        commit_made(store, make_all(job, shapes, wanted, progress=progress_shown), shapes)


def _undo(a: argparse.Namespace) -> None:
    _walk_history(a, "undo")


def _redo(a: argparse.Namespace) -> None:
    _walk_history(a, "redo")


def _walk_history(a: argparse.Namespace, way: str) -> None:
    from plain_stride.job.job_files import opened

    if a.count < 1:
        raise StrideError(f"{way} takes a number of steps from 1 up, not {a.count}")
    with opened(a.job, write=True) as (job, store):
        there = job.history.undo_count() if way == "undo" else job.history.redo_count()
        if there < a.count:
            raise StrideError(f"there are {there} steps to {way}, not {a.count}: nothing was changed")
        commit = job.undone(a.count) if way == "undo" else job.redone(a.count)
        assert commit is not None
        store.commit(commit)


def _history(a: argparse.Namespace) -> None:
    from plain_stride.job import reports
    from plain_stride.job.job_files import opened

    with opened(a.job, write=bool(a.mark or a.go or a.forget or a.pack)) as (job, store):
        if a.mark:
            store.mark(a.mark, job.history.set_mark(a.mark))
        elif a.go:
            if a.go not in job.history.marks:
                raise StrideError(f"there is no mark '{a.go}'; there are: {', '.join(job.history.marks) or 'none'}")
            commit = job.go_to(job.history.marks[a.go])
            if commit is not None:
                store.commit(commit)
        elif a.forget:
            forgetting = job.forgetting(a.forget)
            store.forget(forgetting)
            job.forget(forgetting)
        if a.forget or a.pack:
            store.pack()
        print_json(reports.history(job, *store.sizes()))


def _weigh(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.job import reports
    from plain_stride.job.changes import make
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.weight.plan_file import plan_json

    if a.learn or a.like is not None:
        _learn(a) if a.learn else _like(a)
        return
    wanted = {"share": a.share} | ({} if a.plan is None else {"plan": _plan_of(a.plan)})
    wanted |= {} if a.lamps is None else {"light": a.lamps}
    with opened(a.job, write=True) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        shapes = Shapes(job, store)
        made = make(job, shapes, "plan", wanted)
        # What cannot be told is not laid either.
        told = reports.weigh(job, shapes) if a.json else None
        if a.plan_out is not None:
            write_whole(a.plan_out, (json.dumps(plan_json(job.plan), indent=2) + "\n").encode())
        commit_made(store, made, shapes)
        if told is not None:
            print_json(told)


def _like(a: argparse.Namespace) -> None:
    """Tells how two jobs compare; lays nothing."""
    from plain_stride.job.job_files import opened
    from plain_stride.job.reports import inked_of, likeness
    from plain_stride.job.shapes import Shapes

    with opened(a.job) as (job, store), opened(a.like) as (other, other_store):
        here, there = inked_of(job, Shapes(job, store)), inked_of(other, Shapes(other, other_store))
        print_json({"units": "mm", "like": likeness(here, there)})


def _learn(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.job.job_files import opened
    from plain_stride.job.reports import told_learned
    from plain_stride.job.shapes import Shapes
    from plain_stride.job.weight_questions import learned_of
    from plain_stride.weight.plan_file import plan_json

    with opened(a.job) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        found = learned_of(job, Shapes(job, store), progress_shown)
    if a.plan_out is not None:
        write_whole(a.plan_out, (json.dumps(plan_json(found.plan), indent=2) + "\n").encode())
    print_json(told_learned(found))


def _plan_of(words: str) -> Any:
    """A plan's name, or what its file holds."""
    from plain_stride.job.reading import read_json
    from plain_stride.weight.schools import SCHOOLS

    if words.casefold() in map(str.casefold, SCHOOLS) or not Path(words).suffix:
        return words
    return read_json(Path(words))
