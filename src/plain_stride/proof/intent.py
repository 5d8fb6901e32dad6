"""What the inker says is meant so: of one finding, of a line, of a part, or of a kind. It stays said; of a finding it
is asked about again only where its place, its lines or its size are no longer what they were."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.proof.finding import Finding
from plain_stride.proof.limits import KINDS, LIMITS

SCOPES = FINDING, LINE, PART, KIND = ("finding", "line", "part", "kind")
SAME_MM, WORSE = 1.5, 1.3
"""How far a place may have moved, and how many times as bad it may have become, and still be what was meant."""


class IntentError(StrideError):
    """What cannot be said to be meant."""


@dataclass(frozen=True)
class Meant:
    """scope: of SCOPES; kind: of which kind of finding, '' for all; on: ids of lines and other ink, of a part, or
    nothing; at, measured: of the finding, as it was; reason: in the inker's words."""

    scope: str
    kind: str = ""
    on: tuple[str, ...] = ()
    at: tuple[float, float] = (0.0, 0.0)
    measured: float = 0.0
    reason: str = ""

    def __post_init__(self) -> None:
        if self.scope not in SCOPES:
            raise IntentError(f"one says of a {', '.join(SCOPES)} that it is meant, not of '{self.scope}'")
        if (self.kind or self.scope in (FINDING, KIND)) and self.kind not in KINDS:
            raise IntentError(f"the proof has no kind '{self.kind}': there are {', '.join(KINDS)}")
        if (self.scope in (LINE, PART)) and not self.on:
            raise IntentError(f"which {self.scope} is meant so?")
        if not isinstance(self.reason, str) or len(self.reason) > 300:
            raise IntentError("a reason is a text of at most 300 letters")

    def covers(self, found: Finding, parts: frozenset[str]) -> bool:
        """Whether a finding is meant so. parts: the parts that its lines are in."""
        if self.kind and self.kind != found.kind:
            return False
        if self.scope == FINDING:
            return self._is_the_same(found)
        if self.scope == LINE:
            return bool(set(self.on) & {*found.lines, *found.others})
        return self.scope == KIND or bool(set(self.on) & parts)

    def _is_the_same(self, found: Finding) -> bool:
        if set(self.on) != {*found.lines, *found.others}:
            return False
        near = np.hypot(*(np.array(self.at) - found.at)) <= SAME_MM
        low, high = self.measured / WORSE, self.measured * WORSE
        worse = found.measured < low if LIMITS[found.kind].below else found.measured > high + 1e-9
        return bool(near) and not worse


def as_meant(found: Finding, reason: str = "") -> Meant:
    """That a finding is meant, as it is."""
    return Meant(FINDING, found.kind, (*found.lines, *found.others), found.at, round(found.measured, 5), reason)


def sorted_by_intent(
    found: Iterable[Finding], meant: Sequence[Meant], parts: dict[str, str]
) -> tuple[list[Finding], list[tuple[Finding, Meant]]]:
    """(findings that are told, those that are meant so, with what says it). parts: the part of each line or black."""
    told, said = list[Finding](), list[tuple[Finding, Meant]]()
    for one in found:
        own = frozenset(parts[key] for key in (*one.lines, *one.others) if key in parts)
        by = next((each for each in meant if each.covers(one, own)), None)
        if by is None:
            told.append(one)
        else:
            said.append((one, by))
    return told, said
