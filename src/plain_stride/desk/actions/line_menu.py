"""What can be done to the chosen lines, at every station: the menu of a chosen line."""

from collections.abc import Callable
from functools import partial

from plain_stride.desk.keys.action import Action, Entry, Submenu
from plain_stride.desk.session.clipboard import copy_chosen, duplicate_chosen
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import HEAVIER, delete_chosen
from plain_stride.form.roles import ROLES
from plain_stride.hand.nib import END_KINDS

ENDS = END_KINDS


def line_entries(session: Session, trim: Callable[[], object]) -> list[Entry]:
    """Every verb is one named change of all chosen lines. trim: trims the stretch where the menu was asked for."""
    parts = tuple(part.name for part in session.job.parts())
    return [
        Action(words="trim the stretch here", run=trim),
        _swell(session, "heavier by a quarter step", HEAVIER),
        _swell(session, "lighter by a quarter step", 1.0 / HEAVIER),
        _of_all(session, "points at both ends", "taper"),
        _on(session, "carry the end on to the next line", "end"),
        _on(session, "carry the start on to the next line", "start"),
        _of_all(session, "tidy the ends", "tidy"),
        _of_all(session, "as it was pulled", "as-pulled"),
        Submenu("role", lambda: _choices(session, "role", ROLES)),
        Submenu("ends", lambda: _choices(session, "ends", ENDS)),
        Submenu("into part", lambda: _choices(session, "part", parts)),
        None,
        Action(words="copy", run=lambda: copy_chosen(session)),
        Action(words="duplicate", run=lambda: duplicate_chosen(session)),
        Action(words="take away", run=lambda: delete_chosen(session)),
    ]


def _swell(session: Session, words: str, factor: float) -> Action:
    wanted = [("swell", {"line": line, "factor": factor}) for line in session.chosen_lines()]
    return Action(words=words, run=partial(session.make_several, wanted, words))


def _of_all(session: Session, words: str, change: str) -> Action:
    return Action(words=words, run=lambda: session.make(change, lines=session.chosen_lines()))


def _on(session: Session, words: str, end: str) -> Action:
    wanted = [("extend", {"line": line, "end": end}) for line in session.chosen_lines()]
    return Action(words=words, run=partial(session.make_several, wanted, words))


def _choices(session: Session, what: str, values: tuple[str, ...]) -> list[Entry]:
    lines = session.chosen
    return [Action(words=v, run=partial(session.make, "set", lines=lines, **{what: v})) for v in values]
