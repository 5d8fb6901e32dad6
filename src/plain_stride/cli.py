"""The command line: the same work without a window. Statuses: 0 done, 1 could not, 2 wrong use."""

import argparse
import json
import os
import sys
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from plain_stride import __version__
from plain_stride.errors import StrideError
from plain_stride.texts import clean, shortened

if TYPE_CHECKING:
    from plain_stride.finish.writers import Rasteriser

NOT_YET = ("proof", "mend", "tone", "flats", "finish", "deliver", "log", "order", "forecast", "practice")
MANY_LINES = 100
"""From so many lines on an export is quicker with the compiled loops, whose loading takes half a second."""
NOT_YET_FORMATS = (".tif", ".tiff", ".ora", ".csv")


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"plain-stride: {message}", file=sys.stderr)
        sys.exit(2)


def run() -> None:
    # What libraries warn of is for their users, not for ours: a command says one sentence.
    warnings.simplefilter("ignore")
    status = main(sys.argv[1:])
    try:
        sys.stdout.flush()
    except OSError as fault:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        if not isinstance(fault, BrokenPipeError):
            status = _refuse(1, f"what was to be told could not be written: {fault.strerror}")
    sys.exit(status)


def main(argv: list[str]) -> int:
    """Does one command; gives the exit status. Nothing but a wrong use of the command raises SystemExit."""
    if argv and argv[0] in NOT_YET:
        return _refuse(2, f"'{argv[0]}' is not in this version")
    arguments = _parser().parse_args(argv)
    work: Callable[[argparse.Namespace], int | None] = arguments.work
    try:
        return work(arguments) or 0
    except StrideError as fault:
        return _refuse(1, str(fault))
    except BrokenPipeError:
        return 1
    except OSError as fault:
        return _refuse(1, f"the system would not do it: {fault.strerror or fault}; the job is as it was")
    except KeyboardInterrupt:
        return _refuse(1, "stopped: what was announced as saved is saved")
    except MemoryError:
        return _refuse(1, "there is not enough memory for that: nothing was changed")
    except Exception as fault:
        from plain_stride.job.logfile import log_crash

        return _refuse(1, f"something went wrong here ({fault}); the job is as it was. The log: {log_crash()}")


def _refuse(status: int, message: str) -> int:
    print(f"plain-stride: {shortened(' '.join(clean(message).split()))}", file=sys.stderr)
    return status


def _parser() -> argparse.ArgumentParser:
    top = _Parser(prog="plain-stride", description="An inking bench: pencils in, final line art out.")
    top.add_argument("--version", action="version", version=f"plain-stride {__version__}")
    commands = top.add_subparsers(metavar="COMMAND", required=True, parser_class=_Parser)

    def command(name: str, work: Callable[[argparse.Namespace], int | None], words: str) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=words, description=words)
        sub.set_defaults(work=work)
        return sub

    demo = command("demo", _demo, "open the demo job")
    instead = demo.add_mutually_exclusive_group()
    instead.add_argument("--tour", type=Path, metavar="DIR", help="save a picture of every station there instead")
    instead.add_argument("--job", type=Path, metavar="FILE", help="write the demo's job file there instead")
    opening = command("open", _open, "open a job in the window; without one, the job worked on last")
    opening.add_argument("job", type=Path, metavar="JOB", nargs="?")
    command("install", _install, "put the program into the desktop's menus, with its icon and kind of file")
    command("uninstall", _uninstall, "take it out of the desktop's menus again")
    new = command("new", _new, "make a job")
    new.add_argument("job", type=Path, metavar="JOB")
    new.add_argument("--size", required=True, help="finished size: 120x90mm or 8x10in")
    new.add_argument("--dpi", required=True, type=float, help="resolution of every export")
    new.add_argument("--enlarge", type=float, default=1.0, help="how much larger it is inked than printed")
    new.add_argument("--pencils", type=Path, metavar="SCAN", help="a scan to ink: PNG, JPEG, TIFF or WebP")
    for name, work, words in (
        ("info", _info, "what a job holds, as JSON"),
        ("lines", _lines, "all lines with their widths, as JSON"),
    ):
        sub = command(name, work, words)
        sub.add_argument("job", type=Path, metavar="JOB")
        sub.add_argument("--json", action="store_true", help="as JSON (the only form)")
    for name, work, words in (
        ("read", _read, "what lines the pencils hold, and where they are undecided, as JSON"),
        ("trace", _trace, "lay the pencils' lines as drafts, in a part of their own"),
    ):
        sub = command(name, work, words)
        sub.add_argument("job", type=Path, metavar="JOB")
        if name == "read":
            sub.add_argument("--json", action="store_true", help="as JSON (the only form)")
            sub.add_argument("--map", action="store_true", help="with the map of what the ink lost, a PNG in base64")
        else:
            sub.add_argument("--confidence", type=float, default=0.0, help="leave out lines less sure than that, 0..1")
            sub.add_argument("--anyway", action="store_true", help="lay them even where it looks like no drawing")
            sub.add_argument("--own-pressure", action="store_true", help="as wide as your own pulls swell, not a taper")
        sub.add_argument("--progress", action="store_true", help="tell the share done on stderr, a line each per cent")
    board = command("board", _board, "what the board comes to: ladder, floor, enlargement, other uses, as JSON")
    board.add_argument("job", type=Path, metavar="JOB")
    board.add_argument("--json", action="store_true", help="as JSON (the only form)")
    moves = board.add_mutually_exclusive_group()
    moves.add_argument("--targets-out", type=Path, metavar="FILE", help="write own print targets to give away")
    moves.add_argument("--targets-in", type=Path, metavar="FILE", help="take print targets from such a file")
    nibs = command("nibs", _nibs, "the nibs on the number keys, as JSON that another job can take")
    nibs.add_argument("job", type=Path, metavar="JOB")
    sets = nibs.add_mutually_exclusive_group()
    sets.add_argument("--out", type=Path, metavar="FILE", help="write them to a file, to keep or to give away")
    sets.add_argument("--in", type=Path, metavar="FILE", dest="source", help="take nibs from such a file, as one step")
    pull = command("pull", _pull, "let a simulated hand pull along target curves")
    pull.add_argument("job", type=Path, metavar="JOB")
    pull.add_argument("targets", type=Path, metavar="TARGETS.json")
    pull.add_argument("--hand", default="average", help="calm, average or shaky")
    pull.add_argument("--seed", type=int, default=0)
    bring = command("import", _import, "lay pulls or lines from a file, as one step")
    bring.add_argument("job", type=Path, metavar="JOB")
    bring.add_argument("source", type=Path, metavar="PULLS.json|LINES.json|ART.svg")
    bring.add_argument("--steady", choices=("off", "live", "after"), help="how pulls are steadied (after)")
    bring.add_argument("--leeway", metavar="MM|auto", help="how far steadying may move the shape (auto)")
    bring.add_argument("--nib", default="3", help="the nib that pulls are drawn with (3)")
    edit = command("edit", _edit, "make the named changes of a file, as one step")
    edit.add_argument("job", type=Path, metavar="JOB")
    edit.add_argument("edits", type=Path, metavar="EDITS.json")
    for name, work, words in (("undo", _undo, "take steps back"), ("redo", _redo, "do steps again")):
        sub = command(name, work, words)
        sub.add_argument("job", type=Path, metavar="JOB")
        sub.add_argument("count", type=int, nargs="?", default=1, metavar="N")
    history = command("history", _history, "how large the history is, and its marks")
    history.add_argument("job", type=Path, metavar="JOB")
    history.add_argument("--json", action="store_true", help="as JSON (the only form)")
    verbs = history.add_mutually_exclusive_group()
    verbs.add_argument("--mark", metavar="NAME", help="name this moment")
    verbs.add_argument("--go", metavar="NAME", help="go to a mark; the way that is left stays")
    verbs.add_argument("--forget", metavar="NAME", help="forget all steps before a mark, for good")
    verbs.add_argument("--pack", action="store_true", help="give back the room of what is gone; the history stays")
    weigh = command("weigh", _weigh, "lay the plan, and report the weights")
    weigh.add_argument("job", type=Path, metavar="JOB")
    weigh.add_argument("--share", type=float, default=100.0, help="0..100 per cent plan against the hand (100)")
    weigh.add_argument("--json", action="store_true", help="report the weights as JSON")
    for late in ("--plan", "--light", "--light-at"):
        weigh.add_argument(late, help=argparse.SUPPRESS)
    export = command("export", _export, "write final art: .svg, .pdf, .png or .json")
    export.add_argument("job", type=Path, metavar="JOB")
    export.add_argument("out", type=Path, metavar="OUT.svg|pdf|png|json")
    export.add_argument("--bw", action="store_true", help="PNG of one bit a pixel")
    export.add_argument("--transparent", action="store_true", help="PNG of ink on nothing")
    export.add_argument("--grain", choices=("vector", "pixels"), help="SVG: textured lines as outlines or as pictures")
    export.add_argument("--bleed", action="store_true", help="with the board's bleed round the finished sheet")
    export.add_argument("--progress", action="store_true", help="tell the share done on stderr, a line each per cent")
    return top


def _print_json(data: Any) -> None:
    json.dump(data, sys.stdout, ensure_ascii=False)
    print()


def _new(a: argparse.Namespace) -> None:
    from plain_stride.board.page import Page
    from plain_stride.job.job import new_job, opened
    from plain_stride.job.reading import read_bytes
    from plain_stride.job.whole_files import made_whole
    from plain_stride.measure import parse_size
    from plain_stride.pencils.picture import picture_facts

    page = Page(parse_size(a.size), a.dpi, a.enlarge)
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
                _commit(store, make(job, Shapes(job), "pencils-add", {"data": data, "name": a.pencils.stem}))


def _info(a: argparse.Namespace) -> None:
    from plain_stride.job import reports
    from plain_stride.job.job import opened

    with opened(a.job) as (job, _):
        _print_json(reports.info(job))


def _lines(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job import reports
    from plain_stride.job.job import opened
    from plain_stride.job.shapes import Shapes

    with opened(a.job) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        _print_json(reports.lines(job, Shapes(job, store)))
        _tell_apart(job)


def _tell_apart(job: Any) -> None:
    if words := job.apart_words():
        print(f"plain-stride: {words}", file=sys.stderr)


def _read(a: argparse.Namespace) -> None:
    from plain_stride.job.job import opened
    from plain_stride.job.pencil_reading import read_job, reading_json
    from plain_stride.job.pencils_and_ink import coverage_json, coverage_of, lost_json, lost_of
    from plain_stride.job.shapes import Shapes

    with opened(a.job) as (job, store):
        reading = read_job(job, _share_teller() if a.progress else _progress)
        out = reading_json(reading)
        if job.rows.lines:
            shapes = Shapes(job, store)
            out["coverage"] = coverage_json(coverage_of(job, shapes, reading))
            out["lost"] = lost_json(lost_of(job, shapes, reading), a.map)
        _print_json(out)


def _board(a: argparse.Namespace) -> None:
    from plain_stride.board.targets import targets_from_json, targets_json
    from plain_stride.finish.write import write_whole
    from plain_stride.job.board_facts import targets_of
    from plain_stride.job.board_report import whole_report
    from plain_stride.job.changes import make_all
    from plain_stride.job.job import opened
    from plain_stride.job.reading import read_json
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=a.targets_in is not None) as (job, store):
        shapes = Shapes(job, store)
        if a.targets_in is not None:
            found = targets_from_json(read_json(a.targets_in))
            _commit(store, make_all(job, shapes, [("target", t.as_row()) for t in found], "print targets"))
        elif a.targets_out is not None:
            own = [target for target in targets_of(job).values() if target.own] or list(targets_of(job).values())
            write_whole(a.targets_out, targets_json(own).encode())
        else:
            _print_json(whole_report(job, shapes))


def _nibs(a: argparse.Namespace) -> None:
    from plain_stride.finish.write import write_whole
    from plain_stride.hand.nib_sets import nibs_from_json, nibs_json
    from plain_stride.job.board_changes import nib_changes
    from plain_stride.job.changes import make_all
    from plain_stride.job.job import opened
    from plain_stride.job.reading import read_json
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=a.source is not None) as (job, store):
        if a.source is not None:
            wanted = nib_changes(nibs_from_json(read_json(a.source)))
            _commit(store, make_all(job, Shapes(job, store), wanted, "nibs taken"))
            return
        text = nibs_json(a.out.stem if a.out is not None else job.name, job.nibs())
        if a.out is not None:
            write_whole(a.out, text.encode())
        else:
            print(text, end="")


def _trace(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.changes import make_all
    from plain_stride.job.job import opened
    from plain_stride.job.own_pressure import own_widths
    from plain_stride.job.pencil_reading import draft_changes, read_job, sure_lines
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=True) as (job, store):
        reading = read_job(job, _share_teller() if a.progress else _progress)
        if reading.doubt and not a.anyway:
            raise StrideError(f"{reading.sentence} No drafts were laid; --anyway lays them")
        load_if_compiled()
        wanted = draft_changes(job, sure_lines(reading, a.confidence), own_widths(job) if a.own_pressure else None)
        shapes = Shapes(job, store)
        _commit(store, make_all(job, shapes, wanted, "draft lines"), shapes)
    print(f"{len(wanted) - 1} draft lines laid in part '{wanted[0][1]['name']}'. {reading.sentence}")


def _commit(store: Any, made: Any, shapes: Any = None) -> None:
    """Writes what a change made, with the fits that were worked out for it."""
    from dataclasses import replace

    if made.commit is not None:
        store.commit(replace(made.commit, fits=shapes.fresh_fits()) if shapes is not None else made.commit)


def _pull(a: argparse.Namespace) -> None:
    from plain_stride.hand.pull import Pull, View
    from plain_stride.hand.simulated import HANDS, TargetError, pulled
    from plain_stride.job import reading
    from plain_stride.job.changes import make
    from plain_stride.job.job import opened
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
            _commit(store, made, shapes)
            print(f"saved {made.results[0]}", flush=True)
            _progress((k + 1) / len(wanted))


def _import(a: argparse.Namespace) -> None:
    from dataclasses import replace

    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.hand.nib import Steadying
    from plain_stride.job import reading
    from plain_stride.job.changes import make_all
    from plain_stride.job.job import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.measure import parse_length_mm

    leeway = None if a.leeway in (None, "auto") else parse_length_mm(a.leeway)
    setting = Steadying(a.steady or "after", leeway)
    svg = reading.read_bytes(a.source) if a.source.suffix.lower() == ".svg" else None
    data = {} if svg is not None else reading.read_json(a.source)
    with opened(a.job, write=True) as (job, store):
        nibs = job.nibs()
        if a.nib not in nibs:
            raise StrideError(f"there is no nib {a.nib}; there are: {', '.join(nibs)}")
        nib = replace(nibs[a.nib], steadying=setting)
        told = ""
        if svg is not None:
            wanted, told = reading.svg_changes(svg, nib, {part.name: part.tier for part in job.parts()})
        else:
            wanted = reading.import_changes(data, nib)
        if reading.is_heavy(wanted):
            load_if_compiled()
        shapes = Shapes(job, store)
        _commit(store, make_all(job, shapes, wanted, f"import of {a.source.name}", _progress), shapes)
    if told:
        print(f"plain-stride: {told}", file=sys.stderr)


def _edit(a: argparse.Namespace) -> None:
    from plain_stride.job import reading
    from plain_stride.job.changes import make_all
    from plain_stride.job.job import opened
    from plain_stride.job.shapes import Shapes

    wanted = reading.edits(reading.read_json(a.edits))
    with opened(a.job, write=True) as (job, store):
        shapes = Shapes(job, store)
        _commit(store, make_all(job, shapes, wanted, progress=_progress), shapes)


def _undo(a: argparse.Namespace) -> None:
    _walk_history(a, "undo")


def _redo(a: argparse.Namespace) -> None:
    _walk_history(a, "redo")


def _walk_history(a: argparse.Namespace, way: str) -> None:
    from plain_stride.job.job import opened

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
    from plain_stride.job.job import opened

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
        _print_json(reports.history(job, *store.sizes()))


def _weigh(a: argparse.Namespace) -> int | None:
    from plain_stride.job import reports
    from plain_stride.job.changes import make
    from plain_stride.job.job import opened
    from plain_stride.job.shapes import Shapes

    if a.plan is not None or a.light is not None or a.light_at is not None:
        return _refuse(2, "weigh with a named plan or a lamp is not in this version")
    with opened(a.job, write=True) as (job, store):
        shapes = Shapes(job, store)
        made = make(job, shapes, "plan", {"share": a.share})
        # What cannot be told is not laid either.
        told = reports.weigh(job, shapes) if a.json else None
        _commit(store, made, shapes)
        if told is not None:
            _print_json(told)
    return None


def _export(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.finish.writers import WRITERS, Choices
    from plain_stride.job import reports
    from plain_stride.job.art import art_of, drafts_of
    from plain_stride.job.board_facts import edges_of
    from plain_stride.job.job import opened
    from plain_stride.job.shapes import Shapes

    kind = a.out.suffix.lower()
    if kind in NOT_YET_FORMATS:
        return _refuse(2, f"export to {kind} is not in this version")
    if kind not in (*WRITERS, ".json"):
        return _refuse(2, f"export to '{a.out.name}' is not known: {', '.join(WRITERS)} or .json")
    if kind != ".png" and (a.bw or a.transparent):
        return _refuse(2, "--bw and --transparent go with a PNG")
    if kind != ".svg" and a.grain:
        return _refuse(2, "--grain goes with an SVG: a PNG is pixels, a PDF outlines, JSON holds whole lines")
    if kind == ".json" and a.bleed:
        return _refuse(2, "--bleed goes with a picture: JSON holds whole lines")
    progress = _share_teller() if a.progress else _progress
    with opened(a.job) as (job, store):
        if len(job.rows.lines) >= MANY_LINES:
            load_if_compiled()
        shapes = Shapes(job, store)
        bleed = edges_of(job).bleed if a.bleed else 0.0
        left_out = len(drafts_of(job))
        if kind == ".json":
            data = (json.dumps(reports.lines(job, shapes), ensure_ascii=False) + "\n").encode()
        else:
            writer, choices = WRITERS[kind], Choices(a.bw, a.transparent, a.grain == "pixels")
            pixels = _pixels() if writer.needs_pixels(choices) else None
            data = writer.write(art_of(job, shapes, bleed), choices, pixels, progress)
        _tell_apart(job)
    write_whole(a.out, data)
    if left_out and kind != ".json":
        print(f"plain-stride: {left_out} drafts are no ink yet and were left out: take or refuse them", file=sys.stderr)
    return None


def _pixels() -> "Rasteriser":
    from plain_stride.render.export import Pixels

    return Pixels()


def _demo(a: argparse.Namespace) -> int:
    if a.tour is not None:
        from plain_stride.desk.tour import tour

        return tour(a.tour)
    if a.job is not None:
        from plain_stride.compiled.ready import load_if_compiled
        from plain_stride.demo.job import make_demo

        load_if_compiled()
        make_demo(a.job)
        return 0
    from plain_stride.desk.start import start_demo

    return start_demo()


def _open(a: argparse.Namespace) -> int:
    from plain_stride.desk.start import start_job, start_last

    return start_last() if a.job is None else start_job(a.job)


def _install(a: argparse.Namespace) -> None:
    from plain_stride.installed import install

    for path in install():
        print(f"put in place: {path}")


def _uninstall(a: argparse.Namespace) -> None:
    from plain_stride.installed import uninstall

    gone = uninstall()
    for path in gone:
        print(f"taken away: {path}")
    if not gone:
        print("nothing was in place")


def _share_teller() -> Callable[[float], bool]:
    """Tells on stderr how far long work has come, a line for each per cent. Never stops it."""
    told = -1

    def tell(share: float) -> bool:
        nonlocal told
        if int(share * 100.0) > told:
            told = int(share * 100.0)
            print(f"{told}%", file=sys.stderr, flush=True)
        return True

    return tell


def _progress(share: float) -> bool:
    """Shows how far long work has come, on a terminal only. Never stops it."""
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}{'' if share < 1 else chr(10)}", end="", file=sys.stderr, flush=True)
    return True
