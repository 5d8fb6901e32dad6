"""Which gesture a drag is: what a held key means, what a tool does, else a pull; and what other buttons do."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QPainter

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.board_moves import BoardGesture, EnlargeGesture, TurnGesture
from plain_stride.desk.sheet.gestures.choosing import ChooseGesture, NudgeGesture
from plain_stride.desk.sheet.gestures.gesture import Gesture, HeldGesture
from plain_stride.desk.sheet.gestures.pulling import PullGesture
from plain_stride.desk.sheet.gestures.swelling import SwellGesture
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.gestures.trimming import RubGesture, TrimGesture
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.rail_in_hand import rail_words
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.workers.owned import owned

HELD = ("move", "turn", "enlarge", "swell", "shave", "trim", "nudge")


class Gestures(QObject):
    """held: what a held key means, '' for nothing; tool: the one in hand, pinned: it stays at every station; pull: the
    pull under the pen.

    Signals: tool_changed (another in hand, or none), menu_wanted (pixel of a chosen line that was chosen again),
    moved (the pen moves with nothing pulled).
    """

    tool_changed = Signal()
    menu_wanted = Signal(object)
    moved = Signal()

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self.context = context
        self.pull = owned(self, PullGesture(context))
        self.choosing = ChooseGesture(context, self.menu_wanted.emit)
        self.rubbing, self.dragging = RubGesture(context), BoardGesture(context)
        self.tool: SheetTool | None = None
        self._tool_before: SheetTool | None = None
        self.pinned = False
        self.held, self._holding = "", HeldGesture(context)
        self._other: Gesture | None = None
        self._takes: Callable[[PointerEvent], bool] = lambda event: False
        self._makers: dict[str, Callable[[], HeldGesture]] = {
            "move": lambda: BoardGesture(context),
            "turn": lambda: TurnGesture(context),
            "enlarge": lambda: EnlargeGesture(context),
            "swell": lambda: SwellGesture(context),
            "shave": lambda: SwellGesture(context, shave=True),
            "trim": lambda: TrimGesture(context),
            "nudge": lambda: NudgeGesture(context, self.choose_under),
        }

    # The tip of the pen

    def down(self, event: PointerEvent) -> None:
        # A lift that never came: the pull of before ends where it was seen last.
        self.end_pull()
        self.context.viewport.point(event.at)
        if self._takes(event):
            return
        if self.held:
            self._holding.down(event)
        elif self.tool is not None:
            self.tool.down(event)
            self.context.repaint(None)
        else:
            self.pull.down(event)

    def offer_first(self, takes: Callable[[PointerEvent], bool]) -> None:
        """Has presses offered first to what stands on the sheet as something to be pressed; whether it takes one."""
        self._takes = takes

    def move(self, event: PointerEvent) -> None:
        """The pen moves, down or up."""
        if self.pull.live is not None:
            self.pull.move(event)
            return
        self.moved.emit()
        if self.held:
            self._holding.move(event)
        elif self.tool is not None and self.tool.busy:
            self.tool.move(event)
            if not self.tool.shows_itself:
                self.context.repaint(None)
        self.context.viewport.point(event.at)

    def up(self, event: PointerEvent) -> None:
        if self.pull.live is not None:
            self.pull.up(event)
        elif self._holding.busy:
            self._holding.up(event)
        elif self.tool is not None and self.tool.busy:
            self.tool.up(event)
            if self.tool is not None and self.tool.done:
                self.put_tool_away()
            self.context.repaint(None)

    def end_pull(self) -> bool:
        """Ends the pull in hand as if the pen had been lifted where it was seen last; whether there was one."""
        if self.pull.live is None:
            return False
        self.pull.up(PointerEvent(self.context.viewport.about(), self.context.view))
        return True

    # Other buttons

    def other_down(self, gesture: Gesture, event: PointerEvent) -> None:
        """A drag by another button, or by the pen's other end, begins."""
        self._other = gesture
        gesture.down(event)

    def other_move(self, event: PointerEvent) -> bool:
        """Whether such a drag is under way, which has moved on."""
        if self._other is not None:
            self._other.move(event)
        return self._other is not None

    def other_up(self, event: PointerEvent) -> None:
        gesture, self._other = self._other, None
        if gesture is not None:
            gesture.up(event)

    # Held keys and tools

    def begin_hold(self, what: str) -> None:
        """A key is held that means one of HELD."""
        self.end_hold()
        self.held, self._holding = what, self._makers[what]()
        self._holding.begin(self.context.viewport.pointer)

    def end_hold(self) -> None:
        if self.held:
            self.held, holding, self._holding = "", self._holding, HeldGesture(self.context)
            holding.end()

    def take_tool(self, tool: SheetTool) -> None:
        """The next drags are this tool's, until it is done or put away."""
        self.put_tool_away()
        tool.taken(self.context)
        self.tool = self._tool_before = tool
        self.context.say(tool.words)
        self.tool_changed.emit()
        self.context.repaint(None)

    def put_tool_away(self) -> bool:
        """The pen pulls lines again; False where it did already."""
        tool, self.tool = self.tool, None
        if tool is not None:
            tool.left()
            self.tool_changed.emit()
            self.context.repaint(None)
        return tool is not None

    def wheel_in_tool(self, turns: float) -> bool:
        """Whether a drag of the tool in hand takes the wheel for itself."""
        return self.tool is not None and self.tool.busy and self.tool.wheel(turns)

    def moves_chosen(self) -> bool:
        """Whether the tool in hand shows what is chosen where it would lie."""
        return self.tool is not None and self.tool.busy and self.tool.moves_chosen

    def finish_tool(self) -> bool:
        """Lays what the tool in hand was pressed for so far; whether there was anything."""
        done = self.tool is not None and self.tool.finish()
        self.context.repaint(None)
        return done

    def take_back_in_tool(self) -> bool:
        """Takes the last press of the tool in hand back; whether there was one."""
        done = self.tool is not None and self.tool.take_back()
        self.context.repaint(None)
        return done

    def drop_begun(self) -> bool:
        """Drops what the tool in hand was pressed for so far; the tool stays. Whether there was anything."""
        dropped = False
        while self.take_back_in_tool():
            dropped = True
        return dropped

    def tool_or_pull(self) -> None:
        """Puts the tool in hand away, or takes the last one again."""
        if not self.put_tool_away():
            if self._tool_before is not None:
                self.take_tool(self._tool_before)
            else:
                self.context.say("No tool was in hand yet: press the word 'pull' beside the sheet, and take one.")

    def toggle_pinned(self) -> None:
        """A tool goes with its station, or stays in hand."""
        self.pinned = not self.pinned

    def station_left(self) -> None:
        """A tool goes with its station, unless it is pinned."""
        self.finish_tool()
        if not self.pinned:
            self.put_tool_away()

    def word(self) -> str:
        """What a drag does now, in a word or two."""
        now = self.context.session.now
        if self.held:
            return self.held
        if self.tool is not None:
            return self.tool.name
        if now.cover_of:
            return "draw a cover"
        if now.rail is not None:
            return f"pull along {rail_words(now.rail)}"
        return "rehearse" if now.rehearsing else "pull again" if now.again else "pull"

    def choose_under(self) -> None:
        """Chooses the ink under the pen."""
        self.choosing.choose(None, False)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """What is under way, over the sheet."""
        self.pull.still.paint(painter, view)
        for gesture in (self.tool, self._holding, self._other):
            if gesture is not None:
                gesture.paint(painter, view)
