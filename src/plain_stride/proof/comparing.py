"""Two proofs of one job compared: what got better, what came back, what stays."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.errors import StrideError
from plain_stride.proof.limits import KINDS, LIMITS

NEAR_MM, CLEARLY = 2.0, 0.98
Told = Mapping[str, Any]
"""A finding as JSON has it."""


class CompareError(StrideError):
    """What is no proof to compare with."""


@dataclass(frozen=True)
class Compared:
    """gone: findings of before that are there no more; new: those that were not there; stayed: (before, now)."""

    gone: tuple[Told, ...]
    new: tuple[Told, ...]
    stayed: tuple[tuple[Told, Told], ...]

    @property
    def sentence(self) -> str:
        """The whole in one sentence."""
        better = sum(1 for before, now in self.stayed if _better(before, now))
        return (f"{len(self.gone)} mended, {len(self.new)} new, {len(self.stayed)} still there"
                f"{f', {better} of them less so' if better else ''}.")  # fmt: skip


def compared(before: Sequence[Told], now: Sequence[Told]) -> Compared:
    """Findings of two proofs. One is the same as another where it is of the same kind, on a line in common or on none,
    and near it."""
    left, new, stayed = list(before), list[Told](), list[tuple[Told, Told]]()
    for one in now:
        same = [other for other in left if _same(one, other)]
        if same:
            nearest = min(same, key=lambda other: _apart(one, other))
            left = [other for other in left if other is not nearest]
            stayed.append((nearest, one))
        else:
            new.append(one)
    return Compared(tuple(left), tuple(new), tuple(stayed))


def findings_in(data: Mapping[str, Any]) -> list[Told]:
    """The findings of a proof that was kept as JSON. Raises CompareError."""
    found = data.get("findings")
    if not isinstance(found, list) or not all(map(_is_told, found)):
        raise CompareError("that is no proof: its 'findings' are missing, or lack a place or a measure")
    return found


def _is_told(one: Any) -> bool:
    if not isinstance(one, dict) or one.get("kind") not in KINDS or not isinstance(one.get("lines"), list):
        return False
    figures = [one.get(key) for key in ("x", "y", "measured")]
    return all(isinstance(v, int | float) and math.isfinite(v) for v in figures) and all(
        isinstance(line, str) for line in one["lines"]
    )


def _better(before: Told, now: Told) -> bool:
    """Whether a finding is clearly less of a fault than it was: of some kinds less is worse."""
    worse, less = (now, before) if LIMITS[now["kind"]].below else (before, now)
    return bool(abs(less["measured"]) < abs(worse["measured"]) * CLEARLY)


def _same(one: Told, other: Told) -> bool:
    if one["kind"] != other["kind"] or _apart(one, other) > NEAR_MM:
        return False
    return bool(set(one["lines"]) & set(other["lines"])) or not one["lines"] or not other["lines"]


def _apart(one: Told, other: Told) -> float:
    return float(np.hypot(one["x"] - other["x"], one["y"] - other["y"]))
