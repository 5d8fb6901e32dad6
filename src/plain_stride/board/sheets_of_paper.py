"""A board at its true size on sheets of paper: on one where it fits, else in pieces that overlap."""

import math

OVERLAP_MM = 10.0
"""What two neighbouring pieces share, to be stuck together by (common practice)."""

Box = tuple[float, float, float, float]


def pieces(size_mm: tuple[float, float], paper_mm: tuple[float, float], overlap_mm: float = OVERLAP_MM) -> list[Box]:
    """The (x, y, w, h) mm of a board that go on each sheet of paper, row by row from the upper left. paper_mm: what of
    it can be printed on. Raises ValueError where the paper is no larger than the overlap."""
    if min(paper_mm) <= overlap_mm:
        raise ValueError("the paper is no larger than what its pieces would share")
    across, down = (_starts(size, paper, overlap_mm) for size, paper in zip(size_mm, paper_mm, strict=True))
    return [
        (x, y, min(paper_mm[0], size_mm[0] - x), min(paper_mm[1], size_mm[1] - y))
        for y in down
        for x in across
    ]  # fmt: skip


def _starts(size: float, paper: float, overlap: float) -> list[float]:
    """mm at which pieces begin; each reaches over the next by the overlap."""
    if size <= paper + 1e-6:
        return [0.0]
    n = math.ceil((size - overlap) / (paper - overlap) - 1e-9)
    return [k * (paper - overlap) for k in range(n)]


def lies_better_on_its_side(size_mm: tuple[float, float], paper_mm: tuple[float, float]) -> bool:
    """Whether a board needs fewer sheets of paper that are turned on their side."""
    turned = (paper_mm[1], paper_mm[0])
    return len(pieces(size_mm, turned)) < len(pieces(size_mm, paper_mm))
