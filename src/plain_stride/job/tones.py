"""Lays what a tone consists of, and lays it anew: what the inker did to single strokes stays, what was taken away stays
away."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from plain_stride.form.roles import whole_role
from plain_stride.hand.nib import Nib
from plain_stride.job.change_context import ChangeContext
from plain_stride.job.errors import JobError
from plain_stride.job.names import checked_name
from plain_stride.job.records import BLACK, HALO, HATCH, SPEED, TEXTURE, BlackRecord, LineRecord, PartRecord, ToneRecord
from plain_stride.lines.black import Black
from plain_stride.lines.edits import End
from plain_stride.lines.given import Form

WHITE = "white"
PARTS = {BLACK: "Blacks", TEXTURE: "Textures", HATCH: "Hatching", SPEED: "Speed lines", HALO: "Halos", WHITE: "White"}
"""The parts in which tones lie unless another is named, the farthest first: each in front of all that is drawn."""
SAME_PLACE = 0.6
"""A stroke that was changed, or taken away, is found again where a new one's middle is nearer than so many pitches."""
LEAST_NEAR_MM = 0.2


@dataclass(frozen=True, eq=False)
class Ink:
    """What a tone consists of: strokes with their ends, or blacks; sets: of which set each stroke is, from 1 on;
    near: mm within which a stroke laid anew is taken for one of before; white: it is white ink; area: mm2 of the field
    that it fills."""

    strokes: Sequence[Form] = ()
    sets: Sequence[int] = ()
    blacks: Sequence[Black] = ()
    ends: tuple[str, str] = ("flat", "flat")
    role: str = "texture"
    near: float = LEAST_NEAR_MM
    white: bool = False
    area: float = 0.0


def lay(m: ChangeContext, kind: str, told: dict[str, Any], ink: Ink, nib: Nib) -> str:
    """Lays a new tone; gives its id. told: what it was laid by, with 'part' and 'on' among it. Raises JobError."""
    key = m.job.new_id("t")
    m.draft.put(key, ToneRecord(kind=kind, told=told, area=ink.area))
    part = part_of_tone(m, kind, told, ink.white)
    _lay_strokes(m, _row(part, key, nib, ink), _numbered(ink), [])
    _lay_blacks(m, BlackRecord(part=part, outline="", tone=key), list(ink.blacks), [])
    return key


def lay_anew(m: ChangeContext, key: str, told: dict[str, Any], ink: Ink, nib: Nib) -> None:
    """Lays a tone that is there by other arguments. Strokes that the inker changed keep what was done to them; those
    that were taken away stay away. Raises JobError."""
    before = m.job.rows.tones[key]
    part = part_of_tone(m, before.kind, told, ink.white)
    old = m.job.tone_ink(key)
    for one in old:
        m.ink(one)
    row = _row(part, key, nib, ink)
    lines = [one for one in old if one in m.job.rows.lines]
    strokes = [one for one in _numbered(ink) if not _is_near(_middle(one[0]), before.gone, ink.near)]
    kept = _matched(
        m, [one for one in lines if is_changed(m.job.rows.lines[one])], [form for form, _ in strokes], ink.near
    )
    for one, n in kept.items():
        had = m.job.rows.lines[one]
        m.draft.put(one, replace(had, form=m.draft.add_form(strokes[n][0]), nib=nib, member=strokes[n][1]))
    taken = set(kept.values())
    free = [stroke for n, stroke in enumerate(strokes) if n not in taken]
    m.draft.put(key, replace(before, told=told, area=ink.area))
    # A stroke that was changed and has none in its place any more stays as it is.
    _lay_strokes(m, row, free, [one for one in lines if not is_changed(m.job.rows.lines[one])])
    _lay_blacks(m, BlackRecord(part=part, outline="", tone=key), list(ink.blacks),
                [one for one in old if one in m.job.rows.blacks])  # fmt: skip


def is_changed(row: LineRecord) -> bool:
    """Whether the inker did anything to a stroke."""
    shaped = (row.span, row.growth, row.matrix, row.fixed, row.pull)
    return any(one is not None for one in shaped) or bool(row.edits or row.bends)


def part_of_tone(m: ChangeContext, kind: str, told: dict[str, Any], white: bool = False) -> str:
    """The key of the part that a tone lies in, which is made where there is none: the one named, one inside the part
    that it lies `on`, or that of its kind, in front of all that is drawn. Raises JobError."""
    on, name = told.get("on"), told.get("part")
    usual = PARTS[kind]
    if name is None:
        name = usual if on is None else f"{checked_name(on, 'a part')}: {usual.lower()}"
    found = m.job.part_named(checked_name(name, "a part's name"))
    if found is not None:
        return m.open_part(name)
    ink = "white" if white else "black"
    if on is None:
        key = m.job.new_id("g")
        place = _place_in_front(m, kind)
        m.draft.put(key, PartRecord(name=str(name), tier="near", place=place, ink=ink))
        return key
    outer = m.job.part_named(str(on))
    if outer is None:
        raise JobError(f"there is no part '{on}' for a tone to lie on")
    key, row = m.job.new_id("g"), m.job.rows.parts[outer.inside or outer.id]
    m.draft.put(key, PartRecord(name=str(name), tier=row.tier, place=row.place, ink=ink,
                                inside=outer.inside or outer.id))  # fmt: skip
    return key


def _place_in_front(m: ChangeContext, kind: str) -> float:
    """In front of all that is drawn, and of tones that lie farther back; behind those that lie nearer."""
    names = list(PARTS.values())
    nearer = set(names[names.index(PARTS[kind]) + 1 :])
    rows = m.job.rows.parts.values()
    behind = min((row.place for row in rows if row.tier == "near" and row.name not in nearer), default=0.0)
    ahead = max((row.place for row in rows if row.tier == "near" and row.name in nearer and row.place < behind),
                default=behind - 2.0)  # fmt: skip
    return (behind + ahead) / 2.0


def _row(part: str, tone: str, nib: Nib, ink: Ink) -> LineRecord:
    ends = (End(ink.ends[0], 0.0), End(ink.ends[1], 0.0))
    return LineRecord(part=part, form="", nib=nib, roles=whole_role(ink.role), ends=ends, tone=tone)


def _numbered(ink: Ink) -> list[tuple[Form, int]]:
    """(stroke, its set)."""
    return list(zip(ink.strokes, ink.sets or [1] * len(ink.strokes), strict=True))


def _lay_strokes(m: ChangeContext, row: LineRecord, strokes: list[tuple[Form, int]], ids: list[str]) -> None:
    """Lays strokes under the ids of some that were there, as far as these go; the rest of these is taken away."""
    place = m.job.top_place(row.part)
    for n, (form, of) in enumerate(strokes):
        key = ids[n] if n < len(ids) else m.free_id(None, "l")
        m.draft.put(key, replace(row, form=m.draft.add_form(form), place=place + n + 1.0, member=of))
    for key in ids[len(strokes) :]:
        m.draft.remove("lines", key)


def _lay_blacks(m: ChangeContext, row: BlackRecord, blacks: list[Black], ids: list[str]) -> None:
    place = m.job.top_place(row.part)
    for n, black in enumerate(blacks):
        key = ids[n] if n < len(ids) else m.free_id(None, "b")
        m.draft.put(key, replace(row, outline=m.draft.add_outline(black), place=place + n + 1.0))
    for key in ids[len(blacks) :]:
        m.draft.remove("blacks", key)


def _middle(form: Form) -> np.ndarray:
    from plain_stride.lines.curve import Arc

    arc = Arc(form.curve)
    return np.asarray(arc.point(np.array([arc.length / 2.0]))[0])


def _is_near(at: np.ndarray, places: Sequence[tuple[float, float]], near: float) -> bool:
    return bool(len(places)) and bool((np.hypot(*(np.array(places) - at).T) < near).any())


def _matched(m: ChangeContext, lines: list[str], strokes: list[Form], near: float) -> dict[str, int]:
    """Which new stroke lies where each of some lines was laid; each stroke is taken once, the nearest first. Lines
    times strokes, but in arrays."""
    if not lines or not strokes:
        return {}
    forms = {line: m.job.rows.lines[line].form for line in lines}
    there = {line: _middle(m.job.form(form)) for line, form in forms.items() if form is not None}
    middles = np.array([_middle(form) for form in strokes])
    pairs = []
    for line, at in there.items():
        far = np.hypot(*(middles - at).T)
        pairs += [(float(far[n]), line, n) for n in np.flatnonzero(far < near).tolist()]
    out: dict[str, int] = {}
    taken: set[int] = set()
    for _, line, n in sorted(pairs):
        if line not in out and n not in taken:
            out[line] = n
            taken.add(n)
    return out
