"""What is done to lines, and what the next one is pulled with."""

from collections.abc import Callable

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QGuiApplication

from plain_stride.desk.actions.board_actions import held_for
from plain_stride.desk.keys.action import Action, Entry
from plain_stride.desk.session.clipboard import copy_chosen, cut_chosen, duplicate_chosen, paste
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.verbs import (
    choose_alike,
    choose_all,
    choose_others,
    delete_chosen,
    fellow_nib,
    step_nib,
    step_role,
    step_school,
    toggle_follow,
    toggle_plan,
)
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.gestures.trimming import rub
from plain_stride.desk.sheet.moments import Moments


def clipboard_actions(session: Session) -> list[Action]:
    def chosen() -> bool:
        return bool(session.chosen)

    return [
        Action(words="Copy", shortcuts=("Ctrl+C",), run=lambda: copy_chosen(session), enabled=chosen),
        Action(words="Cut", shortcuts=("Ctrl+X",), run=lambda: cut_chosen(session), enabled=chosen),
        Action(words="Duplicate", shortcuts=("Ctrl+D",), run=lambda: duplicate_chosen(session), enabled=chosen),
        Action(words="Take away", shortcuts=("Del",), run=lambda: delete_chosen(session), enabled=chosen),
        Action(words="Paste", shortcuts=("Ctrl+V",), run=lambda: paste_here(session)),
        Action(words="Choose all", shortcuts=("Ctrl+A",), run=lambda: choose_all(session)),
        Action(words="Choose all like these", run=lambda: choose_alike(session), enabled=chosen),
        Action(words="Choose all others", run=lambda: choose_others(session), enabled=chosen),
        Action(words="Choose nothing", shortcuts=("Ctrl+Shift+A",), run=lambda: session.choose([]), enabled=chosen),
    ]


def lines_menu(actions: list[Action]) -> list[Entry]:
    """Verbs of the chosen lines, a line between, the rest."""
    return [*actions[:4], None, *actions[4:]]


def paste_here(session: Session) -> None:
    """Lays what is on the clipboard."""
    data = QGuiApplication.clipboard().mimeData()
    paste(session, data if data is not None else QMimeData())


def line_actions(session: Session, gestures: Gestures, moments: Moments) -> list[Action]:
    """Keys that work on the line under the pen, on the chosen ones, or on the next."""
    context = gestures.context
    return [
        held_for(gestures, "swell", "S", "swell the line under the pen: up is heavier", "nib one step heavier",
                 lambda: step_nib(session, 1)),
        held_for(gestures, "shave", "E", "shave the line under the pen: up is lighter", "nib one step lighter",
                 lambda: step_nib(session, -1)),
        held_for(gestures, "nudge", "W",
                 "nudge the line under the pen; on empty paper, draw round lines to choose them",
                 "choose the line under the pen", gestures.choose_under),
        held_for(gestures, "trim", "Y", "trim: the stretch under the pen shown", "trim it",
                 lambda: rub(context, "trim")),
        Action(key="H", held="the plan lifted off: widths of the hand", tapped="lift it off, or lay it again",
               run=lambda: toggle_plan(session), hold=lambda: moments.show_hand_only(True),
               let_go=lambda: moments.show_hand_only(False)),
        Action(key="R", held="rehearse: the pull is shown, not kept", run=session.arm_again,
               tapped="again: the next pull redoes the line, its tail, or goes on from its end",
               hold=lambda: session.take(rehearsing=True), let_go=lambda: session.take(rehearsing=False)),
        Action(key="O", held="other parts dimmed", tapped="keep it so, or back",
               run=lambda: session.take(alone=not session.now.alone), hold=lambda: session.take(alone=True),
               let_go=lambda: session.take(alone=False)),
        _shown(session, "by_part", "[", "each part in a colour of its own, on the screen alone"),
        _shown(session, "grey_ground", "]", "the paper grey, to see white ink by"),
        Action(key=".", tapped="the next role, of the chosen lines or of the next one",
               run=lambda: step_role(session, 1)),
        Action(key=",", tapped="the role before", run=lambda: step_role(session, -1)),
    ]  # fmt: skip


def _shown(session: Session, what: str, key: str, held: str) -> Action:
    """A key that shows the drawing in another way while it is held; a tap keeps it, or takes it away."""
    return Action(key=key, held=held, tapped="keep it so, or back",
                  run=lambda: session.take(**{what: not getattr(session.now, what)}),
                  hold=lambda: session.take(**{what: True}), let_go=lambda: session.take(**{what: False}))  # fmt: skip


def nib_actions(session: Session) -> list[Action]:
    """Keys that take a nib, or take it only while they are held."""
    fellow = _nib_action(session, "C", lambda: fellow_nib(session), "the other nib of the group, while held",
                         "the next nib of the group")  # fmt: skip
    numbers = [_nib_action(session, n, _always(n), "that nib while held", "that nib") for n in "123456789"]
    return [fellow, *numbers]


def steadying_actions(session: Session) -> list[Action]:
    """Keys for how the hand is steadied and led."""
    return [
        Action(key="I", held="the hand as it is: nothing is steadied", tapped="the nib's next school of steadying",
               run=lambda: step_school(session), hold=lambda: session.take(hand_alone=True),
               let_go=lambda: session.take(hand_alone=False)),
        Action(key=";", held="pulls follow the pencils, or the hand is free", tapped="keep it so, or back",
               run=lambda: toggle_follow(session), hold=lambda: toggle_follow(session),
               let_go=lambda: toggle_follow(session)),
    ]  # fmt: skip


def _always(nib: str) -> Callable[[], str]:
    return lambda: nib


def _nib_action(session: Session, key: str, nib: Callable[[], str], held_words: str, tapped: str) -> Action:
    before: list[str] = []

    def hold() -> None:
        before[:] = [session.now.nib]
        session.take(nib=nib())

    def let_go() -> None:
        session.take(nib=before[0])

    return Action(
        key=key, held=held_words, tapped=tapped, run=lambda: session.take(nib=nib()), hold=hold, let_go=let_go
    )
