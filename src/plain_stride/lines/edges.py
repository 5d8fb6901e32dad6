"""What the edge of a line is like: a strategy from the smooth outline to the ink that is seen."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from plain_stride.lines.grain import textured
from plain_stride.lines.outline import BrushDiscs

Rings = list[np.ndarray]


class Edge(Protocol):
    """What becomes of the smooth outline, rings (n, 2) mm, of the discs that the brush laid."""

    def rings(self, smooth: Rings, discs: BrushDiscs) -> Rings:
        """Rings (n, 2) mm of the ink."""


@dataclass(frozen=True)
class CrispEdge:
    """The outline as it is."""

    def rings(self, smooth: Rings, discs: BrushDiscs) -> Rings:
        """Rings (n, 2) mm of the ink."""
        return smooth


@dataclass(frozen=True)
class ToothedEdge:
    """The outline worn by the paper's tooth, grain mm deep."""

    grain: float

    def rings(self, smooth: Rings, discs: BrushDiscs) -> Rings:
        """Rings (n, 2) mm of the ink."""
        return textured(smooth, discs.middle, discs.radius, self.grain)


CRISP = CrispEdge()


def edge_of(grain: float) -> Edge:
    """The edge of a nib with so much grain, mm; crisp for 0."""
    return ToothedEdge(grain) if grain > 0.0 else CRISP
