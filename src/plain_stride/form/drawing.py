"""The drawing as a value: a frozen picture of a job at one moment, that plan and proof take and answer.

It shares with the one before all that has not changed. Before the plan it is a `Drawing`; with final widths, blacks and
frames it is `Inked`.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from plain_stride.form.contacts import Contact, Contacts, Strand
from plain_stride.form.cover import Cover
from plain_stride.form.roles import RoleStretch
from plain_stride.lines.black import Black
from plain_stride.lines.curve import flat_counts, parameters, point
from plain_stride.lines.profile import Widths
from plain_stride.lines.recipe import Worked
from plain_stride.lines.shape import Path, Shape

STRAND_MM = 0.01
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class DrawnPart:
    """order: 1 is nearest; inside: id of the part that it is in, '' for none; of_tones: it holds nothing but strokes of
    tones."""

    id: str
    name: str
    order: int
    tier: str
    hidden: bool
    ink: str
    inside: str = ""
    of_tones: bool = False


@dataclass(frozen=True, eq=False)
class DrawnLine:
    """A line before the plan. place: larger lies on top within its part; hand: widths along its path; roles: by its own
    parameter, with who gave them; family: of which it is a member, '' for none; draft: it is no ink yet."""

    id: str
    part: str
    place: float
    roles: tuple[RoleStretch, ...]
    path: Path
    hand: Widths
    family: str = ""
    draft: bool = False

    @property
    def role(self) -> str:
        """The role of its longest stretch (a line has one stretch so far)."""
        return self.roles[0].role


@dataclass(frozen=True, eq=False)
class Drawing:
    """parts, nearest first; lines, without strokes of tones, which are one thing, and covers by id; contacts of seen
    ink by line; version: grows with every change."""

    version: int
    parts: tuple[DrawnPart, ...]
    lines: Mapping[str, DrawnLine]
    covers: Mapping[str, Cover]
    contacts: Mapping[str, tuple[Contact, ...]] = field(default_factory=dict)

    @cached_property
    def part_of(self) -> Mapping[str, DrawnPart]:
        """Parts by id."""
        return {part.id: part for part in self.parts}

    @cached_property
    def order(self) -> tuple[str, ...]:
        """Lines back to front. Sorted when it is asked for: n log n in the lines."""
        rank = {part.id: -part.order for part in self.parts}
        return tuple(sorted(self.lines, key=lambda key: (rank[self.lines[key].part], self.lines[key].place)))

    def is_seen(self, line: str) -> bool:
        """Whether a line is ink that is shown."""
        drawn = self.lines[line]
        return not drawn.draft and not self.part_of[drawn.part].hidden


@dataclass(frozen=True, eq=False)
class Inked:
    """A drawing as it is exported: shapes with final widths, blacks, and frames as boxes (x0, y0, x1, y1) mm."""

    drawing: Drawing
    shapes: Mapping[str, Shape]
    blacks: Mapping[str, Black]
    frames: tuple[Box, ...]


def strand_of(line: str, worked: Worked) -> Strand:
    """A finished line as contacts see it."""
    shape = worked.shape
    k, u = parameters(flat_counts(shape.curve, STRAND_MM))
    s = shape.arc.length_at(k, u)
    return Strand(line, point(shape.curve, k, u), s, *shape.widths.at(s), shape.closed)


class DrawingKeeper:
    """Makes drawings one after the other. with_contacts: whether it keeps their contacts. Not shared by threads."""

    def __init__(self, with_contacts: bool = True) -> None:
        self._contacts = Contacts() if with_contacts else None
        self._now = Drawing(0, (), {}, {})

    @property
    def now(self) -> Drawing:
        """The newest drawing."""
        return self._now

    def change(
        self,
        parts: tuple[DrawnPart, ...],
        covers: Mapping[str, Cover],
        lines: Iterable[tuple[DrawnLine, Worked]],
        gone: Iterable[str],
    ) -> Drawing:
        """The drawing after some lines are new or others, and some are gone. Linear in the lines for a copy of their
        names, then in what changed."""
        before = self._now
        kept = dict(before.lines)
        for key in gone:
            kept.pop(key, None)
            self._drop(key)
        shown = {part.id for part in parts if not part.hidden}
        for line, worked in lines:
            kept[line.id] = line
            if line.draft or line.part not in shown:
                self._drop(line.id)
            elif self._contacts is not None:
                self._contacts.put(strand_of(line.id, worked))
        contacts = self._contacts.frozen() if self._contacts is not None else {}
        self._now = Drawing(before.version + 1, parts, kept, covers, contacts)
        return self._now

    def _drop(self, line: str) -> None:
        if self._contacts is not None:
            self._contacts.drop(line)
