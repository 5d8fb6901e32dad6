"""Named changes of tones: laid, laid anew, taken apart."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.job.change_context import ChangeContext, argument_names, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.records import BLACK, HALO, HATCH, SPEED, TEXTURE, LineRecord, ToneRecord
from plain_stride.job.releasing import alone
from plain_stride.job.tone_fields import field_told
from plain_stride.job.tone_makers import CHANGE_OF, MAKERS
from plain_stride.job.tones import lay, lay_anew
from plain_stride.lines.given import form_from_points
from plain_stride.tone.next_strokes import PLACES, next_courses

LIT, HALF, SHADOW = "lit", "half", "shadow"
PLANES: dict[str, dict[str, Any]] = {
    LIT: {},
    HALF: {"grey": 0.25, "angle": 45.0},
    SHADOW: {"grey": 0.5, "angle": 45.0, "second": 70.0},
}
PLANES_PART = "Greys"


@change
def hatch(
    m: ChangeContext,
    grey: Any = None,
    around: Any = None,
    at: Any = None,
    edges: Any = None,
    gap: float | None = None,
    to_edge: bool | None = None,
    angle: float | None = None,
    along: Any = None,
    run: str | None = None,
    towards: float | None = None,
    nib: Any = None,
    pitch: float | None = None,
    widening: float | None = None,
    second: float | None = None,
    third: float | None = None,
    tips: Any = None,
    continued: float | None = None,
    evenness: float | None = None,
    seed: int | None = None,
    core: float | None = None,
    light: Any = None,
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Fills a field with strokes to a grey; gives the id of the tone that they are. grey: a share of ink, 0 to 1, or
    [from, to] in the direction `towards` (by default along the strokes). The field is drawn `around`, found `at` a
    place between the lines that are seen (gaps up to `gap` mm bridged), or lies between two `edges`. Strokes run at an
    `angle`, like a course drawn `along`, or along or across the form between the `edges`. pitch: mm, else as fine as
    the print target and the nib hold; widening: by which share each pitch is larger than the one before, towards the
    light; second, third: angles of further sets; tips: mm of point towards the light, or [start, end]; continued: mm
    that fine strokes go on beyond the ends; evenness: 0 ruled to 1 hand-made, by a seed. core: only the field's own
    shadow, a share of its width, where the `light` comes from an angle or a place (the plan's where none is told): out
    of the dark edge, into the light. Raises JobError."""
    # All arguments are kept as they were told, so that the tone can be laid by them again.
    return _new(m, HATCH, _given(locals()))


@change
def blacken(
    m: ChangeContext,
    at: Any = None,
    around: Any = None,
    marked: bool | None = None,
    gap: float | None = None,
    to_edge: bool | None = None,
    cast: Any = None,
    length: float | None = None,
    light: Any = None,
    feather: float | None = None,
    seed: int | None = None,
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Fills areas black, as far as the middles of the lines round them; gives the id of the tone that they are. at: a
    place [x, y] between lines that are seen, or several; gaps up to `gap` mm are bridged; to_edge: an area may reach
    the sheet's edge. marked: all areas that are marked to be filled in the pencils. around: [[x, y], ..]. cast:
    an edge, a line or [[x, y], ..], of whose shadow, `length` mm away from the `light`, only what falls on these areas
    is filled. feather: mm of pointed strokes out of the edges that face the light, by a seed. Raises JobError."""
    return _new(m, BLACK, _given(locals()))


@change
def halo(
    m: ChangeContext,
    black: str | None = None,
    line: str | None = None,
    side: str | None = None,
    mm: float | None = None,
    between: bool | None = None,
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Cuts white of one width beside the edge of a black, or beside a line; gives the id of the tone that it is. side:
    inside (as long as none is told), outside, and for a line left or right as seen along it; mm: the plan's halo where
    none is told; between: only where other ink lies beyond the edge, so that no edge is white on both sides. Raises
    JobError."""
    return _new(m, HALO, _given(locals()))


def _given(arguments: dict[str, Any]) -> dict[str, Any]:
    """The arguments that were given, without the context."""
    return {name: value for name, value in arguments.items() if name != "m" and value is not None}


@change
def speed_lines(
    m: ChangeContext,
    to: Any = None,
    along: Any = None,
    around: Any = None,
    at: Any = None,
    gap: float | None = None,
    to_edge: bool | None = None,
    inner: float | None = None,
    wide: float | None = None,
    count: int | None = None,
    bunched: float | None = None,
    ragged: float | None = None,
    nib: Any = None,
    seed: int | None = None,
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Lays lines that run `to` a place [x, y], from the edge of a field (`around`, `at`, or the sheet) and no nearer
    than `inner` mm; or `along` a path, over a band `wide` mm. count: how many; bunched: 0 even to 1; ragged: how
    unevenly they end, 0 to 1; by a seed. Gives the id of the tone. Raises JobError."""
    return _new(m, SPEED, _given(locals()))


@change
def texture(
    m: ChangeContext,
    motif: str,
    around: Any = None,
    at: Any = None,
    edges: Any = None,
    gap: float | None = None,
    to_edge: bool | None = None,
    size: float | None = None,
    grey: Any = None,
    towards: float | None = None,
    angle: float | None = None,
    along: Any = None,
    run: str | None = None,
    vary: float | None = None,
    nib: Any = None,
    seed: int | None = None,
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Fills a field with a motif of lines, each a little different, that follows the field's net as hatching does:
    basket, bark, grass, scales, knit, `size` mm each; or with dots (stipple) to a `grey`. vary: 0 alike to 1; the same
    seed gives the same marks. Gives the id of the tone. Raises JobError."""
    return _new(m, TEXTURE, _given(locals()))


def _new(m: ChangeContext, kind: str, told: dict[str, Any]) -> str:
    ink, nib = MAKERS[kind](m, told)
    return lay(m, kind, told, ink, nib)


@change
def plane(m: ChangeContext, at: list[float], value: str, gap: float | None = None, nib: Any = None,
          part: str | None = None) -> str | None:  # fmt: skip
    """Gives a plane between lines one of three greys: lit (paper), half (one set of strokes) or shadow (two); a plane
    that has one already gets the new one. Gives the id of its tone, None where it is lit. Raises JobError."""
    if value not in PLANES:
        raise JobError(f"a plane is {', '.join(PLANES)}, not '{value}'")
    told = _given({"at": at, "gap": gap, "nib": nib, "part": part or PLANES_PART}) | PLANES[value]
    before = _plane_at(m, told)
    if value == LIT:
        if before is not None:
            tone_delete(m, [before])
        return None
    if before is None:
        return _new(m, HATCH, told)
    tone_set(m, before, {"grey": told["grey"], "second": told.get("second")})
    return before


def _plane_at(m: ChangeContext, told: dict[str, Any]) -> str | None:
    """The tone of a plane that holds the same place."""
    import shapely

    tones = m.job.rows.tones.items()
    planes = {key: row for key, row in tones if row.kind == HATCH and row.told.get("part") == told["part"]}
    laid = {key: row for key, row in planes.items() if row.told.get("at") is not None}
    if not laid:
        return None
    area = field_told(m.job, m.shapes, told).area
    return next((key for key, row in laid.items() if shapely.contains_xy(area, *row.told["at"])), None)


@change
def go_on(
    m: ChangeContext, line: str, before: str | None = None, count: int = 1, pitch: float | None = None
) -> list[str]:
    """Lays the next strokes after one that was pulled, with its widths: at the pitch at which it lies from the stroke
    `before`, or at `pitch` mm to its right; their ends lead on as those of the two do. Gives their ids. Raises
    JobError."""
    row, shape = m.line(line), m.shapes[line]
    other = None if before is None else m.shapes[before].flat[0] if before in m.job.rows.lines else None
    many = int(number(count, "how many", 1, 500))
    wide = None if pitch is None else number(pitch, "a pitch", 0.05, 1000.0)
    courses = next_courses(shape.flat[0], other, many, wide)
    if not courses:
        raise JobError("one stroke tells no pitch: name one, or pull another stroke")
    s = np.linspace(0.0, shape.length, PLACES)
    left, right = shape.body.at(s)
    plain = LineRecord(part=row.part, form="", nib=row.nib, roles=row.roles, ends=row.ends, weight=row.weight)
    return [m.add_line(replace(plain, form=m.draft.add_form(form_from_points(course, left, right, False))))
            for course in courses]  # fmt: skip


@change
def tone_set(m: ChangeContext, tone: str, to: dict[str, Any] | None = None) -> None:
    """Lays a tone anew, where its field is now, by what it was told before but for what is told now: `to` has arguments
    of the change that laid it, null for those that no longer hold. What was done to single strokes stays. Raises
    JobError."""
    row = _tone(m, tone)
    new = {} if to is None else to
    known = argument_names(CHANGE_OF[row.kind])
    if not isinstance(new, dict) or not set(new) <= set(known):
        unknown = next((name for name in new if name not in known), new) if isinstance(new, dict) else new
        raise JobError(f"a {row.kind} knows no '{unknown}'; it takes: {', '.join(known)}")
    told = {name: value for name, value in {**row.told, **new}.items() if value is not None}
    ink, nib = MAKERS[row.kind](m, told)
    lay_anew(m, tone, told, ink, nib)


def _tone(m: ChangeContext, key: Any) -> ToneRecord:
    """The record of a tone. Raises JobError where there is none."""
    row = m.job.rows.tones.get(key) if isinstance(key, str) else None
    if row is None:
        raise JobError(f"there is no tone '{key}'")
    return row


@change
def tone_apart(m: ChangeContext, tones: list[str]) -> None:
    """Makes the strokes and blacks of tones lines and blacks of their own, which keep their widths. Raises JobError."""
    for tone in line_list(tones):
        _tone(m, tone)
        for key in m.job.tone_ink(tone):
            m.draft.put(key, alone(m.ink(key)))
        m.draft.remove("tones", tone)


@change
def tone_delete(m: ChangeContext, tones: list[str]) -> None:
    """Takes tones away, with all their strokes and blacks. Raises JobError."""
    for tone in line_list(tones):
        _tone(m, tone)
        ink = m.job.tone_ink(tone)
        for key in ink:
            m.ink(key)
        # Nothing of it is left to be laid anew: it goes first, and keeps no note of what goes.
        m.draft.remove("tones", tone)
        for key in ink:
            m.remove(key)
