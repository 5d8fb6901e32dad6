"""What moves the board, and what is seen of it for a moment."""

from collections.abc import Callable

from plain_stride.desk.keys.action import Action
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.tools.drawing import BoxTool
from plain_stride.desk.sheet.turning import TurnToHand
from plain_stride.desk.sheet.viewport import Viewport

LEAST_SHOWN_MM = 5.0


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


def view_actions(context: SheetContext, gestures: Gestures, fill_screen: Callable[[], object]) -> list[Action]:
    """What of the board is seen."""
    viewport = context.viewport
    box = "**Box to enlarge:** drag round what is to fill the view. Esc leaves it."
    return [
        Action(words="The chosen lines fill the view", shortcuts=("Ctrl+2",), run=lambda: show_chosen(context)),
        Action(
            words="A box fills the view…",
            shortcuts=("Ctrl+3",),
            run=lambda: gestures.take_tool(BoxTool(box, lambda *corners: viewport.show_box(corners))),
        ),
        Action(words="The whole board", shortcuts=("Ctrl+0",), run=viewport.fit),
        Action(words="100 % of print size", shortcuts=("Ctrl+1",), run=viewport.print_size),
        Action(words="The working size", shortcuts=("Ctrl+4",), run=viewport.working_size),
        Action(words="The whole screen", shortcuts=("F11",), run=fill_screen),
    ]


def show_chosen(context: SheetContext) -> None:
    """The line in hand, or all that is chosen, as large as the view takes it."""
    session = context.session
    shown = session.shown_line()
    keys = session.chosen or ([shown] if shown else [])
    boxes = [session.shapes.ink(key).box for key in keys]
    if boxes:
        x0, y0, x1, y1 = zip(*boxes, strict=True)
        context.viewport.show_box(_at_least((min(x0), min(y0), max(x1), max(y1))))
    else:
        context.say("There is no line yet that could fill the view.")


def _at_least(box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """A box of LEAST_SHOWN_MM at least: a dot that filled the view would tell nothing."""
    (x0, y0, x1, y1), room = box, LEAST_SHOWN_MM
    more_x, more_y = max(0.0, room - (x1 - x0)) / 2.0, max(0.0, room - (y1 - y0)) / 2.0
    return x0 - more_x, y0 - more_y, x1 + more_x, y1 + more_y


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
        kept("=", "the working size: print size times the enlargement it is inked at", moments.show_working,
             moments.working_shown),
        kept("A", "ink alone, pencils gone", moments.show_ink_alone, moments.ink_alone),
        kept("K", "the scan as it came, before it was cleaned", moments.show_as_scanned, moments.as_scanned),
    ]  # fmt: skip
