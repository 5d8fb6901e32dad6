"""Named changes of parts: name, tier, order, state, cover."""

from typing import Any

import numpy as np

from plain_stride.form.cover import drawn_cover
from plain_stride.job.change_context import ChangeContext, change, flag, line_list, number
from plain_stride.job.covers import Covers
from plain_stride.job.errors import JobError
from plain_stride.job.ink_changes import ink_key
from plain_stride.job.line_changes import line as lay_line
from plain_stride.job.names import checked_name
from plain_stride.job.nested_parts import let_out, put_inside, take_along
from plain_stride.job.part_order import with_inner
from plain_stride.job.records import INKS, Points
from plain_stride.job.rows import INKED
from plain_stride.lines.given import form_from_points
from plain_stride.weight.plan import check_tier

MOST_GAP_MM, EDGE_MM = 20.0, 0.3


@change
def part(
    m: ChangeContext,
    name: str,
    order: int | None = None,
    tier: str | None = None,
    locked: bool | None = None,
    hidden: bool | None = None,
    ink: str | None = None,
    rename: str | None = None,
    over_frames: bool | None = None,
    inside: str | None = None,
    share: Any = None,
) -> str:
    """Makes a part or alters one: order 1 is nearest, within its tier; ink: black, white, or an ink, by name; rename:
    its new name; over_frames: its lines run over the frames and are not clipped by them; inside: the name of a part
    that it is put in, one deep, "" to take it out; share: how much of the plan its lines have, 0 to 100, 'job' for as
    much as the job. Raises JobError."""
    key = m.part(name, check_tier(tier) if tier is not None and m.job.part_named(name) is None else None)
    new: dict[str, Any] = {}
    if tier is not None:
        new["tier"] = check_tier(tier)
    if locked is not None:
        new["locked"] = flag(locked, "locked")
    if hidden is not None:
        new["hidden"] = flag(hidden, "hidden")
    if over_frames is not None:
        new["over_frames"] = flag(over_frames, "over_frames")
    if ink is not None:
        laid = ink_key(m, ink)
        new |= {"ink": laid, "colour": None} if laid in INKS else {"colour": laid}
    if share is not None:
        new["share"] = None if share == "job" else number(share, "a share", 0.0, 100.0) / 100.0
    if rename is not None and rename != name:
        if m.job.part_named(checked_name(rename, "a part's name")) is not None:
            raise JobError(f"there is a part '{rename}' already")
        new["name"] = rename
    if inside is not None:
        put_inside(m, key, inside)
    take_along(m, key, new)
    m.draft.change("parts", key, **new)
    if order is not None:
        _reorder(m, key, int(number(order, "an order", 1, 1e6)))
    return key


def _reorder(m: ChangeContext, key: str, order: int) -> None:
    """Puts a part at this place from the nearest on, as far as its tier and what it is inside allow, and numbers the
    places of those beside it anew."""
    own = m.job.rows.parts[key]
    others = [p for p in m.job.parts() if p.id != key and p.inside != key]
    before = {p.id for p in others[: order - 1]}
    peers = [p.id for p in others if (p.tier, p.inside) == (own.tier, own.inside)]
    # A part stands before those inside it as well: between them there is no place for others.
    nearer = [peer for peer in peers if before.intersection(with_inner(m.job.rows.parts, peer))]
    peers.insert(len(nearer), key)
    for n, peer in enumerate(peers, 1):
        m.draft.change("parts", peer, place=float(n))


@change
def cover(m: ChangeContext, name: str, on: bool | None = None, gap: float | None = None, shape: Any = None) -> None:
    """Lets a part hide what lies behind it, or not; gap: mm round it that are hidden as well; shape: "found" from
    its outer lines, or drawn: a list of outlines, each a list of [x, y]. Raises JobError."""
    found = m.job.part_named(name)
    if found is None:
        raise JobError(f"there is no part '{name}'")
    new: dict[str, Any] = {}
    if on is not None:
        new["cover"] = flag(on, "on")
    if gap is not None:
        new["cover_gap"] = number(gap, "a gap", 0.0, MOST_GAP_MM)
    if shape == "found":
        new["cover_form"] = None
    elif shape is not None:
        new["cover_form"] = _outlines(shape)
    m.draft.change("parts", found.id, **new)


@change
def cover_edges(m: ChangeContext, name: str, mm: float = EDGE_MM) -> list[str]:
    """Lays the edges of a part's cover as closed lines of a width in that part, to be bent and pushed as any; the cover
    of a part can be made of closed lines again (`cover-of`). Gives their ids. Raises JobError."""
    found = m.job.part_named(name)
    if found is None:
        raise JobError(f"there is no part '{name}'")
    cover, width = Covers(m.job, m.shapes).of(found.id), number(mm, "a width", 0.02, 20.0)
    if cover is None:
        raise JobError(f"part '{name}' has no cover: its outer lines go round nothing")
    nib, out = m.job.nibs()["3"], []
    for ring in cover.rings():
        half = np.full(len(ring), width / 2.0)
        form = form_from_points(ring, half, half, True)
        out.append(str(lay_line(m, form, nib, part=name, role="inner")))
    return out


@change
def cover_of(m: ChangeContext, name: str, lines: list[str]) -> None:
    """Makes a part's cover of the insides of closed lines, and lets it hide what lies behind. Raises JobError."""
    outlines = []
    for key in line_list(lines):
        if key not in m.job.rows.lines or not m.shapes[key].closed:
            raise JobError(f"'{key}' is no closed line: a cover goes round something")
        outlines.append(np.round(m.shapes[key].flat[0], 4).tolist())
    cover(m, name, on=True, shape=outlines)


def _outlines(shape: object) -> tuple[Points, ...]:
    """Outlines as the file keeps them. Raises JobError."""
    rings: Any = shape
    try:
        out = tuple(tuple((_place(x), _place(y)) for x, y in ring) for ring in rings)
    except (TypeError, ValueError):
        raise JobError('a cover\'s shape is "found" or a list of outlines, each a list of [x, y] in mm') from None
    if not out or any(len(ring) < 3 for ring in out):
        raise JobError("an outline of a cover has three places or more")
    if drawn_cover([np.array(ring) for ring in out], []) is None:
        raise JobError("that outline goes round nothing")
    return out


def _place(value: object) -> float:
    return round(number(value, "a place"), 4)


@change
def part_merge(m: ChangeContext, name: str, into: str) -> None:
    """Moves all lines and blacks of a part into another one, on top of what it has, and takes the empty part away.
    Raises JobError."""
    found, target = m.job.part_named(name), m.job.part_named(into)
    if found is None or target is None:
        raise JobError(f"there is no part '{name if found is None else into}'")
    if found.id == target.id:
        raise JobError("a part is not merged with itself")
    if found.locked or target.locked:
        raise JobError(f"part '{name if found.locked else into}' is locked: unlock it first")
    rows = m.job.inked_rows()
    for key in [key for key in m.job.ink_ids() if rows[key].part == found.id]:
        m.draft.change(rows[key].table, key, part=target.id, place=m.job.top_place(target.id) + 1.0)
    let_out(m, found.id)
    m.draft.remove("parts", found.id)


@change
def part_delete(m: ChangeContext, name: str) -> None:
    """Takes a part away with all its lines. Raises JobError."""
    found = m.job.part_named(name)
    if found is None:
        raise JobError(f"there is no part '{name}'")
    if found.locked:
        raise JobError(f"part '{name}' is locked: unlock it to take it away")
    for table in INKED:
        for key in [k for k, r in m.job.rows.of(table).items() if r.part == found.id]:
            m.remove(key)
    let_out(m, found.id)
    m.draft.remove("parts", found.id)
