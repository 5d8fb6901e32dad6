"""The edge laid on the sheet, along which pulls are led: laid by tools, lifted off, shown."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.tool import SheetTool
from plain_stride.desk.sheet.tools.drawing import PointTool, StraightTool
from plain_stride.desk.sheet.tools.shapes import RoundTool
from plain_stride.desk.sheet.view import BoardView
from plain_stride.errors import StrideError
from plain_stride.hand.rails import (
    MOST_POINTS,
    CurveRail,
    FanRail,
    ParallelRail,
    PerspectiveRail,
    Rail,
    StraightRail,
    chain,
)
from plain_stride.lines.drawn import ellipse
from plain_stride.render.paths import polyline

RAYS, MARK_PX = 24, 5.0
PERSPECTIVE = "**Perspective:** point at one to three vanishing points; Esc ends pointing, then pull."
WORDS = {StraightRail: "a straight", CurveRail: "a curve", FanRail: "a fan", ParallelRail: "parallels",
         PerspectiveRail: "a perspective"}  # fmt: skip


class _EllipseTool(RoundTool):
    words = "**Edge, an ellipse:** drag from its middle. Esc leaves it."

    def __init__(self, drawn: Callable[[list[list[float]], float], object]) -> None:
        told = self.words
        super().__init__(drawn)
        self.words = told

    def drawn(self, a: np.ndarray, b: np.ndarray) -> None:
        self.done = True
        super().drawn(a, b)


class _PlacesTool(PointTool):
    """So many places at most, one after the other; `pointed` gets all so far, (n, 2) mm."""

    def __init__(self, words: str, most: int, pointed: Callable[[list[tuple[float, float]]], object]) -> None:
        super().__init__(words, self._add)
        self._most, self._hand_on = most, pointed
        self._places: list[tuple[float, float]] = []

    def _add(self, at: np.ndarray) -> None:
        x, y = at.tolist()
        self._places.append((x, y))
        self.done = len(self._places) >= self._most
        self._hand_on(self._places)

    def taken(self, context: SheetContext) -> None:
        super().taken(context)
        self._places = []


class RailInHand:
    """The one that is laid, and the last one that was, so that a key brings it back."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._before: Rail | None = None

    def tools(self) -> dict[str, Callable[[], SheetTool]]:
        """What makes each tool that lays one, by what it is called."""
        return {
            "a straight…": lambda: StraightTool("**Edge:** drag along it. Esc leaves it.", self._lay_straight),
            "an ellipse…": lambda: _EllipseTool(self._lay_ellipse),
            "a fan to a point…": lambda: _PlacesTool("**Fan:** point at where all lines run to. Esc leaves it.", 1,
                                                     self._lay_fan),
            "parallels…": lambda: StraightTool("**Parallels:** drag their way. Esc leaves it.", self._lay_parallels),
            "a perspective…": lambda: _PlacesTool(PERSPECTIVE, MOST_POINTS, self._lay_perspective),
        }  # fmt: skip

    def lay(self, rail: Rail) -> None:
        """Lays another one."""
        self._before = rail
        self._session.take(rail=rail)

    def lay_curve(self) -> None:
        """Lays the line in hand as an edge."""
        key = self._session.shown_line()
        if key is None:
            self._session.said.emit("There is no line in hand to pull along: pull one, or choose one.", True)
            return
        shape = self._session.shapes[key]
        self.lay(chain(shape.flat[0], shape.closed))
        self._session.said.emit("Pulls are led along that line now.", False)

    def off(self) -> None:
        self._session.take(rail=None)

    def toggle(self) -> None:
        """Lifts it off, or lays the last one again."""
        if self._session.now.rail is not None:
            self.off()
        elif self._before is not None:
            self._session.take(rail=self._before)
        else:
            self._session.said.emit("No edge was laid yet: press the word 'pull', and take one to pull along.", False)

    def _lay_straight(self, a: np.ndarray, b: np.ndarray) -> None:
        (x0, y0), (x1, y1) = a.tolist(), b.tolist()
        self._try(lambda: StraightRail((x0, y0), (x1, y1)))

    def _lay_ellipse(self, points: list[list[float]], turn: float) -> None:
        middle, corner = np.array(points)
        half = np.abs(corner - middle)
        self._try(lambda: chain(ellipse(middle, (float(half[0]), float(half[1])), turn), True))

    def _lay_fan(self, places: list[tuple[float, float]]) -> None:
        self.lay(FanRail(places[0]))

    def _lay_parallels(self, a: np.ndarray, b: np.ndarray) -> None:
        way = b - a
        self.lay(ParallelRail(float(np.degrees(np.arctan2(way[0], -way[1])))))

    def _lay_perspective(self, places: list[tuple[float, float]]) -> None:
        self.lay(PerspectiveRail(tuple(places)))

    def _try(self, make: Callable[[], Rail]) -> None:
        try:
            self.lay(make())
        except StrideError as fault:
            self._session.said.emit(str(fault), True)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """The edge, pale: its line, or the rays of what it leads towards."""
        rail = self._session.now.rail
        if rail is None:
            return
        painter.setPen(QPen(sheet_color("ahead"), 1.2, Qt.PenStyle.DashDotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in self._shown(rail):
            painter.drawPolyline(polyline(view.to_glass(line)))
        painter.setPen(QPen(sheet_color("ahead"), 1.6))
        for place in rail.meets:
            x, y = view.to_glass(np.array([place]))[0]
            painter.drawEllipse(QPointF(x, y), MARK_PX, MARK_PX)

    def _shown(self, rail: Rail) -> list[np.ndarray]:
        """Lines (n, 2) mm that show a rail."""
        w, h = self._session.job.page.size_mm
        if isinstance(rail, ParallelRail):
            starts = np.array([[w * k / 8.0, h * k / 8.0] for k in range(1, 8)])
        elif rail.meets:
            return [_ray(np.array(point), k) for point in rail.meets for k in range(RAYS)]
        else:
            starts = np.zeros((1, 2))
        lines = [rail.line_for(start[None]) for start in starts]
        return [line for line in lines if line is not None]


def _ray(point: np.ndarray, k: int) -> np.ndarray:
    a = 2.0 * np.pi * k / RAYS
    way = np.array([np.cos(a), np.sin(a)])
    return np.array([point + 6.0 * way, point + 22.0 * way])


def rail_words(rail: Rail | None) -> str:
    """What pulls are led along, in a word or two; '' for nothing."""
    if rail is None:
        return ""
    return "an ellipse" if isinstance(rail, CurveRail) and rail.closed else WORDS[type(rail)]
