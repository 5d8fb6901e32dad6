"""Named changes of handing over: finishes, flats, deliveries, and what is set for all of them."""

from dataclasses import replace
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.finish.delivery import checked_delivery
from plain_stride.finish.passes import Pass, passes_from_json
from plain_stride.job.change_context import ChangeContext, change, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.flats import Flats, flats_of, found_again
from plain_stride.job.hand_over_records import (
    COLOUR,
    CUT,
    HAND_OVER,
    MOST_BRIDGE_MM,
    MOST_SPREAD_MM,
    MOST_STEP,
    DeliveryRecord,
    FinishRecord,
    FlatRecord,
)
from plain_stride.job.ink_changes import colour_of
from plain_stride.job.inks import hand_over_of
from plain_stride.job.names import checked_name

MOST_DELIVERIES = 200


@change
def hand_over(m: ChangeContext, bridge: Any = None, spread: Any = None, step: Any = None) -> None:
    """Sets what holds for all handing over: bridge, mm of a gap that areas do not leak through; spread, mm that areas
    reach under lines; step of L* by which a line is darker than the flat beside it. Raises JobError."""
    new = {}
    for name, value, low, high in (("bridge", bridge, 0.0, MOST_BRIDGE_MM), ("spread", spread, 0.0, MOST_SPREAD_MM),
                                   ("step", step, 1.0, MOST_STEP)):  # fmt: skip
        if value is not None:
            new[name] = number(value, name, low, high)
    row = hand_over_of(m.job)
    m.draft.put(HAND_OVER, type(row)(**(row.plain() | new)))


# Finishes


@change
def finishes(m: ChangeContext, finishes: Any) -> list[str]:
    """Lays a stack of finishes in place of what there was, the first one done first; `[]` takes them off. Parts are
    named as they are called. Gives their keys. Raises JobError."""
    try:
        passes = passes_from_json(finishes)
    except StrideError as fault:
        raise JobError(str(fault)) from None
    rows = [_keyed(m, one) for one in passes]
    for key in list(m.job.rows.finishes):
        m.draft.remove("finishes", key)
    keys = []
    for n, told in enumerate(rows, 1):
        keys.append(m.job.new_id("f"))
        m.draft.put(keys[-1], FinishRecord(place=float(n), told=told))
    return keys


def _keyed(m: ChangeContext, one: Pass) -> Pass:
    """A pass with keys of parts in place of their names; lines that are there."""
    parts = []
    for name in one.parts:
        found = m.job.part_named(name)
        key = found.id if found is not None else name if name in m.job.rows.parts else None
        if key is None:
            raise JobError(f"finish '{one.title}': there is no part '{name[:60]}'")
        parts.append(key)
    unknown = [key for key in one.lines if m.job.inked(key) is None]
    if unknown:
        raise JobError(f"finish '{one.title}': there is no line '{unknown[0][:60]}'")
    return replace(one, parts=tuple(parts))


# Flats


@change
def flat(m: ChangeContext, at: Any, colour: Any = None, part: str | None = None, bounds: Any = None) -> str:
    """Says of the area at a place, or of the areas at several, which are one from then on: its colour, and the part
    that it belongs to. bounds: of each place, the lines round its area, where they are known. Gives its key. Raises
    JobError."""
    places = _places(at)
    found = flats_of(m.job, m.shapes, with_leaks=False) if bounds is None else None
    round_ = [_bounds_at(found, place) for place in places] if found is not None else _bounds(bounds, len(places))
    laid = None if colour is None else colour_of(colour)
    row = FlatRecord(kind=COLOUR, places=places, bounds=tuple(round_), colour=laid, part=m.part_named(part))
    before = _said_there(m, row, found)
    if before:
        old = m.job.rows.flats[before[0]]
        row = FlatRecord(kind=COLOUR, places=_joined(m, before, row)[0], bounds=_joined(m, before, row)[1],
                         colour=row.colour or old.colour, part=row.part or old.part)  # fmt: skip
        for key in before:
            m.draft.remove("flats", key)
    key = before[0] if before else m.job.new_id("a")
    m.draft.put(key, row)
    return key


def _joined(m: ChangeContext, before: list[str], row: FlatRecord) -> tuple[Any, Any]:
    """Places and bounds of what was said before and of a new row, each once."""
    rows = [m.job.rows.flats[key] for key in before] + [row]
    both = {bounds: place for one in rows for place, bounds in zip(one.places, one.bounds, strict=True)}
    return tuple(both.values()), tuple(both)


def _said_there(m: ChangeContext, row: FlatRecord, found: Flats | None) -> list[str]:
    """Keys of what was said of the same areas."""
    mine = set(row.bounds)
    keys = [key for key, one in m.job.rows.flats.items() if one.kind == COLOUR and mine & set(one.bounds)]
    if found is not None:
        areas = {found_again(found.map, p, b) for p, b in zip(row.places, row.bounds, strict=True)}
        keys += [one.says for one in found.flats if one.says and areas & set(one.areas)]
    return list(dict.fromkeys(keys))


@change
def flat_split(m: ChangeContext, line: Any) -> str:
    """Parts areas by a line [[x, y], ..] across them, which is never drawn. Gives its key. Raises JobError."""
    places = _places(line)
    if len(places) < 2:
        raise JobError("a line that parts areas has two places at least")
    key = m.job.new_id("a")
    m.draft.put(key, FlatRecord(kind=CUT, places=places))
    return key


@change
def flat_clear(m: ChangeContext, keys: list[str]) -> None:
    """Takes back what was said of flats, or a line that parts them, by their keys. Raises JobError."""
    if not isinstance(keys, list) or not keys or any(key not in m.job.rows.flats for key in keys):
        raise JobError("flats are told by a list of their keys")
    for key in dict.fromkeys(keys):
        m.draft.remove("flats", key)


def _places(at: Any) -> tuple[tuple[float, float], ...]:
    several = at if isinstance(at, list) and at and isinstance(at[0], list) else [at]
    return tuple((round(x, 3), round(y, 3)) for x, y in (place_of(one).tolist() for one in several))


def _bounds_at(found: Flats, place: tuple[float, float]) -> tuple[str, ...]:
    one = found.at(*place)
    if one is None:
        raise JobError(f"there is no area at {place[0]:g}, {place[1]:g} mm: it lies off the sheet")
    return one.bounds


def _bounds(bounds: Any, many: int) -> list[tuple[str, ...]]:
    wanted = isinstance(bounds, list) and len(bounds) == many
    if not wanted or not all(isinstance(one, list) and all(isinstance(v, str) for v in one) for one in bounds):
        raise JobError("bounds are a list of ids of lines for each place")
    return [tuple(one) for one in bounds]


# Deliveries


@change
def delivery(m: ChangeContext, name: str, told: Any) -> str:
    """Keeps a delivery under a name, or what it is from now on. Gives its key. Raises JobError."""
    checked_name(name, "a delivery's name")
    try:
        checked_delivery(told)
    except StrideError as fault:
        raise JobError(str(fault)) from None
    rows = m.job.rows.deliveries
    key = next((key for key, row in rows.items() if row.name == name), None)
    if key is None and len(rows) >= MOST_DELIVERIES:
        raise JobError(f"{MOST_DELIVERIES} deliveries are kept at most: take one away first")
    key = key or m.job.new_id("d")
    m.draft.put(key, DeliveryRecord(name=name, told=told))
    return key


@change
def delivery_delete(m: ChangeContext, name: str) -> None:
    """Takes a delivery that is kept away; what was delivered stays known. Raises JobError."""
    key = next((key for key, row in m.job.rows.deliveries.items() if row.name == name), None)
    if key is None:
        raise JobError(f"no delivery '{name}' is kept")
    m.draft.remove("deliveries", key)
