"""The tour's pictures of Mend: a bend that is being drawn, the points of a line, meetings that are held, an edge
that is dragged on the strip."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QCoreApplication, QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent

from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.desk.stations.mend import MendNotes

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

PART, NEAR_PX_MM, DRAWN_MM, REST_PX = "Coat", 8.0, (2.2, 0.8), (70.0, 50.0)
EDGE_AT, EDGE_TIMES = 0.4, 2.0


def show_mending(main_window: "MainWindow", shot: str) -> None:
    """Brings the sheet to what a picture of Mend shows."""
    notes, session = main_window.desk.stations["Mend"], main_window.session
    assert isinstance(notes, MendNotes)
    key = _longest_outer(main_window)
    shape = session.shapes[key]
    middle = shape.arc.point(np.array([shape.length / 2.0]))[0]
    _look_at(main_window, middle)
    session.choose([key])
    gestures, view = main_window.desk.sheet.gestures, main_window.desk.sheet.view
    x, y = view.to_glass(middle[None])[0].tolist()
    if shot == "mend-meetings":
        session.choose([])
        main_window.desk.sheet.viewport.point(None)
        return
    if shot == "mend-strip":
        _drag_on_strip(main_window, key)
        return
    gestures.take_tool(notes.tools()["points" if shot == "mend-points" else "bend"]())
    main_window.desk.sheet.viewport.point(QPointF(x + REST_PX[0], y + REST_PX[1]))
    if shot == "mend-bend":
        gestures.down(PointerEvent(QPointF(x, y), view))
        to = view.to_glass((middle + DRAWN_MM)[None])[0].tolist()
        gestures.move(PointerEvent(QPointF(*to), view))


def put_away(main_window: "MainWindow") -> None:
    """Nothing is in hand any more; the board lies whole."""
    main_window.desk.sheet.gestures.put_tool_away()
    main_window.desk.strip.drop_edit()
    main_window.session.choose([])
    main_window.say("", False)
    main_window.desk.sheet.viewport.fit()


def _longest_outer(main_window: "MainWindow") -> str:
    session = main_window.session
    part = session.job.part_named(PART)
    assert part is not None
    lines = [key for key, row in session.job.rows.lines.items() if row.part == part.id and row.role == "outer"]
    return max(lines, key=lambda key: session.shapes[key].length)


def _look_at(main_window: "MainWindow", place: np.ndarray) -> None:
    """The board enlarged, with a place in the middle of the sheet."""
    viewport = main_window.desk.sheet.viewport
    viewport.look_at(float(place[0]), float(place[1]))
    at = QPointF(*viewport.view.to_glass(place[None])[0].tolist())
    viewport.set_view(viewport.view.enlarged(NEAR_PX_MM / viewport.view.scale, at))


def _drag_on_strip(main_window: "MainWindow", key: str) -> None:
    """The left edge of a line, at two fifths of it, under way to be twice as far out."""
    strip, shape = main_window.desk.strip, main_window.session.shapes[key]
    s = shape.length * EDGE_AT
    laid, half = strip.laid(key, shape), float(shape.body.at(np.array([s]))[0][0])
    places = [
        QPointF(laid.left + s * laid.along, laid.middle - half * times * laid.across) for times in (1.0, EDGE_TIMES)
    ]
    for kind, at in zip((QEvent.Type.MouseButtonPress, QEvent.Type.MouseMove), places, strict=True):
        left = Qt.MouseButton.LeftButton
        event = QMouseEvent(kind, at, strip.mapToGlobal(at), left, left, Qt.KeyboardModifier.NoModifier)
        QCoreApplication.sendEvent(strip, event)
