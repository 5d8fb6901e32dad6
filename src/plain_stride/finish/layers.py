"""What lies between the ink on a page of pixels: pictures that are asked for a band of rows at a time.

A layer lies on the whole page that is written, bleed and all; nothing here keeps a page of floats.
"""

from typing import Protocol

import numpy as np
from PIL import Image

from plain_stride import colour
from plain_stride.finish.art import Art, ArtFlats, ArtScan

MOST_BYTE = 255


class Layer(Protocol):
    """values: colours 0..1, one for all or one a pixel; alpha 0..1 (rows, wide)."""

    def band(self, top: int, rows: int, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
        """(values (rows or 1, wide or 1, channels), alpha (rows, wide)) of rows from `top` on."""
        ...


def channels(name: str, coloured: bool) -> tuple[float, ...]:
    """A colour as the values of a pixel."""
    return colour.rgb(name) if coloured else (colour.grey(name),)


class FlatsLayer:
    """The flats map without anti-aliasing: each pixel has one colour or none."""

    def __init__(self, flats: ArtFlats, art: Art) -> None:
        import shapely

        wide, high = art.whole.pixels
        scale = art.whole.dpi / 25.4
        self._colours = list(dict.fromkeys(name for _, name, _ in flats.areas))
        few = len(self._colours) < MOST_BYTE
        self.labels: np.ndarray = np.zeros((high, wide), np.uint8 if few else np.uint16)
        for _, name, area in flats.areas:
            rings = [ring for piece in shapely.get_parts(area) if piece.geom_type == "Polygon"
                     for ring in (piece.exterior, *piece.interiors)]  # fmt: skip
            points = [(shapely.get_coordinates(ring)[:-1] - art.corner) * scale for ring in rings]
            if points:
                _fill(self.labels, points, 1 + self._colours.index(name))

    def picture(self) -> Image.Image:
        """A picture of as many colours as there are, the open sheet clear."""
        colours = np.array([(0.0, 0.0, 0.0), *map(colour.rgb, self._colours)])
        table = np.rint(colours * 255.0).astype(np.uint8)
        if self.labels.dtype != np.uint8:
            clear = np.where(self.labels > 0, 255, 0).astype(np.uint8)
            return Image.fromarray(np.dstack([table[self.labels], clear]))
        out = Image.fromarray(self.labels)
        out.putpalette(table.tobytes())
        out.info["transparency"] = 0
        return out

    def band(self, top: int, rows: int, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
        """See `Layer`: (rows, wide, channels) and (rows, wide)."""
        labels = self.labels[top : top + rows]
        table = np.array([channels("white", coloured), *(channels(name, coloured) for name in self._colours)])
        return table.astype(np.float32)[labels], (labels > 0).astype(np.float32)


class ScanLayer:
    """A scan as black ink on nothing."""

    def __init__(self, scan: ArtScan, art: Art) -> None:
        self._wide, self._scale, self._corner = art.whole.pixels[0], 25.4 / art.whole.dpi, art.corner
        to_scan = scan.matrix.inverse()
        # So many pixels of the scan lie in one of the page: their mean is what it holds.
        many = max(1, int(np.hypot(to_scan.a, to_scan.b) * self._scale + 0.25))
        high, wide = (n // many * many for n in scan.grey.shape)
        blocks = scan.grey[:high, :wide].reshape(high // many, many, wide // many, many)
        self._dark = 1.0 - blocks.mean(axis=(1, 3), dtype=np.float32) / 255.0
        self._to_scan, self._many = to_scan, many

    def band(self, top: int, rows: int, coloured: bool) -> tuple[np.ndarray, np.ndarray]:
        """See `Layer`: one colour (1, 1, channels) and (rows, wide)."""
        from scipy.ndimage import map_coordinates

        x, y = np.meshgrid(np.arange(self._wide) + 0.5, np.arange(top, top + rows) + 0.5)
        at = self._to_scan.of(np.column_stack([x.ravel(), y.ravel()]) * self._scale + self._corner)
        at = at / self._many - 0.5
        alpha = map_coordinates(self._dark, [at[:, 1], at[:, 0]], order=1, cval=0.0).reshape(rows, self._wide)
        return np.array(channels("black", coloured), np.float32)[None, None], alpha.astype(np.float32)


def _fill(labels: np.ndarray, rings: list[np.ndarray], label: int) -> None:
    """Gives all pixels whose middles lie inside an odd number of rings (n, 2), in pixels, a label. Linear in the pixels
    of the box round them."""
    low = np.maximum(np.floor(np.min([ring.min(axis=0) for ring in rings], axis=0)).astype(int), 0)
    high = np.minimum(np.ceil(np.max([ring.max(axis=0) for ring in rings], axis=0)).astype(int), labels.shape[::-1])
    if (high <= low).any():
        return
    wide, rows = (high - low).tolist()
    turns = np.zeros((rows, wide + 1), np.int32)
    for ring in rings:
        a = ring - low
        b = np.roll(a, -1, axis=0)
        down = b[:, 1] > a[:, 1]
        top, foot = np.where(down[:, None], a, b), np.where(down[:, None], b, a)
        first = np.clip(np.ceil(top[:, 1] - 0.5), 0, rows).astype(int)
        many = np.clip(np.ceil(foot[:, 1] - 0.5), 0, rows).astype(int) - first
        edge = np.repeat(np.arange(len(a)), np.maximum(many, 0))
        row = np.arange(len(edge)) - np.repeat(
            np.cumsum(np.maximum(many, 0)) - np.maximum(many, 0), np.maximum(many, 0)
        )
        row += first[edge]
        share = (row + 0.5 - top[edge, 1]) / (foot[edge, 1] - top[edge, 1])
        x = top[edge, 0] + share * (foot[edge, 0] - top[edge, 0])
        np.add.at(turns, (row, np.clip(np.ceil(x - 0.5), 0, wide).astype(int)), 1)
    inside = np.cumsum(turns[:, :wide], axis=1) % 2 == 1
    labels[low[1] : high[1], low[0] : high[0]][inside] = label
