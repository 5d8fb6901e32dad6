"""What a drag on the sheet does: tools taken in hand, and put away."""

from collections.abc import Callable, Mapping
from functools import partial

from plain_stride.desk.actions.rail_actions import rail_menu
from plain_stride.desk.keys.action import Action, Entry
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.rail_in_hand import RailInHand

Made = Callable[[], SheetTool]
Use = Callable[[SheetTool | None], object]


def tool_entries(gestures: Gestures, rails: RailInHand, tools: Mapping[str, Made], use: Use) -> list[Entry]:
    """The pull, what it can be led along, and every tool; the one in hand is checked. use: takes a tool, or none."""
    now = gestures.word()
    return [
        Action(words="pull lines", run=partial(use, None), checked=lambda: gestures.tool is None),
        rail_menu(rails, gestures),
        None,
        *(_entry(words, make, use, now) for words, make in tools.items()),
        None,
        Action(words="keep it when the station changes", run=gestures.toggle_pinned, checked=lambda: gestures.pinned),
    ]


def _entry(words: str, make: Made, use: Use, now: str) -> Action:
    return Action(words=words, run=lambda: use(make()), checked=lambda: words == now)


def tool_actions(gestures: Gestures) -> list[Action]:
    return [Action(key="'", tapped="the tool that was in hand before, or the pull again", run=gestures.tool_or_pull)]
