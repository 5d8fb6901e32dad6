"""The page of a job and where a scan goes on it."""

from dataclasses import dataclass

from plain_stride import measure


@dataclass(frozen=True)
class Page:
    """size_mm: finished width and height; dpi of every export; enlarge: how much larger it is inked than printed."""

    size_mm: tuple[float, float]
    dpi: float
    enlarge: float = 1.0

    def __post_init__(self) -> None:
        measure.check_page(self.size_mm, self.dpi)
        if not 0.1 <= self.enlarge <= 10.0:
            raise measure.MeasureError(f"an enlargement of {self.enlarge:g} is not possible: 0.1 to 10")

    @property
    def pixels(self) -> tuple[int, int]:
        """Whole pixels of an export; the enlargement has no part in it."""
        return measure.page_pixels(self.size_mm, self.dpi)


def placed(pixels: tuple[int, int], dpi: tuple[float, float] | None, page: Page) -> tuple[float, float, float, float]:
    """(x, y, w, h) in mm of a scan: at true size from the top left corner where it knows its dpi, reduced by the
    board's enlargement; else fitted into the board, centred."""
    if dpi is not None:
        w, h = (measure.mm_from_px(n, d) / page.enlarge for n, d in zip(pixels, dpi, strict=True))
        return 0.0, 0.0, w, h
    scale = min(page.size_mm[0] / pixels[0], page.size_mm[1] / pixels[1])
    w, h = pixels[0] * scale, pixels[1] * scale
    return (page.size_mm[0] - w) / 2.0, (page.size_mm[1] - h) / 2.0, w, h
