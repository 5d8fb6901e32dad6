"""Pencils read, and their lines laid as drafts."""

import argparse
from pathlib import Path

from plain_stride.cli.telling import (
    Command,
    commit_made,
    print_json,
    progress_shown,
    share_teller,
)
from plain_stride.errors import StrideError


def add_commands(command: Command) -> None:
    read = command("read", _read, "what lines the pencils hold, and where they are undecided, as JSON")
    read.add_argument("job", type=Path, metavar="JOB")
    read.add_argument("--json", action="store_true", help="as JSON (the only form)")
    read.add_argument("--map", action="store_true", help="with the map of what the ink lost, a PNG in base64")
    trace = command("trace", _trace, "lay the pencils' lines as drafts, in a part of their own")
    trace.add_argument("job", type=Path, metavar="JOB")
    trace.add_argument(
        "--confidence",
        type=float,
        help="leave out lines less sure than that, 0..1; 0.3 if not told, below it construction comes",
    )
    trace.add_argument("--anyway", action="store_true", help="lay them even where it looks like no drawing")
    trace.add_argument("--own-pressure", action="store_true", help="as wide as your own pulls swell, not a taper")
    for sub in (read, trace):
        sub.add_argument("--progress", action="store_true", help="tell the share done on stderr, a line each per cent")


def _read(a: argparse.Namespace) -> None:
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.job.told_reading import told_reading

    with opened(a.job) as (job, store):
        progress = share_teller() if a.progress else progress_shown
        print_json(told_reading(job, Shapes(job, store), progress, a.map))


def _trace(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.own_pressure import own_widths
    from plain_stride.job.pencil_reading import draft_changes, read_job, sure_lines
    from plain_stride.job.shapes import Shapes
    from plain_stride.pencils.read.confidence import KEPT

    with opened(a.job, write=True) as (job, store):
        reading = read_job(job, share_teller() if a.progress else progress_shown)
        if reading.doubt and not a.anyway:
            raise StrideError(f"{reading.sentence} No drafts were laid; --anyway lays them")
        load_if_compiled()
        sure = sure_lines(reading, KEPT if a.confidence is None else a.confidence)
        wanted = draft_changes(job, sure, own_widths(job) if a.own_pressure else None)
        shapes = Shapes(job, store)
        commit_made(store, make_all(job, shapes, wanted, "draft lines"), shapes)
    print(f"{len(wanted) - 1} draft lines laid in part '{wanted[0][1]['name']}'. {reading.sentence}")
