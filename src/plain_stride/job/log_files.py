"""The log of a job, or of all jobs of a folder, told and written as files."""

import json
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.finish.log_sheets import log_csv, log_html, log_markdown, log_pdf
from plain_stride.finish.write import write_whole
from plain_stride.job.diary import log_json, pictures_of
from plain_stride.job.job import Job
from plain_stride.job.ledger import Ledger
from plain_stride.job.months import months_json
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes
from plain_stride.job.worked import worked
from plain_stride.texts import counted, time_words

KINDS = (".md", ".html", ".pdf", ".csv", ".json")
JOB_FIGURES = ("job", "sentence", "active_s", "pace")
EVER = datetime(1971, 1, 1), datetime(9000, 1, 1)


def jobs_of(folder: Path) -> list[Path]:
    """Raises StrideError where there are none."""
    found = sorted(folder.glob("*.stride"))
    if not found:
        raise StrideError(f"there are no jobs in {folder}")
    return found


def job_log(job: Job, shapes: Shapes, pause: float, out: Path | None, progress: Progress) -> dict[str, Any]:
    """The log of a job; written to a file of KINDS where one is wanted. pause: seconds that do not count as work.
    Raises StrideError."""
    told = log_json(job, worked(job, pause))
    if out is not None:
        shown = out.suffix.lower() in (".md", ".html", ".pdf")
        write_log(out, told, pictures_of(job, shapes, told, progress) if shown else {})
    return told


def folder_log(book: Ledger, paths: Sequence[Path], out: Path | None, progress: Progress) -> dict[str, Any]:
    """The log of jobs, months first; written where a file is wanted. Raises StrideError."""
    faults = book.look_at(paths, progress)
    sittings = book.between(*EVER, paths)
    told = {
        "units": "mm",
        "sentence": f"{counted(len(paths) - len(faults), 'job')}, {counted(len(sittings), 'sitting')},"
                    f" {time_words(sum(one['active_s'] for one in sittings))} of work.",
        "jobs": [{name: one[name] for name in JOB_FIGURES} for one in book.jobs(paths)],
        "months": months_json(sittings),
        "sittings": sittings,
        "faults": faults,
    }  # fmt: skip
    if out is not None:
        write_log(out, told, {})
    return told


def write_log(out: Path, told: dict[str, Any], pictures: dict[int, bytes]) -> None:
    """Writes a log whole or not at all; the pictures of a Markdown file lie in a folder beside it. Raises
    StrideError."""
    kind = out.suffix.lower()
    if kind == ".json":
        data = (json.dumps(told, ensure_ascii=False, indent=1) + "\n").encode()
    elif kind == ".csv":
        data = log_csv(told)
    elif kind == ".pdf":
        data = log_pdf(told, pictures)
    elif kind == ".html":
        data = log_html(told, pictures)
    else:
        data = log_markdown(told, _beside(out, pictures))
    write_whole(out, data)


def _beside(out: Path, pictures: dict[int, bytes]) -> dict[int, str]:
    """Writes pictures into a folder of their own; gives their paths as the file names them."""
    if not pictures:
        return {}
    folder = out.with_name(f"{out.stem} pictures")
    try:
        folder.mkdir(exist_ok=True)
    except OSError as fault:
        raise StrideError(f"the pictures of the log cannot be written: {fault.strerror}; no log was written") from None
    names = {}
    for step, png in pictures.items():
        write_whole(folder / f"step {step}.png", png)
        names[step] = f"<{folder.name}/step {step}.png>"
    return names
