"""What the ends of a line are likelier to be meant for: lines of their own part, and such as bound it rather than fill
it (common practice: an outline does not end on a crease)."""

from plain_stride.form.roles import HAND
from plain_stride.job.rows import JobRows
from plain_stride.weight.plan import TIERS

RANKS = {"outer": 3, "ruled": 2, "inner": 2, "detail": 1, "texture": 0, "halo": 0}
"""Roles by what they bound: an end may be meant for any line of its own rank or above."""


class EndPartners:
    """Which lines an end is meant for."""

    def __init__(self, job: JobRows) -> None:
        self._job = job

    def possible(self, line: str, other: str) -> bool:
        """Whether an end of a line may be meant for another: not for what lies in a tier behind it, which goes on
        behind its part."""
        return self._tier(other) <= self._tier(line)

    def aptness(self, line: str, other: str) -> int:
        """How much speaks for another line, 0 to 2: the same part, and a role that bounds as much, where both were
        given by the hand."""
        rows = self._job.rows.lines
        own, its = rows[line], rows[other]
        return int(own.part == its.part) + int(self._rank(line, 0) <= self._rank(other, 3))

    def _rank(self, line: str, unknown: int) -> int:
        role = self._job.rows.lines[line].roles[0]
        return RANKS[role.role] if role.by == HAND else unknown

    def _tier(self, line: str) -> int:
        return TIERS.index(self._job.rows.parts[self._job.rows.lines[line].part].tier)
