"""Register marks: round targets outside the four corners of a printed sheet, found again in a scan or a photo of it.

A mark is a disc in a ring, both round one centre, so that paper, drawing and writing are seldom taken for it. The disc
of the first one has a white middle, which tells which way round the sheet lies.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.placing import homography

OUT_MM, EDGE_MM = 7.0, 12.0
"""How far outside the trim, each way, a mark's centre lies; how much paper there is round the trim."""
DISC_MM, RING_MM, RING_WIDE_MM, MIDDLE_MM = 1.5, 3.5, 0.6, 0.6
"""Radii of the disc and of the ring's outer edge, how wide the ring is, the radius of the first disc's white middle."""
NAMES = ("upper left", "upper right", "lower right", "lower left")
WORK_PX = 2200
"""Pixels of the longer side in which marks are looked for; their centres are measured in all pixels."""
DARK = 0.55
"""Of the paper's light there, what is darker is a mark."""
ROUND, CENTRED, RATIO = 0.25, 0.35, (1.6, 3.2)
MOST_OFF = 0.08
"""How much longer one side of a round thing may be than the other; how far apart centres of disc and ring may be, in
radii of the disc; how much larger the ring is (2.3, seen askew); how far a mark may lie from where two others
say, of the diagonal: so much a photo may be askew."""


class MarksError(PencilsError):
    """A scan whose marks cannot be found."""


@dataclass(frozen=True, eq=False)
class FoundMarks:
    """to_sheet: the projective map (3, 3) from pixels to mm of the sheet; missing: names of marks that were not
    found."""

    to_sheet: np.ndarray
    missing: tuple[str, ...]


def mark_places(size_mm: tuple[float, float]) -> np.ndarray:
    """(4, 2) mm of the marks' centres, clockwise from the upper left, on a sheet of a finished size."""
    w, h = size_mm
    o = OUT_MM
    return np.array([[-o, -o], [w + o, -o], [w + o, h + o], [-o, h + o]])


def found_marks(grey: np.ndarray, size_mm: tuple[float, float]) -> FoundMarks:
    """grey: (h, w) uint8 of a scan. Three of four are enough where the sheet lies flat. Raises MarksError, saying how
    many were found."""
    step = max(1, max(grey.shape) // WORK_PX)
    small = _reduced(grey, step)
    some = _targets(small)
    centres = [_measured(grey, x * step, y * step, r * step) for x, y, r in some]
    first = [k for k, (x, y, r) in enumerate(centres) if _has_middle(grey, x, y, r)]
    if len(centres) < 3 or len(centres) > 12:
        raise MarksError(f"{len(centres)} of 4 register marks were found: scan the whole sheet, its four marks on it,"
                         " or place it by hand")  # fmt: skip
    if not first:
        raise MarksError(f"{len(centres)} of 4 register marks were found, and not the first, {NAMES[0]} with a white"
                         " middle: scan the whole sheet, its four marks on it")  # fmt: skip
    for start in first:
        got = _ordered(centres, start, size_mm)
        if got is not None:
            return got
    raise MarksError(f"{len(centres)} register marks were found, and they do not lie as those of this board of"
                     f" {size_mm[0]:g} × {size_mm[1]:g} mm do: scan the sheet that was printed for it")  # fmt: skip


def _reduced(grey: np.ndarray, step: int) -> np.ndarray:
    h, w = (n // step * step for n in grey.shape)
    out: np.ndarray = grey[:h, :w].reshape(h // step, step, w // step, step).mean(axis=(1, 3), dtype=np.float32)
    return out


def _targets(small: np.ndarray) -> list[tuple[float, float, float]]:
    """(x, y, radius of the disc) in small pixels of discs in rings."""
    from scipy import ndimage

    paper = ndimage.maximum_filter(small, 61, mode="nearest")
    dark = small < DARK * ndimage.gaussian_filter(paper, 20.0, mode="nearest")
    labels, n = ndimage.label(dark, np.ones((3, 3)))
    boxes = ndimage.find_objects(labels)
    areas = np.bincount(labels.ravel(), minlength=n + 1)
    round_ = [k for k in range(n) if _is_round(boxes[k])]
    sizes = {k: (_side(boxes[k], 1), _side(boxes[k], 0)) for k in round_}
    out = []
    for disc in round_:
        w, h = sizes[disc]
        if areas[disc + 1] < 0.5 * np.pi / 4.0 * w * h:
            continue
        for ring in round_:
            if ring != disc and _goes_round(boxes[ring], boxes[disc]) and RATIO[0] < sum(sizes[ring]) / (w + h) < RATIO[
                    1] and areas[ring + 1] < 0.6 * np.pi / 4.0 * sizes[ring][0] * sizes[ring][1]:  # fmt: skip
                y, x = (0.5 * (one.start + one.stop) for one in boxes[disc])
                out.append((float(x), float(y), (w + h) / 4.0))
                break
    return out


def _side(box: Any, axis: int) -> int:
    return int(box[axis].stop - box[axis].start)


def _is_round(box: Any) -> bool:
    w, h = _side(box, 1), _side(box, 0)
    return min(w, h) >= 5 and max(w, h) <= (1.0 + ROUND) * min(w, h) + 2.0


def _goes_round(ring: Any, disc: Any) -> bool:
    inside = all(a.start < b.start and a.stop > b.stop for a, b in zip(ring, disc, strict=True))
    off = [0.5 * abs(a.start + a.stop - b.start - b.stop) for a, b in zip(ring, disc, strict=True)]
    return inside and max(off) <= CENTRED * max(_side(disc, 0), _side(disc, 1)) / 2.0 + 1.0


def _measured(grey: np.ndarray, x: float, y: float, r: float) -> tuple[float, float, float]:
    """The centre of what is dark of a target, to a fraction of a pixel, and the radius of its disc, in pixels."""
    reach = r * RING_MM / DISC_MM * 1.25
    for _ in range(2):
        high, wide = grey.shape
        x0, x1 = (int(np.clip(v, 0, wide)) for v in (x - reach, x + reach + 1))
        y0, y1 = (int(np.clip(v, 0, high)) for v in (y - reach, y + reach + 1))
        piece = grey[y0:y1, x0:x1].astype(np.float64)
        dark = np.clip(np.percentile(piece, 95) - piece, 0.0, None)
        dark[dark < 0.25 * dark.max()] = 0.0
        gy, gx = np.mgrid[y0:y1, x0:x1]
        total = dark.sum()
        x, y = float((dark * (gx + 0.5)).sum() / total), float((dark * (gy + 0.5)).sum() / total)
    return x, y, r


def _has_middle(grey: np.ndarray, x: float, y: float, r: float) -> bool:
    """Whether a disc is white in its middle: lighter there than half-way out."""
    near = r * 0.25 / DISC_MM
    out = r * 1.05 / DISC_MM

    def light(radius: float, many: int) -> float:
        angle = np.linspace(0.0, 2.0 * np.pi, many, endpoint=False)
        u = np.clip((x + radius * np.cos(angle)).astype(int), 0, grey.shape[1] - 1)
        v = np.clip((y + radius * np.sin(angle)).astype(int), 0, grey.shape[0] - 1)
        return float(grey[v, u].mean())

    return light(near, 8) > light(out, 24) + 60.0


def _ordered(
    centres: Sequence[tuple[float, float, float]], start: int, size_mm: tuple[float, float]
) -> FoundMarks | None:
    """The map by the marks, of which `start` is the first; None where the others do not lie as they should."""
    p = np.array([(x, y) for x, y, _ in centres])
    want = mark_places(size_mm)
    best: tuple[float, dict[int, int]] | None = None
    for one in range(len(p)):
        if one == start:
            continue
        for corner in (1, 3):
            # A likeness by two marks says where the others should be.
            scale = complex(*(p[one] - p[start])) / complex(*(want[corner] - want[0]))
            there = [p[start] + _turned(want[k] - want[0], scale) for k in range(4)]
            size = abs(scale) * float(np.hypot(*(want[2] - want[0])))
            near = {k: int(np.hypot(*(p - there[k]).T).argmin()) for k in range(4)}
            off = {k: float(np.hypot(*(p[near[k]] - there[k]))) / size for k in range(4)}
            kept = {k: near[k] for k in range(4) if off[k] < MOST_OFF}
            if len(set(kept.values())) == len(kept) >= 3:
                mean = float(np.mean([off[k] for k in kept])) - 0.1 * len(kept)
                if best is None or mean < best[0]:
                    best = (mean, kept)
    if best is None:
        return None
    marks = best[1]
    if len(marks) == 4:
        return FoundMarks(homography(p[[marks[k] for k in range(4)]], want), ())
    here, there_mm = p[list(marks.values())], want[list(marks)]
    # A flat sheet's fourth mark completes the parallelogram.
    fourth = [here[0] + here[2] - here[1], there_mm[0] + there_mm[2] - there_mm[1]]
    matrix = homography(np.vstack([here, fourth[:1]]), np.vstack([there_mm, fourth[1:]]))
    return FoundMarks(matrix, tuple(name for k, name in enumerate(NAMES) if k not in marks))


def _turned(way: np.ndarray, scale: complex) -> np.ndarray:
    z = complex(*way) * scale
    return np.array([z.real, z.imag])
