"""Uneven hatching: pitch and width of rows of strokes, by their coefficients of variation, trends taken out."""

from collections.abc import Iterator

import numpy as np

from plain_stride.form.places import Along, along_of
from plain_stride.lines.shape import Shape
from plain_stride.proof.finding import Finding
from plain_stride.proof.page import Page
from plain_stride.proof.row_kept import RowKept
from plain_stride.tone.measured import Evenness, evenness_of
from plain_stride.tone.uneven import Hand

KIND = "uneven-hatch"
LEAST_STROKES, ASKED = 8, 1.6
"""Fewer strokes have no evenness; how many times as uneven as it was asked a tone may measure."""
MOST_PITCH_MM, STREWN = 2.0, 0.7
"""Strokes farther apart than this, or more uneven, are no hatching: grain, water, hair."""
WIDTHS = 1.2
"""Widths may vary so many times as much as pitches before it is told: tapered strokes are measured at their middles."""


def find(page: Page) -> Iterator[Finding]:
    """The uneven rows of a page: tones, and strokes that were pulled one by one."""
    limit = page.limit(KIND)
    for lines, others, hand in hatch_rows(page):
        if len(lines) < LEAST_STROKES:
            continue
        strokes = [along_of(page.shapes[key].path) for key in lines]
        found = _evenness.of([page.shapes[key] for key in lines])
        pitch, wide = found.cv_pitch, found.cv_width / WIDTHS
        if not others and not _is_hatching(found.pitch, strokes, pitch):
            continue
        allowed = max(limit, ASKED * hand.cv_pitch), max(limit, ASKED * hand.cv_width)
        if pitch <= allowed[0] and wide <= allowed[1]:
            continue
        by_pitch = pitch / allowed[0] >= wide / allowed[1]
        measured, most = (pitch, allowed[0]) if by_pitch else (found.cv_width, allowed[1] * WIDTHS)
        middles = np.array([one.points[len(one.s) // 2] for one in strokes])
        says = f"Strokes are {found.width:.2f} mm wide and vary by {found.cv_width:.0%}: give them one weight."
        if by_pitch:
            says = f"Strokes lie {found.pitch:.2f} mm apart and vary by {pitch:.0%}: space them anew."
        yield page.found(KIND, middles[_odd(middles)], middles, lines, measured, says, limit=most, others=others)


def hatch_rows(page: Page) -> list[tuple[tuple[str, ...], tuple[str, ...], Hand]]:
    """(strokes, the tone they are of or none, how even it was asked) of all rows of strokes."""
    rows: list[tuple[tuple[str, ...], tuple[str, ...], Hand]]
    rows = [(tone.lines, (tone.id,), Hand(tone.evenness)) for tone in page.tones if tone.kind == "hatch"]
    return [*rows, *((row, (), Hand()) for row in page.sets.rows)]


def _is_hatching(pitch: float, strokes: list[Along], cv: float) -> bool:
    """Whether strokes that were pulled one by one were meant as a grey: close together, and not strewn."""
    long = float(np.median([one.s[-1] for one in strokes]))
    return pitch <= min(MOST_PITCH_MM, long / 3.0) and cv <= STREWN


def _measured(shapes: list[Shape]) -> Evenness:
    strokes = [along_of(shape.path).points for shape in shapes]
    return evenness_of(strokes, np.array([shape.middle_width for shape in shapes]))


_evenness = RowKept(_measured)


def _odd(middles: np.ndarray) -> int:
    """The stroke with the widest gap beside it, along the row."""
    off = middles - middles.mean(axis=0)
    along = off @ np.linalg.svd(off, full_matrices=False)[2][0]
    order = np.argsort(along)
    return int(order[int(np.argmax(np.diff(along[order]))) + 1]) if len(order) > 1 else 0
