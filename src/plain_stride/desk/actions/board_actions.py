"""What moves the board, and what is seen of it for a moment."""

from collections.abc import Callable

from plain_stride.desk.keys.action import Action
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.turning import TurnToHand
from plain_stride.desk.sheet.viewport import Viewport


def held_for(gestures: Gestures, what: str, key: str, held: str, tapped: str, run: Callable[[], object]) -> Action:
    """A key that is held for a gesture, and does something small when it is tapped."""
    return Action(key=key, held=held, tapped=tapped, run=run, hold=lambda: gestures.begin_hold(what),
                  let_go=gestures.end_hold)  # fmt: skip


def kept(
    key: str, held: str, show: Callable[[bool], object], shown: Callable[[], bool], tapped: str = "keep it so, or back"
) -> Action:
    """A key that shows something while it is held; a tap keeps it, or takes it away."""
    return Action(key=key, held=held, tapped=tapped, run=lambda: show(not shown()), hold=lambda: show(True),
                  let_go=lambda: show(False))  # fmt: skip


def _both(key: str, held: str, work: Callable[[], object]) -> Action:
    """A key that turns something round while it is held; a tap does it, or undoes it."""
    return Action(key=key, held=held, tapped=f"{held}, or back", run=work, hold=work, let_go=work)


def view_actions(viewport: Viewport, fill_screen: Callable[[], object]) -> list[Action]:
    """What a desktop has in every program."""
    return [
        Action(words="The whole board", shortcuts=("Ctrl+0",), run=viewport.fit),
        Action(words="100 % of print size", shortcuts=("Ctrl+1",), run=viewport.print_size),
        Action(words="The whole screen", shortcuts=("F11",), run=fill_screen),
    ]


def board_actions(viewport: Viewport, gestures: Gestures, moments: Moments, turning: TurnToHand) -> list[Action]:
    return [
        held_for(gestures, "move", "D", "move the board", "fit the board", viewport.fit),
        held_for(gestures, "turn", "F", "turn the board", "upright", viewport.upright),
        held_for(gestures, "enlarge", "G", "enlarge or reduce round the pen", "100 % of print size",
                 viewport.print_size),
        _both("X", "mirror", viewport.mirror),
        _both("J", "mirror top to bottom", viewport.mirror_down),
        Action(key="T", held="the way your hand likes", run=turning.turn,
               tapped="turn the pencil line under the pen that way, or back", hold=lambda: turning.show(True),
               let_go=lambda: turning.show(False)),
        kept("N", "the frame under the pen fills the view", moments.show_frame, moments.frame_shown,
             "the frame, or back to the page"),
        kept("U", "true print size: the ink alone, as large as it will be", moments.show_print, moments.print_shown),
        kept("A", "ink alone, pencils gone", moments.show_ink_alone, moments.ink_alone),
        kept("K", "the scan as it came, before it was cleaned", moments.show_as_scanned, moments.as_scanned),
    ]  # fmt: skip
