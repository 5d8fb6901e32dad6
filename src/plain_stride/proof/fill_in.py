"""White between two lines that is narrower than print holds, over a stretch: it will close."""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.form.contacts import runs
from plain_stride.proof.beside import Beside
from plain_stride.proof.finding import LOOK, Finding, Mend
from plain_stride.proof.page import Page

KIND = "fill-in"
LEAST_MM, WEDGE_MM, JUNCTION_MM, ALONG = 1.0, 3.0, 2.0, 0.7
"""The shortest stretch that is told; that of a wedge, where the two meet; so near a meeting white may close; the cosine
between lines that run beside each other."""
TOUCH_MM = 0.005


def find(page: Page, pairs: Sequence[Beside]) -> Iterator[Finding]:
    """Where the white between pairs will close; the narrowest place of each pair."""
    held = page.limit(KIND) * page.sheet.target.gap_mm
    for pair in pairs:
        narrow = (pair.white < held - 1e-6) & (pair.white > TOUCH_MM) & (pair.along >= ALONG) & ~_near_meetings(pair)
        found = [run for run in runs(narrow) if (len(run) - 1) * pair.step >= _least(pair, run)]
        if found:
            yield _finding(page, pair, max(found, key=len), held)


def _near_meetings(pair: Beside) -> np.ndarray:
    out = np.zeros(len(pair.s), bool)
    for s in pair.joined_at:
        out |= np.abs(pair.s - s) <= JUNCTION_MM
    return out


def _least(pair: Beside, run: np.ndarray) -> float:
    """How long a stretch must be: one at whose end the inks meet is a wedge, which always narrows to nothing."""
    beyond = [k for k in (run[0] - 1, run[-1] + 1) if 0 <= k < len(pair.white)]
    return WEDGE_MM if len(pair.joined_at) or any(pair.white[k] <= TOUCH_MM for k in beyond) else LEAST_MM


def _finding(page: Page, pair: Beside, run: np.ndarray, held: float) -> Finding:
    k = int(run[np.argmin(pair.white[run])])
    white, long = float(pair.white[k]), (len(run) - 1) * pair.step
    target = page.sheet.target.name
    says = f"{white:.2f} mm of white over {long:.1f} mm, where {target} holds {held:.2f}: part them, or thin one."
    severity = LOOK if "texture" in (page.roles[pair.a], page.roles[pair.b]) else None
    # Both give way: what is thinned is half on each side.
    lack = held - white
    wide = 2.0 * float(pair.half[k])
    factor = max((wide - 2.0 * lack) / max(wide, 1e-9), 0.3)
    last = float(pair.s[-1])
    start, end = max(float(pair.s[run[0]]) - 2.0, 0.0), min(float(pair.s[run[-1]]) + 2.0, last)
    change = {
        "change": "swell",
        "line": pair.a,
        "from": round(start, 2),
        "to": round(end, 2),
        "factor": round(factor, 3),
    }
    return page.found(KIND, pair.points[k], pair.points[run], (pair.a, pair.b), white, says, limit=held, unit="mm",
                      severity=severity,
                      mend=Mend(f"thin the shorter one to {factor:.0%} there", (change,), safe=False))  # fmt: skip
