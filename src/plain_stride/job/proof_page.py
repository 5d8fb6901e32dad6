"""A job as the proof reads it."""

from collections.abc import Callable, Collection, Iterator

from plain_stride.board.job_sheet import INKS
from plain_stride.errors import StrideError
from plain_stride.form.drawing import Drawing
from plain_stride.job.art import is_draft
from plain_stride.job.black_told import ink_of, round_halo
from plain_stride.job.board_facts import edges_of, frames_of, sheet_of, target_of
from plain_stride.job.darker_lines import darker_by
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.finished_keeping import keeper_of
from plain_stride.job.inks import Colours
from plain_stride.job.job import Job
from plain_stride.job.pencil_reading import read_job
from plain_stride.job.pencils_and_ink import coverage_of, lost_of
from plain_stride.job.proof_changes import MANNERS
from plain_stride.job.records import HALO
from plain_stride.job.rows import JobRows
from plain_stride.job.serving import Progress, StoppedError
from plain_stride.job.shapes import Shapes
from plain_stride.job.weighing import plan_counts
from plain_stride.lines.area_black import area_of_rings
from plain_stride.proof.intent import Meant
from plain_stride.proof.limits import Manners
from plain_stride.proof.page import Against, HaloInk, Page, Sheet, ToneInk
from plain_stride.tone.halos import INSIDE, OUTSIDE
from plain_stride.weight.hierarchy import inked_scene


def page_of(
    job: JobRows, shapes: Shapes, drawing: Callable[[], Drawing] | None = None, against: Against | None = None
) -> Page:  # fmt: skip
    """What the proof of a job reads. drawing: gives it as the job stands, with its contacts, where somebody keeps it;
    against: its ink held against its pencils, where these were read."""
    hidden = {part.id for part in job.parts() if part.hidden}
    lines = {key: shapes[key] for key, row in job.rows.lines.items()
             if row.part not in hidden and not is_draft(job, key)}  # fmt: skip
    scene = shapes.weighing.scene()
    inked = inked_scene(scene, job.plan, {key: lines[key].body for key in scene.known.places.lines})
    known = inked.scene.drawing
    if plan_counts(job) or job.plan.floor:
        # The plan's widths are others than the hand's, whose contacts are known already.
        known = (drawing or JobDrawing(job, shapes).now)()
    blacks = {key: shapes.black(key) for key, row in job.rows.blacks.items() if row.part not in hidden}
    return Page(sheet_of_job(job), inked, lines, known.contacts, blacks,
                {key: job.rows.blacks[key].part for key in blacks}, _tones(job, hidden),
                tuple(_halos(job, shapes, hidden)), against, manners_of(job), _darker(job, shapes, lines))  # fmt: skip


def _darker(job: JobRows, shapes: Shapes, lines: Collection[str]) -> dict[str, float]:
    """By how much of L* lines in named inks are darker than the darkest flat beside them, once flats were chosen: till
    then their colours stand for nothing."""
    if not job.rows.inks or not any(row.colour for row in job.rows.flats.values()):
        return {}
    colours = Colours(job)
    hued = [key for key in lines if job.rows.lines[key].tone is None and colours.ink_of(key) in job.rows.inks]
    return darker_by(shapes, keeper_of(shapes).flats(job, shapes), {key: colours.of(key) for key in hued})


def sheet_of_job(job: JobRows) -> Sheet:
    """The board as the proof reads it."""
    page, edges = job.page, edges_of(job)
    frames = tuple(frame.box for frame in frames_of(job).values())
    return Sheet(
        page.size_mm, page.dpi, edges.bleed, edges.margin, frames, target_of(job), sheet_of(job).ink == INKS[1]
    )


def _tones(job: JobRows, hidden: set[str]) -> tuple[ToneInk, ...]:
    out = []
    for key, row in job.rows.tones.items():
        ink = [one for one in job.tone_ink(key) if job.inked_rows()[one].part not in hidden]
        lines = tuple(one for one in ink if one in job.rows.lines)
        out.append(ToneInk(key, row.kind, lines, tuple(one for one in ink if one in job.rows.blacks),
                           float(row.told.get("evenness", 0.0) or 0.0)))  # fmt: skip
    return tuple(out)


def _halos(job: JobRows, shapes: Shapes, hidden: set[str]) -> Iterator[HaloInk]:
    for key, row in job.rows.tones.items():
        source = str(row.told.get("black") or row.told.get("line"))
        white = [one for one in job.tone_ink(key) if one in job.rows.blacks and job.rows.blacks[one].part not in hidden]
        if row.kind != HALO or source not in job.inked_rows() or not white:
            continue
        mm = float(row.told.get("mm", job.plan.halo))
        area = area_of_rings([ring for one in white for ring in shapes.black(one).rings])
        edge = area_of_rings(shapes.ink(source).rings).boundary
        comes_round = row.told.get("side", INSIDE) in (INSIDE, OUTSIDE) and not row.told.get("between", False)
        yield HaloInk(key, area, edge, ink_of(job, shapes, round_halo(area, mm)).difference(area), mm, comes_round)


def against_of(job: Job, shapes: Shapes, progress: Progress) -> Against | None:
    """The ink of a job against its pencils, which are read for it; None where there are none. Raises StoppedError."""
    if not job.rows.lines or not job.rows.pencils:
        return None
    try:
        reading = read_job(job, progress)
        return Against(coverage_of(job, shapes, reading), lost_of(job, shapes, reading).places)
    except StoppedError:
        raise
    except StrideError:
        # References alone, or what cannot be read: the ink is proofed without it.
        return None


def manners_of(job: JobRows) -> Manners:
    """The house manners of a job; the usual ones where none are laid."""
    row = job.rows.manners.get(MANNERS)
    return row.manners if row is not None else Manners()


def meant_of(job: JobRows) -> dict[str, Meant]:
    """What was said to be meant so, by id."""
    return {key: row.meant() for key, row in job.rows.meant.items()}


def parts_of_ink(job: JobRows) -> dict[str, str]:
    """The part of each line, black and tone."""
    parts = {key: row.part for key, row in job.inked_rows().items()}
    tones = {key: parts[ink[0]] for key in job.rows.tones if (ink := job.tone_ink(key))}
    return parts | tones
