"""Red notes on the board: numbered rings that point at what was found and never cover it, the extent of the one in
hand, and what its mend would make of its lines."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.theme import LABEL, THEME, sheet_color
from plain_stride.desk.session.proofer import Proofer
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.view import BoardView
from plain_stride.proof.finding import Finding
from plain_stride.proof.remarks import Remark
from plain_stride.render.paths import path_of, polyline

RING_PX, AWAY_PX, WAYS, MOST_RINGS, REACH_PX = 10.0, (22.0, 34.0, 48.0), 16, 120, 12.0
"""A ring's radius; how far from its place it may stand; in so many directions; how many are shown; how far round a ring
ink is looked for."""
CELL_MM = 0.5
"""The grain at which it is known where ink is."""


class ProofMarks:
    """shown: the findings that have rings, in their order, which gives their numbers."""

    def __init__(self, session: Session, proofer: Proofer) -> None:
        self._session, self._proofer = session, proofer
        self.shown: tuple[Finding, ...] = ()
        self._at_work = False
        self._spots: tuple[tuple[object, ...], list[QPointF]] | None = None
        self._ink: tuple[int, np.ndarray, np.ndarray] | None = None
        self._tried: tuple[str, int, list[np.ndarray]] = ("", -1, [])

    def work(self, on: bool) -> None:
        """Whether the proof is looked at."""
        self._at_work = on

    def show(self, found: Sequence[Finding]) -> None:
        """Shows rings of these, numbered from 1 on."""
        self.shown = tuple(found[:MOST_RINGS])
        self._spots = None

    def ring_at(self, at: QPointF, view: BoardView) -> int | None:
        """The number, from 0 on, of the ring under a pixel."""
        if self._at_work:
            for k, spot in enumerate(self._places(view)):
                if np.hypot(spot.x() - at.x(), spot.y() - at.y()) <= RING_PX + 1.0:
                    return k
        return None

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if not self._at_work:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        in_hand = self._proofer.in_hand()
        if in_hand is not None:
            self._paint_in_hand(painter, view, in_hand)
        for row in self._session.job.rows.remarks.values():
            paint_remark(painter, view, row.remark())
        painter.setFont(THEME.font(LABEL, bold=True))
        for k, (one, spot) in enumerate(zip(self.shown, self._places(view), strict=True)):
            _ring(painter, QPointF(*view.to_glass(np.array([one.at]))[0]), spot, str(k + 1), one is in_hand)
        painter.restore()

    def _paint_in_hand(self, painter: QPainter, view: BoardView, one: Finding) -> None:
        """Its extent as red dots on the ink, and what its mend would make."""
        painter.setPen(QPen(sheet_color("chosen"), 1.4))
        painter.setBrush(tinted(sheet_color("chosen"), 0.25))
        for ring in self._mended(one):
            painter.drawPath(path_of([view.to_glass(ring)]))
        pen = QPen(sheet_color("red"), 1.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        places = view.to_glass(np.array(one.extent))
        for x, y in places.tolist():
            painter.drawEllipse(QPointF(x, y), 2.2, 2.2)

    def _mended(self, one: Finding) -> list[np.ndarray]:
        version = self._session.job.version
        if self._tried[:2] != (one.id, version):
            rings = [ring for rings in self._proofer.mended(one).values() for ring in rings]
            self._tried = (one.id, version, rings)
        return self._tried[2]

    def _places(self, view: BoardView) -> list[QPointF]:
        """Where rings stand on the glass: where there is least ink, and no other ring."""
        key = (view, self._session.job.version, self.shown)
        if self._spots is None or self._spots[0] != key:
            self._spots = (key, self._placed(view))
        return self._spots[1]

    def _placed(self, view: BoardView) -> list[QPointF]:
        origin, grid = self._inked()
        angles = np.arange(WAYS) * 2.0 * np.pi / WAYS - np.pi / 4.0
        ways = np.column_stack([np.cos(angles), np.sin(angles)])
        offs = np.concatenate([ways * far for far in AWAY_PX])
        price = np.repeat(np.arange(len(AWAY_PX)) * 0.6, WAYS)
        taken, out = np.zeros((0, 2)), []
        reach = np.array([[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]], float) * REACH_PX
        for one in self.shown:
            here = view.to_glass(np.array([one.at]))[0]
            spots = here + offs
            there = (spots[:, None] + reach).reshape(-1, 2)
            ink = _sampled(grid, origin, view.places(there)).reshape(len(spots), -1).sum(axis=1)
            away = np.hypot(*(spots[:, None] - taken).transpose(2, 0, 1)).min(axis=1, initial=1e9)
            cost = ink + price + 8.0 * (away < 2.4 * RING_PX)
            best = spots[int(np.argmin(cost))]
            taken = np.vstack([taken, best])
            out.append(QPointF(*best))
        return out

    def _inked(self) -> tuple[np.ndarray, np.ndarray]:
        """(origin (2,) mm, cells (h, w)): where ink is, by cells of CELL_MM."""
        job, shapes = self._session.job, self._session.shapes
        if self._ink is None or self._ink[0] != job.version:
            wide, high = job.page.size_mm
            grid = np.zeros((int(high / CELL_MM) + 3, int(wide / CELL_MM) + 3))
            points = [shapes[key].flat[0] for key in shapes.visible()]
            if points:
                at = np.vstack(points) / CELL_MM + 1.0
                inside = ((at >= 0) & (at < np.array(grid.shape[::-1]))).all(axis=1)
                grid[tuple(at[inside].astype(int).T[::-1])] = 1.0
            self._ink = (job.version, np.array([-CELL_MM, -CELL_MM]), grid)
        return self._ink[1], self._ink[2]


def _sampled(grid: np.ndarray, origin: np.ndarray, points: np.ndarray) -> np.ndarray:
    at = ((points - origin) / CELL_MM).astype(int)
    inside = ((at >= 0) & (at < np.array(grid.shape[::-1]))).all(axis=1)
    out = np.zeros(len(points))
    out[inside] = grid[at[inside, 1], at[inside, 0]]
    return out


def _ring(painter: QPainter, place: QPointF, spot: QPointF, number: str, strong: bool) -> None:
    """A numbered ring, with a stalk that ends short of its place."""
    leg = place - spot
    far = max(float(np.hypot(leg.x(), leg.y())), 1e-6)
    painter.setPen(QPen(sheet_color("red"), 2.4 if strong else 1.4))
    painter.drawPolyline(QPolygonF([spot + leg * (RING_PX / far), spot + leg * max((far - 5.0) / far, 0.0)]))
    painter.setBrush(sheet_color("paper"))
    painter.drawEllipse(spot, RING_PX, RING_PX)
    box = painter.boundingRect(0, 0, 100, 100, Qt.AlignmentFlag.AlignCenter, number)
    painter.drawText(spot - QPointF(box.width() / 2.0, -box.height() / 4.0), number)


def paint_remark(painter: QPainter, view: BoardView, remark: Remark) -> None:
    """A remark's strokes and words, in the red hand; pale where it is seen to."""
    colour = tinted(sheet_color("red"), 0.35 if remark.done else 1.0)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for stroke in remark.strokes:
        points = np.array(stroke)
        wide = (0.25 + 0.5 * float(points[:, 2].mean())) * view.scale
        painter.setPen(QPen(colour, max(wide, 1.4), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap,
                            Qt.PenJoinStyle.RoundJoin))  # fmt: skip
        painter.drawPolyline(polyline(view.to_glass(points[:, :2])))
    if remark.words:
        painter.setFont(THEME.font(LABEL, bold=True))
        painter.setPen(colour)
        x, y = view.to_glass(np.array([remark.at]))[0].tolist()
        painter.drawText(QPointF(x + 6.0, y + 4.0), remark.words)
