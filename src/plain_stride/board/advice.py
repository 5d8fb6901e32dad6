"""Advice on resolution and size, with its reasons. Common practice of the trade, without a published source."""

from plain_stride.board.page import Page

FLOOR_DPI, TONE_DPI, LINE_DPI = 75.0, 300.0, 600.0
SMALL_PX, ILLUSTRATION_PX = 1000, 2000


def advice(page: Page) -> list[str]:
    """Sentences for a page, the gravest first; empty where nothing speaks against it."""
    out = []
    dpi, short = page.dpi, min(page.pixels)
    if dpi < FLOOR_DPI:
        out.append(f"Below **{FLOOR_DPI:g} dpi** no line looks clean, on paper or on a screen.")
    elif dpi < TONE_DPI:
        out.append(f"Below **{TONE_DPI:g} dpi** print shows pixels, in colour and grey too; for a screen it will do.")
    elif dpi < LINE_DPI:
        out.append(f"For colour and grey that is enough; pure black line shows stairs below **{LINE_DPI:g} dpi**.")
    if short < SMALL_PX:
        out.append(f"The short side has fewer than **{SMALL_PX:,} px**: too few for final art.")
    elif short < ILLUSTRATION_PX:
        out.append(f"The short side has fewer than **{ILLUSTRATION_PX:,} px**, the usual least of an illustration.")
    return out
