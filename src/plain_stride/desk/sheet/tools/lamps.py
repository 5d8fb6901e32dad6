"""Lamps of the plan on the sheet: dragged to where they stand, one more set by a press where none is."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import SheetTool, grip
from plain_stride.desk.sheet.marks import paint_word
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.view import BoardView
from plain_stride.weight.lamps import MOST_LAMPS, Lamp

RING_PX, RAYS, RAY_PX = 12.0, 8, 7.0


class LampTool(SheetTool):
    """Each drop is one step. A second lamp is set where a press finds none near; dropped off the sheet one goes."""

    words = "**Lamps:** drag one to its place, press for one more, drop it off the sheet to take it away. Esc ends it."

    def __init__(self) -> None:
        super().__init__()
        self._context: SheetContext | None = None
        self._held: int | None = None
        self._at = np.zeros(2)

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context = context

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        lamps = self._lamps()
        placed = [k for k, lamp in enumerate(lamps) if lamp.at is not None]
        near = grip(np.array([lamps[k].at for k in placed]).reshape(-1, 2), event.mm, event.view)
        self._at = event.mm
        if near is not None:
            self._held = placed[near]
        elif len(placed) == len(lamps) < MOST_LAMPS:
            self._held = len(lamps)
        else:
            # A direction gives way to the place that is pointed at; with two lamps, the nearer one moves.
            self._held = next((k for k in range(len(lamps)) if k not in placed), None)
            if self._held is None and self._context is not None:
                self._context.say("There are two lamps already: drag one of them.")

    def move(self, event: PointerEvent) -> None:
        self._at = event.mm
        if self._held is not None and self._context is not None:
            x, y = event.mm.tolist()
            lamps = list(self._lamps())
            lamps[self._held : self._held + 1] = [Lamp(at=(x, y))]
            self._context.session.weigher.try_lamps(tuple(lamps))

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        held, self._held = self._held, None
        if held is None or self._context is None:
            return
        lamps = [_plain(lamp) for lamp in self._lamps()]
        w, h = self._context.session.job.page.size_mm
        x, y = (round(float(v), 2) for v in event.mm)
        if 0.0 <= x <= w and 0.0 <= y <= h:
            lamps[held : held + 1] = [{"at": [x, y]}]
        else:
            del lamps[held : held + 1]
        made = self._context.session.make("plan", light=lamps or "none")
        if made is None or made.commit is None:
            self._context.session.weigher.end_trying()

    def left(self) -> None:
        super().left()
        if self._held is not None and self._context is not None:
            self._context.session.weigher.end_trying()
        self._held = None

    def paint(self, painter: QPainter, view: BoardView) -> None:
        for k, lamp in enumerate(self._lamps()):
            if lamp.at is not None and k != self._held:
                paint_lamp(painter, view, np.array(lamp.at), f"light {k + 1}")
        if self._held is not None:
            paint_lamp(painter, view, self._at, f"light {self._held + 1}")

    def _lamps(self) -> tuple[Lamp, ...]:
        return self._context.session.job.plan.lamps if self._context is not None else ()


def paint_lamp(painter: QPainter, view: BoardView, at: np.ndarray, words: str) -> None:
    """A ring with rays round it, and what it is."""
    x, y = view.to_glass(at[None])[0].tolist()
    painter.setPen(QPen(sheet_color("chosen"), 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(x, y), RING_PX, RING_PX)
    for k in range(RAYS):
        way = QPointF(np.cos(2.0 * np.pi * k / RAYS), np.sin(2.0 * np.pi * k / RAYS))
        painter.drawLine(QPointF(x, y) + way * (RING_PX + 4), QPointF(x, y) + way * (RING_PX + 4 + RAY_PX))
    paint_word(painter, QPointF(x - 18, y + RING_PX + 26), words)


def _plain(lamp: Lamp) -> dict[str, object]:
    return {"from": lamp.degrees} if lamp.at is None else {"at": list(lamp.at)}
