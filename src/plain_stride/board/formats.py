"""Common finished sizes, in mm, upright."""

A0_MM, B0_MM = (841, 1189), (1000, 1414)
"""ISO 216. Each next size is half of the one before, its halves rounded down."""
INCH = 25.4


def iso_size(series: str, n: int) -> tuple[int, int]:
    """(width, height) in mm of A0 to A10 or B0 to B10 (ISO 216). Raises PageError for any other."""
    if series not in ("A", "B") or not 0 <= n <= 10:
        raise ValueError(f"there is no {series}{n}")
    w, h = A0_MM if series == "A" else B0_MM
    for _ in range(n):
        w, h = h // 2, w
    return w, h


FORMATS: dict[str, tuple[float, float]] = {
    **{f"A{n}": iso_size("A", n) for n in range(2, 7)},
    **{f"B{n}": iso_size("B", n) for n in range(3, 6)},
    "letter sheet, 8.5 × 11 in": (8.5 * INCH, 11.0 * INCH),
    "print, 8 × 10 in": (8.0 * INCH, 10.0 * INCH),
    "print, 11 × 14 in": (11.0 * INCH, 14.0 * INCH),
    "comic page as printed, 6.75 × 10.25 in": (6.75 * INCH, 10.25 * INCH),
    "comic page as drawn, 10 × 15 in": (10.0 * INCH, 15.0 * INCH),
    "pocket comic, 128 × 182 mm": (128.0, 182.0),
    "postcard, 105 × 148 mm": (105.0, 148.0),
    "square, 200 mm": (200.0, 200.0),
}
"""The ISO sizes, and sizes that are common practice."""
