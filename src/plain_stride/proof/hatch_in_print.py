"""Hatching against what print holds: white between strokes that closes, strokes that are too thin. A row of strokes is
one thing, so it is told once, at its worst place."""

from collections.abc import Iterator

import numpy as np

from plain_stride.form.places import along_of
from plain_stride.proof.fill_in import KIND as FILL_IN
from plain_stride.proof.finding import LOOK, Finding
from plain_stride.proof.page import Page
from plain_stride.proof.too_thin import KIND as TOO_THIN
from plain_stride.proof.uneven_hatch import LEAST_STROKES, hatch_rows, width_of
from plain_stride.tone.measured import pitches_of

CLOGGED = 0.1
"""Where more of the white between strokes closes, or of the strokes is too thin, the row is told."""


def find(page: Page) -> Iterator[Finding]:
    """What of rows of strokes print will not hold."""
    for lines, others, _ in hatch_rows(page):
        if len(lines) >= LEAST_STROKES:
            shapes = [page.shapes[key] for key in lines]
            middles = np.array([along_of(shape.path).points[len(along_of(shape.path).s) // 2] for shape in shapes])
            wide = np.array([width_of(shape) for shape in shapes])
            yield from _clogs(page, lines, others, middles, wide)
            yield from _thin(page, lines, others, middles, wide)


def _clogs(
    page: Page, lines: tuple[str, ...], others: tuple[str, ...], middles: np.ndarray, wide: np.ndarray
) -> Iterator[Finding]:  # fmt: skip
    held = page.limit(FILL_IN) * page.sheet.target.gap_mm
    a, b, pitch = pitches_of([along_of(page.shapes[key].path).points for key in lines])
    white = pitch - (wide[a] + wide[b]) / 2.0
    shut = white < held
    if not len(white) or shut.mean() <= CLOGGED:
        return
    k = int(np.argmin(white))
    says = (f"{shut.mean():.0%} of the white in this hatching is narrower than {held:.2f} mm, which"
            f" {page.sheet.target.name} holds: fewer strokes, or finer ones.")  # fmt: skip
    at, where = (middles[a[k]] + middles[b[k]]) / 2.0, middles[np.unique(np.concatenate([a[shut], b[shut]]))]
    yield page.found(FILL_IN, at, where, lines, max(float(white[k]), 0.0), says, limit=held, unit="mm", severity=LOOK,
                     others=others)  # fmt: skip


def _thin(
    page: Page, lines: tuple[str, ...], others: tuple[str, ...], middles: np.ndarray, wide: np.ndarray
) -> Iterator[Finding]:  # fmt: skip
    held = page.limit(TOO_THIN) * page.sheet.target.line_mm
    thin = wide < held - 1e-6
    # Strokes that were pulled one by one are told line by line.
    if not others or thin.mean() <= CLOGGED:
        return
    k = int(np.argmin(wide))
    says = (f"{thin.mean():.0%} of these strokes are thinner than {held:.2f} mm, which {page.sheet.target.name} holds:"
            " a coarser pitch with a broader nib keeps the grey.")  # fmt: skip
    yield page.found(TOO_THIN, middles[k], middles[thin], lines, float(wide[k]), says, limit=held, unit="mm",
                     others=others)  # fmt: skip
