"""Junctions: each contact of a drawing as seen from each of its lines, in arrays along the lines' places."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.form.contacts import BESIDE, CORNER, CROSSING, RUN_ON, TEE, Contact
from plain_stride.form.places import Places

STEM, BAR, AT_CORNER, ON, ACROSS, BY = range(6)
"""What a line is at a junction: it ends on another, another ends on it, its end meets an end, it goes on as another,
it crosses, it runs beside."""
_SIDES = {TEE: (STEM, BAR), CORNER: (AT_CORNER, AT_CORNER), RUN_ON: (ON, ON), CROSSING: (ACROSS, ACROSS),
          BESIDE: (BY, BY)}  # fmt: skip
WYE_ENDS = 3
"""So many ends in one place are a wye: each of them ends on the others, as stems do."""
AT_END_SHARE, TOUCHING_MM = 0.5, 0.3
PAST_MM, PAST_SHARE = 1.5, 0.25
"""A line that crosses another no farther from its end ends on it, whatever runs past; nor more than a share of it."""


@dataclass(frozen=True, eq=False)
class Junctions:
    """All (k,), a row for each line at each contact. line, other: which lines; s, other_s: mm along them; kind: what
    the line is there; gap: mm between the hands' inks; joined: whether they count as meeting."""

    line: np.ndarray
    other: np.ndarray
    s: np.ndarray
    other_s: np.ndarray
    kind: np.ndarray
    gap: np.ndarray
    joined: np.ndarray

    def only(self, those: np.ndarray) -> "Junctions":
        """Some of the rows (k,)."""
        return Junctions(*(getattr(self, name)[those] for name in self.__dataclass_fields__))

    def among(self, lines: np.ndarray) -> "Junctions":
        """The same, with lines counted among some of them (j,), which hold all that they tell of."""
        at = np.zeros(int(lines.max(initial=-1)) + 1, int)
        at[lines] = np.arange(len(lines))
        return Junctions(at[self.line], at[self.other], self.s, self.other_s, self.kind, self.gap, self.joined)

    @property
    def at_end(self) -> np.ndarray:
        """Whether it is an end of the line (k,)."""
        return (self.kind == STEM) | (self.kind == AT_CORNER) | (self.kind == ON)


class Tables:
    """Contacts by line as tables, kept while they are the same ones."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[Sequence[Contact], list[str], np.ndarray]] = {}

    def of(self, line: str, contacts: Sequence[Contact]) -> tuple[list[str], np.ndarray]:
        """(other lines, table (k, 6): mm along each, what each is, gap, joined) of the contacts that are told with a
        line first; those of lines that run beside each other only where they touch."""
        kept = self._kept.get(line)
        if kept is None or kept[0] is not contacts:
            own = [c for c in contacts if c.lines[0] == line and (c.kind != BESIDE or c.gap <= TOUCHING_MM)]
            rows = [(*c.places, *_SIDES[c.kind], c.gap, c.joined) for c in own]
            table = np.array(rows, dtype=float).reshape(-1, 6)
            kept = self._kept[line] = (contacts, [c.lines[1] for c in own], table)
        return kept[1], kept[2]

    def keep_only(self, lines: Collection[str]) -> None:
        """Forgets all other lines."""
        for line in self._kept.keys() - set(lines):
            del self._kept[line]


def junctions_of(places: Places, contacts: Mapping[str, Sequence[Contact]], tables: Tables | None = None) -> Junctions:
    """The junctions of lines whose contacts are given, in an order of places and not of names. tables: what keeps them
    from one time to the next."""
    tables, known = tables or Tables(), places.row
    others, parts, own = list[int](), list[np.ndarray](), list[int]()
    for key in places.lines:
        names, table = tables.of(key, contacts.get(key, ()))
        others += [known.get(name, -1) for name in names]
        parts.append(table)
        own.append(len(names))
    tables.keep_only(places.row.keys())
    line, other = np.repeat(np.arange(len(own)), own), np.array(others, int)
    on, there, one, two, gap, met = np.concatenate(parts).T if parts else np.zeros((6, 0))
    seen = other >= 0
    mine, theirs = np.concatenate([line[seen], other[seen]]), np.concatenate([other[seen], line[seen]])
    s, other_s = np.concatenate([on[seen], there[seen]]), np.concatenate([there[seen], on[seen]])
    kind = np.concatenate([one[seen], two[seen]]).astype(int)
    order = _in_order(mine, s, theirs, other_s)
    found = Junctions(mine, theirs, s, other_s, kind, np.tile(gap[seen], 2), np.tile(met[seen], 2).astype(bool))
    return _with_wyes(places, _with_overshoots(places, found.only(order)))


def _in_order(mine: np.ndarray, s: np.ndarray, theirs: np.ndarray, other_s: np.ndarray) -> np.ndarray:
    """Rows (k,) by line, by where along it, and by the others where that is the same."""
    key = mine * (s.max(initial=0.0) + 1.0) + s
    order = np.argsort(key, kind="stable")
    # One key sorts most of them, at a fraction of the price of four.
    same = np.diff(key[order]) == 0.0
    tied = np.flatnonzero(np.append(same, False) | np.append(False, same))
    some = order[tied]
    order[tied] = some[np.lexsort((other_s[some], theirs[some], key[some]))]
    return order


def end_of(places: Places, line: np.ndarray, s: np.ndarray) -> np.ndarray:
    """Which end (k,) of lines a place lies nearer to: 0 or 1."""
    return (s > places.length[line] * AT_END_SHARE).astype(int)


def _with_overshoots(places: Places, found: Junctions) -> Junctions:
    """Lines that run a little past what they cross end on it; two that do so make a corner."""
    own = _runs_past(places, found.line, found.s)
    others = _runs_past(places, found.other, found.other_s)
    across = found.kind == ACROSS
    kind = np.select([across & own & others, across & own, across & others], [AT_CORNER, STEM, BAR], found.kind)
    return Junctions(found.line, found.other, found.s, found.other_s, kind, found.gap, found.joined)


def _runs_past(places: Places, line: np.ndarray, s: np.ndarray) -> np.ndarray:
    length = places.length[line]
    past = np.minimum(s, length - s)
    return np.asarray(~places.closed[line] & (past <= np.minimum(PAST_MM, PAST_SHARE * length)))


def _with_wyes(places: Places, found: Junctions) -> Junctions:
    """Ends that meet two ends or more are stems of a wye."""
    ends = found.joined & ((found.kind == AT_CORNER) | (found.kind == ON))
    which = found.line * 2 + end_of(places, found.line, found.s)
    met = np.bincount(which[ends], minlength=2 * len(places.lines))
    wye = ends & (met[which] >= WYE_ENDS - 1)
    kind = np.where(wye & (found.kind == AT_CORNER), STEM, found.kind)
    return Junctions(found.line, found.other, found.s, found.other_s, kind, found.gap, found.joined)
