"""The commands that proof jobs and pictures of finished inks, and make safe mends."""

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from plain_stride.cli.telling import Command, commit_made, print_json, progress_shown, refuse
from plain_stride.errors import StrideError

if TYPE_CHECKING:
    from plain_stride.job.job import Job
    from plain_stride.job.shapes import Shapes


def add_commands(command: Command) -> None:
    proof = command("proof", _proof, "mark what a senior would mark in red, with figures and mends")
    proof.add_argument(
        "job", type=Path, metavar="JOB|INKS.png|FOLDER", help="a job, finished inks, or a folder of jobs"
    )
    proof.add_argument("--only", type=_kinds, default=(), metavar="KIND,..", help="only these kinds")
    proof.add_argument("--json", action="store_true", help="tell it as JSON")
    proof.add_argument("--to", type=Path, metavar="OUT.html|pdf|json|csv", help="write it as a sheet, or as a table")
    proof.add_argument("--since", type=Path, metavar="EARLIER.json", help="compare it with a proof that was kept")
    proof.add_argument("--dpi", type=float, help="the resolution of a picture that does not say it")
    proof.add_argument("--remarks-from", type=Path, metavar="COPY.stride", help="first bring in what a senior remarked")
    mend = command("mend", _mend, "apply the safe mends of a proof, as one step of undo")
    mend.add_argument("job", type=Path, metavar="JOB|FOLDER")
    mend.add_argument("--only", type=_kinds, default=(), metavar="KIND,..", help="only of these kinds")


def _kinds(text: str) -> tuple[str, ...]:
    from plain_stride.proof.limits import KINDS

    wanted = tuple(text.split(","))
    for kind in wanted:
        if kind not in KINDS:
            raise argparse.ArgumentTypeError(f"the proof has no kind '{kind}': there are {', '.join(KINDS)}")
    return wanted


def _proof(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.proof_sheets import KINDS

    if a.to is not None and a.to.suffix.lower() not in KINDS:
        return refuse(2, f"a proof is written as {', '.join(KINDS)}, not as '{a.to.name}'")
    load_if_compiled()
    if a.remarks_from is not None:
        if a.job.is_dir():
            return refuse(2, "remarks come back to one job")
        _bring_remarks(a.job, a.remarks_from)
    if a.job.is_dir():
        return _proof_folder(a)
    _tell(a, _proofed(a, a.job))
    return None


def _bring_remarks(path: Path, copy: Path) -> None:
    """Raises JobError, the job as it was."""
    from plain_stride.job.changes import make_all
    from plain_stride.job.job_files import opened
    from plain_stride.job.red_review import remarks_back
    from plain_stride.job.shapes import Shapes

    with opened(path, write=True) as (job, store):
        commit_made(store, make_all(job, Shapes(job, store), remarks_back(job, copy), "remarks brought back"))


def _proofed(a: argparse.Namespace, path: Path) -> dict[str, Any]:
    """The proof of a job or a picture as JSON; its sheet is written where one is wanted."""
    from plain_stride.job.inks_in import PICTURES, with_inks_of
    from plain_stride.job.job_files import opened
    from plain_stride.job.reading import read_bytes
    from plain_stride.job.shapes import Shapes

    told: dict[str, Any] = {}

    def work(job: "Job", shapes: "Shapes") -> None:
        told.update(_of_job(a, job, shapes))

    if path.suffix.lower() in PICTURES:
        with_inks_of(read_bytes(path), a.dpi, work, progress_shown)
    else:
        with opened(path) as (job, store):
            work(job, Shapes(job, store))
    return told


def _of_job(a: argparse.Namespace, job: "Job", shapes: "Shapes") -> dict[str, Any]:
    from plain_stride.finish.write import write_whole
    from plain_stride.job.proof_sheets import proof_bytes
    from plain_stride.job.proof_told import proof_of_job, told_proof
    from plain_stride.job.reading import read_json
    from plain_stride.proof.comparing import compared, findings_in

    earlier = findings_in(read_json(a.since)) if a.since is not None else None
    proof = proof_of_job(job, shapes, a.only, progress_shown)
    told = told_proof(job, shapes, proof)
    if earlier is not None:
        both = compared(earlier, told["findings"])
        told["since"] = {"sentence": both.sentence, "gone": list(both.gone), "new": [one["id"] for one in both.new]}
    if a.to is not None:
        write_whole(a.to, proof_bytes(job, shapes, proof, a.to.suffix.lower(), told, progress_shown))
    return told


def _tell(a: argparse.Namespace, told: dict[str, Any]) -> None:
    if a.json:
        print_json(told)
        return
    for one in told["findings"]:
        print(f"{one['severity']:6} {one['kind']:16} ({one['x']:.1f}, {one['y']:.1f}) mm  {one['advice']}")
    print(told["sentence"])
    if "since" in told:
        print(told["since"]["sentence"])


def _jobs_in(folder: Path) -> list[Path]:
    found = sorted(folder.glob("*.stride"))
    if not found:
        raise StrideError(f"there are no jobs in {folder}")
    return found


def _proof_folder(a: argparse.Namespace) -> int | None:
    """All jobs of a folder, with one summary; what cannot be opened is named, and the others are proofed."""
    if a.to is not None or a.since is not None:
        return refuse(2, "--to and --since go with one job")

    out: list[dict[str, Any]] = []
    failed = 0
    for path in _jobs_in(a.job):
        try:
            told = _proofed(a, path)
        except StrideError as fault:
            failed += 1
            out.append({"job": path.name, "fault": str(fault)})
            continue
        counts = {
            name: sum(1 for one in told["findings"] if one["severity"] == name) for name in ("must", "should", "look")
        }
        out.append({"job": path.name, **counts, "sentence": told["sentence"]})
    if a.json:
        print_json({"units": "mm", "jobs": out})
    else:
        for row in out:
            print(f"{row['job']}: {row.get('sentence') or row['fault']}")
        print(f"{len(out)} jobs, {sum(row.get('must', 0) for row in out)} to be mended,"
              f" {sum(row.get('should', 0) for row in out)} that should be, {failed} could not be opened")  # fmt: skip
    return 1 if failed else None


def _mend(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled

    load_if_compiled()
    paths, failed = (_jobs_in(a.job) if a.job.is_dir() else [a.job]), 0
    for path in paths:
        name = f"{path.name}: " if a.job.is_dir() else ""
        try:
            print(f"{name}{_mended(path, a.only)}")
        except StrideError as fault:
            if not a.job.is_dir():
                raise
            failed += 1
            print(f"{name}{fault}", file=sys.stderr)
    return 1 if failed else None


def _mended(path: Path, only: Sequence[str]) -> str:
    """Makes the safe mends of one job; what was done, in words."""
    from plain_stride.job.job_files import opened
    from plain_stride.job.proof_mends import make_mends, safe_ones
    from plain_stride.job.proof_told import WITHOUT_PENCILS, proof_of_job
    from plain_stride.job.shapes import Shapes

    with opened(path, write=True) as (job, store):
        shapes = Shapes(job, store)
        found = safe_ones(proof_of_job(job, shapes, only or WITHOUT_PENCILS, progress_shown).told)
        done = make_mends(job, shapes, found, "mends of the proof", progress_shown)
        if done.made is not None:
            commit_made(store, done.made, shapes)
    for one, why in done.left:
        print(f"left: {one.kind} at ({one.at[0]:.1f}, {one.at[1]:.1f}) mm: {why}", file=sys.stderr)
    if not found:
        return "nothing was found that has a mend which is safe unseen"
    return f"{len(done.mended)} mended, {len(done.left)} could not be"
