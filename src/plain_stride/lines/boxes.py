"""Boxes round ink: (x0, y0, x1, y1), mm."""

Box = tuple[float, float, float, float]


def meet(one: Box, other: Box) -> bool:
    """Whether two boxes have a place in common."""
    return one[0] <= other[2] and one[2] >= other[0] and one[1] <= other[3] and one[3] >= other[1]
