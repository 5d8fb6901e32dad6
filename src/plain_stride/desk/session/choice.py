"""Lines chosen by what they are and by what they meet, and the choice told in a sentence. Hidden, locked and dimmed
lines are never chosen so."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import open_ink
from plain_stride.job.neighbours import meeting_lines
from plain_stride.job.part_order import with_inner
from plain_stride.texts import counted


@dataclass(frozen=True)
class Wanted:
    """roles, tiers: none for any; nib: its number key, '' for any; wide, long: mm, None where open."""

    roles: frozenset[str] = frozenset()
    tiers: frozenset[str] = frozenset()
    nib: str = ""
    wide_from: float | None = None
    wide_to: float | None = None
    long_from: float | None = None
    long_to: float | None = None


def open_lines(session: Session) -> list[str]:
    """Lines that are seen, not dimmed and not locked, in drawing order."""
    rows = session.job.rows.lines
    return [key for key in open_ink(session) if key in rows]


def choose_by(session: Session, wanted: Wanted, among: Iterable[str] | None = None) -> None:
    """Chooses the open lines that are as wanted. A line's width is the median before its ends."""
    keys = open_lines(session) if among is None else list(among)
    found = [key for key in keys if _is(session, key, wanted)]
    session.choose(found)
    session.said.emit(f"**{counted(len(found), 'line')}** like that." if found else "No line is like that.", False)


def _is(session: Session, key: str, wanted: Wanted) -> bool:
    row, nibs = session.job.rows.lines[key], session.job.nibs()
    tier = session.job.rows.parts[row.part].tier
    if (wanted.roles and row.role not in wanted.roles) or (wanted.tiers and tier not in wanted.tiers):
        return False
    if wanted.nib and (wanted.nib not in nibs or row.nib.name != nibs[wanted.nib].name):
        return False
    shape = session.shapes[key]
    return _between(float(np.median(shape.body.full)), wanted.wide_from, wanted.wide_to) and _between(
        shape.length, wanted.long_from, wanted.long_to
    )


def _between(value: float, low: float | None, high: float | None) -> bool:
    return (low is None or value >= low) and (high is None or value <= high)


def choose_meeting(session: Session) -> None:
    """The open lines that meet those that are chosen, besides these."""
    chosen = session.chosen_lines()
    if not chosen:
        session.said.emit("Choose a line first: then those that meet it.", True)
        return
    found = meeting_lines(session.shapes, chosen, open_lines(session))
    session.choose([*session.chosen, *found])
    session.said.emit(f"**{counted(len(found), 'line')}** more." if found else "No other line meets them.", False)


def choose_part(session: Session) -> None:
    """All open lines of the part in hand."""
    part = session.part
    within = with_inner(session.job.rows.parts, part.id) if part is not None else []
    keys = [key for key in open_lines(session) if session.job.rows.lines[key].part in within]
    session.choose(keys)


def told_choice(session: Session) -> str:
    """How many lines are chosen, how long they are together, and how wide; of the line in hand where none is."""
    keys = session.chosen_lines()
    shown = session.shown_line()
    if not keys and shown is None:
        return "Pull a line, or choose lines with the right button: they are mended here."
    shapes = [session.shapes[key] for key in keys or [str(shown)]]
    widths = [float(w) for shape in shapes for w in (shape.body.full.min(), shape.body.full.max())]
    who = f"**{counted(len(keys), 'line')}**" if keys else "The line in hand"
    long = sum(shape.length for shape in shapes)
    return f"{who}: {long:.1f} mm, {min(widths):.2f}–{max(widths):.2f} mm wide."
