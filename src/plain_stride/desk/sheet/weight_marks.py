"""Weight shown over the drawing: what each line is for and where its form lies; widths in bands; the plan's lamps."""

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from plain_stride.desk.controls.controls import tinted
from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.session.session import Session
from plain_stride.desk.session.weigher import FEW_LINES
from plain_stride.desk.sheet.tools.lamps import paint_lamp
from plain_stride.desk.sheet.view import BoardView
from plain_stride.form.roles import ROLES
from plain_stride.job.weight_questions import HIDDEN, Seen, SeenNow

NOTHING, ROLE_MARKS, BANDS = "", "roles", "bands"
_P = Qt.PenStyle
ROLE_PENS = {"outer": _P.SolidLine, "inner": _P.DashLine, "detail": _P.DotLine, "texture": _P.DashDotLine,
             "ruled": _P.DashDotDotLine, "halo": _P.DashDotDotLine}  # fmt: skip
ROLE_WORDS = (
    "On the sheet: outer **drawn through**, on the side away from the form; inner **dashed**, detail **dotted**,"
    " texture **dash and dot**, ruled **dash and two dots**."
)
AWAY_PX, ROLE_PX = 4.0, 1.6
BAND_EDGES = np.array([0.0, 0.25, 0.35, 0.5, 0.7, 100.0])
BAND_PX, BAND_TINTS = (3.0, 4.5, 6.0, 8.0, 10.0), (0.25, 0.4, 0.55, 0.75, 1.0)


class WeightMarks:
    """shows: which marks; at_work: whether weight is looked at, so that lamps are shown."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.shows, self.at_work = NOTHING, False
        self._seen: Seen | None = None
        self._paths: tuple[tuple[object, ...], list[tuple[QPainterPath, QPen]]] | None = None

    def show(self, at_work: bool, what: str) -> None:
        """Whether weight is looked at, and which marks are shown then."""
        self.at_work, self.shows = at_work, what

    def look(self, seen: Callable[[], object]) -> None:
        """Has the lines looked at as they are now, where marks are shown; seen: called once that is done."""

        def take(found: Seen) -> None:
            self._seen = found
            seen()

        if self.shows:
            self._session.drawing.ask(SeenNow(), take, FEW_LINES)

    def paint(self, painter: QPainter, view: BoardView) -> None:
        if not self.at_work:
            return
        if self.shows and self._seen is not None:
            for path, pen in self._marks(self._seen, view):
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPath(path)
        for k, lamp in enumerate(self._session.job.plan.lamps):
            if lamp.at is not None:
                paint_lamp(painter, view, np.array(lamp.at), f"light {k + 1}")

    def _marks(self, seen: Seen, view: BoardView) -> list[tuple[QPainterPath, QPen]]:
        key = (id(seen), self.shows, view)
        if self._paths is None or self._paths[0] != key:
            made = _bands(seen, view) if self.shows == BANDS else _roles(seen, view)
            self._paths = (key, made)
        return self._paths[1]


def band_words(dpi: float) -> str:
    """The legend of the bands, in mm and in pixels of the page."""
    words = []
    for low, high in pairwise(BAND_EDGES.tolist()):
        px = [mm / 25.4 * dpi for mm in (low, high)]
        if low == 0.0:
            words.append(f"under {high:g} mm ({px[1]:.0f} px)")
        elif high >= 100.0:
            words.append(f"**over {low:g} mm** ({px[0]:.0f} px)")
        else:
            words.append(f"to {high:g} mm ({px[1]:.0f} px)")
    return "From pale and narrow to strong and wide: " + ", ".join(words) + "."


def _roles(seen: Seen, view: BoardView) -> list[tuple[QPainterPath, QPen]]:
    outer = (seen.role == ROLES.index("outer"))[:, None]
    moved = view.to_glass(seen.points + np.where(outer, seen.outward, 0.0) * (AWAY_PX / view.scale))
    pens = [QPen(sheet_color("chosen"), ROLE_PX, ROLE_PENS[role]) for role in ROLES]
    return _runs(moved, seen.starts, seen.role, pens)


def _bands(seen: Seen, view: BoardView) -> list[tuple[QPainterPath, QPen]]:
    kind = np.clip(np.searchsorted(BAND_EDGES, seen.wide, side="right") - 1, 0, len(BAND_PX) - 1)
    kind = np.where(seen.role < 0, HIDDEN, kind)
    pens = []
    for px, tint in zip(BAND_PX, BAND_TINTS, strict=True):
        colour: QColor = tinted(sheet_color("chosen"), tint)
        pens.append(QPen(colour, px, _P.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin))
    return _runs(view.to_glass(seen.points.astype(float)), seen.starts, kind, pens)


def _runs(
    points: np.ndarray, starts: np.ndarray, kind: np.ndarray, pens: list[QPen]
) -> list[tuple[QPainterPath, QPen]]:
    """A path for each kind: the stretches of lines that are of it, each going on to where the next begins.
    A negative kind is left out."""
    paths = [QPainterPath() for _ in pens]
    for a, b in zip(starts[:-1].tolist(), starts[1:].tolist(), strict=True):
        cuts = [a, *(np.flatnonzero(np.diff(kind[a:b])) + a + 1).tolist(), b]
        for first, last in pairwise(cuts):
            if kind[first] < 0:
                continue
            path = paths[int(kind[first])]
            stretch = points[first : min(last + 1, b)]
            path.moveTo(QPointF(*stretch[0].tolist()))
            for x, y in stretch[1:].tolist():
                path.lineTo(x, y)
    return [(path, pen) for path, pen in zip(paths, pens, strict=True) if not path.isEmpty()]
