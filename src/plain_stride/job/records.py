"""The rows of a job as typed records.

The tables of the file (`schema`), what rows of older files lack, and the JSON of the history all come from the fields
here, so that a column is written down once.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from plain_stride.board.frames import Frame
from plain_stride.board.job_sheet import JobSheet, sheet_from_row
from plain_stride.board.page import Page
from plain_stride.board.targets import PrintTarget, target_from_row
from plain_stride.form.roles import RoleStretch
from plain_stride.hand.nib import Nib, Steadying
from plain_stride.job.hand_over_records import (
    DeliveryRecord,
    FinishRecord,
    FlatRecord,
    HandOverRecord,
    InkRecord,
)
from plain_stride.job.line_fields import (
    plain_bends,
    plain_edits,
    plain_ends,
    plain_follow,
    plain_growth,
    plain_matrix,
    plain_roles,
    plain_span,
    read_bends,
    read_edits,
    read_ends,
    read_follow,
    read_growth,
    read_matrix,
    read_roles,
    read_span,
    read_takes,
)
from plain_stride.job.line_weight import PLAIN, LineWeight, plain_line_weight, read_line_weight
from plain_stride.job.log_records import NoteRecord, OrderRecord, ScheduleRecord
from plain_stride.job.pencil_records import AreaRecord, PassRecord, PencilRecord
from plain_stride.job.plan_record import PlanRecord
from plain_stride.job.proof_records import MannersRecord, MeantRecord, RemarkRecord
from plain_stride.job.record_fields import (
    FARTHEST_PLACE_MM,
    FARTHEST_SOURCE,
    Points,
    Record,
    column_field,
    flag_field,
    json_field,
    numbers,
    pair,
    points_of,
    real_field,
    shared_nib,
    text_field,
    wanted,
)
from plain_stride.lines.affine import Affine
from plain_stride.lines.bending import Give, Growth
from plain_stride.lines.centre import Following
from plain_stride.lines.corner_joins import JOINS, ROUND
from plain_stride.lines.edits import End, Span, WidthEdit
from plain_stride.lines.symmetry import MOST_AXES, Symmetry
from plain_stride.weight.plan import check_tier

INKS = ("black", "white")
FAMILY_KINDS = PARALLELS, TURNED, MIRRORED = ("parallels", "turned", "mirrored")
LINE_ENDS = START, END = ("start", "end")
TONE_KINDS = HATCH, BLACK, HALO, SPEED, TEXTURE = ("hatch", "black", "halo", "speed", "texture")
TOLD_NUMBERS = {"angle", "second", "third", "pitch", "widening", "continued", "evenness", "seed", "mm", "core"}
TOLD_PAIRS = {"grey", "tips"}
MOST_MEMBERS, MOST_ANGLE = 10_000, 3600.0


@dataclass(frozen=True, kw_only=True)
class BoardRecord(Record):
    """The page and what lies round it. width_mm, height_mm: the finished size; enlarge: how much larger it is inked;
    bleed, margin, gutter: mm beyond the trim, kept clear within it, between frames."""

    table: ClassVar[str] = "board"
    width_mm: float = real_field()
    height_mm: float = real_field()
    dpi: float = real_field()
    enlarge: float = real_field()
    bleed_mm: float = real_field(0.0, since=4)
    margin_mm: float = real_field(0.0, since=4)
    gutter_mm: float = real_field(4.0, since=4)
    target: str = text_field("fine offset", since=4)
    sheet: JobSheet | None = json_field(sheet_from_row, None, since=4, nullable=True, encode=JobSheet.as_row)

    def __post_init__(self) -> None:
        for value in (self.bleed_mm, self.margin_mm, self.gutter_mm):
            wanted(0.0 <= value <= max(self.page.size_mm), "its edges")

    @property
    def page(self) -> Page:
        return Page((self.width_mm, self.height_mm), self.dpi, self.enlarge)


@dataclass(frozen=True, kw_only=True)
class FrameRecord(Record):
    """A panel; x, y: its upper left corner; mm."""

    table: ClassVar[str] = "frames"
    x_mm: float = real_field()
    y_mm: float = real_field()
    w_mm: float = real_field()
    h_mm: float = real_field()

    def __post_init__(self) -> None:
        _ = self.frame

    @property
    def frame(self) -> Frame:
        return Frame(self.x_mm, self.y_mm, self.w_mm, self.h_mm)


@dataclass(frozen=True, kw_only=True)
class TargetRecord(Record):
    """A print target of the inker's own, or a standard one as altered."""

    table: ClassVar[str] = "targets"
    target: PrintTarget = json_field(target_from_row, encode=PrintTarget.as_row)


def _rings(value: Any) -> tuple[Points, ...]:
    rings = tuple(points_of(ring) for ring in value)
    wanted(all(len(ring) >= 3 for ring in rings), "its cover")
    return rings


@dataclass(frozen=True, kw_only=True)
class PartRecord(Record):
    """place: smaller is nearer within its tier; cover: whether it hides what lies behind it, and cover_gap (mm) round
    it; cover_form: outlines drawn for it, None where its outer lines make it; over_frames: frames do not clip it;
    inside: key of the part that it is in; share: 0..1 of the plan, None as the job has it; colour: key of its ink."""

    table: ClassVar[str] = "parts"
    name: str = text_field()
    tier: str = text_field()
    place: float = real_field()
    locked: bool = flag_field(False)
    hidden: bool = flag_field(False)
    ink: str = text_field("black")
    cover: bool = flag_field(False, since=2)
    cover_gap: float = real_field(0.0, since=2)
    cover_form: tuple[Points, ...] | None = json_field(_rings, None, since=2, nullable=True)
    over_frames: bool = flag_field(False, since=4)
    inside: str | None = text_field(None, since=9, nullable=True)
    share: float | None = real_field(None, since=10, nullable=True)
    colour: str | None = text_field(None, since=13, nullable=True)

    def __post_init__(self) -> None:
        check_tier(self.tier)
        wanted(self.ink in INKS, "its ink")
        wanted(0.0 <= self.cover_gap <= 1000.0, "its cover's gap")
        wanted(self.share is None or 0.0 <= self.share <= 1.0, "its share of the plan")


@dataclass(frozen=True, kw_only=True)
class LineRecord(Record):
    """A line's recipe. part: key of its part; place: larger lies on top within it; pull, form or family: what it is
    made of, one of them; span: what trims have left; matrix: where it was moved, turned or scaled to, scale_widths:
    whether its hand's widths went along; takes: pulls that were tried for it, its own among them; fixed: key of a path
    that stands instead of the pulled one; family, member: of which family it is which member, from 1 on; tone: key of
    the tone that it is a stroke of; colour: key of an ink of its own."""

    renamed: ClassVar[Mapping[str, str]] = {"shift": "matrix"}

    table: ClassVar[str] = "lines"
    part: str = text_field()
    place: float = real_field(0.0)
    pull: str | None = text_field(None, nullable=True, refers="pulls")
    form: str | None = text_field(None, nullable=True, refers="forms")
    school: str = text_field("off")
    leeway: float | None = real_field(None, nullable=True)
    nib: Nib = json_field(shared_nib, encode=Nib.as_row)
    span: Span | None = json_field(read_span, None, nullable=True, encode=plain_span)
    roles: tuple[RoleStretch, ...] = json_field(read_roles, encode=plain_roles)
    bends: tuple[Give, ...] = json_field(read_bends, (), since=7, encode=plain_bends)
    growth: Growth | None = json_field(read_growth, None, since=7, nullable=True, encode=plain_growth)
    edits: tuple[WidthEdit, ...] = json_field(read_edits, (), encode=plain_edits)
    ends: tuple[End, End] = json_field(read_ends, encode=plain_ends)
    matrix: Affine | None = json_field(read_matrix, None, since=3, nullable=True, encode=plain_matrix)
    draft: bool = flag_field(False, since=4)
    takes: tuple[str, ...] | None = json_field(read_takes, None, since=4, nullable=True)
    follow: Following | None = json_field(read_follow, None, since=4, nullable=True, encode=plain_follow)
    less_in_bends: bool = flag_field(False, since=5)
    scale_widths: bool = flag_field(False, since=6)
    fixed: str | None = text_field(None, since=6, nullable=True, refers="paths")
    family: str | None = text_field(None, since=6, nullable=True)
    member: int = column_field("int", 0, since=6)
    weight: LineWeight = json_field(read_line_weight, PLAIN, since=10, encode=plain_line_weight)
    tone: str | None = text_field(None, since=11, nullable=True)
    colour: str | None = text_field(None, since=13, nullable=True)

    def __post_init__(self) -> None:
        made_of = sum(key is not None for key in (self.pull, self.form, self.family))
        wanted(made_of == 1, "it has not one of a pull, a form and a family")
        wanted(len(self.roles) == 1, "its role")
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
    """A filled shape. outline: key of its outlines; place, matrix, tone and colour as for lines."""

    renamed: ClassVar[Mapping[str, str]] = {"shift": "matrix"}
    table: ClassVar[str] = "blacks"
    part: str = text_field()
    place: float = real_field(0.0)
    outline: str = text_field(refers="outlines")
    matrix: Affine | None = json_field(read_matrix, None, nullable=True, encode=plain_matrix)
    tone: str | None = text_field(None, since=11, nullable=True)
    colour: str | None = text_field(None, since=13, nullable=True)


def _place(value: Any) -> tuple[float, float]:
    x, y = pair(value)
    return x, y


@dataclass(frozen=True, kw_only=True)
class FamilyRecord(Record):
    """Lines that are made from another one, `source`. kind: parallels (member n lies n times `gap` mm to its left),
    turned (member n is it turned by n / `count` of a circle about `centre`) or mirrored (about `count` axes through
    `centre`, the first by `angle` degrees clockwise from upright)."""

    table: ClassVar[str] = "families"
    kind: str = text_field()
    source: str = text_field()
    gap: float = real_field(0.0)
    count: int = column_field("int", 1)
    centre: tuple[float, float] = json_field(_place, (0.0, 0.0))
    angle: float = real_field(0.0, since=7)

    @property
    def symmetry(self) -> Symmetry:
        """What its members are copies by; there is none for parallels."""
        return Symmetry(self.kind, self.count, self.centre, self.angle)

    def __post_init__(self) -> None:
        wanted(self.kind in FAMILY_KINDS and 1 <= self.count <= MOST_MEMBERS, "its kind or count")
        wanted(abs(self.angle) <= MOST_ANGLE, "its angle")
        if self.kind == MIRRORED:
            wanted(self.count <= MOST_AXES, "its axes")
        wanted(abs(self.gap) <= FARTHEST_PLACE_MM, "its gap")


@dataclass(frozen=True, kw_only=True)
class HoldRecord(Record):
    """Two lines that are held together. The end `line_end` of `line` (start or end) meets an end of `other`, or, where
    other_end is '', its middle at the source parameter other_at; at: the source parameter of that end of `line`, by
    which it is found again when lines are cut. sink: how deep an end goes into the width of what it meets, 0 to its
    near edge, 1 to its far one; corner: how two ends make theirs."""

    table: ClassVar[str] = "holds"
    line: str = text_field()
    line_end: str = text_field()
    other: str = text_field()
    other_end: str = text_field("")
    at: float = real_field()
    other_at: float = real_field()
    sink: float = real_field(0.5)
    corner: str = text_field(ROUND)

    def __post_init__(self) -> None:
        wanted(self.line_end in LINE_ENDS and self.other_end in ("", *LINE_ENDS), "which ends it holds")
        wanted(self.line != self.other and 0.0 <= self.sink <= 1.0 and self.corner in JOINS, "what it holds")
        wanted(max(abs(self.at), abs(self.other_at)) <= FARTHEST_SOURCE, "where it holds")


def _told(value: Any) -> dict[str, Any]:
    """What a tone was told. What the window shows of it are numbers; all else is looked at when it is laid anew."""
    wanted(isinstance(value, dict) and all(isinstance(key, str) for key in value), "what it was told")
    for key in TOLD_NUMBERS & value.keys():
        numbers((value[key],), 1)
    for key in TOLD_PAIRS & value.keys():
        one = value[key]
        numbers(one if isinstance(one, list) else (one, one), 2)
    return dict(value)


@dataclass(frozen=True, kw_only=True)
class ToneRecord(Record):
    """Strokes or blacks that are one thing and can be laid anew. told: the arguments of the change that lays it, as
    JSON; gone: middles (x, y) mm of strokes that the inker took away, and that stay away; area: mm2 of its field when
    it was laid, 0 where it has none."""

    table: ClassVar[str] = "tones"
    kind: str = text_field()
    told: dict[str, Any] = json_field(_told)
    gone: Points = json_field(points_of, ())
    area: float = real_field(0.0)

    def __post_init__(self) -> None:
        wanted(self.kind in TONE_KINDS and len(self.gone) <= MOST_MEMBERS * 10, "its kind")


@dataclass(frozen=True, kw_only=True)
class NibRecord(Record):
    """A nib on its number key."""

    table: ClassVar[str] = "nibs"
    nib: Nib = json_field(shared_nib, encode=Nib.as_row)


RECORDS: dict[str, type[Record]] = {
    kind.table: kind
    for kind in (BoardRecord, FrameRecord, TargetRecord, PartRecord, LineRecord, BlackRecord, FamilyRecord,
                 HoldRecord, PlanRecord, NibRecord, PencilRecord, PassRecord, AreaRecord, ToneRecord,
                 MeantRecord, MannersRecord, RemarkRecord, InkRecord, FinishRecord, FlatRecord, DeliveryRecord,
                 HandOverRecord, NoteRecord, OrderRecord, ScheduleRecord)
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
    holds: dict[str, HoldRecord] = field(default_factory=dict)
    plan: dict[str, PlanRecord] = field(default_factory=dict)
    nibs: dict[str, NibRecord] = field(default_factory=dict)
    pencils: dict[str, PencilRecord] = field(default_factory=dict)
    passes: dict[str, PassRecord] = field(default_factory=dict)
    areas: dict[str, AreaRecord] = field(default_factory=dict)
    tones: dict[str, ToneRecord] = field(default_factory=dict)
    meant: dict[str, MeantRecord] = field(default_factory=dict)
    manners: dict[str, MannersRecord] = field(default_factory=dict)
    remarks: dict[str, RemarkRecord] = field(default_factory=dict)
    inks: dict[str, InkRecord] = field(default_factory=dict)
    finishes: dict[str, FinishRecord] = field(default_factory=dict)
    flats: dict[str, FlatRecord] = field(default_factory=dict)
    deliveries: dict[str, DeliveryRecord] = field(default_factory=dict)
    hand_over: dict[str, HandOverRecord] = field(default_factory=dict)
    notes: dict[str, NoteRecord] = field(default_factory=dict)
    work_order: dict[str, OrderRecord] = field(default_factory=dict)
    schedule: dict[str, ScheduleRecord] = field(default_factory=dict)

    def of(self, table: str) -> dict[str, Any]:
        """The rows of one table by id."""
        rows: dict[str, Any] = getattr(self, table)
        return rows

    def copied(self) -> "Tables":
        """The same rows in dicts of their own."""
        return Tables(**{table: dict(self.of(table)) for table in RECORDS})


def written_json(value: Any) -> str:
    """JSON that every reader takes. Raises ValueError for numbers that are none: a file that holds one opens no
    more."""
    return json.dumps(value, allow_nan=False)


def as_json(record: Record | None) -> str | None:
    """A row as the history keeps it."""
    return None if record is None else written_json(record.plain())
