"""What is in hand and what is chosen: one frozen value, and one signal when another takes its place."""

from dataclasses import dataclass, field, replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from plain_stride.hand.advice import Thresholds
from plain_stride.hand.rails import Rail
from plain_stride.job.changes import DEFAULT_PART
from plain_stride.lines.symmetry import Symmetry


@dataclass(frozen=True)
class State:
    """part: the name of the one in hand; lately: those in hand before it, the latest first; unsteadied: roles whose
    pulls are left to the hand; hand_alone: all pulls are, for the moment; chosen: lines and blacks; loop_touching: a
    loop chooses what it touches, not only what lies inside; trim_to: how far a trim goes; last_line: the one pulled
    last. alone: other parts are shown dimmed; by_part: the ink of each part is shown in a colour of its own;
    grey_ground: the paper is shown grey, for white ink.

    again: the next pull belongs to the line in hand; cover_of: the part whose cover the next pull becomes;
    rehearsing: pulls are not kept; looking_back: another state of the job is shown, and nothing can be pulled.
    follow_share: 0 to 1, how far pulls come to the pencils; symmetry: what every new line is copied by; rail:
    what pulls are led along; glass: mm on
    the glass for one of the sheet; share_before: % of the plan that it goes back to when it was lifted off.
    """

    part: str = DEFAULT_PART
    lately: tuple[str, ...] = ()
    nib: str = "3"
    role: str = "outer"
    unsteadied: frozenset[str] = frozenset()
    hand_alone: bool = False
    alone: bool = False
    by_part: bool = False
    grey_ground: bool = False
    chosen: tuple[str, ...] = ()
    loop_touching: bool = False
    trim_to: str = "crossing"
    last_line: str | None = None
    again: bool = False
    cover_of: str = ""
    rehearsing: bool = False
    looking_back: bool = False
    follow_share: float = 0.0
    symmetry: Symmetry | None = None
    rail: Rail | None = None
    glass: float = 1.0
    share_before: float = 100.0
    thresholds: Thresholds = field(default_factory=Thresholds)


LATELY = 5


class StateHolder(QObject):
    """changed: what it was before, and what it is now. The part that was in hand is remembered."""

    changed = Signal(object, object)

    def __init__(self, now: State) -> None:
        super().__init__()
        self.now = now

    def put(self, **what: Any) -> None:
        """Puts other values in place of some."""
        before = self.now
        if what.get("part", before.part) != before.part:
            others = [name for name in before.lately if name not in (what["part"], before.part)]
            what["lately"] = (before.part, *others)[:LATELY]
        self.now = replace(before, **what)
        if before != self.now:
            self.changed.emit(before, self.now)
