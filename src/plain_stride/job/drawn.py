"""A job as a drawing: brought up to date with what changed, and no more."""

from collections.abc import Iterable

from plain_stride.form.drawing import Drawing, DrawingKeeper, DrawnLine, Inked
from plain_stride.job.board_facts import frames_of
from plain_stride.job.covers import Covers
from plain_stride.job.history import RowChange
from plain_stride.job.records import LineRecord
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.job.weighing import drawn_parts, plan_counts
from plain_stride.lines.recipe import Worked


class JobDrawing:
    """The drawing of a job. Tell it of changes as they are made; it works them out when it is asked for."""

    def __init__(self, job: JobRows, shapes: Shapes, with_contacts: bool = True) -> None:
        self._job, self._shapes, self._covers = job, shapes, Covers(job, shapes)
        self._keeper = DrawingKeeper(with_contacts)
        self._touched: dict[str, None] = dict.fromkeys(self._lines())
        self._plan = job.plan
        self._seen: dict[str, Worked] = {}

    def _lines(self) -> dict[str, LineRecord]:
        """Lines that are things of their own: strokes of tones are not."""
        return {key: row for key, row in self._job.rows.lines.items() if row.tone is None}

    def changed(self, rows: Iterable[RowChange]) -> None:
        """Takes note of rows that changed."""
        rows = tuple(rows)
        self._touched |= dict.fromkeys(self._job.touched(rows))
        parts = {change.id for change in rows if change.table == "parts"}
        if parts:
            self._touched |= {key: None for key, row in self._job.rows.lines.items() if row.part in parts}
        if self._job.plan != self._plan:
            self._plan = self._job.plan
            self._touched |= dict.fromkeys(self._lines())

    def _weighed_anew(self) -> None:
        """A plan that looks round gives lines other widths when another one changes."""
        if not self._job.plan.is_even and plan_counts(self._job):
            self._touched |= {key: None for key in self._lines()
                              if self._shapes.worked(key) is not self._seen.get(key)}  # fmt: skip

    def now(self) -> Drawing:
        """The drawing as the job stands."""
        self._weighed_anew()
        if not self._touched and self._keeper.now.version:
            return self._keeper.now
        lines = self._lines()
        gone = [key for key in self._touched if key not in lines]
        fresh = [(self._drawn(key), self._shapes.worked(key)) for key in self._touched if key in lines]
        for key in gone:
            self._seen.pop(key, None)
        self._seen |= {drawn.id: worked for drawn, worked in fresh}
        self._touched = {}
        parts = drawn_parts(self._job)
        return self._keeper.change(parts, dict(self._covers.now()), fresh, gone)

    def inked(self) -> Inked:
        """The drawing with final widths, blacks and frames."""
        drawing = self.now()
        shapes = {key: self._shapes[key] for key in drawing.lines}
        blacks = {key: self._shapes.black(key) for key in self._job.rows.blacks}
        return Inked(drawing, shapes, blacks, tuple(frame.box for frame in frames_of(self._job).values()))

    def _drawn(self, line: str) -> DrawnLine:
        row, worked = self._job.rows.lines[line], self._shapes.worked(line)
        return DrawnLine(line, row.part, row.place, row.roles, worked.path, worked.hand, row.family or "", row.draft)
