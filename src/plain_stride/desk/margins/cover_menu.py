"""What a part hides: the menu of the part in hand's cover."""

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from plain_stride.desk.session.session import Session

GAPS_MM = (0.0, 0.3, 0.5, 1.0)


def cover_menu(parent: QWidget, session: Session, ask_gap: Callable[[], None]) -> QMenu:
    """ask_gap: asks for a gap of another width."""
    menu = QMenu(parent)
    part = session.part
    if part is None:
        return menu

    def choice(words: str, chosen: bool, **setting: object) -> None:
        action = menu.addAction(words, partial(session.make, "cover", name=part.name, **setting))
        action.setCheckable(True)
        action.setChecked(chosen)

    choice("hides what lies behind it", part.cover, on=not part.cover)
    menu.addSeparator()
    for gap in GAPS_MM:
        choice(f"{gap:g} mm white round it" if gap else "no white round it", part.cover_gap == gap, gap=gap)
    menu.addAction("white round it, another width…", ask_gap)
    menu.addSeparator()
    drawn = session.job.rows.parts[part.id].cover_form is not None
    choice("edge found from its outer lines", not drawn, shape="found", on=True)
    menu.addAction("draw its edge: the next pull goes round it", session.draw_cover)
    menu.addAction("lay its edge as a line, to be bent", partial(session.make, "cover-edges", name=part.name))
    rings = [key for key in session.chosen_lines() if session.shapes[key].closed]
    of_rings = menu.addAction(
        "edge of the chosen rings", partial(session.make, "cover-of", name=part.name, lines=rings)
    )
    of_rings.setEnabled(bool(rings))
    return menu
