"""Lines that outweigh what they should not: inner ones their outline, farther ones nearer ones, lit sides shaded ones."""

from collections.abc import Iterator

from plain_stride.proof.finding import LOOK, Finding, Mend, Point
from plain_stride.proof.page import Page
from plain_stride.weight.hierarchy import Clash, clashes

CLEAR = 1.15
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
    at: Point = (round(clash.at[0], 3), round(clash.at[1], 3))
    return Finding(clash.kind, page.manners.severity(clash.kind, None if times >= CLEAR else LOOK), at, (at,),
                   clash.lines, times, page.limit(clash.kind), "times", says,
                   Mend(thinner.says, changes, safe=False))  # fmt: skip
