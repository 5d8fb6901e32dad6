"""The commands that proof a job and make its safe mends."""

import argparse
from pathlib import Path

from plain_stride.cli.telling import Command, print_json


def add_commands(command: Command) -> None:
    proof = command("proof", _proof, "mark what a senior would mark in red, with figures and mends")
    proof.add_argument("job", type=Path, metavar="JOB")
    proof.add_argument("--only", type=_kinds, default=(), metavar="KIND,..", help="only these kinds")
    proof.add_argument("--json", action="store_true", help="tell it as JSON")


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
        told = told_proof(job, Shapes(job, store), a.only)
    if a.json:
        print_json(told)
        return
    for one in told["findings"]:
        print(f"{one['severity']:6} {one['kind']:16} ({one['x']:.1f}, {one['y']:.1f}) mm  {one['advice']}")
    print(f"{len(told['findings'])} findings")
