"""What can be done to the chosen lines, at every station: the menu of a chosen line."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from plain_stride.desk.session.clipboard import copy_chosen, duplicate_chosen
from plain_stride.desk.session.session import Session
from plain_stride.form.roles import ROLES

ENDS = ("pointed", "round", "flat")
HEAVIER = 2.0**0.125
"""A quarter of a step of the ladder, which goes by sqrt 2."""


def line_menu(parent: QWidget, session: Session, trim: Callable[[], object] | None = None) -> QMenu:
    """Every verb is one named change of all chosen lines. trim: trims the stretch where the menu was asked for."""
    menu = QMenu(parent)
    lines = list(session.chosen)
    if trim is not None:
        menu.addAction("trim the stretch here", trim)
    for words, factor in (("heavier by a quarter step", HEAVIER), ("lighter by a quarter step", 1.0 / HEAVIER)):
        wanted = [("swell", {"line": line, "factor": factor}) for line in session.chosen_lines()]
        menu.addAction(words, partial(session.make_several, wanted, words))
    for title, column, values in (
        ("role", "role", ROLES),
        ("ends", "ends", ENDS),
        ("into part", "part", tuple(part.name for part in session.job.parts())),
    ):
        inner = menu.addMenu(title)
        for value in values:
            inner.addAction(value, partial(session.make, "set", lines=lines, **{column: value}))
    menu.addSeparator()
    menu.addAction("copy", partial(copy_chosen, session))
    menu.addAction("duplicate", partial(duplicate_chosen, session))
    menu.addAction("take away", partial(session.make, "delete", lines=lines))
    return menu
