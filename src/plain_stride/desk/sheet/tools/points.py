"""The true points of a line, taken hold of: points, their handles, and the line between two of them."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import GRIP_PX, SheetTool
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.sheet.seen_edit import SeenEdit
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.job.point_changes import frozen, node_edit
from plain_stride.lines import nodes
from plain_stride.lines.recipe import course_of
from plain_stride.lines.shape import Shape

SMOOTH_PX, CORNER_PX, HANDLE_PX, LEAST_PX = 4.5, 4.0, 3.5, 2.0
Edit = tuple[str, dict[str, Any]]


@dataclass(frozen=True, eq=False)
class Held:
    """What was taken hold of: 'move', 'before', 'after' of a point, or the line between, 'piece', at mm."""

    what: str
    node: int | None
    at: np.ndarray


class PointsTool(SheetTool):
    """A line that was not shaped before gets few points first: as many as stay within `tolerance` mm of it."""

    words = (
        "**Points:** drag a point, its handles, or the line between; Shift adds one, Backspace takes the last one "
        "away. Esc ends it."
    )

    def __init__(self, session: Session, tolerance: Callable[[], float | None]) -> None:
        super().__init__()
        self._session, self._tolerance = session, tolerance
        self._context: SheetContext | None = None
        self._seen: SeenEdit | None = None
        self._held: Held | None = None
        self._grip, self._by = np.zeros(2), np.zeros(2)
        self._curve: tuple[object, np.ndarray] | None = None
        self.node: int | None = None

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._context, self._seen, self.node = context, SeenEdit(context), None

    # The line and its points

    def line(self) -> str | None:
        """The line whose points are shown."""
        key = self._session.shown_line()
        row = self._session.job.rows.lines.get(key) if key is not None else None
        return key if row is not None and row.family is None else None

    def curve(self) -> np.ndarray | None:
        """Its cubics (m, 4, 2) on the sheet, as its points will have them; None without a line."""
        key, within = self.line(), self._tolerance()
        if key is None or within is None:
            return None
        row = self._session.job.rows.lines[key]
        token = (row, within)
        if self._curve is None or self._curve[0] != token:
            own = course_of(self._session.shapes.worked(key).recipe).curve
            if self._is_raw(key):
                own = nodes.simplified(own, within / (row.matrix.scale if row.matrix else 1.0))[0]
            self._curve = (token, own if row.matrix is None else row.matrix.of(own))
        return self._curve[1]

    def _is_raw(self, key: str) -> bool:
        """Whether a line has no points of its own yet."""
        row = self._session.job.rows.lines[key]
        return row.fixed is None or bool(row.bends) or row.growth is not None

    def _closed(self, key: str) -> bool:
        return self._session.shapes.worked(key).recipe.closed

    # A drag

    def down(self, event: PointerEvent) -> None:
        super().down(event)
        key, curve = self.line(), self.curve()
        self._held, self._grip, self._by = None, event.mm, np.zeros(2)
        locked = self._session.locked_part(key) if key is not None else ""
        if locked:
            self._session.said.emit(f"Part '{locked}' is locked: unlock it to change its lines.", True)
            return
        if key is not None and curve is not None:
            self._held = self._grabbed(curve, self._closed(key), event)
        if self._held is None:
            self._take_another(event)

    def _take_another(self, event: PointerEvent) -> None:
        """On another line its points are shown; on this one the piece between is taken hold of."""
        touch = self._context.open_line_under(event.at) if self._context is not None else None
        if touch is None:
            return
        if touch.line != self.line():
            self._session.choose([touch.line])
            self.node = None
        elif event.more:
            self._edit("insert", at=[round(float(v), 4) for v in event.mm])
        else:
            self._held = Held("piece", None, event.mm)

    def _grabbed(self, curve: np.ndarray, closed: bool, event: PointerEvent) -> Held | None:
        """The handle of the point in hand, or the point, that the pen came down on."""
        places: list[tuple[str, int, np.ndarray]] = []
        if self.node is not None and self.node < nodes.count_of(curve, closed):
            places += [(what, self.node, at) for what, at in _handles(curve, self.node, closed)]
        places += [("move", k, at) for k, at in enumerate(nodes.nodes_of(curve, closed))]
        far = [float(np.hypot(*(at - event.mm))) * event.view.scale for _, _, at in places]
        k = int(np.argmin(far)) if far else 0
        if not far or far[k] > GRIP_PX:
            return None
        what, self.node, at = places[k]
        return Held(what, self.node, at)

    def move(self, event: PointerEvent) -> None:
        self._by = event.mm - self._grip
        if self._held is not None and self._seen is not None:
            try:
                self._seen.show_shapes(self._tried(self._held))
            except StrideError as fault:
                self._session.said.emit(str(fault), True)
                self._held = None
                self._seen.drop()

    def _tried(self, held: Held) -> dict[str, Shape]:
        key = self.line()
        if key is None:
            return {}
        row, shapes, within = self._session.job.rows.lines[key], self._session.shapes, self._tolerance()
        edit = node_edit(shapes, key, row, **self._arguments(held))
        raw, scale = self._is_raw(key), row.matrix.scale if row.matrix is not None else 1.0

        def whole(curve: np.ndarray) -> np.ndarray:
            return edit(nodes.simplified(curve, (within or 0.0) / scale)[0] if raw else curve)

        return {key: shapes.tried_path(key, frozen(shapes.worked(key).recipe, whole))}

    def _arguments(self, held: Held) -> dict[str, Any]:
        by = [round(float(v), 4) for v in self._by]
        if held.what == "piece":
            return {"what": "piece", "at": [round(float(v), 4) for v in held.at], "by": by}
        return {"what": held.what, "node": held.node, "by": by}

    def up(self, event: PointerEvent) -> None:
        super().up(event)
        held, self._held = self._held, None
        if self._seen is not None:
            self._seen.let_go()
        if held is not None and np.hypot(*self._by) * event.view.scale >= LEAST_PX:
            self._edit(**self._arguments(held))

    def left(self) -> None:
        super().left()
        self._held = None
        if self._seen is not None:
            self._seen.drop()

    # What is done to points

    def _edit(self, what: str, **arguments: Any) -> bool:
        key, within = self.line(), self._tolerance()
        if key is None or within is None:
            return False
        wanted: list[Edit] = [("simplify", {"line": key, "tolerance": within})] if self._is_raw(key) else []
        wanted.append(("node", {"line": key, "what": what, **arguments}))
        return self._session.make_several(wanted, "node") is not None

    def edit_node(self, what: str) -> None:
        """Makes the point in hand a corner, smooth, or takes it away ('delete')."""
        if self.node is None:
            self._session.said.emit("Press a point of the line first.", True)
        elif self._edit(what, node=self.node) and what == "delete":
            self.node = None

    def take_back(self) -> bool:
        if self.node is None:
            return False
        self.edit_node("delete")
        return True

    # Its picture

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if self._seen is not None:
            self._seen.paint(painter, view)
        key, curve = self.line(), self.curve()
        if key is None or curve is None or self._seen is None or self._seen.shapes:
            return
        closed = self._closed(key)
        if self.node is not None and self.node < nodes.count_of(curve, closed):
            self._paint_handles(painter, view, curve, self.node, closed)
        for k, at in enumerate(nodes.nodes_of(curve, closed)):
            x, y = view.to_glass(at[None])[0].tolist()
            _paint_point(painter, QPointF(x, y), nodes.is_smooth(curve, k, closed), k == self.node)

    def _paint_handles(self, painter: QPainter, view: BoardView, curve: np.ndarray, k: int, closed: bool) -> None:
        x, y = view.to_glass(nodes.node_at(curve, k)[None])[0].tolist()
        for _, at in _handles(curve, k, closed):
            u, v = view.to_glass(at[None])[0].tolist()
            for colour, wide in (("paper", 4.5), ("ahead", 1.6)):
                painter.setPen(QPen(sheet_color(colour), wide))
                painter.drawLine(QPointF(x, y), QPointF(u, v))
            painter.setBrush(sheet_color("paper"))
            painter.drawEllipse(QPointF(u, v), HANDLE_PX, HANDLE_PX)


def _paint_point(painter: QPainter, at: QPointF, smooth: bool, in_hand: bool) -> None:
    """A point on paper of its own, so that it is seen on ink: a ring where the line is smooth, a cross at a corner."""
    colour = sheet_color("ahead" if in_hand else "chosen")
    painter.setPen(QPen(colour if smooth else sheet_color("paper"), 2.4 if in_hand else 1.6))
    painter.setBrush(sheet_color("paper"))
    painter.drawEllipse(at, SMOOTH_PX, SMOOTH_PX)
    if smooth:
        return
    painter.setPen(QPen(colour, 2.4 if in_hand else 1.8))
    for way in (1.0, -1.0):
        painter.drawLine(at + QPointF(-CORNER_PX, -way * CORNER_PX), at + QPointF(CORNER_PX, way * CORNER_PX))


def _handles(curve: np.ndarray, k: int, closed: bool) -> list[tuple[str, np.ndarray]]:
    """('before' or 'after', mm) of the handles of a point."""
    before, after = nodes.pieces_at(curve, k, closed)
    out = [("before", curve[before, 2])] if before is not None else []
    return out + ([("after", curve[after, 1])] if after is not None else [])
