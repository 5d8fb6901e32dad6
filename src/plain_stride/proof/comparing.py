"""Two proofs of one job compared: what got better, what came back, what stays."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from plain_stride.errors import StrideError

NEAR_MM = 2.0
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
        better = sum(1 for before, now in self.stayed if abs(now["measured"]) < abs(before["measured"]) * 0.98)
        return (f"{len(self.gone)} mended, {len(self.new)} new, {len(self.stayed)} as before"
                f"{f', {better} of them less' if better else ''}.")  # fmt: skip


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
    needed = ("kind", "x", "y", "lines", "measured")
    if not isinstance(found, list) or not all(isinstance(one, dict) and all(k in one for k in needed) for one in found):
        raise CompareError("that is no proof: its 'findings' are missing, or lack a place or a measure")
    return found


def _same(one: Told, other: Told) -> bool:
    if one["kind"] != other["kind"] or _apart(one, other) > NEAR_MM:
        return False
    return bool(set(one["lines"]) & set(other["lines"])) or not one["lines"] or not other["lines"]


def _apart(one: Told, other: Told) -> float:
    return float(np.hypot(one["x"] - other["x"], one["y"] - other["y"]))
