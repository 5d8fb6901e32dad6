"""Views of a moment: true print size, a frame up to fill the view, the ink alone. Each is left as it was found."""

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.desk.sheet.view import BoardView
from plain_stride.job.board_facts import frame_under, frames_of


class Moments:
    """What a held key shows, and what a tap keeps."""

    def __init__(self, context: SheetContext) -> None:
        self._context, self._viewport, self._compositor = context, context.viewport, context.compositor
        self._before_print: tuple[BoardView, bool] | None = None
        self._before_frame: BoardView | None = None
        self._before_work: BoardView | None = None

    def print_shown(self) -> bool:
        return self._before_print is not None

    def show_print(self, on: bool) -> None:
        """The ink alone at true print size, or the board as it was."""
        if on and self._before_print is None:
            self._before_print = (self._viewport.view, self.ink_alone())
            self._compositor.look(pencils_off=True)
            self._viewport.show_print_size()
        elif not on and self._before_print is not None:
            (view, pencils_off), self._before_print = self._before_print, None
            self._compositor.look(pencils_off=pencils_off)
            self._viewport.go_back(view)

    def working_shown(self) -> bool:
        return self._before_work is not None

    def show_working(self, on: bool) -> None:
        """The board at its working size, round the pen; or as it was."""
        if on and self._before_work is None:
            self._before_work = self._viewport.view
            self._viewport.working_size()
        elif not on and self._before_work is not None:
            before, self._before_work = self._before_work, None
            self._viewport.go_back(before)

    def frame_shown(self) -> bool:
        return self._before_frame is not None

    def show_frame(self, on: bool) -> None:
        """The frame under the pen, or the first one, up to fill the view; or the board as it was."""
        job = self._context.session.job
        if on and self._before_frame is None:
            frames = frames_of(job)
            if not frames:
                self._context.say("The sheet has no frames: draw them at Board, page Frames.")
                return
            frame = frames[frame_under(job, *self._viewport.place()) or next(iter(frames))]
            self._before_frame = self._viewport.view
            self._viewport.show_box(frame.box)
        elif not on and self._before_frame is not None:
            before, self._before_frame = self._before_frame, None
            self._viewport.go_back(before)

    def ink_alone(self) -> bool:
        return self._compositor.layer.look.pencils_off

    def show_ink_alone(self, on: bool) -> None:
        self._compositor.look(pencils_off=on)

    def as_scanned(self) -> bool:
        return self._compositor.layer.look.as_scanned

    def show_as_scanned(self, on: bool) -> None:
        self._compositor.look(as_scanned=on)

    def show_hand_only(self, on: bool) -> None:
        """Widths of the hand, the plan lifted off."""
        self._compositor.look(hand_only=on)

    def overdo(self, times: float) -> None:
        """Every width so many times as far from the plan's base as it is."""
        self._compositor.look(overdone=times, base=self._context.session.job.plan.base)

    def show_last_off(self) -> None:
        """The drawing without its last change; the job itself stays as it is."""
        history = self._context.session.job.history
        if history.head:
            self._compositor.show_then(history.steps[history.head].parent)

    def show_before(self) -> None:
        """The drawing as it was at the last mark."""
        self._compositor.show_then(self._context.session.timeline.step_before())

    def show_now(self) -> None:
        self._compositor.show_now()
