"""What a plan is laid on: all that is known of a drawing, with the role, the depth and the side of every place."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from plain_stride.form.drawing import Drawing
from plain_stride.form.known import Known
from plain_stride.form.roles import FOUND, ROLES
from plain_stride.weight.plan import TIERS

OUTER, INNER, DETAIL, TEXTURE, RULED, HALO = range(6)
DETAIL_MM = 5.0
"""A line that nobody gave a role, is not outside and shorter than this, is a detail."""
LOOK_MM = 2.0
LEFT, RIGHT = "left", "right"
FORM_SIDES = {"": 0, LEFT: 1, RIGHT: -1}


@dataclass(frozen=True)
class LineSays:
    """What the inker said of one line. form: on which side of it the form lies, '' as it is found; throws: whether it
    is an edge that throws a shadow; pinned: it keeps its widths, whatever the plan wants."""

    form: str = ""
    throws: bool = False
    pinned: bool = False


@dataclass(frozen=True, eq=False)
class Scene:
    """says: of lines that the inker said anything of."""

    drawing: Drawing
    known: Known
    says: Mapping[str, LineSays] = field(default_factory=dict)
    _turnings: dict[float, np.ndarray] = field(default_factory=dict)

    def around(self, lines: np.ndarray) -> tuple["Scene", np.ndarray]:
        """(scene, its lines (j,)): of some lines (a mask (m,)) and all that they meet, with the junctions of these
        alone: what meets them has its course, its role and its depth there, and nothing else."""
        found = self.known.junctions
        rows = lines[found.line]
        there = lines.copy()
        there[found.other[rows]] = True
        those = np.flatnonzero(there)
        return Scene(self.drawing, self.known.only(those, rows), self.says), those

    @cached_property
    def role(self) -> np.ndarray:
        """The role of every place (n,), as its place among ROLES: what the hand gave, else what the drawing tells."""
        places, outside = self.known.places, self.known.outside
        short, contour = (places.length < DETAIL_MM)[places.line], self.known.contour[places.line]
        found = np.where(outside | contour, OUTER, np.where(short, DETAIL, INNER))
        given = [self._given(key) for key in places.lines]
        by_hand = np.array(given, int)[places.line] if given else np.zeros(0, int)
        return np.where(by_hand >= 0, by_hand, found)

    def _given(self, key: str) -> int:
        """The role that a hand gave, or a found one that is neither outer nor inner; else -1."""
        stretch = self.drawing.lines[key].roles[0]
        if stretch.by == FOUND and stretch.role in ("outer", "inner"):
            return -1
        return ROLES.index(stretch.role)

    @cached_property
    def part(self) -> np.ndarray:
        """Which part each line is in (m,), 0 for the nearest."""
        at = {part.id: k for k, part in enumerate(self.drawing.parts)}
        return np.array([at[self.drawing.lines[key].part] for key in self.known.places.lines], int)

    @cached_property
    def tier(self) -> np.ndarray:
        """The tier of each line (m,): 0 near, 1 middle, 2 far."""
        tiers = np.array([TIERS.index(part.tier) for part in self.drawing.parts], int)
        return tiers[self.part]

    @cached_property
    def rank(self) -> np.ndarray:
        """Where the part of each line stands in its tier (m,): 1 the nearest, -1 the farthest, 0 where it is alone.
        Parts of tones stand in no row: their strokes are weighed with nothing."""
        tiers = ["" if part.of_tones else part.tier for part in self.drawing.parts]
        out = np.zeros(len(tiers))
        for tier in TIERS:
            those = [k for k, name in enumerate(tiers) if name == tier]
            if len(those) > 1:
                out[those] = np.linspace(1.0, -1.0, len(those))
        return out[self.part]

    @cached_property
    def ground_order(self) -> np.ndarray:
        """How near each line lies (m,), smaller nearer: by tier first, within it by the order of parts."""
        return self.tier * (len(self.drawing.parts) + 1) + self.part

    def attached(self, a: np.ndarray, b: np.ndarray) -> np.ndarray:
        """Whether two parts (k,) belong together: one is in the other, or both are in a third."""
        at = {part.id: k for k, part in enumerate(self.drawing.parts)}
        whole = np.array([at.get(part.inside, k) for k, part in enumerate(self.drawing.parts)], int)
        return np.asarray(whole[a] == whole[b])

    @cached_property
    def throws(self) -> np.ndarray:
        """Whether each line throws a shadow (m,)."""
        return np.array([self._said(key).throws for key in self.known.places.lines], bool)

    @cached_property
    def pinned(self) -> np.ndarray:
        """Whether each line keeps its widths (m,)."""
        return np.array([self._said(key).pinned for key in self.known.places.lines], bool)

    @cached_property
    def form(self) -> np.ndarray:
        """On which side of every place the form lies (n,): 1 left, -1 right, 0 not known; the inker's word first."""
        places = self.known.places
        given = np.array([FORM_SIDES[self._said(key).form] for key in places.lines], int)
        given = given[places.line] if len(places.lines) else np.zeros(0, int)
        return np.where(given != 0, given, self.known.form)

    def _said(self, key: str) -> LineSays:
        return self.says.get(key, _NOTHING)

    def turning(self, look: float) -> np.ndarray:
        """Curvature (n,) in 1 / mm, read over so many mm to either side of each place; above 0 where a line turns from
        the x axis to the y axis. Kept for each reach that is asked for."""
        if look not in self._turnings:
            self._turnings[look] = self._turned(look)
        return self._turnings[look]

    def _turned(self, look: float) -> np.ndarray:
        places = self.known.places
        by = np.maximum(np.rint(np.minimum(look, places.length / 3.0) / np.maximum(places.step, 1e-9)), 1).astype(int)
        by = np.minimum(by, np.maximum((places.counts - 1) // 2, 1))
        reach, here = by[places.line], np.arange(len(places.s)) - places.starts[places.line]
        last = places.counts[places.line] - 1
        # Open lines are read where both sides are there; what lies nearer their ends bends as that does.
        middle = np.where(places.closed[places.line], 0, np.clip(here, reach, np.maximum(last - reach, reach)) - here)
        at = [places.points[places.shifted(middle + side * reach)] for side in (-1, 0, 1)]
        a, b = at[1] - at[0], at[2] - at[1]
        turned = np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1))
        return np.asarray(turned / np.maximum(reach * places.step[places.line], 1e-9))


_NOTHING = LineSays()
