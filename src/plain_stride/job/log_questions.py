"""What planning asks of a drawing beside the window."""

from collections.abc import Callable
from dataclasses import dataclass

from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.work_order import pieces_of
from plain_stride.order.pieces import Piece
from plain_stride.pencils.read.reading import Reading


@dataclass(frozen=True, eq=False)
class WorkLeft:
    """All there is to ink. reading: of the pencils, None where nobody has read them."""

    reading: Reading | None

    def answered(self, at: DrawingAtWork, progress: Callable[[float], bool]) -> tuple[Piece, ...]:
        return tuple(pieces_of(at.job, at.shapes, self.reading))
