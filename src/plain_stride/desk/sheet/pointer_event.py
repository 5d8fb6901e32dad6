"""What pen, mouse and eraser do over the sheet, in plain values: gestures know no window's events."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PySide6.QtCore import QPointF

from plain_stride.desk.sheet.view import BoardView


@dataclass(frozen=True)
class PointerEvent:
    """at: pixel of the sheet; view: the board as it lies; pressure: 0..1; stamp: seconds; tilt: degrees, nan where it
    is not told; device: 'pen' or 'mouse'; more: whether what is chosen is added to what was chosen."""

    at: QPointF
    view: BoardView
    pressure: float = 0.0
    stamp: float = 0.0
    tilt: float = float("nan")
    device: str = "mouse"
    more: bool = False

    @cached_property
    def mm(self) -> np.ndarray:
        """(2,) mm on the sheet."""
        return np.array(self.view.to_board(self.at))
