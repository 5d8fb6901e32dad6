"""Named changes that lay lines and blacks, and that edit them."""

from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.form.roles import FOUND, RoleStretch, whole_role
from plain_stride.hand.nib import END_KINDS, Nib, Steadying
from plain_stride.hand.pull import Pull
from plain_stride.job.bundle import bundle_of, checked_bundle
from plain_stride.job.change_context import (
    DEFAULT_PART,
    DEFAULT_ROLE,
    ChangeContext,
    change,
    flag,
    line_list,
    nib_named,
    number,
    place_of,
)
from plain_stride.job.errors import JobError
from plain_stride.job.families import checked_symmetry, lay_copies
from plain_stride.job.records import BlackRecord, LineRecord
from plain_stride.job.shapes import Shapes
from plain_stride.lines.affine import Affine, moved
from plain_stride.lines.black import Black, checked
from plain_stride.lines.boxes import meet
from plain_stride.lines.centre import Following
from plain_stride.lines.cross import crossings, nearest, self_crossings
from plain_stride.lines.edits import End, Span, Swell
from plain_stride.lines.given import Form
from plain_stride.lines.shape import Shape

MAX_FACTOR, MOST_EDITS = 20.0, 200
LEAST_HALF_MM, LEAST_LEFT_MM = 0.05, 0.01
AT_MM, LEAST_SINE = 5.0, 0.35
"""How far from a line the place of a trim may lie; lines that cross more flatly count as crossing at that sine."""
TRIMMED_TO = ("crossing", "edge")


def _ends(ends: object) -> tuple[End, End]:
    kinds = [ends, ends] if isinstance(ends, str) else ends
    if not isinstance(kinds, list) or len(kinds) != 2:
        raise JobError("ends are one kind, or two: for the start and the end")
    for kind in kinds:
        if kind not in END_KINDS:
            raise JobError(f"ends '{kind}' are not known: {', '.join(END_KINDS)}")
    return End(str(kinds[0])), End(str(kinds[1]))


def _role_of(role: str | None, found: bool = False) -> tuple[RoleStretch, ...]:
    """The role of a new line: one that is given, or one that may be found otherwise."""
    return whole_role(role or DEFAULT_ROLE, FOUND) if role is None or found else whole_role(role)


@change
def pull(
    m: ChangeContext,
    pull: Pull,
    part: str = DEFAULT_PART,
    role: str | None = None,
    id: str | None = None,
    tier: str | None = None,
    follow: dict[str, Any] | None = None,
    symmetry: dict[str, Any] | None = None,
) -> str:
    """Lays a line from a pull, with the steadying and the ends of its nib. follow: {share, line, strict}: drawn so far
    to a line, exactly along it where it is strict. symmetry: {kind, count, centre, angle}: copies of it that go along
    with it, see `symmetric`."""
    key = m.draft.add_pull(pull)
    setting = pull.nib.steadying
    row = LineRecord(
        part=m.open_part(part, tier),
        pull=key,
        school=setting.school,
        leeway=setting.leeway,
        less_in_bends=setting.less_in_bends,
        nib=pull.nib,
        roles=_role_of(role),
        ends=(End(pull.nib.ends), End(pull.nib.ends)),
        follow=checked_follow(follow),
    )
    line_id = m.add_line(row, id)
    if symmetry is not None:
        lay_copies(m, line_id, checked_symmetry(symmetry))
    return line_id


def checked_follow(follow: object) -> Following | None:
    """How a line follows the pencils, as its row keeps it. Raises JobError."""
    if follow is None:
        return None
    if not isinstance(follow, dict) or not {"share", "line"} <= set(follow) <= {"share", "line", "strict"}:
        raise JobError("follow is {share, line, strict}: 0 to 1, the points of a line, whether exactly along it")
    share = number(follow["share"], "a share", 0.0, 1.0)
    try:
        points = np.array(follow["line"], float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != 2 or points.shape[1] != 2 or len(points) < 3 or not np.isfinite(points).all():
        raise JobError("the pencil line that is followed is a list of three [x, y] in mm at least")
    strict = flag(follow.get("strict", False), "strict")
    return Following(share, np.round(points, 3), strict) if share > 0.0 else None


@change
def line(
    m: ChangeContext,
    form: Form,
    nib: Nib,
    ends: tuple[str, str] = ("round", "round"),
    part: str = DEFAULT_PART,
    role: str | None = None,
    id: str | None = None,
    tier: str | None = None,
    draft: bool = False,
    found: bool = False,
) -> str:
    """Lays a line that comes with its centreline and widths; they already hold its ends. draft: it is shown pale and
    is no ink before it is taken. found: its role was found and not given. Raises JobError."""
    if any(kind not in END_KINDS for kind in ends):
        raise JobError(f"ends are {', '.join(END_KINDS)}, not {', '.join(map(str, ends))}")
    key = m.draft.add_form(form)
    row = LineRecord(
        part=m.open_part(part, tier),
        form=key,
        nib=nib,
        roles=_role_of(role, flag(found, "found")),
        ends=(End(ends[0], 0.0), End(ends[1], 0.0)),
        draft=flag(draft, "draft"),
    )
    return m.add_line(row, id)


@change
def black(
    m: ChangeContext, black: Black, part: str = DEFAULT_PART, id: str | None = None, tier: str | None = None
) -> str:
    """Lays a black: a filled shape in a part, in the part's ink."""
    outline = m.draft.add_outline(checked(black))
    return m.add_black(BlackRecord(part=m.open_part(part, tier), outline=outline), id)


@change
def paste(m: ChangeContext, bundle: dict[str, Any], by: list[float] | None = None) -> list[str]:
    """Lays copies of lines and blacks that a bundle holds (`job.bundle`), moved by [dx, dy] mm; gives their ids."""
    return pasted(m, bundle, None if by is None else place_of(by))


def pasted(m: ChangeContext, bundle: object, by: np.ndarray | None) -> list[str]:
    """Lays what a bundle holds; what never changes is stored once."""
    found = checked_bundle(bundle)
    kept = {(row.table, row.id): m.draft.add_known(row) for row in found.kept}
    out = []
    for row in found.rows:
        name, tier = found.parts[row.part]
        part = m.open_part(name, None if m.job.part_named(name) is not None else tier)
        matrix = row.matrix if by is None else _after(row.matrix, moved(*by.tolist()))
        if isinstance(row, LineRecord):
            named = {"pull": ("pulls", row.pull), "form": ("forms", row.form), "fixed": ("paths", row.fixed)}
            keys: dict[str, Any] = {column: kept.get((table, str(key))) for column, (table, key) in named.items()}
            out.append(m.add_line(replace(row, part=part, matrix=matrix, **keys)))
        else:
            out.append(m.add_black(replace(row, part=part, matrix=matrix, outline=kept["outlines", row.outline])))
    return out


# Editing lines


@change
def delete(m: ChangeContext, lines: list[str]) -> None:
    """Takes lines and blacks away."""
    for key in line_list(lines):
        m.ink(key)
        m.remove(key)


@change
def move(m: ChangeContext, lines: list[str], by: list[float]) -> None:
    """Moves lines and blacks whole by [dx, dy] mm; how they were made stays theirs."""
    dx, dy = place_of(by).tolist()
    for key in line_list(lines):
        row = m.ink(key)
        m.draft.change(row.table, key, matrix=_after(row.matrix, moved(dx, dy)))


def _after(matrix: Affine | None, by: Affine) -> Affine | None:
    """Where a line lies after one more map; None where it lies where it was laid."""
    both = (matrix or Affine()).then(by)
    e, f = (number(round(v, 6), "a place") for v in (both.e, both.f))
    out = replace(both, e=e, f=f)
    return None if out == Affine() else out


@change
def duplicate(m: ChangeContext, lines: list[str], by: list[float] | None = None) -> list[str]:
    """Lays a second of each of these lines and blacks, moved by [dx, dy] mm; gives the new ids."""
    keys = line_list(lines)
    for key in keys:
        m.ink(key)
    return pasted(m, bundle_of(m.shapes, keys), None if by is None else place_of(by))


@change
def trim(m: ChangeContext, line: str, at: list[float], to: str = TRIMMED_TO[0]) -> list[str]:
    """Takes away the stretch at a place [x, y] mm between the nearest crossings with lines that are seen; to: as far as
    the crossing, or the outer edge of what crosses it.

    A middle stretch leaves two lines. Gives the ids of what is left. Raises JobError."""
    if to not in TRIMMED_TO:
        raise JobError(f"a line is trimmed to the {' or the '.join(TRIMMED_TO)}, not '{to}'")
    row = m.line(line)
    place = place_of(at)
    shape = m.shapes[line]
    stretch = trimmed_stretch(m.shapes, line, place, to)
    if stretch is None:
        if shape.closed:
            raise JobError("that ring is not crossed twice: cut it, or delete it to take it away whole")
        raise JobError("nothing crosses that line there: delete it to take it away whole")
    a, b = stretch
    ends, cut = row.ends, blunt_ends(row.ends)
    if shape.closed:
        return [spanned(m, line, row, shape, b, a + shape.length, cut)]
    left = []
    if a >= LEAST_LEFT_MM:
        left.append(spanned(m, line, row, shape, 0.0, a, (ends[0], cut[1])))
    if shape.length - b >= LEAST_LEFT_MM:
        new_ends = (cut[0], ends[1])
        if left:
            left.append(twin_of(m, row, shape, b, shape.length, new_ends))
        else:
            left.append(spanned(m, line, row, shape, b, shape.length, new_ends))
    if not left:
        m.remove(line)
    return left


def blunt_ends(ends: tuple[End, End]) -> tuple[End, End]:
    """Ends of a line that was cut: what came to a point there does so no more."""
    first, last = (End("flat" if end.kind == "flat" else "round") for end in ends)
    return first, last


@change
def cut(m: ChangeContext, line: str, at: list[float]) -> list[str]:
    """Cuts a line at a place [x, y] mm: both halves stay lines; a closed one is opened there. Gives their ids.
    Raises JobError."""
    row, shape = m.line(line), m.shapes[line]
    points, s = shape.flat
    away, index = nearest(points, place_of(at))
    if away > AT_MM:
        raise JobError(f"that place lies {away:.1f} mm from line '{line}': point at the line")
    where = float(np.interp(index, np.arange(len(s)), s))
    blunt = blunt_ends(row.ends)
    if shape.closed:
        return [spanned(m, line, row, shape, where, where + shape.length, blunt)]
    if min(where, shape.length - where) < LEAST_HALF_MM:
        raise JobError("that is at the line's end: nothing would be cut off")
    first = spanned(m, line, row, shape, 0.0, where, (row.ends[0], blunt[1]))
    return [first, twin_of(m, row, shape, where, shape.length, (blunt[0], row.ends[1]))]


def twin_of(m: ChangeContext, row: LineRecord, shape: Shape, a: float, b: float, ends: tuple[End, End]) -> str:
    """Another line, just above, of a stretch of the same one."""
    key = m.free_id(None, "l")
    return spanned(m, key, replace(row, place=_just_above(m, row)), shape, a, b, ends)


def trimmed_stretch(
    shapes: Shapes, line: str, place: np.ndarray, to: str = TRIMMED_TO[0]
) -> tuple[float, float] | None:  # fmt: skip
    """(a, b) arc lengths of the stretch a trim at `place` takes away; None where nothing crosses the line.

    On a closed line a may lie below 0. to: as far as the middles of what crosses it, or their outer edges. Raises
    JobError when the place is not on the line. All in mm; place is (2,)."""
    shape = shapes[line]
    points, s = shape.flat
    away, at = nearest(points, place)
    if away > AT_MM:
        raise JobError(f"that place lies {away:.1f} mm from line '{line}': point at the line")
    source_t = np.interp(at, np.arange(len(s)), s)
    cut, beyond = _crossed(shapes, line)
    if shape.closed:
        if not len(cut):
            return None
        cut = np.concatenate([cut - shape.length, cut, cut + shape.length])
        beyond = np.tile(beyond, 3)
    before, after = cut <= source_t, cut > source_t
    if not len(cut):
        return None
    a, b = (float(cut[before][-1]) if before.any() else 0.0), (float(cut[after][0]) if after.any() else shape.length)
    if shape.closed and b - a > shape.length - LEAST_LEFT_MM:
        return None
    if to == TRIMMED_TO[1]:
        a += float(beyond[before][-1]) if before.any() else 0.0
        b -= float(beyond[after][0]) if after.any() else 0.0
    return (a, b) if b - a > LEAST_LEFT_MM else None


def _crossed(shapes: Shapes, line: str) -> tuple[np.ndarray, np.ndarray]:
    """(arc lengths (k,), rising, at which a line crosses itself or others that are seen, mm along it (k,) from the
    middle of each to its outer edge)."""
    shape = shapes[line]
    points, s = shape.flat
    own = self_crossings(points)
    found = [(own, np.zeros(len(own)))]
    for other in shapes.visible():
        if other != line and meet(shape.box, shapes[other].box):
            theirs = shapes[other]
            i, j = crossings(points, theirs.flat[0])
            if len(i):
                at = np.interp(j, np.arange(len(theirs.flat[1])), theirs.flat[1])
                here = np.interp(i, np.arange(len(s)), s)
                ways, across = shape.arc.direction(here), theirs.arc.direction(at)
                sine = np.abs(ways[:, 0] * across[:, 1] - ways[:, 1] * across[:, 0])
                left, right = theirs.body.at(at)
                found.append((i, (left + right) / 2.0 / np.maximum(sine, LEAST_SINE)))
    at, beyond = (np.concatenate(column) for column in zip(*found, strict=True))
    cut, first = np.unique(np.interp(at, np.arange(len(s)), s), return_index=True)
    return cut, beyond[first]


def spanned(
    m: ChangeContext, key: str, row: LineRecord, shape: Shape, a: float, b: float, ends: tuple[End, End]
) -> str:
    if shape.closed:
        a, b = (a - shape.length, b - shape.length) if a >= shape.length else (a, b)
    if shape.closed and b > shape.length:
        span = Span(
            shape.source_t_at(a), shape.source_t_at(b - shape.length) + float(shape.source_t[-1] - shape.source_t[0])
        )
    else:
        span = Span(shape.source_t_at(a), shape.source_t_at(b))
    m.draft.put(key, replace(row, span=span, ends=ends))
    _ = m.shapes[key]
    return key


def _just_above(m: ChangeContext, row: LineRecord) -> float:
    above = [r.place for r in m.job.rows.lines.values() if r.part == row.part and r.place > row.place]
    return (row.place + min(above)) / 2.0 if above else row.place + 1.0


@change
def swell(
    m: ChangeContext, line: str, factor: float, from_: float | None = None, to: float | None = None, side: str = "both"
) -> None:
    """Makes the stretch from..to (mm along the line; left out: to its ends) heavier (factor > 1) or lighter."""
    m.draft.put(line, swollen(m.line(line), m.shapes[line], factor, from_, to, side))


def swollen(
    row: LineRecord,
    shape: Shape,
    factor: float,
    start: float | None = None,
    end: float | None = None,
    side: str = "both",
) -> LineRecord:
    """The row of a line with a stretch heavier or lighter, of which `shape` is the shape. Raises JobError. factor:
    times as wide; start, end: mm along it, None for its ends."""
    gain = number(factor, "a factor", 1.0 / MAX_FACTOR, MAX_FACTOR)
    if len(row.edits) >= MOST_EDITS:
        raise JobError(f"a line keeps at most {MOST_EDITS} swells and shaves, and this one has so many: pull it anew")
    if side not in ("both", "left", "right"):
        raise JobError(f"a side is both, left or right, not '{side}'")
    source_t = []
    for value, what in ((start, "from"), (end, "to")):
        source_t.append(None if value is None else _source_beyond(shape, number(value, f"'{what}'")))
    if source_t[0] is not None and source_t[1] is not None and source_t[1] <= source_t[0]:
        raise JobError("a swell goes from a smaller to a larger length along the line")
    return replace(row, edits=(*row.edits, Swell(source_t[0], source_t[1], gain, side)))


def _source_beyond(shape: Shape, s: float) -> float:
    """The source parameter at arc length s; past the ends it goes on evenly, so that a fade keeps its place."""
    inside = min(max(s, 0.0), shape.length)
    rate = (shape.source_t[-1] - shape.source_t[0]) / max(shape.length, 1e-9)
    return shape.source_t_at(inside) + (s - inside) * float(rate)


@change
def set_(
    m: ChangeContext,
    lines: list[str],
    part: str | None = None,
    role: str | None = None,
    ends: Any = None,
    nib: Any = None,
) -> None:
    """Gives lines another part, role, ends (one kind or [start, end]) or nib (its key, or its values)."""
    for key in line_list(lines):
        row = m.ink(key)
        new: dict[str, Any] = {}
        if part is not None:
            new["part"] = m.open_part(part)
            if new["part"] != row.part:
                new["place"] = m.job.top_place(new["part"]) + 1.0
        if role is not None:
            new["roles"] = whole_role(role)
        if ends is not None:
            new["ends"] = _ends(ends)
        if nib is not None:
            new["nib"] = nib_named(m.job, nib)
        # A black has a part and nothing else of these.
        m.draft.change(row.table, key, **{column: v for column, v in new.items() if column in row.columns()})


@change
def steady(
    m: ChangeContext, lines: list[str], school: str = "after", leeway: float | None = None, less_in_bends: bool = False
) -> None:
    """Steadies lines anew: school off, live or after; leeway in mm, left out for auto; less_in_bends: tight bends more
    lightly. Lines without a pull stay."""
    less = flag(less_in_bends, "less_in_bends")
    setting = Steadying(school, None if leeway is None else number(leeway, "a leeway"), less)
    for key in line_list(lines):
        m.line(key)
        m.draft.change("lines", key, school=setting.school, leeway=setting.leeway, less_in_bends=less)
        _ = m.shapes[key]
