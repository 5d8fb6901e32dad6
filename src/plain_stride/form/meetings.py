"""Meetings: which lines meet where, and as what. Made of contacts: two ends are a corner, or a run-on where one line
goes on as the other; three and more are a wye; an end on a line is a tee; middles cross."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from plain_stride.form.contacts import CORNER, CROSSING, RUN_ON, TEE, Contact

WYE = "wye"
KINDS = (CORNER, TEE, WYE, RUN_ON, CROSSING)
START, END = "start", "end"
_End = tuple[str, str]
Place = tuple[float, float]


@dataclass(frozen=True)
class Meeting:
    """lines: ids, two or more; ends: of each, which end meets there ('start', 'end', '' where it is its middle); at:
    mm."""

    kind: str
    lines: tuple[str, ...]
    ends: tuple[str, ...]
    at: Place


def meetings_of(contacts: Iterable[Contact], lengths: Mapping[str, float]) -> list[Meeting]:
    """All meetings of lines whose contacts are given, each once, in an order of their own. lengths: mm of each line."""
    every = sorted(set(contacts), key=lambda contact: (contact.lines, contact.places, contact.kind))
    joined = [contact for contact in every if contact.joined]
    ended = [contact for contact in joined if contact.kind in (CORNER, RUN_ON)]
    out = list(_of_ends(ended, lengths))
    for contact in joined:
        if contact.kind == TEE:
            line, place = contact.lines[0], contact.places[0]
            out.append(Meeting(TEE, contact.lines, (_end_at(line, place, lengths), ""), contact.at))
        elif contact.kind == CROSSING:
            out.append(Meeting(CROSSING, contact.lines, ("", ""), contact.at))
    return out


def _end_at(line: str, place: float, lengths: Mapping[str, float]) -> str:
    return START if place < lengths[line] / 2.0 else END


def _of_ends(contacts: list[Contact], lengths: Mapping[str, float]) -> Iterable[Meeting]:
    """Ends that meet ends: those that meet each other, one by way of another, are one meeting."""
    groups: dict[_End, dict[_End, None]] = {}
    told: dict[_End, list[Contact]] = {}
    for contact in contacts:
        pair = [(line, _end_at(line, place, lengths))
                for line, place in zip(contact.lines, contact.places, strict=True)]  # fmt: skip
        whole = {end: None for one in pair for end in groups.get(one, {one: None})}
        for end in whole:
            groups[end] = whole
        told.setdefault(pair[0], []).append(contact)
    for whole in {id(group): group for group in groups.values()}.values():
        here = [contact for end in whole for contact in told.get(end, [])]
        x, y = (sum(contact.at[k] for contact in here) / len(here) for k in (0, 1))
        lines, ends = zip(*whole, strict=True)
        kind = here[0].kind if len(whole) == 2 else WYE
        yield Meeting(kind, lines, ends, (x, y))
