"""What a tone of each kind consists of, by what it was told."""

from collections.abc import Callable
from typing import Any

import numpy as np

from plain_stride.hand.nib import Nib
from plain_stride.job.black_told import areas_told, halo_told
from plain_stride.job.change_context import ChangeContext, nib_named, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.hatch_told import USUAL_NIB, grey_told, hatch_told, lamp_told, net_told, seed_told
from plain_stride.job.records import BLACK, HALO, HATCH, SPEED, TEXTURE
from plain_stride.job.tone_fields import course_told, field_told
from plain_stride.job.tones import SAME_PLACE, Ink
from plain_stride.lines.area_black import black_of_area
from plain_stride.lines.given import Form
from plain_stride.tone.drawn_strokes import dot, forms_of
from plain_stride.tone.feathers import feathered
from plain_stride.tone.field import Field, field_of
from plain_stride.tone.speed import Speed, along_a_path, to_a_point
from plain_stride.tone.stipple import stippled
from plain_stride.tone.textures import KINDS, textured

Made = tuple[Ink, Nib]
STIPPLE = "stipple"
MOTIFS = (STIPPLE, *KINDS)
SIZE_MM, COUNT, INNER_MM, WIDE_MM = 4.0, 60, 10.0, 20.0
DOT_TIMES = 2.0
"""Dots are so many times as large as the nib's lightest width, where no size is told."""


def hatch_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    """The strokes of a hatch. Raises JobError, ToneError."""
    found = hatch_told(m.job, m.shapes, told)
    sets = found.sets()
    strokes = [form for one in sets for form in one.strokes.forms()]
    members = [k for k, one in enumerate(sets, 1) for _ in range(len(one.strokes))]
    tipped = found.hatch.hand.evenness > 0.0 or found.hatch.continued > 0.0
    start, end = ("pointed" if tip > 0.0 or tipped else "flat" for tip in found.hatch.tips)
    near = SAME_PLACE * min(one.pitch for one in sets)
    return Ink(strokes, members, ends=(start, end), near=near, area=float(found.field.area.area)), found.nib


def black_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    """Blacks, and the feathers of their edges. Raises JobError, ToneError, BlackError."""
    areas, nib = areas_told(m.job, m.shapes, told), m.job.nibs()[USUAL_NIB]
    strokes = []
    if told.get("feather") is not None:
        length = number(told["feather"], "a feather's length", 0.3, 200.0)
        for k, area in enumerate(areas):
            middle = np.asarray(area.centroid.coords)
            towards = -lamp_told(m.job, told).away(middle)[0]
            strokes += forms_of(feathered(area, towards, length, seed_told(told) + k))
    return Ink(strokes, blacks=[black_of_area(area) for area in areas], ends=("flat", "round")), nib


def halo_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    """The white of a halo. Raises JobError, ToneError."""
    return Ink(blacks=[black_of_area(halo_told(m, told))], white=True), m.job.nibs()[USUAL_NIB]


def speed_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    """Speed lines. Raises JobError, ToneError."""
    nib = nib_named(m.job, told.get("nib", USUAL_NIB))
    speed = Speed(
        int(number(told.get("count", COUNT), "how many", 1, 5000)),
        nib.lightest,
        nib.heaviest,
        number(told.get("bunched", 0.0), "how bunched", 0.0, 1.0),
        number(told.get("ragged", 0.5), "how ragged", 0.0, 1.0),
        seed_told(told),
    )
    drawn_round = any(told.get(name) is not None for name in ("around", "at"))
    if told.get("to") is not None:
        field = field_told(m.job, m.shapes, told) if drawn_round else _sheet(m)
        inner = number(told.get("inner", INNER_MM), "how near they come", 0.0, 10_000.0)
        strokes = to_a_point(field, place_of(told["to"]), inner, speed)
    elif told.get("along") is not None:
        wide = number(told.get("wide", WIDE_MM), "how wide", 0.0, 10_000.0)
        field_or_none = field_told(m.job, m.shapes, told) if drawn_round else None
        strokes = along_a_path(course_told(m.job, m.shapes, told["along"]), wide, field_or_none, speed)
    else:
        raise JobError("speed lines run 'to' a place [x, y], or 'along' a path")
    return _drawn(forms_of(strokes), nib)


def _sheet(m: ChangeContext) -> Field:
    (x, y), bleed = m.job.page.size_mm, m.job.board.bleed_mm
    corners = [[-bleed, -bleed], [x + bleed, -bleed], [x + bleed, y + bleed], [-bleed, y + bleed]]
    return field_of([np.array(corners)])


def texture_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    """The strokes or dots of a texture. Raises JobError, ToneError."""
    nib, motif = nib_named(m.job, told.get("nib", USUAL_NIB)), told.get("motif")
    if motif not in MOTIFS:
        raise JobError(f"a texture's motif is one of {', '.join(MOTIFS)}, not '{motif}'")
    field = field_told(m.job, m.shapes, told)
    net, _ = net_told(m.job, m.shapes, told, field)
    if motif == STIPPLE:
        size = number(told.get("size", DOT_TIMES * nib.lightest), "a dot's size", 0.02, 50.0)
        grey = grey_told(told.get("grey", 0.2), field, net, told.get("towards"))
        places, sizes = stippled(field, grey, size, seed_told(told))
        dots = [dot(at, float(mm)) for at, mm in zip(places, sizes, strict=True)]
        return _drawn(dots, nib, "round", size)
    size = number(told.get("size", SIZE_MM), "a motif's size", 0.2, 500.0)
    vary = number(told.get("vary", 0.5), "how much it varies", 0.0, 1.0)
    return _drawn(forms_of(textured(field, net, str(motif), size, nib.lightest, vary, seed_told(told))), nib)


def _drawn(strokes: list[Form], nib: Nib, ends: str = "round", near: float = 1.0) -> Made:
    return Ink(strokes, ends=(ends, ends), near=near / 2.0), nib


MAKERS: dict[str, Callable[[ChangeContext, dict[str, Any]], Made]] = {
    HATCH: hatch_ink,
    BLACK: black_ink,
    HALO: halo_ink,
    SPEED: speed_ink,
    TEXTURE: texture_ink,
}
CHANGE_OF = {HATCH: "hatch", BLACK: "blacken", HALO: "halo", SPEED: "speed-lines", TEXTURE: "texture"}
"""The change that lays each kind of tone."""
LAID_BY = {**CHANGE_OF, "plane": "plane"}
"""The changes that files of tones name by a kind."""
