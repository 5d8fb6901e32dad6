"""The flats map as a file: SVG areas, PNG without anti-aliasing, JSON."""

import io
import json
from dataclasses import replace

from plain_stride.errors import StrideError
from plain_stride.finish.art import Art
from plain_stride.finish.layers import FlatsLayer
from plain_stride.finish.svg import svg_text
from plain_stride.job.art_files import Asked, dpi_asked
from plain_stride.job.board_facts import edges_of
from plain_stride.job.flats import art_flats, flats_of, told_flats
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes

KINDS = (".svg", ".png", ".json")


def flats_bytes(job: Job, shapes: Shapes, kind: str, asked: Asked, gap: float | None) -> bytes:
    """kind: one of KINDS; gap: mm that is bridged, None as the job has it. Raises StrideError."""
    if kind not in KINDS:
        raise StrideError(f"flats are written as {', '.join(KINDS)}, not as {kind}")
    found = flats_of(job, shapes, gap, with_leaks=kind == ".json")
    if kind == ".json":
        return (json.dumps(told_flats(found), ensure_ascii=False) + "\n").encode()
    flats = art_flats(job, found, trapped=kind == ".svg")
    bleed = edges_of(job).bleed if asked.bleed else 0.0
    art = Art(job.name, replace(job.page, dpi=dpi_asked(job, asked)), (flats,), bleed)
    if kind == ".svg":
        return svg_text(art).encode()
    out = io.BytesIO()
    FlatsLayer(flats, art).picture().save(out, "PNG", dpi=(art.page.dpi, art.page.dpi), transparency=0)
    return out.getvalue()
