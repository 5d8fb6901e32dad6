"""What is seen of final art, cropped to its own box of pixels."""

import numpy as np

from plain_stride.finish.art import Art, Progress
from plain_stride.finish.pages import Rasteriser, page_bands


def cropped(
    art: Art, rasteriser: Rasteriser, progress: Progress | None = None
) -> tuple[np.ndarray, np.ndarray, tuple[int, int]] | None:
    """(values (h, w) or (h, w, 3), alpha (h, w), its upper left corner in pixels of what is written), uint8; None where
    nothing is seen. Bands without ink are never kept."""
    kept: list[tuple[int, np.ndarray, np.ndarray]] = []
    left, right = art.whole.pixels[0], 0
    for top, some, alpha in page_bands(art, rasteriser, True, art.coloured, progress):
        rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
        if not len(rows):
            if kept:
                kept.append((top, some, alpha))
            continue
        left, right = min(left, int(columns[0])), max(right, int(columns[-1]) + 1)
        first = 0 if kept else int(rows[0])
        kept.append((top + first, some[first:].copy(), alpha[first:].copy()))
    while kept and not kept[-1][2].any():
        kept.pop()
    if not kept:
        return None
    top, last = kept[0][0], kept[-1]
    end = int(np.flatnonzero(last[2].any(axis=1))[-1]) + 1
    kept[-1] = (last[0], last[1][:end], last[2][:end])
    values = np.concatenate([some[:, left:right] for _, some, _ in kept])
    alpha = np.concatenate([share[:, left:right] for _, _, share in kept])
    return values, alpha, (left, top)
