"""The pull: inked as it comes, laid as a line when the pen lifts, or only rehearsed."""

import time
from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.gestures.holding_still import WORDS as SHAPE_WORDS
from plain_stride.desk.sheet.gestures.holding_still import HoldingStill
from plain_stride.desk.sheet.live_pull import LivePull
from plain_stride.desk.sheet.pointer_event import PointerEvent
from plain_stride.hand.joining import NONE, Again
from plain_stride.hand.pull import Pull
from plain_stride.hand.rails import Rail
from plain_stride.hand.raster import raster_of
from plain_stride.hand.steady import steady
from plain_stride.job.board_facts import edges_of
from plain_stride.lines.affine import Affine

EVEN_SAMPLES, EVEN_PULLS = 40, 3
"""After so many pulls, of so many samples at least, of one pressure each, a pen is taken to send no other."""
TELL_WIDTH_S = 0.03
"""The width under the pen is told no more often: nobody reads it quicker, and each time is a frame's work."""


class PullGesture(QObject):
    """under_way: True when a pull begins, False when it ends."""

    under_way = Signal(bool)

    def __init__(self, context: SheetContext) -> None:
        super().__init__()
        self._context, self._session, self._compositor = context, context.session, context.compositor
        self._again = Again(NONE)
        self.still = HoldingStill()
        self.still.changed.connect(self._tell_still)
        self._behind, self._told_at, self._even_pulls = False, 0.0, 0

    @property
    def live(self) -> LivePull | None:
        """The pull under the pen."""
        return self._compositor.live

    def down(self, event: PointerEvent) -> None:
        """Begins a pull, where one may begin."""
        if self._context.refuses():
            return
        viewport = self._context.viewport
        viewport.freeze(True)
        self._session.lies_at(viewport.glass())
        place = event.view.to_board(event.at)
        self._again = self._session.what_again(place)
        self._compositor.begin_pull(
            LivePull(self._session.pulling_nib, event.view, viewport.glass(), event.device, event.stamp,
                     self._compositor.covers_before(), self._compositor.ratio, self._copies(), self._rail())
        )  # fmt: skip
        self._tell_off_board(*place)
        self.still.begin(event.at, event.view)
        self.under_way.emit(True)
        self.move(event)

    def _rail(self) -> Rail | None:
        """What leads the pull, where it becomes a new line."""
        now = self._session.now
        return None if now.cover_of or self._again.what else now.rail

    def _copies(self) -> list[Affine]:
        """Where the pull's ink is shown as well: it becomes a new line, and a symmetry is in hand."""
        now = self._session.now
        new = not (now.rehearsing or now.cover_of or self._again.what)
        return now.symmetry.maps() if now.symmetry is not None and new else []

    def move(self, event: PointerEvent) -> None:
        """Takes a sample; it is inked with all that come before the next turn of the event loop."""
        if self.live is None:
            return
        self.live.add(*event.view.to_board(event.at), event.pressure, event.stamp, event.tilt)
        self._context.viewport.carry(event.at)
        self.still.move(event.at)
        if not self._behind:
            self._behind = True
            QTimer.singleShot(0, self._catch_up)

    def up(self, event: PointerEvent) -> None:
        """Lays the line."""
        live = self.live
        if live is None:
            return
        if self._behind:
            self._catch_up()
        samples = live.samples()
        self._tell_even_pen(live.device, samples[:, 2])
        self._compositor.lift()
        self._context.viewport.freeze(False)
        self._lay(live, samples)
        self._context.viewport.point(event.at)
        self._session.live_width.emit(None)
        self.under_way.emit(False)

    def _lay(self, live: LivePull, samples: np.ndarray) -> None:
        """What becomes of a pull."""
        session, laid = self._session, partial(self._compositor.line_laid, live)
        view = self._context.viewport.lay()
        found, self._again = self._again, Again(NONE)
        shape = self.still.end()
        if session.now.rehearsing:
            self._tell_rehearsal(samples)
            laid()
        elif session.now.cover_of:
            session.strokes.lay_cover(samples, session.nib, view)
            laid()
        elif found.what:
            session.take(again=False)
            pull = Pull(samples, session.nib_now, view, live.device, live.clock)
            session.strokes.lay_again(found, session.shown_line(), pull, lambda line: laid())
        else:
            told = partial(self._laid, laid, shape)
            session.strokes.lay(samples, session.pulling_nib, view, live.device, live.clock, told)

    def _laid(self, laid: Callable[[], object], shape: str, line: str | None) -> None:
        """A pull has become a line; one that ended held still becomes what was offered."""
        laid()
        if shape and line is not None and self._session.make("reshape", lines=[line], shape=shape) is not None:
            self._context.say(f"It is **{SHAPE_WORDS[shape]}** now; one step back is your own hand.")

    def _tell_still(self) -> None:
        """What the pull is offered as."""
        self._context.say(self.still.words())
        self._context.repaint(None)

    def _catch_up(self) -> None:
        """Inks every sample that came since the last time, once, however many the system had kept waiting."""
        self._behind = False
        live = self.live
        if live is None:
            return
        self._context.repaint(live.advance())
        now = time.perf_counter()
        if now - self._told_at > TELL_WIDTH_S:
            self._told_at = now
            self._session.live_width.emit(live.width_now())

    def _tell_off_board(self, x: float, y: float) -> None:
        """A pull that begins where nothing is printed is said at once, and not hindered."""
        w, h = self._session.job.page.size_mm
        bleed = edges_of(self._session.job).bleed
        if not (-bleed <= x <= w + bleed and -bleed <= y <= h + bleed):
            self._context.say("This pull begins off the board: what lies there is not printed.")

    def _tell_even_pen(self, device: str, pressure: np.ndarray) -> None:
        """Once: that a pen sends the same pressure whatever the hand does."""
        if device == "pen" and len(pressure) >= EVEN_SAMPLES:
            self._even_pulls = self._even_pulls + 1 if np.ptp(pressure) == 0.0 else 0
            if self._even_pulls == EVEN_PULLS:
                self._context.say(
                    f"This pen sends one pressure all along, **{pressure[0]:.0%}**: lines come out even. Weight them"
                    " with the plan, or swell them by hand.")  # fmt: skip

    def _tell_rehearsal(self, samples: np.ndarray) -> None:
        """The figures of a pull that is not kept."""
        viewport = self._context.viewport
        raster = raster_of(samples[:, :2], viewport.view.turn)
        steadied = steady(samples, self._session.pulling_nib.steadying, viewport.glass(), raster)
        length = float(np.hypot(*np.diff(steadied.path, axis=0).T).sum())
        seconds = max(float(samples[-1, 3]), 1e-3)
        self._context.say(
            f"Rehearsed, not kept: **{length:.0f} mm** in **{seconds:.1f} s**, {length / seconds:.0f} mm/s; shake"
            f" **{steadied.tremor_mm:.3f} mm**."
        )
