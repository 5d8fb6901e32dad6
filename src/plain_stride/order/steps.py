"""Steps of the work: pieces of one kind and part, in the order of a school or of the inker's own."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.order.errors import OrderError
from plain_stride.order.pieces import AGAIN, BLACKS, DETAILS, FRAMES, HATCHING, INNER, KINDS, SILHOUETTES, Piece

DONE = 0.97
"""The share from which a step ticks itself off: the rest is breath between strokes."""
FIRST, SECOND = "first", "second"
HALVES = (FIRST, SECOND)


@dataclass(frozen=True)
class Split:
    """A step in two: what lies before `at` mm along an axis ('x' or 'y'), and what lies beyond."""

    axis: str
    at: float

    def half(self, place: tuple[float, float]) -> str:
        return FIRST if place[0 if self.axis == "x" else 1] <= self.at else SECOND


@dataclass(frozen=True)
class Step:
    """id: kind and part, and which half where it is split; part: its key, '' for none; mm: of all of it; mm_left,
    lines_left: of what has no ink; done: 0..1; x, y: mm, where to begin; order: of its part, 1 is nearest, 0 for none;
    dark: the mean of its pieces'."""

    id: str
    kind: str
    part: str
    mm: float
    mm_left: float
    lines_left: int
    done: float
    x: float
    y: float
    order: int = 0
    dark: float = 0.0

    @property
    def ticked(self) -> bool:
        return self.done >= DONE


@dataclass(frozen=True)
class OwnOrder:
    """school: how steps are ordered at first; sequence: ids in the inker's own order, where some were moved; aside: ids
    that are set aside; splits: by id; first: parts (keys) that come before all others."""

    school: str = "big to small"
    sequence: tuple[str, ...] = ()
    aside: tuple[str, ...] = ()
    splits: Mapping[str, Split] | None = None
    first: tuple[str, ...] = ()


_KIND = {kind: n for n, kind in enumerate(KINDS)}
_NIB = {FRAMES: 0, BLACKS: 1, SILHOUETTES: 2, INNER: 3, AGAIN: 4, DETAILS: 5, HATCHING: 6}
"""From the heaviest nib to the lightest."""
_PLAIN = 10_000


def _near(step: Step) -> int:
    return step.order or _PLAIN


_Key = Callable[[Step], tuple[float, ...]]
SCHOOLS: dict[str, tuple[str, _Key]] = {
    "big to small": ("frames, then silhouettes, inner lines, details: what nothing may cross comes first",
                     lambda s: (_KIND[s.kind], _near(s))),
    "one nib at a time": ("all that one nib does, the heaviest first: the hand stays in one measure",
                          lambda s: (_NIB[s.kind], _near(s))),
    "darkest and nearest first": ("the nearest part, and in it what is darkest: all else is judged against it",
                                  lambda s: (_near(s), -s.dark)),
    "eyes first": ("details of the nearest parts, then what holds them: a face that works carries the page",
                   lambda s: (_near(s), s.kind not in (DETAILS,), _KIND[s.kind])),
    "part by part": ("each part to its end, from the nearest back", lambda s: (_near(s), _KIND[s.kind])),
    "far to near": ("the background first, so that what is near may go over it",
                    lambda s: (-(s.order or -_PLAIN), _KIND[s.kind])),
}  # fmt: skip
"""What the main schools say, and how they sort: common practice of the trade."""


def steps_of(pieces: Sequence[Piece], orders: Mapping[str, int], own: OwnOrder) -> list[Step]:
    """All steps, those to be done in their order, those that are ticked or set aside among them. orders: of parts by
    key. Raises OrderError for a school that is none."""
    if own.school not in SCHOOLS:
        raise OrderError(f"there is no order '{own.school}': {', '.join(SCHOOLS)}")
    groups: dict[str, list[Piece]] = {}
    for piece in pieces:
        key = step_id(piece.kind, piece.part)
        split = (own.splits or {}).get(key)
        groups.setdefault(f"{key}/{split.half(piece.at)}" if split else key, []).append(piece)
    steps = [_step(key, some, orders) for key, some in groups.items()]
    sort = SCHOOLS[own.school][1]
    steps.sort(key=lambda s: (own.first.index(s.part) if s.part in own.first else len(own.first), *sort(s), s.id))
    return _in_own_order(steps, own.sequence)


def step_id(kind: str, part: str) -> str:
    return f"{kind}/{part}"


def split_of(pieces: Sequence[Piece], step: str) -> Split:
    """Where a step is best parted: across the longer side of its box, half of what is left on each. Raises OrderError
    where it is one piece."""
    mine = [p for p in pieces if step_id(p.kind, p.part) == step and p.inked < DONE]
    if len(mine) < 2:
        raise OrderError("that step is one line: it cannot be parted")
    places = np.array([p.at for p in mine])
    left = np.array([p.mm * (1.0 - p.inked) for p in mine])
    axis = int(np.ptp(places, axis=0).argmax())
    rank = np.argsort(places[:, axis], kind="stable")
    half = int(np.searchsorted(np.cumsum(left[rank]), left.sum() / 2.0))
    k = min(half, len(rank) - 2)
    return Split("xy"[axis], round(float(places[rank[k], axis] + places[rank[k + 1], axis]) / 2.0, 2))


def next_step(steps: Sequence[Step], aside: Sequence[str] = ()) -> Step | None:
    """The first that is neither ticked nor set aside."""
    return next((step for step in steps if not step.ticked and step.id not in aside), None)


def moved(steps: Sequence[Step], step: str, to: int) -> tuple[str, ...]:
    """Ids of all steps with one of them at another place, from 0. Raises OrderError."""
    ids = [one.id for one in steps]
    if step not in ids:
        raise OrderError(f"there is no step '{step}'")
    ids.remove(step)
    ids.insert(max(0, min(to, len(ids))), step)
    return tuple(ids)


def _in_own_order(steps: list[Step], sequence: Sequence[str]) -> list[Step]:
    """Steps that were put in order keep it; each new one follows the one that its school has before it."""
    if not sequence:
        return steps
    by_id = {step.id: step for step in steps}
    out = [by_id[key] for key in sequence if key in by_id]
    known = {step.id for step in out}
    for k, step in enumerate(steps):
        if step.id in known:
            continue
        before = next((one.id for one in reversed(steps[:k]) if one.id in known), None)
        at = next((n + 1 for n, one in enumerate(out) if one.id == before), 0)
        out.insert(at, step)
        known.add(step.id)
    return out


def _step(key: str, pieces: Sequence[Piece], orders: Mapping[str, int]) -> Step:
    mm = sum(p.mm for p in pieces)
    left = [p for p in pieces if p.inked < DONE]
    mm_left = sum(p.mm * (1.0 - p.inked) for p in left)
    first = max(left or pieces, key=lambda p: p.mm * (1.0 - p.inked))
    one = pieces[0]
    dark = float(np.average([p.dark for p in pieces], weights=[max(p.mm, 1e-6) for p in pieces]))
    # What has no length (a remark) counts by its number.
    done = 1.0 - (mm_left / mm if mm > 0.0 else len(left) / len(pieces))
    return Step(key, one.kind, one.part, mm, mm_left, len(left), done, first.at[0], first.at[1],
                orders.get(one.part, 0), dark)  # fmt: skip
