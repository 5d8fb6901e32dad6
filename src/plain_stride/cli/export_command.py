"""Final art written to a file."""

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from plain_stride.cli.telling import (
    MANY_LINES,
    Command,
    progress_shown,
    refuse,
    share_teller,
    tell_apart,
)

if TYPE_CHECKING:
    from plain_stride.finish.writers import Rasteriser

NOT_YET_FORMATS = (".tif", ".tiff", ".ora", ".csv")


def add_commands(command: Command) -> None:
    export = command("export", _export, "write final art: .svg, .pdf, .png or .json")
    export.add_argument("job", type=Path, metavar="JOB")
    export.add_argument("out", type=Path, metavar="OUT.svg|pdf|png|json")
    export.add_argument("--bw", action="store_true", help="PNG of one bit a pixel")
    export.add_argument("--transparent", action="store_true", help="PNG of ink on nothing")
    export.add_argument("--grain", choices=("vector", "pixels"), help="SVG: textured lines as outlines or as pictures")
    export.add_argument("--bleed", action="store_true", help="with the board's bleed round the finished sheet")
    export.add_argument("--progress", action="store_true", help="tell the share done on stderr, a line each per cent")


def _export(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.finish.writers import WRITERS, Choices
    from plain_stride.job.art import drafts_of
    from plain_stride.job.art_files import KINDS, art_bytes
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    kind = a.out.suffix.lower()
    if kind in NOT_YET_FORMATS:
        return refuse(2, f"export to {kind} is not in this version")
    if kind not in KINDS:
        return refuse(2, f"export to '{a.out.name}' is not known: {', '.join(WRITERS)} or .json")
    if kind != ".png" and (a.bw or a.transparent):
        return refuse(2, "--bw and --transparent go with a PNG")
    if kind != ".svg" and a.grain:
        return refuse(2, "--grain goes with an SVG: a PNG is pixels, a PDF outlines, JSON holds whole lines")
    if kind == ".json" and a.bleed:
        return refuse(2, "--bleed goes with a picture: JSON holds whole lines")
    progress = share_teller() if a.progress else progress_shown
    choices = Choices(a.bw, a.transparent, a.grain == "pixels")
    with opened(a.job) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        left_out = len(drafts_of(job))
        data = art_bytes(job, Shapes(job, store), kind, choices, a.bleed, _pixels, progress)
        tell_apart(job)
    write_whole(a.out, data)
    if left_out and kind != ".json":
        print(f"plain-stride: {left_out} drafts are no ink yet and were left out: take or refuse them", file=sys.stderr)
    return None


def _pixels() -> "Rasteriser":
    from plain_stride.render.export import Pixels

    return Pixels()
