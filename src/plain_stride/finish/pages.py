"""A page of final art in pixels, band of rows after band: ink, and between it what is a picture in any file.

Pixels of ink come from a rasteriser that is passed in.
"""

from collections.abc import Iterator, Sequence
from typing import Protocol

import numpy as np

from plain_stride.finish.art import Art, ArtFlats, ArtPart, ArtScan, ExportStopped, Ink, Progress, SoftCopy, box_of
from plain_stride.finish.layers import FlatsLayer, Layer, ScanLayer
from plain_stride.finish.soft import Filled, SoftLayer
from plain_stride.lines.boxes import meet

OUTLINES_SHARE = 0.8
"""Of the time that a page of many lines takes."""
Band = tuple[int, np.ndarray, np.ndarray]
"""(first row, values uint8 (rows, wide) or (rows, wide, 3), alpha uint8 (rows, wide), of no width on paper)."""


class Rasteriser(Protocol):
    """What turns outlines into pixels. inked: (colour, rings in mm) back to front; pixels: (w, h)."""

    def bands(
        self, inked: Sequence[Ink], pixels: tuple[int, int], dpi: float, coloured: bool, clear: bool
    ) -> Iterator[Band]:
        """Bands from the top on; clear: on nothing, else on paper."""
        ...

    def picture(self, ink: str, rings: list[np.ndarray], pixels: tuple[int, int], dpi: float) -> bytes:
        """A PNG of one line on nothing, rings in mm from its corner."""
        ...


def page_bands(
    art: Art, rasteriser: Rasteriser, clear: bool, coloured: bool, progress: Progress | None = None
) -> Iterator[Band]:
    """The bands of a page. progress: told the share done; returning False raises ExportStopped."""
    told = progress or (lambda share: True)
    layers = _layers(art, rasteriser, told)
    page = art.whole
    several = len(layers) != 1 or not isinstance(layers[0], list)
    bands = _laid(layers, art, rasteriser, clear, coloured) if several else rasteriser.bands(
        layers[0], page.pixels, page.dpi, coloured, clear)  # type: ignore[arg-type]  # fmt: skip
    for top, values, alpha in bands:
        yield top, values, alpha
        _go_on(told(OUTLINES_SHARE + (1.0 - OUTLINES_SHARE) * (top + len(values)) / page.pixels[1]))


def whole_page(bands: Iterator[Band], pixels: tuple[int, int]) -> tuple[np.ndarray, np.ndarray | None]:
    """(values (h, w) or (h, w, 3), alpha (h, w) or None), uint8, of all bands."""
    values = alpha = None
    for top, some, share in bands:
        if values is None:
            values = np.empty((pixels[1], pixels[0], *some.shape[2:]), np.uint8)
            alpha = np.empty((pixels[1], pixels[0]), np.uint8) if share.shape[1] else None
        values[top : top + len(some)] = some
        if alpha is not None:
            alpha[top : top + len(some)] = share
    assert values is not None
    return values, alpha


def _go_on(on: bool) -> None:
    if not on:
        raise ExportStopped("the export was stopped: no file was written")


def filler(rasteriser: Rasteriser) -> Filled:
    """What fills a grid with ink on nothing."""

    def filled(inked: list[Ink], pixels: tuple[int, int], dpi: float, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
        values, alpha = whole_page(rasteriser.bands(inked, pixels, dpi, coloured, True), pixels)
        assert alpha is not None
        return values, alpha

    return filled


def _layers(art: Art, rasteriser: Rasteriser, told: Progress) -> list[list[Ink] | Layer]:
    """Runs of ink, and layers between them, back to front."""
    out: list[list[Ink] | Layer] = []
    moved = bool(art.corner.any())
    total, done = max(1, sum(len(part.lines) for part in art.parts)), 0

    for thing in art.things:
        if isinstance(thing, ArtPart):
            if not out or not isinstance(out[-1], list):
                out.append([])
            run = out[-1]
            assert isinstance(run, list)
            for line in thing.lines:
                if art.seen is not None and not meet(box_of(line), art.seen):
                    continue
                rings = line.seen()
                run.append((line.colour, [ring - art.corner for ring in rings] if moved else rings))
                done += 1
                _go_on(told(OUTLINES_SHARE * done / total))
        elif isinstance(thing, SoftCopy):
            if thing.of:
                out.append(SoftLayer(thing, art, filler(rasteriser)))
        elif isinstance(thing, ArtScan):
            out.append(ScanLayer(thing, art))
        elif isinstance(thing, ArtFlats):
            out.append(FlatsLayer(thing, art))
    return out or [[]]


def _laid(
    layers: list[list[Ink] | Layer], art: Art, rasteriser: Rasteriser, clear: bool, coloured: bool
) -> Iterator[Band]:
    """Bands of layers laid over each other, all at once."""
    wide, high = art.whole.pixels
    # Ink that is alone gives the height of a band.
    runs = {k: rasteriser.bands(layer, art.whole.pixels, art.whole.dpi, coloured, True)
            for k, layer in enumerate(layers) if isinstance(layer, list)}  # fmt: skip
    if not runs:
        runs = {-1: rasteriser.bands([], art.whole.pixels, art.whole.dpi, coloured, True)}
    top = 0
    while top < high:
        now = {k: next(run) for k, run in runs.items()}
        rows = len(next(iter(now.values()))[1])
        value = np.full((rows, wide, 3 if coloured else 1), 0.0 if clear else 1.0, np.float32)
        alpha = np.zeros((rows, wide), np.float32)
        for k, layer in enumerate(layers):
            values, share = _of_ink(now[k], coloured) if isinstance(layer, list) else layer.band(top, rows, coloured)
            value += (values - value) * share[:, :, None]
            alpha += (1.0 - alpha) * share
        if clear:
            value /= np.maximum(alpha, 1e-6)[:, :, None]
        yield top, _bytes(value if coloured else value[:, :, 0]), _bytes(alpha if clear else alpha[:, :0])
        top += rows


def _of_ink(band: Band, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
    _, values, alpha = band
    shown = values if coloured else values[:, :, None]
    return shown.astype(np.float32) / 255.0, alpha.astype(np.float32) / 255.0


def _bytes(share: np.ndarray) -> np.ndarray:
    return np.asarray(np.clip(share, 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
