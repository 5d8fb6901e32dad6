"""Board, page Frames: panels drawn, typed, split, merged, lined."""

from functools import partial

from plain_stride import measure
from plain_stride.desk.controls.controls import Choice, Field, Heading, Sentence, Word
from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.tools.frames import FrameTool
from plain_stride.desk.stations.base import Page
from plain_stride.errors import StrideError
from plain_stride.job.board_facts import edges_of, frames_of
from plain_stride.job.frame_changes import FRAME_LINE_MM
from plain_stride.measure import MeasureError
from plain_stride.texts import counted

KEYS_AND_CLIP = (
    "The key N brings the frame under the pen up to fill the view, and back to the page. What lies outside the frames"
    " is dimmed here and clipped on export; lines may run over it."
)
SIDES = {"From the left": 0, "From the top": 1, "Width": 2, "Height": 3}


class FramesPage(Page):
    """The frame that its controls act on is the one chosen in the row of numbers."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._what, self._fault = Sentence(), Sentence("", colour="red")
        self._tool: FrameTool | None = None
        drag = Word("draw and drag frames")
        self._grid, self._gutter = Field("Even rows × columns"), Field("Gutter")
        self._grid.show_text("3 × 2")
        self._numbers = Choice((), "", "Frame")
        self._chosen = ""
        self._fields = {name: Field(name) for name in SIDES}
        across, down, merge = Word("split across"), Word("split down"), Word("merge with next")
        remove, everything, lines = Word("remove it"), Word("remove all"), Word("line all frames")
        self._width = Field("Lines round them")
        self._width.show_text(f"{FRAME_LINE_MM:g} mm")
        self._one = [self._numbers, *self._fields.values(), across, down, merge, remove, everything, self._width, lines]
        self.add(Heading("Frames"), self._what, drag, self._grid, self._gutter, self._fault)
        self.add(self._numbers, *self._fields.values())
        self.add_verbs(across, down)
        self.add_verbs(merge, remove)
        self.add(everything, self._width, lines)
        self.add(Sentence(KEYS_AND_CLIP, colour="faint"))
        drag.clicked.connect(self._drag)
        self._grid.typed.connect(self._make_grid)
        self._gutter.typed.connect(self._set_gutter)
        for name, field in self._fields.items():
            field.typed.connect(partial(self._place, SIDES[name]))
        across.clicked.connect(lambda: self._split("across"))
        down.clicked.connect(lambda: self._split("down"))
        merge.clicked.connect(self._merge)
        remove.clicked.connect(lambda: self._remove([self._key()]))
        everything.clicked.connect(lambda: self._remove(list(frames_of(self.session.job))))
        lines.clicked.connect(self._line)

    def refresh(self) -> None:
        frames = frames_of(self.session.job)
        self._gutter.show_text(f"{edges_of(self.session.job).gutter:g} mm")
        if self._tool is not None and self._tool.chosen and self._tool.chosen[0] in frames:
            self._chosen = self._tool.chosen[0]
        if self._chosen not in frames:
            self._chosen = next(iter(frames), "")
        count = len(frames)
        self._what.say(
            f"**{counted(count, 'frame')}**, {edges_of(self.session.job).gutter:g} mm between them."
            if count else "The sheet has no frames: all of it is one picture."
        )  # fmt: skip
        for widget in self._one:
            widget.setVisible(bool(count))
        if count:
            self._show_numbers(list(frames))
            frame = frames[self._chosen]
            for field, value in zip(self._fields.values(), (frame.x, frame.y, frame.w, frame.h), strict=True):
                field.show_text(f"{value:.1f} mm")

    def _show_numbers(self, keys: list[str]) -> None:
        words = [str(n) for n in range(1, len(keys) + 1)]
        if list(self._numbers.words) != words:
            new = Choice(words, "1", "Frame")
            new.chosen.connect(self._choose)
            self.column.replaceWidget(self._numbers, new)
            self._one[0] = new
            self._numbers.deleteLater()
            self._numbers = new
        self._numbers.show_chosen(str(keys.index(self._chosen) + 1))

    def _choose(self, word: str) -> None:
        self._chosen = list(frames_of(self.session.job))[int(word) - 1]
        if self._tool is not None:
            self._tool.choose(self._chosen)
        self.refresh()

    def _key(self) -> str:
        return self._chosen

    def _drag(self) -> None:
        self._tool = FrameTool(self.session)
        self.tool_wanted.emit(self._tool)

    def _make_grid(self, text: str) -> None:
        try:
            rows, columns = (int(part) for part in text.lower().replace("×", "x").split("x"))
        except ValueError:
            self._fault.say(f"'{text.strip()}' is no grid: write rows × columns, like 3 × 2")
            return
        self._fault.say("")
        self.session.make("frame-grid", rows=rows, columns=columns)

    def _set_gutter(self, text: str) -> None:
        value = self._length(text)
        if value is not None:
            self.session.make("board", gutter_mm=value)

    def _place(self, side: int, text: str) -> None:
        value = self._length(text)
        if value is None:
            return
        frame = frames_of(self.session.job)[self._key()]
        place = [frame.x, frame.y, frame.w, frame.h]
        place[side] = value
        self.session.make("frame", frame=self._key(), x=place[0], y=place[1], w=place[2], h=place[3])
        self.refresh()

    def _length(self, text: str) -> float | None:
        try:
            value = measure.parse_length_mm(text)
            if value < 0:
                raise MeasureError("frames lie on the sheet: type lengths from 0 mm up")
        except StrideError as fault:
            self._fault.say(str(fault))
            self.refresh()
            return None
        self._fault.say("")
        return value

    def _split(self, way: str) -> None:
        self.session.make("frame-split", frame=self._key(), way=way)

    def _merge(self) -> None:
        keys = list(frames_of(self.session.job))
        at = keys.index(self._key())
        if len(keys) < 2:
            self._fault.say("There is no other frame to merge it with.")
            return
        self.session.make("frame-merge", frames=[keys[at], keys[(at + 1) % len(keys)]])

    def _remove(self, keys: list[str]) -> None:
        """Takes frames away, and says what that means for what lies there."""
        left = len(frames_of(self.session.job)) - len(keys)
        if self.session.make("frame-delete", frames=keys) is not None and left:
            words = "What lay in it is outside the frames now: dimmed, and left out of exports. Merge them to keep it."
            self.session.said.emit(words, False)

    def _line(self) -> None:
        width = self._length(self._width.entry.text())
        if width is not None:
            self.session.make("frame-lines", width=width)
