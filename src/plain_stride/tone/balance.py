"""How black lies on a page: how much of it is black, where its weight lies, in which of its nine fields most of it is.

Black is what a disc of a size fits into (an opening, Serra 1982): lines are none, however many there are.
"""

from dataclasses import dataclass

import numpy as np

SOLID_MM, THIRDS = 1.5, 3
DOWN, ACROSS = ("upper", "middle", "lower"), ("left", "middle", "right")


@dataclass(frozen=True)
class Balance:
    """ink, black: shares of the page, 0 to 1; centre: where black's weight lies, in shares of the page across and down;
    fields: shares of all black in the nine fields, row by row."""

    ink: float
    black: float
    centre: tuple[float, float]
    fields: tuple[float, ...]

    @property
    def heaviest(self) -> str:
        """In words, which of the nine fields holds most of the black; '' without any."""
        if self.black <= 0.0:
            return ""
        row, column = divmod(int(np.argmax(self.fields)), THIRDS)
        if (row, column) == (1, 1):
            return "middle"
        return f"{DOWN[row]} {ACROSS[column]}" if column != 1 else f"{DOWN[row]} middle"


def balance_of(dark: np.ndarray, per_mm: float) -> Balance:
    """The balance of a page. dark (h, w): 0 paper to 1 ink; per_mm: its pixels for one mm."""
    solid = solid_of(dark, per_mm)
    total = float(solid.sum())
    high, wide = dark.shape
    rows, columns = (np.arange(n) + 0.5 for n in (high, wide))
    centre = (0.5, 0.5)
    if total > 0.0:
        centre = float(solid.sum(axis=0) @ columns / total / wide), float(solid.sum(axis=1) @ rows / total / high)
    cuts = [np.linspace(0, n, THIRDS + 1).round().astype(int) for n in (high, wide)]
    fields = [float(solid[a:b, c:d].sum()) / max(total, 1e-9)
              for a, b in zip(cuts[0][:-1], cuts[0][1:], strict=True)
              for c, d in zip(cuts[1][:-1], cuts[1][1:], strict=True)]  # fmt: skip
    return Balance(float(dark.mean()), total / dark.size, centre, tuple(fields))


def solid_of(dark: np.ndarray, per_mm: float) -> np.ndarray:
    """(h, w) whether a disc of SOLID_MM that holds a place fits into the ink; what lies beyond the page counts as it
    does at its edge."""
    from scipy import ndimage

    reach = SOLID_MM / 2.0 * per_mm
    edge = int(np.ceil(reach)) + 1
    bits = np.pad(dark >= 0.5, edge, mode="edge")
    if not bits.any() or bits.all():
        return np.asarray(dark >= 0.5)
    deep = ndimage.distance_transform_edt(bits) > reach
    grown = ndimage.distance_transform_edt(~deep) <= reach if deep.any() else deep
    return np.asarray((grown & bits)[edge:-edge, edge:-edge])
