"""The named changes: the one way to change a job, for the window, the command line and tests alike.

Each takes plain arguments, checks them at the door, and puts rows; `make` turns one or several into one step of
history. `docs/changes.md` lists them for people.
"""

import inspect
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.board.page import Page, placed
from plain_stride.form.cover import drawn_cover
from plain_stride.hand.nib import END_KINDS, Nib, Steadying, nib_from_row
from plain_stride.hand.pull import Pull
from plain_stride.job.job import BOARD, PLAN, Job, _Draft
from plain_stride.job.schema import ADDED, Row
from plain_stride.job.shapes import Shapes
from plain_stride.job.store import Commit, JobError
from plain_stride.lines.cross import crossings, nearest, self_crossings
from plain_stride.lines.given import Form
from plain_stride.lines.recipe import Shape
from plain_stride.pencils.picture import picture_facts
from plain_stride.weight.plan import Plan, check_role, check_tier

DEFAULT_PART, DEFAULT_ROLE, DEFAULT_TIER = "Lines", "inner", "middle"
INKS = ("black", "white")
TINTS = ("pale blue", "as drawn")
MAX_FACTOR = 20.0
MOST_GAP_MM = 20.0
AT_MM = 5.0
"""How far from a line the place of a trim may lie."""


@dataclass
class Making:
    """What a change works on: the job, its shapes, the rows put so far."""

    job: Job
    shapes: Shapes
    draft: _Draft

    def line(self, key: object) -> Any:
        """The row of a line that may be changed. Raises JobError for an unknown or a locked one."""
        row = self.job.rows["lines"].get(key) if isinstance(key, str) else None
        if row is None:
            raise JobError(f"there is no line '{key}'")
        part: Any = self.job.rows["parts"][str(row["part"])]
        if part["locked"]:
            raise JobError(f"part '{part['name']}' is locked: unlock it to change its lines")
        return row

    def part(self, name: object, tier: str | None = None) -> str:
        """The key of the part of this name, made (farthest of its tier) where there is none."""
        if not isinstance(name, str) or not name.strip() or len(name) > 200:
            raise JobError("a part's name is a text of 1 to 200 letters")
        found = self.job.part_named(name)
        if found is not None:
            if tier is not None and tier != found.tier:
                raise JobError(f"part '{name}' is {found.tier}, not {tier}: change the part's tier first")
            return found.id
        key = self.job.new_id("g")
        place = max((p["place"] for p in self.job.rows["parts"].values()), default=0.0) + 1.0  # type: ignore[type-var, operator]
        row: Row = {
            "name": name,
            "tier": check_tier(tier or DEFAULT_TIER),
            "place": place,
            "locked": 0,
            "hidden": 0,
            "ink": "black",
            **ADDED["parts"],
        }
        self.draft.put("parts", key, row)
        return key

    def open_part(self, name: object, tier: str | None = None) -> str:
        """As `part`; raises JobError when it is locked."""
        key = self.part(name, tier)
        if self.job.rows["parts"][key]["locked"]:
            raise JobError(f"part '{name}' is locked: unlock it to ink in it")
        return key

    def add_line(self, row: dict[str, Any], wanted: object = None) -> str:
        """Puts a new line on top of its part, under the wanted id where that is free, and works it out once."""
        key = wanted if isinstance(wanted, str) and 0 < len(wanted) <= 200 else ""
        while not key or key in self.job.rows["lines"]:
            key = self.job.new_id("l")
        place = self.job.top_place(row["part"]) + 1.0
        self.draft.put("lines", key, {"place": place, "span": None, "edits": [], **row})
        _ = self.shapes[key]
        return key


Change = Callable[..., object]
CHANGES: dict[str, Change] = {}


def change(function: Change) -> Change:
    CHANGES[function.__name__.rstrip("_").replace("_", "-")] = function
    return function


@dataclass(frozen=True)
class Made:
    """results: what each change gave (ids of new lines, mostly); commit: what to write, None if nothing changed."""

    results: list[Any]
    commit: Commit | None


def make(job: Job, shapes: Shapes, name: str, *arguments: dict[str, Any]) -> Made:
    """Makes one change, or the same one with several sets of arguments, as one step. Raises JobError, job unchanged."""
    return make_all(job, shapes, [(name, a) for a in (arguments or ({},))])


def make_all(job: Job, shapes: Shapes, wanted: Sequence[tuple[str, dict[str, Any]]], words: str = "") -> Made:
    """Makes several changes as one step: all or nothing."""
    for name, arguments in wanted:
        _check(name, arguments)
    kept = [(name, {k: v for k, v in a.items() if _is_plain(v)}) for name, a in wanted]
    title = words or (wanted[0][0] if wanted else "nothing")
    with job.step(wanted[0][0] if len(wanted) == 1 else title, title, kept) as draft:
        making = Making(job, shapes, draft)
        results = [CHANGES[name](making, **_python_names(arguments)) for name, arguments in wanted]
    return Made(results, draft.commit)


_TO_PYTHON = {"from": "start", "to": "end"}


def _python_names(arguments: dict[str, Any]) -> dict[str, Any]:
    return {_TO_PYTHON.get(k, k): v for k, v in arguments.items()}


def argument_names(name: str) -> list[str]:
    """The arguments of a change as edits write them."""
    back = {v: k for k, v in _TO_PYTHON.items()}
    return [back.get(p, p) for p in list(inspect.signature(CHANGES[name]).parameters)[1:]]


def _check(name: str, arguments: dict[str, Any]) -> None:
    if name not in CHANGES:
        raise JobError(f"there is no change '{name}'; there are: {', '.join(sorted(CHANGES))}")
    known = argument_names(name)
    back = {v: k for k, v in _TO_PYTHON.items()}
    needed = [
        back.get(p.name, p.name)
        for p in list(inspect.signature(CHANGES[name]).parameters.values())[1:]
        if p.default is inspect.Parameter.empty
    ]
    unknown, lacking = [k for k in arguments if k not in known], [k for k in needed if k not in arguments]
    if unknown:
        raise JobError(f"change '{name}' knows no '{unknown[0]}'; it takes: {', '.join(known)}")
    if lacking:
        raise JobError(f"change '{name}' lacks '{lacking[0]}'")


def _is_plain(value: object) -> bool:
    """Whether a value goes into the history's words; samples, bytes and forms are stored as rows of their own."""
    try:
        return len(json.dumps(value)) < 20_000
    except (TypeError, ValueError):
        return False


def _number(value: object, what: str, low: float = -1e6, high: float = 1e6) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        raise JobError(f"{what} is a number, not {value!r}")
    if not low <= value <= high:
        raise JobError(f"{what} goes from {low:g} to {high:g}, not {value:g}")
    return float(value)


def _flag(value: object, what: str) -> int:
    if not isinstance(value, bool):
        raise JobError(f"{what} is true or false, not {value!r}")
    return int(value)


def _line_list(lines: object) -> list[str]:
    if not isinstance(lines, list) or not lines or not all(isinstance(k, str) for k in lines):
        raise JobError("lines are a list of ids")
    return list(dict.fromkeys(lines))


def _ends(ends: object) -> list[Any]:
    kinds = [ends, ends] if isinstance(ends, str) else ends
    if not isinstance(kinds, list) or len(kinds) != 2:
        raise JobError("ends are one kind, or two: for the start and the end")
    for kind in kinds:
        if kind not in END_KINDS:
            raise JobError(f"ends '{kind}' are not known: {', '.join(END_KINDS)}")
        if kind == "broken":
            raise JobError("broken ends are not in this version: pointed, round or flat")
    return [[kind, None] for kind in kinds]


# Laying lines


@change
def pull(
    m: Making,
    pull: Pull,
    part: str = DEFAULT_PART,
    role: str = DEFAULT_ROLE,
    id: str | None = None,
    tier: str | None = None,
) -> str:
    """Lays a line from a pull, with the steadying and the ends of its nib."""
    key = m.draft.add_pull(pull)
    setting = pull.nib.steadying
    return m.add_line(
        {
            "part": m.open_part(part, tier),
            "pull": key,
            "form": None,
            "school": setting.school,
            "leeway": setting.leeway,
            "nib": pull.nib.as_row(),
            "roles": [[None, None, check_role(role)]],
            "ends": [[pull.nib.ends, None], [pull.nib.ends, None]],
        },
        id,
    )


@change
def line(
    m: Making,
    form: Form,
    nib: Nib,
    ends: tuple[str, str] = ("round", "round"),
    part: str = DEFAULT_PART,
    role: str = DEFAULT_ROLE,
    id: str | None = None,
    tier: str | None = None,
) -> str:
    """Lays a line that comes with its centreline and widths; they already hold its ends."""
    if any(kind not in END_KINDS for kind in ends):
        raise JobError(f"ends are {', '.join(END_KINDS)}, not {', '.join(map(str, ends))}")
    key = m.draft.add_form(form)
    return m.add_line(
        {
            "part": m.open_part(part, tier),
            "pull": None,
            "form": key,
            "school": "off",
            "leeway": None,
            "nib": nib.as_row(),
            "roles": [[None, None, check_role(role)]],
            "ends": [[kind, 0.0] for kind in ends],
        },
        id,
    )


# Editing lines


@change
def delete(m: Making, lines: list[str]) -> None:
    """Takes lines away."""
    for key in _line_list(lines):
        m.line(key)
        m.draft.put("lines", key, None)


@change
def trim(m: Making, line: str, at: list[float]) -> list[str]:
    """Takes away the stretch at a place [x, y] mm between the nearest crossings with lines that are seen.

    A middle stretch leaves two lines. Gives the ids of what is left.
    """
    row = m.line(line)
    place = _place(at)
    shape = m.shapes[line]
    stretch = trimmed_stretch(m.shapes, line, place)
    if stretch is None:
        raise JobError("nothing crosses that line there: delete it to take it away whole")
    a, b = stretch
    ends: list[Any] = row["ends"]
    cut = [["flat" if kind == "flat" else "round", None] for kind, _ in ends]
    if shape.closed:
        return [_spanned(m, line, row, shape, b, a + shape.length, cut)]
    left = []
    if a > 0.0:
        left.append(_spanned(m, line, row, shape, 0.0, a, [ends[0], cut[1]]))
    if b < shape.length:
        new_ends = [cut[0], ends[1]]
        if left:
            twin = {k: v for k, v in row.items() if k not in ("place", "span")}
            key = m.job.new_id("l")
            while key in m.job.rows["lines"]:
                key = m.job.new_id("l")
            m.draft.put("lines", key, {**twin, "place": _just_above(m, row), "span": None})
            left.append(_spanned(m, key, m.job.rows["lines"][key], shape, b, shape.length, new_ends))
        else:
            left.append(_spanned(m, line, row, shape, b, shape.length, new_ends))
    return left


def trimmed_stretch(shapes: Shapes, line: str, place: np.ndarray) -> tuple[float, float] | None:
    """(a, b) arc lengths of the stretch a trim at `place` takes away; None where nothing crosses the line.

    On a closed line a may lie below 0. Raises JobError when the place is not on the line.
    """
    shape = shapes[line]
    points, s = shape.flat
    away, at = nearest(points, place)
    if away > AT_MM:
        raise JobError(f"that place lies {away:.1f} mm from line '{line}': point at the line")
    own = np.interp(at, np.arange(len(s)), s)
    cuts = [self_crossings(points)]
    for other in shapes.visible():
        if other != line and _boxes_meet(shape, shapes[other]):
            cuts.append(crossings(points, shapes[other].flat[0])[0])
    cut = np.unique(np.interp(np.concatenate(cuts), np.arange(len(s)), s))
    if shape.closed:
        if not len(cut):
            return None
        cut = np.concatenate([cut - shape.length, cut, cut + shape.length])
    before, after = cut[cut <= own], cut[cut > own]
    if not len(before) and not len(after):
        return None
    return (float(before[-1]) if len(before) else 0.0), (float(after[0]) if len(after) else shape.length)


def _spanned(m: Making, key: str, row: Any, shape: Shape, a: float, b: float, ends: list[Any]) -> str:
    if b - a < 0.01:
        m.draft.put("lines", key, None)
        return key
    if shape.closed:
        span = [shape.own_at(a), shape.own_at(b - shape.length) + float(shape.own[-1])]
    else:
        span = [shape.own_at(a), shape.own_at(b)]
    m.draft.put("lines", key, {**row, "span": span, "ends": ends})
    _ = m.shapes[key]
    return key


def _just_above(m: Making, row: Any) -> float:
    rows: Any = m.job.rows["lines"].values()
    above = [r["place"] for r in rows if r["part"] == row["part"] and r["place"] > row["place"]]
    return (row["place"] + min(above)) / 2.0 if above else row["place"] + 1.0


def _boxes_meet(a: Shape, b: Shape) -> bool:
    ax0, ay0, ax1, ay1 = a.box
    bx0, by0, bx1, by1 = b.box
    return ax0 <= bx1 and bx0 <= ax1 and ay0 <= by1 and by0 <= ay1


def _place(at: object) -> np.ndarray:
    if not isinstance(at, list | tuple) or len(at) != 2:
        raise JobError("a place is [x, y] in mm")
    return np.array([_number(v, "a place") for v in at])


@change
def swell(
    m: Making, line: str, factor: float, start: float | None = None, end: float | None = None, side: str = "both"
) -> None:
    """Makes the stretch from..to (mm along the line; left out: to its ends) heavier (factor > 1) or lighter."""
    row = m.line(line)
    shape = m.shapes[line]
    gain = _number(factor, "a factor", 1.0 / MAX_FACTOR, MAX_FACTOR)
    if side not in ("both", "left", "right"):
        raise JobError(f"a side is both, left or right, not '{side}'")
    own = []
    for value, what in ((start, "from"), (end, "to")):
        own.append(None if value is None else _own_beyond(shape, _number(value, f"'{what}'")))
    if own[0] is not None and own[1] is not None and own[1] <= own[0]:
        raise JobError("a swell goes from a smaller to a larger length along the line")
    m.draft.change("lines", line, edits=[*row["edits"], [*own, gain, side]])


def _own_beyond(shape: Shape, s: float) -> float:
    """The own parameter at arc length s; past the ends it goes on evenly, so that a fade keeps its place."""
    inside = min(max(s, 0.0), shape.length)
    rate = (shape.own[-1] - shape.own[0]) / max(shape.length, 1e-9)
    return shape.own_at(inside) + (s - inside) * float(rate)


@change
def set_(
    m: Making, lines: list[str], part: str | None = None, role: str | None = None, ends: Any = None, nib: Any = None
) -> None:
    """Gives lines another part, role, ends (one kind or [start, end]) or nib (its key, or its values)."""
    for key in _line_list(lines):
        row = m.line(key)
        new: dict[str, Any] = {}
        if part is not None:
            new["part"] = m.open_part(part)
            rows: Any = m.job.rows["lines"].values()
            if new["part"] != row["part"]:
                new["place"] = max((r["place"] for r in rows if r["part"] == new["part"]), default=0.0) + 1.0
        if role is not None:
            new["roles"] = [[None, None, check_role(role)]]
        if ends is not None:
            new["ends"] = _ends(ends)
        if nib is not None:
            new["nib"] = _nib(m, nib).as_row()
        m.draft.change("lines", key, **new)


@change
def steady(m: Making, lines: list[str], school: str = "after", leeway: float | None = None) -> None:
    """Steadies lines anew: school off, live or after; leeway in mm, left out for auto. Lines without a pull stay."""
    setting = Steadying(school, None if leeway is None else _number(leeway, "a leeway"))
    for key in _line_list(lines):
        m.line(key)
        m.draft.change("lines", key, school=setting.school, leeway=setting.leeway)
        _ = m.shapes[key]


def _nib(m: Making, nib: Any) -> Nib:
    if isinstance(nib, dict):
        return nib_from_row(nib)
    nibs = m.job.nibs()
    if str(nib) not in nibs:
        raise JobError(f"there is no nib {nib}; there are: {', '.join(nibs)}")
    return nibs[str(nib)]


# Parts


@change
def part(
    m: Making,
    name: str,
    order: int | None = None,
    tier: str | None = None,
    locked: bool | None = None,
    hidden: bool | None = None,
    ink: str | None = None,
    rename: str | None = None,
) -> str:
    """Makes a part or alters one: order 1 is nearest, within its tier; ink black or white; rename: its new name."""
    key = m.part(name, check_tier(tier) if tier is not None and m.job.part_named(name) is None else None)
    new: dict[str, Any] = {}
    if tier is not None:
        new["tier"] = check_tier(tier)
    if locked is not None:
        new["locked"] = _flag(locked, "locked")
    if hidden is not None:
        new["hidden"] = _flag(hidden, "hidden")
    if ink is not None:
        if ink not in INKS:
            raise JobError(f"ink is {' or '.join(INKS)}, not '{ink}'")
        new["ink"] = ink
    if rename is not None and rename != name:
        if not isinstance(rename, str) or not rename.strip() or len(rename) > 200:
            raise JobError("a part's name is a text of 1 to 200 letters")
        if m.job.part_named(rename) is not None:
            raise JobError(f"there is a part '{rename}' already")
        new["name"] = rename
    m.draft.change("parts", key, **new)
    if order is not None:
        _reorder(m, key, int(_number(order, "an order", 1, 1e6)))
    return key


def _reorder(m: Making, key: str, order: int) -> None:
    """Puts a part at this place from the nearest on, as far as its tier allows, and numbers all places anew."""
    others = [p for p in m.job.parts() if p.id != key]
    tier = m.job.rows["parts"][key]["tier"]
    peers = [p.id for p in others if p.tier == tier]
    nearer = sum(1 for p in others if check_tier(p.tier) == p.tier and _rank(p.tier) < _rank(str(tier)))
    at = min(max(order - 1 - nearer, 0), len(peers))
    peers.insert(at, key)
    for n, peer in enumerate(peers, 1):
        m.draft.change("parts", peer, place=float(n))


def _rank(tier: str) -> int:
    return ("near", "middle", "far").index(tier)


@change
def cover(m: Making, name: str, on: bool | None = None, gap: float | None = None, shape: Any = None) -> None:
    """Lets a part hide what lies behind it, or not; gap: mm round it that are hidden as well; shape: "found" from its
    outer lines, or drawn: a list of outlines, each a list of [x, y]."""
    found = m.job.part_named(name)
    if found is None:
        raise JobError(f"there is no part '{name}'")
    new: dict[str, Any] = {}
    if on is not None:
        new["cover"] = _flag(on, "on")
    if gap is not None:
        new["cover_gap"] = _number(gap, "a gap", 0.0, MOST_GAP_MM)
    if shape == "found":
        new["cover_form"] = None
    elif shape is not None:
        new["cover_form"] = _outlines(shape)
    m.draft.change("parts", found.id, **new)


def _outlines(shape: object) -> list[Any]:
    """Outlines as the file keeps them. Raises JobError."""
    rings: Any = shape
    try:
        out = [[[round(_number(v, "a place"), 4) for v in (x, y)] for x, y in ring] for ring in rings]
    except (TypeError, ValueError):
        raise JobError('a cover\'s shape is "found" or a list of outlines, each a list of [x, y] in mm') from None
    if not out or any(len(ring) < 3 for ring in out):
        raise JobError("an outline of a cover has three places or more")
    if drawn_cover([np.array(ring) for ring in out], []) is None:
        raise JobError("that outline goes round nothing")
    return out


@change
def part_delete(m: Making, name: str) -> None:
    """Takes a part away with all its lines."""
    found = m.job.part_named(name)
    if found is None:
        raise JobError(f"there is no part '{name}'")
    if found.locked:
        raise JobError(f"part '{name}' is locked: unlock it to take it away")
    for key in [k for k, r in m.job.rows["lines"].items() if r["part"] == found.id]:
        m.draft.put("lines", key, None)
    m.draft.put("parts", found.id, None)


# The board, the pencils, nibs and the plan


@change
def board(
    m: Making,
    width_mm: float | None = None,
    height_mm: float | None = None,
    dpi: float | None = None,
    enlarge: float | None = None,
) -> None:
    """Changes the finished size, the resolution or the enlargement. No line is touched."""
    row: Any = dict(m.job.rows["board"][BOARD])
    for column, value in (("width_mm", width_mm), ("height_mm", height_mm), ("dpi", dpi), ("enlarge", enlarge)):
        if value is not None:
            row[column] = _number(value, column)
    Page((row["width_mm"], row["height_mm"]), row["dpi"], row["enlarge"])
    m.draft.put("board", BOARD, row)


@change
def pencils_add(m: Making, data: bytes, name: str) -> str:
    """Places a scan at its own dpi, else fitted to the board. The file's bytes are kept as they are."""
    facts = picture_facts(data)
    x, y, w, h = placed(facts.pixels, facts.dpi, m.job.page)
    key = m.job.new_id("s")
    row: Row = {
        "name": name,
        "image": m.draft.add_image(data),
        "x_mm": x,
        "y_mm": y,
        "w_mm": w,
        "h_mm": h,
        "px_w": facts.pixels[0],
        "px_h": facts.pixels[1],
        "fade": 0.15,
        "tint": TINTS[0],
        "hidden": 0,
        "place": max((p["place"] for p in m.job.rows["pencils"].values()), default=0.0) + 1.0,  # type: ignore[type-var, operator]
    }
    m.draft.put("pencils", key, row)
    return key


@change
def pencils(
    m: Making,
    sheet: str,
    fade: float | None = None,
    tint: str | None = None,
    hidden: bool | None = None,
    placed_mm: list[float] | None = None,
) -> None:
    """Fades (0..1, the blackest pencil against ink), tints, hides or places ([x, y, w, h] mm) a sheet of pencils."""
    if sheet not in m.job.rows["pencils"]:
        raise JobError(f"there are no pencils '{sheet}'")
    new: dict[str, Any] = {}
    if fade is not None:
        new["fade"] = _number(fade, "a fade", 0.0, 1.0)
    if tint is not None:
        if tint not in TINTS:
            raise JobError(f"a tint is {' or '.join(TINTS)}, not '{tint}'")
        new["tint"] = tint
    if hidden is not None:
        new["hidden"] = _flag(hidden, "hidden")
    if placed_mm is not None:
        if not isinstance(placed_mm, list) or len(placed_mm) != 4:
            raise JobError("a place for pencils is [x, y, w, h] in mm")
        x, y = (_number(v, "a place") for v in placed_mm[:2])
        w, h = (_number(v, "a size", 0.1, 20_000.0) for v in placed_mm[2:])
        new.update(x_mm=x, y_mm=y, w_mm=w, h_mm=h)
    m.draft.change("pencils", sheet, **new)


@change
def pencils_remove(m: Making, sheet: str) -> None:
    """Takes a sheet of pencils off the board."""
    if sheet not in m.job.rows["pencils"]:
        raise JobError(f"there are no pencils '{sheet}'")
    m.draft.put("pencils", sheet, None)


@change
def nib(
    m: Making,
    key: str,
    lightest: float | None = None,
    heaviest: float | None = None,
    ends: str | None = None,
    end_mm: float | None = None,
    school: str | None = None,
    leeway: Any = "keep",
) -> None:
    """Alters a nib: widths and the length of its ends in mm, kind of ends, school of steadying, leeway (null: auto)."""
    old = _nib(m, key)
    setting = Steadying(
        school if school is not None else old.steadying.school,
        old.steadying.leeway if leeway == "keep" else None if leeway is None else _number(leeway, "a leeway"),
    )
    new = Nib(
        old.name,
        _number(lightest, "a width") if lightest is not None else old.lightest,
        _number(heaviest, "a width") if heaviest is not None else old.heaviest,
        ends if ends is not None else old.ends,
        _number(end_mm, "an end") if end_mm is not None else old.end_mm,
        setting,
    )
    if new.ends == "broken":
        raise JobError("broken ends are not in this version: pointed, round or flat")
    m.draft.change("nibs", str(key), nib=new.as_row())


@change
def plan(m: Making, share: float | None = None, base: float | None = None) -> None:
    """Lays the plan at a share of 0 to 100 per cent against the hand (0 lifts it off), or changes its base width."""
    old = m.job.plan
    new = Plan(
        old.name,
        old.base if base is None else _number(base, "a base width"),
        old.roles,
        old.tiers,
        old.halo,
        old.share if share is None else _number(share, "a share", 0.0, 100.0) / 100.0,
    )
    m.draft.change("plan", PLAN, base=new.base, share=new.share)
