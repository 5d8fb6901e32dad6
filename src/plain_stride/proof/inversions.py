"""Lines that outweigh what they should not: inner ones their outline, farther ones nearer ones, lit sides
shaded ones."""

from collections.abc import Iterator

import numpy as np

from plain_stride.proof.finding import LOOK, Finding, Mend
from plain_stride.proof.page import Page
from plain_stride.weight.hierarchy import Clash, clashes

CLEAR = 1.2
"""A factor over which an eye sees it at once."""


def find(page: Page) -> Iterator[Finding]:
    """The places where a line outweighs one that it should not."""
    for clash in clashes(page.inked):
        times = clash.measured[0] / max(clash.measured[1], 1e-6)
        if times > page.limit(clash.kind) and not any(map(page.sets.holds, clash.lines[:1])):
            yield _finding(page, clash, times)


def _finding(page: Page, clash: Clash, times: float) -> Finding:
    heavy, light = clash.measured
    says = f"{heavy:.2f} mm against {light:.2f}, {times:.2f} times: {clash.cures[1].says}."
    thinner = clash.cures[1]
    changes = tuple({"change": "swell", "line": line, "from": start, "to": end, "factor": round(thinner.factor, 4)}
                    for line, start, end in thinner.stretches)  # fmt: skip
    at = np.array(clash.at)
    severity = None if times >= CLEAR else LOOK
    return page.found(clash.kind, at, _where(page, clash), clash.lines, times, says, severity=severity,
                      mend=Mend(thinner.says, changes, safe=False))  # fmt: skip


def _where(page: Page, clash: Clash) -> np.ndarray:
    """The stretches (n, 2) mm of the line that is too heavy, the worst place first."""
    parts = [np.array(clash.at)[None]]
    for line, start, end in clash.cures[1].stretches:
        stroke = page.stroke(line)
        parts.append(stroke.points[(stroke.s >= start) & (stroke.s <= end)])
    return np.concatenate(parts)
