"""The menu of a part: its depth, ink and frames, what it is inside, merged, taken away."""

from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from plain_stride.desk.session.session import Session
from plain_stride.job.changes import DEFAULT_PART
from plain_stride.job.rows import Part
from plain_stride.texts import counted
from plain_stride.weight.plan import TIERS


def part_menu(parent: QWidget, session: Session, part: Part) -> QMenu:
    """What can be done to a part."""
    menu, alter = QMenu(parent), partial(session.make, "part", name=part.name)
    for tier in TIERS if part.inside is None else ():
        menu.addAction(f"to {tier}", partial(alter, tier=tier))
    other_ink = "black" if part.ink == "white" else "white"
    menu.addAction(f"{other_ink} ink", partial(alter, ink=other_ink))
    menu.addAction(
        "be clipped by frames" if part.over_frames else "run over the frames",
        partial(alter, over_frames=not part.over_frames),
    )
    lines = sum(1 for row in session.job.inked_rows().values() if row.part == part.id)
    menu.addAction(f"take it away, with its {counted(lines, 'line')}", partial(take_away, session, part.name))
    _add_nesting(menu, session, part)
    into = menu.addMenu("merge it into")
    for other in session.job.parts():
        if other.id != part.id:
            into.addAction(other.name, partial(merge, session, part.name, other.name))
    alone = session.now.alone
    menu.addAction("show all parts alike" if alone else "dim the other parts", lambda: session.take(alone=not alone))
    return menu


def merge(session: Session, name: str, into: str) -> None:
    """Merges a part into another, which is in hand then."""
    if session.make("part-merge", name=name, into=into) is not None:
        session.take(part=into)


def take_away(session: Session, name: str) -> None:
    """Takes a part away with its lines; undo brings all of it back."""
    if session.make("part-delete", name=name) is not None:
        parts = session.job.parts()
        session.take(part=parts[0].name if parts else DEFAULT_PART)
        session.said.emit(f"Part **{name}** is taken away with its lines: Take back brings it again.", False)


def _add_nesting(menu: QMenu, session: Session, part: Part) -> None:
    """What puts a part inside another, one deep, or takes it out."""
    parts = session.job.parts()
    if part.inside is not None:
        name = session.job.rows.parts[part.inside].name
        menu.addAction(f"take it out of {name}", partial(session.make, "part", name=part.name, inside=""))
    elif not any(other.inside == part.id for other in parts):
        within = menu.addMenu("put it inside")
        for other in parts:
            if other.id != part.id and other.inside is None:
                within.addAction(other.name, partial(session.make, "part", name=part.name, inside=other.name))
