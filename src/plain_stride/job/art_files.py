"""The bytes of a file of final art, by its kind."""

import json
from collections.abc import Callable

from plain_stride.finish.writers import WRITERS, Choices, Rasteriser
from plain_stride.job import reports
from plain_stride.job.art import art_of
from plain_stride.job.board_facts import edges_of
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes

DATA = ".json"
KINDS = (*WRITERS, DATA)


def art_bytes(
    job: Job,
    shapes: Shapes,
    kind: str,
    choices: Choices,
    bleed: bool,
    rasteriser: Callable[[], Rasteriser],
    progress: Callable[[float], bool],
) -> bytes:
    """kind: one of KINDS; bleed: with the bleed round the finished sheet; rasteriser: makes what writes pixels, where
    they are needed; progress: told the share done, False stops. Raises StrideError."""
    if kind == DATA:
        return (json.dumps(reports.lines(job, shapes), ensure_ascii=False) + "\n").encode()
    writer = WRITERS[kind]
    pixels = rasteriser() if writer.needs_pixels(choices) else None
    return writer.write(art_of(job, shapes, edges_of(job).bleed if bleed else 0.0), choices, pixels, progress)
