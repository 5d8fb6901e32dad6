"""Final art written to files."""

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from plain_stride.cli.telling import MANY_LINES, Command, progress_shown, refuse, share_teller, tell_apart
from plain_stride.finish.choices import COLOURS, LAYERINGS, Choices
from plain_stride.texts import counted

if TYPE_CHECKING:
    from plain_stride.finish.art import Art
    from plain_stride.finish.pages import Rasteriser
    from plain_stride.job.art_files import Asked
    from plain_stride.job.job import Job
    from plain_stride.job.shapes import Shapes

ENDINGS = ".svg|pdf|png|tif|ora|csv|json"
TAKEN = {"bw": "--bw", "transparent": "--transparent", "pictured": "--grain", "colour": "--colour", "by": "--by",
         "marks": "--marks", "strokes": "--strokes"}  # fmt: skip
"""Choices of a file by the options that make them."""


def add_commands(command: Command) -> None:
    export = command("export", _export, "write final art: .svg, .pdf, .png, .tif, .ora, .csv or .json")
    export.add_argument("job", type=Path, metavar="JOB|FOLDER", help="a job; for a PDF also a folder, a page a job")
    export.add_argument("out", type=Path, metavar=f"OUT{ENDINGS}")
    export.add_argument("--bw", action="store_true", help="PNG, TIFF: one bit a pixel")
    export.add_argument("--transparent", action="store_true", help="PNG: ink on nothing")
    export.add_argument("--colour", choices=COLOURS, default="auto", help="PNG, TIFF: whatever the inks are")
    export.add_argument("--by", choices=LAYERINGS, help="ORA: what its layers are; TIFF: part, a page for each as well")
    export.add_argument("--marks", action="store_true", help="PDF: crop marks")
    export.add_argument("--strokes", action="store_true", help="SVG: lines of one width as strokes")
    export.add_argument("--grain", choices=("vector", "pixels"), help="SVG: textured lines as outlines or as pictures")
    export.add_argument("--dpi", type=float, help="another resolution than the board's")
    export.add_argument("--width", type=int, metavar="PX", help="so many pixels wide instead")
    export.add_argument("--bleed", action="store_true", help="with the board's bleed round the finished sheet")
    export.add_argument("--flats", action="store_true", help="with the flats below the ink")
    export.add_argument("--pencils", action="store_true", help="ORA: with the pencils, as a layer")
    export.add_argument("--blue", action="store_true", help="PDF: the pencils alone in pale blue, with register marks,"
                        " to be inked on paper")  # fmt: skip
    export.add_argument("--plain", action="store_true", help="without the finishes")
    export.add_argument("--progress", action="store_true", help="tell the share done on stderr, a line each per cent")


def _export(a: argparse.Namespace) -> int | None:
    from plain_stride.finish.write import write_whole
    from plain_stride.job.art_files import KINDS
    from plain_stride.job.job_files import opened
    from plain_stride.job.paper_way import blue_sheet

    kind = a.out.suffix.lower()
    if kind not in (*KINDS, ".tiff"):
        return refuse(2, f"export to '{a.out.name}' is not known: {', '.join(KINDS)}")
    if (wrong := _wrong_use(a, kind)) is not None:
        return refuse(2, wrong)
    if a.job.is_dir():
        return _folder(a) if kind == ".pdf" else refuse(2, "a folder of jobs goes into a PDF, a page a job")
    with opened(a.job) as (job, store):
        if a.blue:
            write_whole(a.out, blue_sheet(job))
            return None
        _write(a, job, store, kind)
    return None


def _wrong_use(a: argparse.Namespace, kind: str) -> str | None:
    from plain_stride.finish.writers import WRITERS, kind_of

    writer = WRITERS.get(kind_of(kind))
    takes = writer.takes if writer is not None else frozenset()
    asked = {"bw": a.bw, "transparent": a.transparent, "pictured": a.grain, "colour": a.colour != "auto", "by": a.by,
             "marks": a.marks, "strokes": a.strokes}  # fmt: skip
    for name, on in asked.items():
        if on and name not in takes:
            fits = [ending for ending, one in WRITERS.items() if name in one.takes]
            return f"{TAKEN[name]} goes with {', '.join(fits)}, not with {kind}"
    if writer is None and (a.bleed or a.dpi or a.width or a.flats or a.pencils):
        return f"{kind} holds whole lines: it has no bleed, no resolution, no flats and no pencils"
    if a.dpi is not None and a.width is not None:
        return "ask for --dpi or for --width, not for both"
    if a.dpi is not None and not 1.0 <= a.dpi <= 4800.0:
        return "--dpi goes from 1 to 4800"
    if a.width is not None and not 1 <= a.width <= 60_000:
        return "--width goes from 1 to 60000 pixels"
    if a.pencils and kind != ".ora":
        return "--pencils goes with .ora, where they are a layer: they are no part of final art"
    if a.blue and kind != ".pdf":
        return "--blue goes with .pdf"
    if a.bw and a.flats:
        return "--bw holds no flats: one bit has black and white alone"
    return None


def asked_of(a: argparse.Namespace) -> "Asked":
    from plain_stride.job.art_files import Asked

    by = a.by or ("part" if a.out.suffix.lower() == ".ora" else "one")
    choices = Choices(a.bw, a.transparent, a.grain == "pixels", a.colour, by, a.marks, a.strokes)
    return Asked(choices, a.bleed, a.dpi, a.width, a.plain, a.flats, a.pencils)


def _write(a: argparse.Namespace, job: "Job", store: object, kind: str) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.job.art import drafts_of
    from plain_stride.job.art_files import art_bytes
    from plain_stride.job.shapes import Shapes

    if len(job.rows.lines) >= MANY_LINES:
        load_if_compiled()
    shapes, asked = Shapes(job, store), asked_of(a)  # type: ignore[arg-type]
    _tell_first(job, shapes, asked, kind)
    data = art_bytes(job, shapes, kind, asked, pixels, share_teller() if a.progress else progress_shown)
    tell_apart(job)
    write_whole(a.out, data)
    left_out = len(drafts_of(job))
    if left_out and kind != ".json":
        print(f"plain-stride: {left_out} drafts are no ink yet and were left out: take or refuse them", file=sys.stderr)


def _tell_first(job: "Job", shapes: "Shapes", asked: "Asked", kind: str) -> None:
    """What a file will not hold as it is seen: told before it is written."""
    from plain_stride.job.export_facts import dropped_words, thin_words

    words = [thin_words(job, shapes, asked)] if asked.dpi or asked.width else []
    words += dropped_words(job, asked, kind)
    for one in filter(None, words):
        print(f"plain-stride: {one}", file=sys.stderr)


def _folder(a: argparse.Namespace) -> int | None:
    """A page for each job of a folder, by their names; a job that cannot be opened stops it."""
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.errors import StrideError
    from plain_stride.finish.pdf import pdf_of_pages
    from plain_stride.finish.write import write_whole
    from plain_stride.job.art_files import art_asked
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    paths = sorted(a.job.glob("*.stride"))
    if not paths:
        raise StrideError(f"there are no jobs in {a.job}")
    load_if_compiled()
    arts: list[Art] = []
    for path in paths:
        with opened(path) as (job, store):
            art = art_asked(job, Shapes(job, store), asked_of(a), curves=True)
            # Outlines are worked out while the job is open.
            for part in art.parts:
                for line in part.lines:
                    line.seen_curves()
            arts.append(art)
    write_whole(a.out, pdf_of_pages(arts, asked_of(a).choices, pixels(), progress_shown))
    print(f"{counted(len(arts), 'page')}: {', '.join(path.stem for path in paths)}")
    return None


def pixels() -> "Rasteriser":
    """Our rasteriser, which needs Qt."""
    from plain_stride.render.export import Pixels

    return Pixels()
