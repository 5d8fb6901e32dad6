"""The commands that finish, flat and deliver."""

import argparse
from pathlib import Path

from plain_stride.cli.export_command import pixels
from plain_stride.cli.telling import Command, commit_made, print_json, progress_shown, refuse


def add_commands(command: Command) -> None:
    flats = command("flats", _flats, "write the flats map: areas with gaps bridged, named after their parts")
    flats.add_argument("job", type=Path, metavar="JOB")
    flats.add_argument("out", type=Path, metavar="OUT.svg|png|json")
    flats.add_argument("--gap", type=float, metavar="MM", help="mm of white that does not open an area")
    flats.add_argument("--dpi", type=float, help="PNG: another resolution than the board's")
    flats.add_argument("--bleed", action="store_true", help="with the board's bleed round the finished sheet")
    finish = command("finish", _finish, "lay a stack of finishes, one step of undo; [] takes them off")
    finish.add_argument("job", type=Path, metavar="JOB")
    finish.add_argument("finishes", type=Path, nargs="?", metavar="FINISHES.json", help="without it, the stack is told")
    deliver = command("deliver", _deliver, "write a delivery into a folder or a .zip, with a manifest, and check it")
    deliver.add_argument("job", type=Path, metavar="JOB")
    deliver.add_argument("delivery", metavar="DELIVERY.json|NAME", help="a file, or the name of a delivery")
    deliver.add_argument("out", type=Path, metavar="OUT")
    deliver.add_argument("--json", action="store_true", help="tell the manifest")


def _flats(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.job.art_files import Asked
    from plain_stride.job.flat_files import KINDS, flats_bytes
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    if a.out.suffix.lower() not in KINDS:
        return refuse(2, f"flats are written as {', '.join(KINDS)}, not as '{a.out.name}'")
    if a.gap is not None and not 0.0 <= a.gap <= 20.0:
        return refuse(2, "--gap goes from 0 to 20 mm")
    if a.dpi is not None and not 1.0 <= a.dpi <= 4800.0:
        return refuse(2, "--dpi goes from 1 to 4800")
    load_if_compiled()
    with opened(a.job) as (job, store):
        asked = Asked(bleed=a.bleed, dpi=a.dpi)
        data = flats_bytes(job, Shapes(job, store), a.out.suffix.lower(), asked, a.gap)
    write_whole(a.out, data)
    return None


def _finish(a: argparse.Namespace) -> None:
    from plain_stride.job.changes import make
    from plain_stride.job.finished import passes_of
    from plain_stride.job.finishes_told import told_finishes
    from plain_stride.job.job_files import opened
    from plain_stride.job.reading import read_any_json
    from plain_stride.job.shapes import Shapes

    wanted = None if a.finishes is None else read_any_json(a.finishes)
    with opened(a.job, write=wanted is not None) as (job, store):
        if wanted is not None:
            commit_made(store, make(job, Shapes(job, store), "finishes", {"finishes": wanted}))
        print_json(told_finishes(job, passes_of(job)))


def _deliver(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.delivered import changed_since, last_delivered, wanted_delivery
    from plain_stride.job.delivering import deliver
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes

    load_if_compiled()
    with opened(a.job) as (job, store):
        wanted = wanted_delivery(job, a.delivery)
        before = last_delivered(job, wanted.name)
        made = deliver(job, Shapes(job, store), wanted, a.out, pixels, progress_shown)
        since = changed_since(job, before.step) if before is not None else []
        head = job.history.head
    noted = _note(a.job, wanted.name, head, made.manifest)
    told = {**made.manifest, "since_last": since, "noted": noted}
    if a.json:
        print_json(told)
        return
    for row in made.manifest["files"]:
        print(f"{row['name']}  {row['bytes'] / 1000:,.0f} kB")
    for words in (*made.broken, *since):
        print(words)
    print(f"delivered: {wanted.name}, {len(made.manifest['files'])} files, each opened again and compared")


def _note(path: Path, name: str, step: int, manifest: dict[str, object]) -> bool:
    """Notes in the job what was delivered; whether that could be: another window may have the job open."""
    from plain_stride.errors import StrideError
    from plain_stride.job.job_files import opened

    try:
        with opened(path, write=True) as (_, store):
            store.add_delivered(name, step, manifest)
    except StrideError:
        return False
    return True
