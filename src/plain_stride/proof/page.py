"""What the checks of the proof read: a drawing as it is inked, with what is known and meant of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from plain_stride.board.targets import DEFAULT_TARGET, STANDARD, PrintTarget
from plain_stride.form.contacts import Contact
from plain_stride.form.drawing import Box, Drawing, DrawnPart
from plain_stride.form.hatching_rows import hatching_rows
from plain_stride.form.roles import FOUND, ROLES
from plain_stride.form.strokes_beside import Beside, strokes_beside
from plain_stride.lines.area_black import area_of_black
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape
from plain_stride.pencils.coverage import Coverage
from plain_stride.pencils.lost import LostPlace
from plain_stride.proof.finding import Finding, Mend, point, points
from plain_stride.proof.fine import Fine, Stroke, fine_of, stroke_of
from plain_stride.proof.limits import LIMITS, Manners
from plain_stride.proof.sets import Sets, sets_of
from plain_stride.weight.hierarchy import Inked


@dataclass(frozen=True)
class Sheet:
    """The board: mm of the finished piece; bleed, margin: mm beyond the trim and kept clear within it; dpi of exports;
    frames (x0, y0, x1, y1) mm; target: what it is printed on; for_colour: whether a colourist fills it."""

    size_mm: tuple[float, float]
    dpi: float = 600.0
    bleed: float = 0.0
    margin: float = 0.0
    frames: tuple[Box, ...] = ()
    target: PrintTarget = field(default_factory=lambda: STANDARD[DEFAULT_TARGET])
    for_colour: bool = False


@dataclass(frozen=True, eq=False)
class ToneInk:
    """A tone's strokes or blacks: kind; lines, blacks: their ids; evenness: 0 ruled to 1 hand-made, as it was asked."""

    id: str
    kind: str
    lines: tuple[str, ...]
    blacks: tuple[str, ...]
    evenness: float = 0.0


@dataclass(frozen=True, eq=False)
class HaloInk:
    """A halo: white, dark: Shapely areas of it and of the ink round it; edge: the line it lies beside; mm: its width as
    it was asked; comes_round: whether it is meant to."""

    id: str
    white: Any
    edge: Any
    dark: Any
    mm: float
    comes_round: bool


@dataclass(frozen=True, eq=False)
class Against:
    """Ink against its pencils. lost: places whose tone or swing the ink lost."""

    coverage: Coverage
    lost: Sequence[LostPlace] = ()


class BlackArea:
    """A black, asked for places one after the other."""

    def __init__(self, black: Black) -> None:
        import shapely

        self._area = area_of_black(black)
        self._x0, self._y0, self._x1, self._y1 = black.box
        shapely.prepare(self._area)

    def box_holds(self, at: np.ndarray) -> bool:
        """Whether a place (2,) mm lies in the box round it."""
        return bool(self._x0 <= at[0] <= self._x1 and self._y0 <= at[1] <= self._y1)

    def holds(self, points: np.ndarray) -> np.ndarray:
        """Which of some places (n, 2) mm it holds (n,)."""
        import shapely

        return np.asarray(shapely.contains_xy(self._area, points[:, 0], points[:, 1]))


@dataclass(frozen=True, eq=False)
class Page:
    """shapes: finished lines by id, strokes of tones among them; blacks by id, with the part of each; inked: the
    hierarchy of all lines but those of tones; contacts by line, of finished ink; darker: by how much of L* coloured
    lines are darker than the darkest flat beside them."""

    sheet: Sheet
    inked: Inked
    shapes: Mapping[str, Shape]
    contacts: Mapping[str, tuple[Contact, ...]]
    blacks: Mapping[str, Black] = field(default_factory=dict)
    black_parts: Mapping[str, str] = field(default_factory=dict)
    tones: tuple[ToneInk, ...] = ()
    halos: tuple[HaloInk, ...] = ()
    against: Against | None = None
    manners: Manners = field(default_factory=Manners)
    darker: Mapping[str, float] = field(default_factory=dict)

    @property
    def drawing(self) -> Drawing:
        """The drawing, without strokes of tones."""
        return self.inked.scene.drawing

    @cached_property
    def lines(self) -> tuple[str, ...]:
        """Lines that are seen ink and no strokes of tones."""
        return self.inked.scene.known.places.lines

    @cached_property
    def roles(self) -> Mapping[str, str]:
        """The role of most of each line."""
        scene, places = self.inked.scene, self.inked.scene.known.places
        lengths = [np.bincount(places.line, places.weight * (scene.role == k), minlength=len(places.lines))
                   for k in range(len(ROLES))]  # fmt: skip
        main = np.argmax(lengths, axis=0) if len(places.lines) else ()
        return {key: ROLES[k] for key, k in zip(places.lines, main, strict=True)}

    def given(self, line: str) -> bool:
        """Whether a hand gave a line its role."""
        return self.drawing.lines[line].roles[0].by != FOUND

    def part(self, line: str) -> DrawnPart:
        """The part of a line."""
        return self.drawing.part_of[self.drawing.lines[line].part]

    def apart(self, a: str, b: str) -> bool:
        """Whether two lines belong to different things: neither is in the part of the other, nor in the same one."""
        one, two = self.part(a), self.part(b)
        return (one.inside or one.id) != (two.inside or two.id)

    @cached_property
    def sets(self) -> Sets:
        """Hatching and other rows of strokes that are one thing each."""
        return sets_of(self.lines, self._beside.which)

    @cached_property
    def _beside(self) -> Beside:
        return strokes_beside([self.shapes[key].path for key in self.lines])

    @cached_property
    def hatching(self) -> frozenset[str]:
        """Lines that are strokes of hatching: by their role, or as they lie."""
        rows = hatching_rows([self.shapes[key].path for key in self.lines], self._beside)
        return frozenset(key for key, row in zip(self.lines, rows.tolist(), strict=True)
                         if row or self.roles[key] == "texture")  # fmt: skip

    def stroke(self, line: str) -> Stroke:
        """A line, sampled."""
        return stroke_of(self.shapes[line])

    def fine(self, lines: Sequence[str]) -> Fine:
        """Some lines, sampled."""
        return fine_of(self.shapes, lines)

    def is_behind(self, line: str, other: str) -> bool:
        """Whether a line belongs to the same thing as another, or to one that lies farther back: then it may be meant
        to end on it. What lies in front ends where it wants."""
        return not self.apart(line, other) or self.part(line).order > self.part(other).order

    @cached_property
    def black_lines(self) -> tuple[str, ...]:
        """Lines of black ink that are no halos."""
        return tuple(key for key in self.lines if self.is_black(key))

    def is_black(self, line: str) -> bool:
        """Whether a line is of black ink, and no halo."""
        return line in self.roles and self.roles[line] != "halo" and self.part(line).ink == "black"

    def seen(self, line: str, s: float) -> bool:
        """Whether ink of a line can be told from what lies round it at an arc length, mm: no part in front hides it and
        it lies in no black."""
        known = self.inked.scene.known
        at = int(known.places.at(np.array([known.places.row[line]]), np.array([s]))[0])
        return not known.hidden[at] and not self._in_blacks(known.places.points[at])

    def _in_blacks(self, at: np.ndarray) -> bool:
        return any(area.box_holds(at) and area.holds(at[None])[0] for area in self.black_areas)

    @cached_property
    def black_areas(self) -> list["BlackArea"]:
        """All blacks that are black, to be asked for places."""
        return [BlackArea(black) for key, black in self.blacks.items()
                if self.drawing.part_of[self.black_parts[key]].ink == "black"]  # fmt: skip

    def limit(self, kind: str) -> float:
        """The limit of a kind in this job."""
        return self.manners.limit(kind)

    def found(
        self,
        kind: str,
        at: np.ndarray,
        where: np.ndarray,
        lines: Sequence[str],
        measured: float,
        says: str,
        *,
        limit: float | None = None,
        unit: str | None = None,
        severity: str | None = None,
        mend: Mend | None = None,
        others: Sequence[str] = (),
    ) -> Finding:
        """A finding of a kind. at (2,), where (n, 2): mm; limit, unit, severity: where they are not those of its
        kind in this job."""
        return Finding(kind, self.manners.severity(kind, severity), point(at), points(where), tuple(lines), measured,
                       self.limit(kind) if limit is None else limit, unit or LIMITS[kind].unit, says, mend,
                       tuple(others))  # fmt: skip
