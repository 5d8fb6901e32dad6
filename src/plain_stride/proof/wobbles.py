"""Wobble: how far a finished line departs sideways from itself smoothed along its length; and ruled lines that are not
straight.

A bend departs from its own mean to one side for as long as it lasts, a wobble to one side and the other in turn: only
stretches that change sides count, and waves too long for a hand's shiver are drawn. Corners end a stretch.
"""

from collections.abc import Iterator, Sequence

import numpy as np

from plain_stride.proof.finding import Finding, Mend
from plain_stride.proof.fine import STEP_MM, Fine
from plain_stride.proof.page import Page

KIND = "wobble"
SPAN_MM, WIDE_MM, WINDOW_MM = 6.0, 14.0, 12.0
"""What is smoothed over; what drawn waves are smoothed over; over how much of the line wobble is measured."""
LEAST_TURNS, OWN_SHARE = 4, 0.5
"""How often it changes sides in a window; a wave that is more than twice as high over the wider span is drawn."""
LEAST_MM = 8.0


def find(page: Page, lines: Sequence[str]) -> Iterator[Finding]:
    """The wobble of some lines: one finding for the worst place of each."""
    of_hand = [key for key in lines if page.roles[key] != "texture" and page.shapes[key].length >= LEAST_MM]
    fine, limit = page.fine(of_hand).between_corners(), page.limit(KIND)
    rms = wobble(fine)
    worst: dict[str, int] = {}
    for run in fine.runs(rms > limit):
        k, key = int(run[np.argmax(rms[run])]), fine.lines[int(fine.line[run[0]])]
        if key not in worst or rms[k] > rms[worst[key]]:
            worst[key] = k
    for key in of_hand:
        if page.roles[key] == "ruled" and (crooked := _crooked(page.stroke(key).points)) > limit:
            yield _ruled(page, key, crooked)
        elif key in worst and page.seen(key, float(fine.s[worst[key]])):
            yield _finding(page, fine, rms, worst[key])


def _finding(page: Page, fine: Fine, rms: np.ndarray, k: int) -> Finding:
    key, measured, limit = fine.lines[int(fine.line[k])], float(rms[k]), page.limit(KIND)
    on = fine.of(int(fine.line[k]))
    over = on.start + np.flatnonzero(rms[on] > limit)
    leeway = round(max(3.0 * measured, 0.1), 2)
    mend = Mend(f"smooth it, nowhere by more than {leeway:.2f} mm",
                ({"change": "smooth", "line": key, "leeway": leeway},), safe=False)  # fmt: skip
    says = f"This line shivers by {measured:.2f} mm here: pull it again in one go, or smooth it."
    return page.found(KIND, fine.points[k], fine.points[over], (key,), measured, says, mend=mend)


def _ruled(page: Page, key: str, crooked: float) -> Finding:
    places = page.stroke(key).points
    says = f"This line is ruled and lies {crooked:.2f} mm beside a straight: rule it anew."
    mend = Mend("make it straight", ({"change": "straighten", "line": key},), safe=False)
    return page.found(KIND, places[len(places) // 2], places, (key,), crooked, says, mend=mend)


def wobble(fine: Fine) -> np.ndarray:
    """RMS (n,) mm of the wobble round each place; 0 where a line does not change sides often enough."""
    off, wide = _off(fine, SPAN_MM), _off(fine, WIDE_MM)
    turns = _crossings(fine, off)
    window = round(WINDOW_MM / STEP_MM)
    mean = fine.averaged(off * off, window)
    often = fine.averaged(turns, window) * window
    rms = np.sqrt(np.maximum(mean, 0.0))
    drawn = np.sqrt(fine.averaged(wide * wide, window)) * OWN_SHARE > rms
    return np.where((often >= LEAST_TURNS) & ~drawn, rms, 0.0)


def _off(fine: Fine, span: float) -> np.ndarray:
    """How far (n,) each place lies to the left of the line smoothed over a span, slow departures taken off."""
    half = round(span / STEP_MM / 2.0)
    calm = np.column_stack([fine.smoothed(fine.points[:, k], half) for k in (0, 1)])
    across = ((fine.points - calm) * fine.left).sum(axis=1)
    return np.where(_inside(fine, half), across - fine.smoothed(across, half), 0.0)


def _inside(fine: Fine, half: int) -> np.ndarray:
    """Places so far from ends that what is smoothed there lies on both sides."""
    return fine.from_end >= half * STEP_MM / 2.0


def _crossings(fine: Fine, off: np.ndarray) -> np.ndarray:
    """1 (n,) where a line changes sides after it was clearly on the other one."""
    out = np.zeros(len(off))
    least = 0.25 * np.sqrt(np.maximum(fine.averaged(off * off, round(WINDOW_MM / STEP_MM)), 0.0))
    clear = np.flatnonzero(np.abs(off) > np.maximum(least, 1e-4))
    if len(clear) > 1:
        turned = (np.sign(off[clear[1:]]) != np.sign(off[clear[:-1]])) & (fine.line[clear[1:]] == fine.line[clear[:-1]])
        out[clear[1:][turned]] = 1.0
    return out


def _crooked(p: np.ndarray) -> float:
    """RMS mm by which points (n, 2) lie beside their straight (total least squares); 0 for what bends on purpose."""
    off = p - p.mean(axis=0)
    size = np.linalg.svd(off, compute_uv=False)
    rms = float(size[1] / np.sqrt(len(p)))
    length = float(np.hypot(*(p[-1] - p[0])))
    return rms if rms < 0.02 * length else 0.0
