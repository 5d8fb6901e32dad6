"""The board turned to the hand: learned from pulls beside read pencils, shown while a key is held, done by a tap."""

import json
import math
import threading
from collections.abc import Callable
from dataclasses import asdict, replace

import numpy as np
from PySide6.QtCore import QObject, QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from plain_stride.desk.keys.key_plan import KEYS
from plain_stride.desk.look.theme import sheet_color
from plain_stride.desk.settings import Settings
from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.marks import paint_word
from plain_stride.desk.sheet.view import BoardView
from plain_stride.desk.workers.latest_only import LatestOnly
from plain_stride.desk.workers.owned import owned
from plain_stride.hand.along import lengths_along, places_at, project_onto
from plain_stride.hand.dividing import divided
from plain_stride.hand.follow import Guides, line_followed
from plain_stride.hand.liking import (
    LEAST_PULLS,
    USUAL_REACH_MM,
    Beside,
    Liking,
    beside,
    board_for,
    liking_of,
    stretch_within,
)
from plain_stride.hand.pull import Pull

NEWEST, ANEW = 240, 8
"""Pulls that are learned from; how many new ones make it worth learning again."""
PENS = ("pen", "simulated")
UNDER_PX, MARGIN_PX, TICK_PX, WORD_PX = 60.0, 40.0, 9.0, 110.0


class TurnToHand(QObject):
    """What is known of the hand is in `liking`; the notes beside the sheet tell it by `words`."""

    def __init__(self, context: SheetContext, settings: Settings) -> None:
        super().__init__()
        self._context, self._session, self._settings = context, context.session, settings
        self._known: dict[str, Beside | None] = {}
        self._looked_at: tuple[Guides | None, int] = (None, 0)
        self._busy = False
        self._then: Callable[[], object] | None = None
        self._before: tuple[BoardView, BoardView] | None = None
        self.shown = False
        self._cuts: list[np.ndarray] = []
        self.liking = _kept(settings)
        self._thread, self._pen_is_up = owned(self, LatestOnly()), threading.Event()
        self._pen_is_up.set()
        self._thread.answered.connect(self._learned)

    def hold(self, pulling: bool) -> None:
        """Learning rests while the pen is down."""
        if pulling:
            self._pen_is_up.clear()
        else:
            self._pen_is_up.set()

    def close(self) -> None:
        self._pen_is_up.set()
        self._thread.close()

    # Learning

    def learn(self, then: Callable[[], object] | None = None) -> None:
        """Learns from pulls that came since, where there are enough new ones; `then` is done when all is known."""
        guides, job = self._session.strokes.guides, self._session.job
        keys = [str(row.pull) for row in job.rows.lines.values() if row.pull]
        anew = self._looked_at[0] is not guides or len(keys) // ANEW != self._looked_at[1]
        if self._busy or (guides.lines and anew):
            self._then = then
        elif then is not None:
            then()
        if guides.lines and anew:
            known = self._known if self._looked_at[0] is guides else {}
            pulls = [(key, job.pull(key)) for key in keys[-NEWEST:]]
            self._looked_at, self._busy = (guides, len(keys) // ANEW), True
            rest = self._pen_is_up.wait
            self._thread.ask(lambda: _studied(pulls, guides, known, rest))
            self._session.updates.wake()

    def _learned(self, found: tuple[dict[str, Beside | None], Liking]) -> None:
        self._busy = False
        self._known, liking = found
        if liking.axis is not None and (liking.pulls >= self.liking.pulls or self.liking.axis is None):
            self.liking = liking
            self._settings.put("liking", json.dumps(asdict(liking)))
        elif self.liking.axis is None:
            self.liking = liking
        # Told beside the sheet when the pen is up.
        self._session.updates.wake()
        then, self._then = self._then, None
        if then is not None:
            then()

    def words(self) -> str:
        """What is known of the hand, as a sentence."""
        found = self.liking
        if found.axis is None:
            if self._busy:
                return "Learning from your pulls along the pencils …"
            if found.pulls >= LEAST_PULLS:
                return f"**{found.pulls}** pulls beside pencils tell no direction yet that your hand likes best."
            return f"Which way is steadiest shows after **{LEAST_PULLS}** pulls along pencils that were read."
        reach = f", within **{found.reach:.0f} mm**" if found.reach else ""
        return (f"Steadiest along **{found.axis:.0f}°**{reach}: across, it strays **{found.strain:.1f}** times as much"
                f" (**{found.pulls}** pulls). **{KEYS.shown('T')}** turns a pencil line that way.")  # fmt: skip

    # The key

    def show(self, on: bool) -> None:
        """Shows the way the hand likes, at the pen."""
        self.shown, self._cuts = on, []
        if on:
            self.learn(self._show_words)
        self._context.repaint(None)

    def _show_words(self) -> None:
        line = self._line_under()
        told = self._divide(line) if line is not None else ""
        self._session.said.emit(told or self.words(), False)
        self._context.repaint(None)

    def _divide(self, line: np.ndarray) -> str:
        """Marks where a line is best divided into pulls within the hand's sweep; a sentence of it, '' if in none."""
        glass, sweep = self._context.viewport.glass(), 2.0 * (self.liking.reach or USUAL_REACH_MM)
        cuts = divided(line, sweep / glass)
        s = lengths_along(line)
        self._cuts = [places_at(line, s, at + np.array([-0.2, 0.2])) for at in cuts]
        if not self._cuts:
            return ""
        return (
            f"This pencil line is **{s[-1] * glass:.0f} mm** on the tablet, your sweep {sweep:.0f}: pull it in"
            f" **{len(cuts) + 1}** sections, divided as marked; **{KEYS.shown('R')}** goes on from an end."
        )

    def turn(self) -> None:
        """Brings the pencil line under the pen to the hand; back, if that was done last."""
        viewport = self._context.viewport
        if self._before is not None and self._before[1] == viewport.view:
            back, self._before = self._before[0], None
            viewport.set_view(back)
            self._session.said.emit("The board lies as it did.", False)
        else:
            self.learn(self._turn)

    def _turn(self) -> None:
        viewport, found = self._context.viewport, self.liking
        line = self._stretch_under()
        if line is None or found.axis is None:
            self._session.said.emit(self.words() if found.axis is None else "No pencil line is under the pen: point at"
                                  " one that was read.", False)  # fmt: skip
            return
        before = viewport.view
        lay = board_for(line, viewport.lay(), found)
        scale = lay.scale * viewport.glass_px_per_mm
        view = replace(before, scale=scale, turn=lay.turn)
        x, y = line.mean(axis=0)
        viewport.set_view(_moved_to(replace(view, centre=(float(x), float(y))), (float(x), float(y)), self._place()))
        self._before = (before, viewport.view)
        by = (lay.turn - before.turn + 180.0) % 360.0 - 180.0
        size = f", **{scale / before.scale:.2f}** times as large" if abs(scale / before.scale - 1.0) > 0.01 else ""
        side = "right" if by > 0.0 else "left"
        self._session.said.emit(
            f"Turned **{abs(by):.0f}°** to the {side}{size}, to your steadiest way, **{found.axis:.0f}°**."
            f" **{KEYS.shown('T')}** again turns it back.",
            False,
        )

    def _stretch_under(self) -> np.ndarray | None:
        """The pencil line under the pen; of a long one what lies within reach."""
        line, viewport = self._line_under(), self._context.viewport
        at = np.array(viewport.place())
        reach = (self.liking.reach or USUAL_REACH_MM) / viewport.glass()
        return None if line is None else stretch_within(line, at, reach)

    def _line_under(self) -> np.ndarray | None:
        """The read pencil line nearest to the pen."""
        at = np.array([self._context.viewport.place()])
        lines = self._session.strokes.guides.lines
        far = [float(project_onto(line, at)[2][0]) for line in lines]
        if not far or min(far) > UNDER_PX / self._context.view.scale:
            return None
        return lines[int(np.argmin(far))]

    def _place(self) -> QPointF:
        """The pixel at which the hand works best, well inside of the sheet; its middle while that is not known."""
        viewport = self._context.viewport
        wide, high = viewport.view.size
        known = self.liking.place
        at = viewport.from_glass(*known) if known is not None else QPointF(wide / 2.0, high / 2.0)
        return QPointF(min(max(at.x(), wide * 0.3), wide * 0.7), min(max(at.y(), high * 0.3), high * 0.7))

    def paint(self, painter: QPainter, view: BoardView) -> None:
        """Over the sheet, while it is shown: where the line under the pen is divided, and the axis through the pen, as
        long as the reach."""
        painter.setPen(QPen(sheet_color("chosen"), 2.4, c=Qt.PenCapStyle.RoundCap))
        for cut in self._cuts:
            a, b = view.to_glass(cut)
            across = np.array([a[1] - b[1], b[0] - a[0]]) / max(float(np.hypot(*(b - a))), 1e-9) * TICK_PX
            painter.drawLine(QPointF(*((a + b) / 2.0 - across)), QPointF(*((a + b) / 2.0 + across)))
        if not self.shown or self.liking.axis is None:
            return
        viewport, wide_px = self._context.viewport, view.size[0]
        at = viewport.about()
        long = min((self.liking.reach or USUAL_REACH_MM) * viewport.glass_px_per_mm, wide_px / 2.0)
        a = math.radians(self.liking.axis)
        way = QPointF(math.sin(a), -math.cos(a))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for share, wide in ((1.0, 1.2), (0.8, 2.2), (0.55, 3.4), (0.3, 4.6)):
            painter.setPen(QPen(sheet_color("chosen"), wide, c=Qt.PenCapStyle.RoundCap))
            painter.drawLine(at - way * long * share, at - way * MARGIN_PX * share * 0.3)
            painter.drawLine(at + way * MARGIN_PX * share * 0.3, at + way * long * share)
        beside = at + way * long * 0.5 + QPointF(12.0, 4.0)
        room = wide_px - WORD_PX
        words = f"steadiest, {self.liking.axis:.0f}°"
        paint_word(painter, QPointF(min(beside.x(), room), beside.y()), words)


def _moved_to(view: BoardView, place: tuple[float, float], to: QPointF) -> BoardView:
    """The board moved so that a place in mm lies under a pixel."""
    x, y = view.to_glass(np.array([place]))[0]
    return view.moved(to.x() - x, to.y() - y)


def _studied(
    pulls: list[tuple[str, Pull]],
    guides: Guides,
    known: dict[str, Beside | None],
    rest: Callable[[], object],
) -> tuple[dict[str, Beside | None], Liking]:
    """Pulls of a pen beside their lines, of which some are known already, and what they tell of the hand; rest: waits
    while the pen is down."""
    out = {}
    for key, pull in pulls:
        if key in known:
            out[key] = known[key]
        elif pull.device in PENS:
            rest()
            line = line_followed(pull.samples[:, :2], guides)
            out[key] = beside(pull, line) if line is not None else None
    return out, liking_of([found for found in out.values() if found is not None])


def _kept(settings: Settings) -> Liking:
    """What was learned before, on this machine; nothing where that cannot be read."""
    try:
        row = json.loads(str(settings.get("liking", "{}")))
        place = row.get("place")
        return Liking(**{**row, "place": (float(place[0]), float(place[1])) if place else None})
    except (ValueError, TypeError, AttributeError, IndexError):
        return Liking()
