"""Lines thinner than print holds, at the final size, on any stretch but the tips of ends."""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.proof.finding import LOOK, Finding, Mend
from plain_stride.proof.fine import STEP_MM, Fine
from plain_stride.proof.page import Page

KIND = "too-thin"
LEAST_MM, TIP_MM, TIP_SHARE, LEAST_TIP = 0.5, 3.0, 0.2, 0.05
"""A shorter stretch closes up as ink spreads; a tip may be lost over so many mm, and so much of its line; thinner than
this there is no ink: a gap of a broken end."""


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The stretches of some lines that are too thin, the thinnest of each line told."""
    held = page.limit(KIND) * page.sheet.target.line_mm
    fine = page.fine([key for key in lines if page.shapes[key].widths.full.min() < held])
    thin = (fine.full < held - 1e-6) & (fine.full > LEAST_TIP * held)
    worst: dict[str, np.ndarray] = {}
    for run in fine.runs(thin):
        key = fine.lines[int(fine.line[run[0]])]
        if not _is_tip(fine, run) and len(run) * STEP_MM >= LEAST_MM:
            kept = worst.get(key)
            if kept is None or fine.full[run].min() < fine.full[kept].min():
                worst[key] = run
    for key, run in worst.items():
        k = int(run[np.argmin(fine.full[run])])
        yield _finding(page, fine, key, run, k, held)


def _is_tip(fine: Fine, run: np.ndarray) -> bool:
    """Whether a stretch is no more than the tip of an end that comes to a point."""
    k = int(fine.line[run[0]])
    on = fine.of(k)
    if fine.closed[k] or (run[0] > on.start and run[-1] < on.stop - 1):
        return False
    if len(run) == on.stop - on.start:
        return False
    long = float(fine.s[run[-1]] - fine.s[run[0]])
    falls = bool(np.ptp(fine.full[run]) > 0.3 * fine.full[run].max())
    return long <= max(TIP_MM, TIP_SHARE * float(fine.length[k])) and falls


def _finding(page: Page, fine: Fine, key: str, run: np.ndarray, k: int, held: float) -> Finding:
    thinnest, on = float(fine.full[k]), fine.of(int(fine.line[k]))
    factor = held / max(float(fine.full[run].min()), 1e-3) * 1.05
    start, end = float(fine.s[run[0]]), float(fine.s[run[-1]])
    whole = len(run) == on.stop - on.start
    change: dict[str, object] = {"change": "swell", "line": key, "factor": round(factor, 3)}
    if not whole:
        # A swell fades inside its ends: it begins before what is thin.
        change |= {"from": round(max(start - 2.0, 0.0), 2), "to": round(min(end + 2.0, float(fine.s[on.stop - 1])), 2)}
    target = page.sheet.target.name
    long = end - start
    says = f"{thinnest:.2f} mm over {long:.1f} mm, where {target} holds {held:.2f}: make it heavier, or it breaks up."
    severity = LOOK if page.roles[key] == "texture" else None
    mend = Mend(f"swell it {factor:.2f} times over that stretch", (change,))
    return page.found(KIND, fine.points[k], fine.points[run], (key,), thinnest, says, limit=held, unit="mm",
                      severity=severity, mend=mend)  # fmt: skip
