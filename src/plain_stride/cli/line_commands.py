"""Lines pulled by a simulated hand, or brought in from a file."""

import argparse
import sys
from pathlib import Path

from plain_stride.cli.telling import (
    Command,
    commit_made,
    progress_shown,
)
from plain_stride.errors import StrideError


def add_commands(command: Command) -> None:
    pull = command("pull", _pull, "let a simulated hand pull along target curves")
    pull.add_argument("job", type=Path, metavar="JOB")
    pull.add_argument("targets", type=Path, metavar="TARGETS.json")
    pull.add_argument("--hand", default="average", help="calm, average or shaky")
    pull.add_argument("--seed", type=int, default=0)
    bring = command("import", _import, "lay pulls or lines from a file, as one step")
    bring.add_argument("job", type=Path, metavar="JOB")
    bring.add_argument("source", type=Path, metavar="PULLS.json|LINES.json|ART.svg|INKS.png")
    bring.add_argument("--steady", choices=("off", "live", "after"), help="how pulls are steadied (after)")
    bring.add_argument("--leeway", metavar="MM|auto", help="how far steadying may move the shape (auto)")
    bring.add_argument("--nib", default="3", help="the nib that pulls are drawn with (3)")
    bring.add_argument("--dpi", type=float, help="the resolution of a picture of finished inks that does not say it")
    bring.add_argument("--marks", choices=("lines", "final"), help="a scan of the blue sheet, inked: squared up by its"
                       " register marks, the blue taken out; read as lines, or laid as final art")  # fmt: skip


def _pull(a: argparse.Namespace) -> None:
    from plain_stride.hand.pull import Pull, View
    from plain_stride.hand.simulated import HANDS, TargetError, pulled
    from plain_stride.job import reading
    from plain_stride.job.changes import make
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    if a.hand not in HANDS:
        raise TargetError(f"hand '{a.hand}' is not known: {', '.join(HANDS)}")
    wanted = reading.targets(reading.read_json(a.targets))
    with opened(a.job, write=True) as (job, store):
        shapes, nib, glass = Shapes(job, store), job.nibs()["3"], job.page.enlarge
        for k, target in enumerate(wanted):
            points, pace, closed = target.pop("points"), target.pop("pace"), target.pop("closed")
            samples = pulled(points, HANDS[a.hand], pace, [a.seed, k], closed, glass)
            made = make(job, shapes, "pull", {"pull": Pull(samples, nib, View(glass), "simulated"), **target})
            commit_made(store, made, shapes)
            print(f"saved {made.results[0]}", flush=True)
            progress_shown((k + 1) / len(wanted))


def _import(a: argparse.Namespace) -> None:
    from dataclasses import replace

    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.hand.nib import Steadying
    from plain_stride.job import reading
    from plain_stride.job.changes import make_all
    from plain_stride.job.inks_in import PICTURES, inks_of
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.measure import parse_length_mm

    leeway = None if a.leeway in (None, "auto") else parse_length_mm(a.leeway)
    setting = Steadying(a.steady or "after", leeway)
    if a.marks is not None:
        _scan_back(a)
        return
    kind = a.source.suffix.lower()
    svg = reading.read_bytes(a.source) if kind == ".svg" else None
    inks = inks_of(reading.read_bytes(a.source), a.dpi, progress_shown) if kind in PICTURES else None
    data = {} if svg is not None or inks is not None else reading.read_json(a.source)
    with opened(a.job, write=True) as (job, store):
        nibs = job.nibs()
        if a.nib not in nibs:
            raise StrideError(f"there is no nib {a.nib}; there are: {', '.join(nibs)}")
        nib = replace(nibs[a.nib], steadying=setting)
        told = ""
        if inks is not None:
            wanted, told = inks.wanted, inks.sentence
        elif svg is not None:
            wanted, told = reading.svg_changes(svg, nib, {part.name: part.tier for part in job.parts()})
        else:
            wanted = reading.import_changes(data, nib)
        if reading.is_heavy(wanted):
            load_if_compiled()
        shapes = Shapes(job, store)
        commit_made(store, make_all(job, shapes, wanted, f"import of {a.source.name}", progress_shown), shapes)
    if told:
        print(f"plain-stride: {told}", file=sys.stderr)


def _scan_back(a: argparse.Namespace) -> None:
    """A scan of the blue sheet, inked: lines that are read of it, or final art."""
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.paper_way import back_changes, scan_back
    from plain_stride.job.reading import read_bytes
    from plain_stride.job.shapes import Shapes

    load_if_compiled()
    data = read_bytes(a.source)
    with opened(a.job, write=True) as (job, store):
        back = scan_back(data, job.page.size_mm)
        wanted, told = back_changes(back, job, a.marks == "final", a.source.stem, progress_shown)
        shapes = Shapes(job, store)
        commit_made(store, make_all(job, shapes, wanted, f"scan of {a.source.name}", progress_shown), shapes)
    for words in told:
        print(f"plain-stride: {words}", file=sys.stderr)
