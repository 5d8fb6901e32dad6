"""The commands that proof a job and make its safe mends."""

import argparse
import sys
from pathlib import Path

from plain_stride.cli.telling import Command, commit_made, print_json, progress_shown


def add_commands(command: Command) -> None:
    proof = command("proof", _proof, "mark what a senior would mark in red, with figures and mends")
    proof.add_argument("job", type=Path, metavar="JOB")
    proof.add_argument("--only", type=_kinds, default=(), metavar="KIND,..", help="only these kinds")
    proof.add_argument("--json", action="store_true", help="tell it as JSON")
    mend = command("mend", _mend, "apply the safe mends of a proof, as one step of undo")
    mend.add_argument("job", type=Path, metavar="JOB")
    mend.add_argument("--only", type=_kinds, default=(), metavar="KIND,..", help="only of these kinds")


def _kinds(text: str) -> tuple[str, ...]:
    from plain_stride.proof.limits import KINDS

    wanted = tuple(text.split(","))
    for kind in wanted:
        if kind not in KINDS:
            raise argparse.ArgumentTypeError(f"the proof has no kind '{kind}': there are {', '.join(KINDS)}")
    return wanted


def _proof(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.job_files import opened
    from plain_stride.job.proof_told import told_proof
    from plain_stride.job.shapes import Shapes

    with opened(a.job) as (job, store):
        load_if_compiled()
        told = told_proof(job, Shapes(job, store), a.only, progress_shown)
    if a.json:
        print_json(told)
        return
    for one in told["findings"]:
        print(f"{one['severity']:6} {one['kind']:16} ({one['x']:.1f}, {one['y']:.1f}) mm  {one['advice']}")
    print(told["sentence"])


def _mend(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.job_files import opened
    from plain_stride.job.proof_mends import make_mends, safe_ones
    from plain_stride.job.proof_told import WITHOUT_PENCILS, proof_of_job
    from plain_stride.job.shapes import Shapes

    with opened(a.job, write=True) as (job, store):
        load_if_compiled()
        shapes = Shapes(job, store)
        found = safe_ones(proof_of_job(job, shapes, a.only or WITHOUT_PENCILS, progress_shown).told)
        done = make_mends(job, shapes, found, "mends of the proof", progress_shown)
        if done.made is not None:
            commit_made(store, done.made, shapes)
    for one, why in done.left:
        print(f"left: {one.kind} at ({one.at[0]:.1f}, {one.at[1]:.1f}) mm: {why}", file=sys.stderr)
    words = f"{len(done.mended)} mended, {len(done.left)} could not be"
    print(words if found else "nothing was found that has a mend which is safe unseen")
