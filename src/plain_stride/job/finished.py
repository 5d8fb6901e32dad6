"""The final art of a job with its finishes done, and what goes along with it where that is asked."""

from collections.abc import Callable
from dataclasses import replace

from plain_stride.finish.art import Art, Thing
from plain_stride.finish.finishing import Stack, finished
from plain_stride.finish.passes import LinesAway, Pass
from plain_stride.job.art import art_of
from plain_stride.job.final_scans import final_scans, pencil_scans
from plain_stride.job.flats import Flats, art_flats, flats_of
from plain_stride.job.pencil_records import FINAL_ART
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes

Progress = Callable[[float], bool]


def passes_of(job: JobRows) -> list[Pass]:
    """The stack of finishes, the first one first."""
    return [row.told for _, row in sorted(job.rows.finishes.items(), key=lambda one: (one[1].place, one[0]))]


def differs_from_ink(job: JobRows) -> bool:
    """Whether the finished art is more than black and white ink: named inks, finishes, scans that are final art."""
    return bool(job.rows.inks or job.rows.finishes or any(row.kind == FINAL_ART for row in job.rows.pencils.values()))


def finished_art(
    job: JobRows,
    shapes: Shapes,
    bleed: float = 0.0,
    *,
    plain: bool = False,
    flats: bool = False,
    trapped: bool = False,
    pencils: bool = False,
    found: Flats | None = None,
    told: Progress = lambda share: True,
) -> Art:
    """The final art. plain: without the finishes; flats: with the flats map below, trapped: carried on under the lines;
    pencils: with the scans of pencils at the very bottom; found: the flats map where it is known. Raises StrideError
    where it is stopped."""
    art = art_of(job, shapes, bleed)
    passes = [] if plain else [one for one in passes_of(job) if one.on]
    wants_flats = any(isinstance(one, LinesAway) for one in passes)
    if found is None and (flats or wants_flats):
        found = flats_of(job, shapes, with_leaks=False)
    below: list[Thing] = list(pencil_scans(job)) if pencils else []
    if flats and found is not None:
        below.append(art_flats(job, found, trapped))
    below += final_scans(job)
    names = {key: row.name for key, row in job.rows.parts.items()}
    stack = Stack(passes, names, found.colours_at if found is not None and wants_flats else None)
    art = replace(art, things=(*below, *art.things))
    return finished(art, stack, told) if passes else art
