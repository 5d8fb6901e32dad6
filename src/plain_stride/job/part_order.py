"""How parts stand before each other: by tier and place; what is inside another, right in front of it."""

from collections.abc import Mapping

from plain_stride.job.records import PartRecord
from plain_stride.weight.plan import TIERS


def in_front_first(parts: Mapping[str, PartRecord]) -> list[str]:
    """Keys of parts from the nearest to the farthest."""

    def rank(key: str) -> tuple[int, float, int, float]:
        own = parts[key]
        outer = parts.get(own.inside) if own.inside is not None else None
        first = outer or own
        return TIERS.index(first.tier), first.place, int(outer is None), own.place

    return sorted(parts, key=rank)


def with_inner(parts: Mapping[str, PartRecord], part: str) -> list[str]:
    """Keys of a part and of those inside it."""
    return [part, *inner(parts, part)]


def inner(parts: Mapping[str, PartRecord], part: str) -> list[str]:
    """Keys of the parts inside one."""
    return [key for key, row in parts.items() if row.inside == part]
