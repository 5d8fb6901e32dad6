"""The command that lays tones, and tells what those of a job measure."""

import argparse
from pathlib import Path
from typing import Any

from plain_stride.cli.telling import Command, commit_made, print_json, progress_shown


def add_commands(command: Command) -> None:
    tone = command("tone", _tone, "lay hatching, blacks and halos, and tell what they measure")
    tone.add_argument("job", type=Path, metavar="JOB")
    tone.add_argument("tones", type=Path, nargs="?", metavar="TONES.json", help="without it, what is there is told")
    tone.add_argument("--strokes", metavar="PART", help="tell how even a part's strokes of texture lie, as one set")


def _tone(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job import reading
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.job.tone_reports import told_balance, told_strokes, tone_report

    wanted = None if a.tones is None else reading.tones(reading.read_json(a.tones))
    with opened(a.job, write=wanted is not None) as (job, store):
        load_if_compiled()
        shapes = Shapes(job, store)
        keys = list(job.rows.tones)
        if wanted is not None:
            made = make_all(job, shapes, wanted, "tones", progress=progress_shown)
            # A plane that is lit has none.
            keys = [str(key) for key in made.results if key is not None]
        # What cannot be told is not laid either.
        told = [tone_report(job, shapes, key) for key in keys]
        if wanted is not None:
            commit_made(store, made, shapes)
        told_all: dict[str, Any] = {"units": "mm", "tones": told}
        if a.strokes is not None:
            told_all["strokes"] = told_strokes(job, shapes, a.strokes)
        if wanted is None:
            told_all["balance"] = told_balance(job, shapes)
        print_json(told_all)
