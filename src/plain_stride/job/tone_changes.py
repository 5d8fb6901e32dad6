"""Named changes of tones: laid, laid anew, taken apart."""

from collections.abc import Callable
from typing import Any

from plain_stride.hand.nib import Nib
from plain_stride.job.black_told import areas_told, halo_told
from plain_stride.job.change_context import ChangeContext, argument_names, change, line_list
from plain_stride.job.errors import JobError
from plain_stride.job.hatch_told import USUAL_NIB, hatch_told
from plain_stride.job.records import BLACK, HALO, HATCH
from plain_stride.job.releasing import alone
from plain_stride.job.tones import SAME_PLACE, Ink, lay, lay_anew
from plain_stride.lines.area_black import black_of_area

Made = tuple[Ink, Nib]


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
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Fills a field with strokes to a grey; gives the id of the tone that they are. grey: a share of ink, 0 to 1, or
    [from, to] in the direction `towards` (by default along the strokes). The field is drawn `around`, found `at` a
    place between the lines that are seen (gaps up to `gap` mm bridged), or lies between two `edges`. Strokes run at an
    `angle`, like a course drawn `along`, or along or across the form between the `edges`. pitch: mm, else as fine as
    the print target and the nib hold; widening: by which share each pitch is larger than the one before, towards the
    light; second, third: angles of further sets; tips: mm of point towards the light, or [start, end]; continued: mm
    that fine strokes go on beyond the ends; evenness: 0 ruled to 1 hand-made, by a seed. Raises JobError."""
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
    part: str | None = None,
    on: str | None = None,
) -> str:
    """Fills areas black, as far as the middles of the lines round them; gives the id of the tone that they are. at: a
    place [x, y] between lines that are seen, or several; gaps up to `gap` mm are bridged; to_edge: an area may reach
    the sheet's edge. marked: all areas that are marked to be filled in the pencils. around: [[x, y], ..]. Raises
    JobError."""
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


def _hatch_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    found = hatch_told(m.job, m.shapes, told)
    sets = found.sets()
    strokes = [form for one in sets for form in one.strokes.forms()]
    members = [k for k, one in enumerate(sets, 1) for _ in range(len(one.strokes))]
    tipped = found.hatch.hand.evenness > 0.0 or found.hatch.continued > 0.0
    start, end = ("pointed" if tip > 0.0 or tipped else "flat" for tip in found.hatch.tips)
    return Ink(strokes, members, ends=(start, end), near=SAME_PLACE * min(one.pitch for one in sets)), found.nib


def _black_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    blacks = [black_of_area(area) for area in areas_told(m.job, m.shapes, told)]
    return Ink(blacks=blacks), m.job.nibs()[USUAL_NIB]


def _halo_ink(m: ChangeContext, told: dict[str, Any]) -> Made:
    return Ink(blacks=[black_of_area(halo_told(m, told))], white=True), m.job.nibs()[USUAL_NIB]


MAKERS: dict[str, Callable[[ChangeContext, dict[str, Any]], Made]] = {
    HATCH: _hatch_ink,
    BLACK: _black_ink,
    HALO: _halo_ink,
}
"""What a tone of each kind consists of, by what it was told."""


def _new(m: ChangeContext, kind: str, told: dict[str, Any]) -> str:
    ink, nib = MAKERS[kind](m, told)
    return lay(m, kind, told, ink, nib)


@change
def tone_set(m: ChangeContext, tone: str, to: dict[str, Any] | None = None) -> None:
    """Lays a tone anew, where its field is now, by what it was told before but for what is told now: `to` has arguments
    of the change that laid it, null for those that no longer hold. What was done to single strokes stays. Raises
    JobError."""
    row = m.job.rows.tones.get(tone) if isinstance(tone, str) else None
    if row is None:
        raise JobError(f"there is no tone '{tone}'")
    new = {} if to is None else to
    known = arguments_of(row.kind)
    if not isinstance(new, dict) or not set(new) <= set(known):
        unknown = next((name for name in new if name not in known), new) if isinstance(new, dict) else new
        raise JobError(f"a {row.kind} knows no '{unknown}'; it takes: {', '.join(known)}")
    told = {name: value for name, value in {**row.told, **new}.items() if value is not None}
    ink, nib = MAKERS[row.kind](m, told)
    lay_anew(m, tone, told, ink, nib)


@change
def tone_apart(m: ChangeContext, tones: list[str]) -> None:
    """Makes the strokes and blacks of tones lines and blacks of their own, which keep their widths. Raises JobError."""
    for tone in line_list(tones):
        if tone not in m.job.rows.tones:
            raise JobError(f"there is no tone '{tone}'")
        for key in m.job.tone_ink(tone):
            m.draft.put(key, alone(m.ink(key)))
        m.draft.remove("tones", tone)


@change
def tone_delete(m: ChangeContext, tones: list[str]) -> None:
    """Takes tones away, with all their strokes and blacks. Raises JobError."""
    for tone in line_list(tones):
        if tone not in m.job.rows.tones:
            raise JobError(f"there is no tone '{tone}'")
        ink = m.job.tone_ink(tone)
        for key in ink:
            m.ink(key)
        # Nothing of it is left to be laid anew: it goes first, and keeps no note of what goes.
        m.draft.remove("tones", tone)
        for key in ink:
            m.remove(key)


def arguments_of(kind: str) -> list[str]:
    """What tones of a kind are told."""
    return argument_names(CHANGE_OF[kind])


CHANGE_OF = {HATCH: "hatch", BLACK: "blacken", HALO: "halo"}
"""The change that lays each kind of tone."""
