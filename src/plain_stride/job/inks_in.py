"""Finished inks of somebody else brought in from a picture: lines with their measured widths, and blacks."""

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from plain_stride.board.page import Page
from plain_stride.job.changes import make_all
from plain_stride.job.job import Job
from plain_stride.job.job_files import load, new_job
from plain_stride.job.opening import open_store
from plain_stride.job.reading import DEFAULT_NIB, Wanted
from plain_stride.job.shapes import Shapes
from plain_stride.lines.black import black_of_rings
from plain_stride.lines.errors import LinesError
from plain_stride.lines.given import form_from_points
from plain_stride.measure import MM_PER_INCH, mm_from_px
from plain_stride.pencils.inks import InksError, InksRead, check_inks, read_inks
from plain_stride.pencils.picture import colours, darkness, picture_facts
from plain_stride.texts import counted

PART = "Inks"
PICTURES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp")
Progress = Callable[[float], bool]


@dataclass(frozen=True, eq=False)
class InksFound:
    """wanted: the changes that lay what was read; size_mm: of the picture; dpi; sentence: what was read."""

    wanted: Wanted
    size_mm: tuple[float, float]
    dpi: float
    sentence: str


def inks_of(data: bytes, dpi: float | None, progress: Progress | None = None) -> InksFound:
    """What is inked in a picture. dpi: where the file does not say it. Raises PencilsError."""
    facts = picture_facts(data)
    known = dpi if dpi is not None else facts.dpi[0] if facts.dpi is not None else None
    if known is None:
        raise InksError("the picture does not say its resolution: say it with --dpi, as 600")
    check_inks(np.asarray(colours(data)), known)
    dark = darkness(data)
    read = read_inks(dark, known / MM_PER_INCH, progress)
    size = (mm_from_px(dark.shape[1], known), mm_from_px(dark.shape[0], known))
    lines, blacks = counted(len(read.lines), "line"), counted(len(read.blacks), "black")
    return InksFound(inks_changes(read), size, known, f"{lines} and {blacks} were read at {known:g} dpi.")


def inks_changes(read: InksRead) -> Wanted:
    """The changes that lay lines and blacks that were read, in a part of their own."""
    out: Wanted = []
    for outline in read.blacks:
        out.append(("black", {"black": black_of_rings([outline]), "part": PART}))
    for line in read.lines:
        try:
            form = form_from_points(line.points, line.left, line.right, line.closed)
        except LinesError:
            # A crumb of ink that is shorter than any line.
            continue
        out.append(
            ("line", {"form": form, "nib": DEFAULT_NIB, "ends": ("round", "round"), "found": True, "part": PART})
        )
    return out


def with_inks_of(data: bytes, dpi: float | None, work: Callable[[Job, Shapes], object], progress: Progress) -> object:
    """Does some work on a job that holds what a picture has inked, and is gone after it. Raises PencilsError."""
    found = inks_of(data, dpi, progress)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "inks.stride"
        new_job(path, Page(found.size_mm, found.dpi))
        store = open_store(path, write=True)
        try:
            job = load(store)
            shapes = Shapes(job, store)
            made = make_all(job, shapes, found.wanted, "inks")
            if made.commit is not None:
                store.commit(made.commit)
            return work(job, shapes)
        finally:
            store.close()
