"""The edge laid on the sheet, along which pulls are led."""

from collections.abc import Callable

from plain_stride.desk.keys.action import Action, Entry, Submenu
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.rail_in_hand import RailInHand


def rail_menu(rails: RailInHand, gestures: Gestures) -> Submenu:
    return Submenu("pull along…", lambda: _entries(rails, gestures))


def _entries(rails: RailInHand, gestures: Gestures) -> list[Entry]:
    return [
        Action(words="nothing: the hand is free", run=rails.off, checked=lambda: not gestures.context.session.now.rail),
        Action(words="the line in hand", run=rails.lay_curve),
        *(_entry(words, make, gestures) for words, make in rails.tools().items()),
    ]


def _entry(words: str, make: Callable[[], SheetTool], gestures: Gestures) -> Action:
    return Action(words=words, run=lambda: gestures.take_tool(make()))


def rail_actions(rails: RailInHand) -> list[Action]:
    return [Action(key="0", held="the edge off: the hand is free of it", tapped="lay the edge, or lift it off",
                   run=rails.toggle, hold=rails.toggle, let_go=rails.toggle)]  # fmt: skip
