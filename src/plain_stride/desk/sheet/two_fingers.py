"""Two fingers on the glass move, turn and enlarge the board; touch never inks."""

import math

from PySide6.QtCore import QPointF

from plain_stride.desk.sheet.view import BoardView


class TwoFingers:
    """Follows a pair of fingers from event to event."""

    def __init__(self) -> None:
        self._last: tuple[QPointF, QPointF] | None = None

    def let_go(self) -> None:
        self._last = None

    def moved(self, fingers: list[QPointF], view: BoardView) -> BoardView:
        """The view under which the board stays with both fingers; unchanged unless there are two."""
        if len(fingers) != 2:
            self._last = None
            return view
        now = fingers[0], fingers[1]
        last, self._last = self._last, now
        if last is None:
            return view
        before, after = last[1] - last[0], now[1] - now[0]
        middle = (now[0] + now[1]) / 2.0
        shift = middle - (last[0] + last[1]) / 2.0
        size = math.hypot(after.x(), after.y()) / max(math.hypot(before.x(), before.y()), 1.0)
        turn = math.degrees(math.atan2(after.y(), after.x()) - math.atan2(before.y(), before.x()))
        return view.moved(shift.x(), shift.y()).enlarged(size, middle).turned(turn, middle)
