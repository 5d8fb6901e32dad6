"""Hatching against what print holds: white between strokes that closes, strokes that are too thin. A row of strokes is
one thing, so it is told once, at its worst place."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plain_stride.form.places import along_of
from plain_stride.lines.shape import Shape
from plain_stride.proof.fill_in import KIND as FILL_IN
from plain_stride.proof.finding import LOOK, Finding
from plain_stride.proof.page import Page
from plain_stride.proof.row_kept import RowKept
from plain_stride.proof.too_thin import KIND as TOO_THIN
from plain_stride.proof.uneven_hatch import LEAST_STROKES, hatch_rows
from plain_stride.tone.measured import pitches_of

CLOGGED = 0.1
"""Where more of the white between strokes closes, or of the strokes is too thin, the row is told."""


def find(page: Page) -> Iterator[Finding]:
    """What of rows of strokes print will not hold."""
    for lines, others, _ in hatch_rows(page):
        if len(lines) >= LEAST_STROKES:
            row = _rows.of([page.shapes[key] for key in lines])
            yield from _clogs(page, lines, others, row)
            yield from _thin(page, lines, others, row)


@dataclass(frozen=True)
class _Row:
    """middles: (n, 2) mm; wide: (n,) mm there; a, b: strokes beside each other (m,); white: (m,) mm between them."""

    middles: np.ndarray
    wide: np.ndarray
    a: np.ndarray
    b: np.ndarray
    white: np.ndarray


def _measured(shapes: list[Shape]) -> _Row:
    strokes = [along_of(shape.path).points for shape in shapes]
    wide = np.array([shape.middle_width for shape in shapes])
    a, b, pitch = pitches_of(strokes)
    middles = np.array([points[len(points) // 2] for points in strokes])
    return _Row(middles, wide, a, b, pitch - (wide[a] + wide[b]) / 2.0)


_rows = RowKept(_measured)


def _clogs(page: Page, lines: tuple[str, ...], others: tuple[str, ...], row: _Row) -> Iterator[Finding]:
    held = page.limit(FILL_IN) * page.sheet.target.gap_mm
    a, b, white, middles = row.a, row.b, row.white, row.middles
    shut = white < held
    if not len(white) or shut.mean() <= CLOGGED:
        return
    k = int(np.argmin(white))
    says = (f"{shut.mean():.0%} of the white in this hatching is narrower than {held:.2f} mm, which"
            f" {page.sheet.target.name} holds: fewer strokes, or finer ones.")  # fmt: skip
    at, where = (middles[a[k]] + middles[b[k]]) / 2.0, middles[np.unique(np.concatenate([a[shut], b[shut]]))]
    yield page.found(FILL_IN, at, where, lines, max(float(white[k]), 0.0), says, limit=held, unit="mm", severity=LOOK,
                     others=others)  # fmt: skip


def _thin(page: Page, lines: tuple[str, ...], others: tuple[str, ...], row: _Row) -> Iterator[Finding]:
    held = page.limit(TOO_THIN) * page.sheet.target.line_mm
    wide, middles = row.wide, row.middles
    thin = wide < held - 1e-6
    # Strokes that were pulled one by one are told line by line.
    if not others or thin.mean() <= CLOGGED:
        return
    k = int(np.argmin(wide))
    says = (f"{thin.mean():.0%} of these strokes are thinner than {held:.2f} mm, which {page.sheet.target.name} holds:"
            " a coarser pitch with a broader nib keeps the grey.")  # fmt: skip
    yield page.found(TOO_THIN, middles[k], middles[thin], lines, float(wide[k]), says, limit=held, unit="mm",
                     others=others)  # fmt: skip
