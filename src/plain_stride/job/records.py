"""The rows of a job as typed records.

The tables of the file (`schema`), what rows of older files lack, and the JSON of the history all come from the fields
here, so that a column is written down once.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import MISSING, dataclass, field, fields
from typing import Any, ClassVar

import numpy as np

from plain_stride import measure
from plain_stride.board.frames import Frame
from plain_stride.board.job_sheet import JobSheet, sheet_from_row
from plain_stride.board.page import Page
from plain_stride.board.targets import PrintTarget, target_from_row
from plain_stride.errors import StrideError
from plain_stride.form.roles import GIVEN_BY, RoleStretch, check_role
from plain_stride.hand.nib import END_KINDS, Nib, Steadying, nib_from_row
from plain_stride.lines.affine import Affine, moved
from plain_stride.lines.centre import Following
from plain_stride.lines.edits import SIDES, End, Span, Swell, WidthEdit
from plain_stride.pencils.cleaning import Cleaning, cleaning_from_row
from plain_stride.pencils.pencil_passes import checked_stroke
from plain_stride.pencils.placing import Placing, checked_corners, checked_crop
from plain_stride.weight.plan import Plan, check_tier

INKS = ("black", "white")
SHEET_KINDS = ("rough", "clean-up", "layout", "passes", "reference")
FAMILY_KINDS = PARALLELS, TURNED = ("parallels", "turned")
AREA_KINDS = NO_NEED, FILL = ("no-need", "fill")
MOST_EDITS, MOST_OUTLINE = 20_000, 5000
FARTHEST_PLACE_MM, FARTHEST_OWN = measure.FARTHEST_MM * 20, 1e9
MOST_SHARED, MOST_MEMBERS = 4096, 10_000

Points = tuple[tuple[float, float], ...]


class RecordError(StrideError):
    """A row that stands for nothing; the message names what of it is wrong."""


@dataclass(frozen=True)
class Column:
    """How a field lies in the file. kind: text, real, int or json; since: the schema that brought it; refers: the table
    whose key it holds; encode, decode: between the field's value and what SQL or JSON holds, for all but None."""

    kind: str
    since: int = 1
    nullable: bool = False
    refers: str = ""
    encode: Callable[[Any], Any] = lambda value: value
    decode: Callable[[Any], Any] = lambda value: value


def _column(kind: str, default: Any = MISSING, **more: Any) -> Any:
    return field(default=default, metadata={"column": Column(kind, **more)})


def _text(default: Any = MISSING, **more: Any) -> Any:
    return _column("text", default, **more)


def _real(default: Any = MISSING, **more: Any) -> Any:
    return _column("real", default, decode=float, **more)


def _flag(default: Any = MISSING, **more: Any) -> Any:
    return _column("int", default, encode=int, decode=bool, **more)


def _json(decode: Callable[[Any], Any], default: Any = MISSING, **more: Any) -> Any:
    return _column("json", default, decode=decode, **more)


def _wanted(holds: bool, what: str) -> None:
    if not holds:
        raise RecordError(what)


def _numbers(values: Any, count: int | None = None, most: float = FARTHEST_PLACE_MM) -> tuple[float, ...]:
    """Finite numbers, none of them a truth value in disguise."""
    for value in values:
        real = isinstance(value, int | float) and not isinstance(value, bool)
        _wanted(real and -most <= value <= most, "no numbers")
    out = tuple(map(float, values))
    _wanted(count is None or len(out) == count, "no numbers")
    return out


def _pair(values: Any) -> tuple[float, ...]:
    return _numbers(values, 2)


def _maybe(value: Any) -> float | None:
    return None if value is None else _numbers((value,), 1, FARTHEST_OWN)[0]


_nibs: dict[str, Nib] = {}


def _nib(row: Any) -> Nib:
    """Thousands of lines are drawn with a few nibs: each is made and checked once, and they share it."""
    words = repr(row)
    nib = _nibs.get(words)
    if nib is None:
        if len(_nibs) > MOST_SHARED:
            _nibs.clear()
        nib = _nibs[words] = nib_from_row(row)
    return nib


class Record:
    """What all records have in common: a table, and fields that are its columns."""

    table: ClassVar[str]
    renamed: ClassVar[Mapping[str, str]] = {}
    _columns: ClassVar[dict[str, Column]]
    _added: ClassVar[dict[str, Any]]

    @classmethod
    def columns(cls) -> Mapping[str, Column]:
        """Columns by name, in the order of the file."""
        if "_columns" not in cls.__dict__:
            cls._columns = {f.name: f.metadata["column"] for f in fields(cls)}  # type: ignore[arg-type]
        return cls._columns

    @classmethod
    def added(cls) -> Mapping[str, Any]:
        """Columns that came after schema 1, with what they hold for rows of before."""
        if "_added" not in cls.__dict__:
            cls._added = {f.name: None if f.default is None else cls.columns()[f.name].encode(f.default)
                          for f in fields(cls) if cls.columns()[f.name].since > 1}  # type: ignore[arg-type]  # fmt: skip
        return cls._added

    def plain(self) -> dict[str, Any]:
        """The row as SQL and JSON hold it; columns of kind json as data."""
        out = {}
        for name, column in self.columns().items():
            value = getattr(self, name)
            out[name] = None if value is None else column.encode(value)
        return out


@dataclass(frozen=True, kw_only=True)
class BoardRecord(Record):
    """The page and what lies round it. width_mm, height_mm: the finished size; enlarge: how much larger it is inked;
    bleed, margin, gutter: mm beyond the trim, kept clear within it, between frames."""

    table: ClassVar[str] = "board"
    width_mm: float = _real()
    height_mm: float = _real()
    dpi: float = _real()
    enlarge: float = _real()
    bleed_mm: float = _real(0.0, since=4)
    margin_mm: float = _real(0.0, since=4)
    gutter_mm: float = _real(4.0, since=4)
    target: str = _text("fine offset", since=4)
    sheet: JobSheet | None = _json(sheet_from_row, None, since=4, nullable=True, encode=JobSheet.as_row)

    def __post_init__(self) -> None:
        for value in (self.bleed_mm, self.margin_mm, self.gutter_mm):
            _wanted(0.0 <= value <= max(self.page.size_mm), "its edges")

    @property
    def page(self) -> Page:
        return Page((self.width_mm, self.height_mm), self.dpi, self.enlarge)


@dataclass(frozen=True, kw_only=True)
class FrameRecord(Record):
    """A panel; x, y: its upper left corner; mm."""

    table: ClassVar[str] = "frames"
    x_mm: float = _real()
    y_mm: float = _real()
    w_mm: float = _real()
    h_mm: float = _real()

    def __post_init__(self) -> None:
        _ = self.frame

    @property
    def frame(self) -> Frame:
        return Frame(self.x_mm, self.y_mm, self.w_mm, self.h_mm)


@dataclass(frozen=True, kw_only=True)
class TargetRecord(Record):
    """A print target of the inker's own, or a standard one as altered."""

    table: ClassVar[str] = "targets"
    target: PrintTarget = _json(target_from_row, encode=PrintTarget.as_row)


def _rings(value: Any) -> tuple[Points, ...]:
    rings = tuple(tuple(_pair(point) for point in ring) for ring in value)
    _wanted(all(len(ring) >= 3 for ring in rings), "its cover")
    return rings  # type: ignore[return-value]


@dataclass(frozen=True, kw_only=True)
class PartRecord(Record):
    """place: smaller is nearer within its tier; cover: whether it hides what lies behind it, and cover_gap (mm) round
    it; cover_form: outlines drawn for it, None where its outer lines make it; over_frames: frames do not clip it."""

    table: ClassVar[str] = "parts"
    name: str = _text()
    tier: str = _text()
    place: float = _real()
    locked: bool = _flag(False)
    hidden: bool = _flag(False)
    ink: str = _text("black")
    cover: bool = _flag(False, since=2)
    cover_gap: float = _real(0.0, since=2)
    cover_form: tuple[Points, ...] | None = _json(_rings, None, since=2, nullable=True)
    over_frames: bool = _flag(False, since=4)

    def __post_init__(self) -> None:
        check_tier(self.tier)
        _wanted(self.ink in INKS, "its ink")
        _wanted(0.0 <= self.cover_gap <= 1000.0, "its cover's gap")


def _roles(value: Any) -> tuple[RoleStretch, ...]:
    stretches = []
    for start, end, role, *by in value:
        _wanted(not by or (len(by) == 1 and by[0] in GIVEN_BY), "its role")
        stretches.append(RoleStretch(_maybe(start), _maybe(end), check_role(role), *by))
    return tuple(stretches)


def _plain_roles(stretches: tuple[RoleStretch, ...]) -> list[list[Any]]:
    return [[s.start, s.end, s.role] if s.by == GIVEN_BY[0] else [s.start, s.end, s.role, s.by] for s in stretches]


def _swell(start: Any, end: Any, factor: Any, side: Any) -> Swell:
    _wanted(side in SIDES and 1e-3 < _numbers((factor,))[0] < 1e3, "a swell")
    return Swell(_maybe(start), _maybe(end), float(factor), side)


_EDIT_TAGS: dict[str, Callable[..., WidthEdit]] = {"swell": _swell}


def _edits(value: Any) -> tuple[WidthEdit, ...]:
    _wanted(len(value) <= MOST_EDITS, "it has too many swells")
    # Before schema 6 all edits were swells, and had no tag.
    tagged = (item if isinstance(item[0], str) else ["swell", *item] for item in value)
    return tuple(_EDIT_TAGS[tag](*values) for tag, *values in tagged)


def _plain_edits(edits: tuple[WidthEdit, ...]) -> list[list[Any]]:
    return [["swell", e.start, e.end, e.factor, e.side] for e in edits]


def _matrix(value: Any) -> Affine:
    # Before schema 6 lines could only be moved: two numbers.
    return moved(*_pair(value)) if len(value) == 2 else Affine(*_numbers(value, 6))


def _plain_matrix(matrix: Affine) -> list[float]:
    return list(matrix.row)


def _ends(value: Any) -> tuple[End, ...]:
    out = []
    for kind, mm in value:
        _wanted(kind in END_KINDS and (mm is None or _numbers((mm,), 1, 1e4)[0] >= 0.0), "its ends")
        out.append(End(kind, None if mm is None else float(mm)))
    _wanted(len(out) == 2, "its ends")
    return tuple(out)


def _plain_ends(ends: tuple[End, End]) -> list[list[Any]]:
    return [[end.kind, end.mm] for end in ends]


def _span(value: Any) -> Span:
    start, end = _numbers(value, 2, FARTHEST_OWN)
    _wanted(start < end, "its span")
    return Span(start, end)


def _plain_span(span: Span) -> list[float]:
    return [span.start, span.end]


def _takes(value: Any) -> tuple[str, ...]:
    _wanted(all(isinstance(v, str) for v in value), "its takes")
    return tuple(value)


def _follow(value: Any) -> Following | None:
    if not value:
        return None
    points = [_pair(point) for point in value["line"]]
    share = _numbers((value["share"],))[0]
    _wanted(0.0 <= share <= 1.0 and len(points) >= 3, "what it follows")
    return Following(share, np.array(points))


def _plain_follow(follow: Following) -> dict[str, Any]:
    return {"share": follow.share, "line": follow.line.tolist()}


@dataclass(frozen=True, kw_only=True)
class LineRecord(Record):
    """A line's recipe. part: key of its part; place: larger lies on top within it; pull, form or family: what it is
    made of, one of them; span: what trims have left; matrix: where it was moved, turned or scaled to, scale_widths:
    whether its hand's widths went along; takes: pulls that were tried for it, its own among them; fixed: key of a path
    that stands instead of the pulled one; family, member: of which family it is which member, from 1 on."""

    renamed: ClassVar[Mapping[str, str]] = {"shift": "matrix"}

    table: ClassVar[str] = "lines"
    part: str = _text()
    place: float = _real(0.0)
    pull: str | None = _text(None, nullable=True, refers="pulls")
    form: str | None = _text(None, nullable=True, refers="forms")
    school: str = _text("off")
    leeway: float | None = _real(None, nullable=True)
    nib: Nib = _json(_nib, encode=Nib.as_row)
    span: Span | None = _json(_span, None, nullable=True, encode=_plain_span)
    roles: tuple[RoleStretch, ...] = _json(_roles, encode=_plain_roles)
    edits: tuple[WidthEdit, ...] = _json(_edits, (), encode=_plain_edits)
    ends: tuple[End, End] = _json(_ends, encode=_plain_ends)
    matrix: Affine | None = _json(_matrix, None, since=3, nullable=True, encode=_plain_matrix)
    draft: bool = _flag(False, since=4)
    takes: tuple[str, ...] | None = _json(_takes, None, since=4, nullable=True)
    follow: Following | None = _json(_follow, None, since=4, nullable=True, encode=_plain_follow)
    less_in_bends: bool = _flag(False, since=5)
    scale_widths: bool = _flag(False, since=6)
    fixed: str | None = _text(None, since=6, nullable=True, refers="paths")
    family: str | None = _text(None, since=6, nullable=True)
    member: int = _column("int", 0, since=6)

    def __post_init__(self) -> None:
        made_of = sum(key is not None for key in (self.pull, self.form, self.family))
        _wanted(made_of == 1, "it has not one of a pull, a form and a family")
        _wanted(len(self.roles) == 1, "its role")
        _ = self.steadying

    @property
    def steadying(self) -> Steadying:
        return Steadying(self.school, self.leeway, self.less_in_bends)

    @property
    def role(self) -> str:
        """The role of its longest stretch (a line has one stretch so far)."""
        return self.roles[0].role

    @property
    def tried(self) -> tuple[str, ...]:
        """Keys of all pulls that were tried for it; none for a line that came without a pull."""
        return self.takes or ((self.pull,) if self.pull is not None else ())


@dataclass(frozen=True, kw_only=True)
class BlackRecord(Record):
    """A filled shape. outline: key of its outlines; place and matrix as for lines."""

    renamed: ClassVar[Mapping[str, str]] = {"shift": "matrix"}
    table: ClassVar[str] = "blacks"
    part: str = _text()
    place: float = _real(0.0)
    outline: str = _text(refers="outlines")
    matrix: Affine | None = _json(_matrix, None, nullable=True, encode=_plain_matrix)


def _place(value: Any) -> tuple[float, float]:
    x, y = _pair(value)
    return x, y


@dataclass(frozen=True, kw_only=True)
class FamilyRecord(Record):
    """Lines that are made from another one, `source`. kind: parallels (member n lies n times `gap` mm to its left) or
    turned (member n is it turned by n / `count` of a circle about `centre`)."""

    table: ClassVar[str] = "families"
    kind: str = _text()
    source: str = _text()
    gap: float = _real(0.0)
    count: int = _column("int", 1)
    centre: tuple[float, float] = _json(_place, (0.0, 0.0))

    def __post_init__(self) -> None:
        _wanted(self.kind in FAMILY_KINDS and 1 <= self.count <= MOST_MEMBERS, "its kind or count")
        _wanted(abs(self.gap) <= FARTHEST_PLACE_MM, "its gap")


def _steps(value: Any) -> dict[str, float]:
    _numbers(value.values(), None, 50.0)
    return {str(key): float(step) for key, step in value.items()}


@dataclass(frozen=True, kw_only=True)
class PlanRecord(Record):
    """base, halo: mm; share: 0..1 against the hand; roles, tiers: steps of sqrt 2."""

    table: ClassVar[str] = "plan"
    name: str = _text()
    base: float = _real()
    share: float = _real()
    roles: dict[str, float] = _json(_steps)
    tiers: dict[str, float] = _json(_steps)
    halo: float = _real()

    def __post_init__(self) -> None:
        plan = self.plan
        _wanted(set(Plan().roles) <= set(plan.roles) and set(Plan().tiers) <= set(plan.tiers), "its rules")
        _wanted(0.0 < plan.halo <= 50.0, "its halo")

    @property
    def plan(self) -> Plan:
        return Plan(self.name, self.base, dict(self.roles), dict(self.tiers), self.halo, self.share)


@dataclass(frozen=True, kw_only=True)
class NibRecord(Record):
    """A nib on its number key."""

    table: ClassVar[str] = "nibs"
    nib: Nib = _json(_nib, encode=Nib.as_row)


def _corners(value: Any) -> Points:
    checked_corners(value)
    return tuple(_pair(corner) for corner in value)  # type: ignore[misc]


def _crop(value: Any) -> tuple[float, ...]:
    return tuple(checked_crop(value))


@dataclass(frozen=True, kw_only=True)
class PencilRecord(Record):
    """A sheet of pencils. image: key of the scan, None for a sheet of passes; x, y, w, h: mm; px_w, px_h: the scan's
    own size; fade 0..1; turn: degrees clockwise; corners, crop: see `Placing`."""

    table: ClassVar[str] = "pencils"
    name: str = _text()
    image: str | None = _text(None, nullable=True)
    x_mm: float = _real()
    y_mm: float = _real()
    w_mm: float = _real()
    h_mm: float = _real()
    px_w: int = _column("int")
    px_h: int = _column("int")
    fade: float = _real()
    tint: str = _text()
    hidden: bool = _flag(False)
    place: float = _real()
    kind: str = _text("rough", since=4)
    turn: float = _real(0.0, since=4)
    corners: Points | None = _json(_corners, None, since=4, nullable=True)
    crop: tuple[float, float, float, float] | None = _json(_crop, None, since=4, nullable=True)
    locked: bool = _flag(False, since=4)
    clean: Cleaning | None = _json(cleaning_from_row, None, since=4, nullable=True, encode=Cleaning.as_row)

    def __post_init__(self) -> None:
        _wanted(self.kind in SHEET_KINDS and (self.image is None) == (self.kind == "passes"), "its kind")
        _wanted(0.0 <= self.fade <= 1.0 and self.w_mm > 0.0 and self.h_mm > 0.0, "its fade or size")
        _wanted(0 <= self.px_w <= 10**6 and 0 <= self.px_h <= 10**6, "its pixels")

    @property
    def placing(self) -> Placing:
        return Placing(self.x_mm, self.y_mm, self.w_mm, self.h_mm, self.turn, self.corners, self.crop)

    @property
    def lies(self) -> tuple[str | None, str, Placing]:
        """What is seen where: while it is the same, what was read of the sheet lies where it was read."""
        return self.image, self.kind, self.placing

    @property
    def cleaning(self) -> Cleaning:
        return self.clean or Cleaning()

    @property
    def per_mm(self) -> float:
        """Pixels of the scan for a mm of the sheet."""
        return self.px_w / self.w_mm

    @property
    def places_passes(self) -> bool:
        """Whether it is a sheet of the inker's own pencil strokes."""
        return self.kind == "passes"


def _stroke(value: Any) -> tuple[tuple[float, ...], ...]:
    return tuple(map(tuple, checked_stroke(value).tolist()))


@dataclass(frozen=True, kw_only=True)
class PassRecord(Record):
    """A pencil stroke of the inker's own: (x mm, y mm, pressure) on a sheet."""

    table: ClassVar[str] = "passes"
    sheet: str = _text()
    points: tuple[tuple[float, float, float], ...] = _json(_stroke)
    place: float = _real()


def checked_outline(outline: object) -> Points:
    """An outline of (x, y) mm, to a thousandth, of three points at least. Raises RecordError."""
    try:
        points = np.array(outline, float)
    except (TypeError, ValueError):
        points = np.zeros(0)
    if points.ndim != 2 or points.shape[1] != 2 or not 3 <= len(points) <= MOST_OUTLINE:
        raise RecordError(f"an area's outline is a list of 3 to {MOST_OUTLINE} [x, y] in mm")
    if not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise RecordError("an area's outline lies far off the sheet")
    return tuple(map(tuple, np.round(points, 3).tolist()))


@dataclass(frozen=True, kw_only=True)
class AreaRecord(Record):
    """An area of the sheet that needs no ink, or is to be filled black; found: an X in the pencils told it."""

    table: ClassVar[str] = "areas"
    kind: str = _text()
    outline: Points = _json(checked_outline)
    found: bool = _flag(False)

    def __post_init__(self) -> None:
        _wanted(self.kind in AREA_KINDS, "its kind")


RECORDS: dict[str, type[Record]] = {
    kind.table: kind
    for kind in (BoardRecord, FrameRecord, TargetRecord, PartRecord, LineRecord, BlackRecord, FamilyRecord,
                 PlanRecord, NibRecord, PencilRecord, PassRecord, AreaRecord)
}  # fmt: skip
"""Kinds of rows that change, by their table."""


@dataclass
class Tables:
    """All rows of a job that change, by table and id."""

    board: dict[str, BoardRecord] = field(default_factory=dict)
    frames: dict[str, FrameRecord] = field(default_factory=dict)
    targets: dict[str, TargetRecord] = field(default_factory=dict)
    parts: dict[str, PartRecord] = field(default_factory=dict)
    lines: dict[str, LineRecord] = field(default_factory=dict)
    blacks: dict[str, BlackRecord] = field(default_factory=dict)
    families: dict[str, FamilyRecord] = field(default_factory=dict)
    plan: dict[str, PlanRecord] = field(default_factory=dict)
    nibs: dict[str, NibRecord] = field(default_factory=dict)
    pencils: dict[str, PencilRecord] = field(default_factory=dict)
    passes: dict[str, PassRecord] = field(default_factory=dict)
    areas: dict[str, AreaRecord] = field(default_factory=dict)

    def of(self, table: str) -> dict[str, Any]:
        """The rows of one table by id."""
        rows: dict[str, Any] = getattr(self, table)
        return rows

    def copied(self) -> "Tables":
        """The same rows in dicts of their own."""
        return Tables(**{table: dict(self.of(table)) for table in RECORDS})


def as_json(record: Record | None) -> str | None:
    """A row as the history keeps it."""
    return None if record is None else json.dumps(record.plain())
