"""What a job's board says beyond its page: edges, frames, print target, job sheet."""

from dataclasses import dataclass

from plain_stride.board.frames import Frame
from plain_stride.board.job_sheet import JobSheet
from plain_stride.board.ladder import Floor, floor_of
from plain_stride.board.targets import DEFAULT_TARGET, STANDARD, PrintTarget
from plain_stride.form.cover import Cover, outside_cover
from plain_stride.job.rows import JobRows


@dataclass(frozen=True)
class Edges:
    """mm: drawn beyond the trim, kept clear within it, left between frames."""

    bleed: float
    margin: float
    gutter: float


def edges_of(job: JobRows) -> Edges:
    row = job.board
    return Edges(row.bleed_mm, row.margin_mm, row.gutter_mm)


def targets_of(job: JobRows) -> dict[str, PrintTarget]:
    """Print targets by name: the standard ones, as altered in this job, then the inker's own."""
    own = {key: row.target for key, row in sorted(job.rows.targets.items())}
    return {**{name: own.get(name, target) for name, target in STANDARD.items()}, **own}


def target_of(job: JobRows) -> PrintTarget:
    """What the job is printed on."""
    targets = targets_of(job)
    return targets.get(job.board.target, targets[DEFAULT_TARGET])


def floor_of_job(job: JobRows) -> Floor:
    return floor_of(job.page, target_of(job))


def sheet_of(job: JobRows) -> JobSheet:
    return job.board.sheet or JobSheet()


def frames_of(job: JobRows) -> dict[str, Frame]:
    """Frames by key, from the upper left on, row by row."""
    frames = {key: row.frame for key, row in job.rows.frames.items()}
    return dict(sorted(frames.items(), key=lambda item: (round(item[1].y), item[1].x)))


def frames_cover(job: JobRows) -> Cover | None:
    """What lies outside all frames, as a cover: dimmed on the sheet, clipped on export. None without frames."""
    boxes = [frame.box for frame in frames_of(job).values()]
    return outside_cover(boxes) if boxes else None


def frame_under(job: JobRows, x: float, y: float) -> str | None:
    """The key of the smallest frame that holds a place. x, y in mm."""
    frames = frames_of(job)
    holding = [key for key, frame in frames.items() if frame.holds(x, y)]
    return min(holding, key=lambda key: frames[key].w * frames[key].h, default=None)
