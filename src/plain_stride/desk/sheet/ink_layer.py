"""Everything on the board that does not move: desk, sheet, rulers, pencils, finished lines. Kept as one picture of
the view; only regions that changed are painted anew."""

import itertools
import math
import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any, Protocol

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPolygonF, QRegion

from plain_stride.desk.look.theme import GREY_GROUND, PART_INKS, THEME, sheet_color
from plain_stride.desk.sheet.bands import SHOWN_BOXES, band_of
from plain_stride.desk.sheet.ink_index import InkIndex
from plain_stride.desk.sheet.page_marks import paint_page_marks, paint_rulers
from plain_stride.desk.sheet.pencil_image import PencilShelf, draw_passes
from plain_stride.desk.sheet.view import BoardView
from plain_stride.form.cover import Cover, seen_rings
from plain_stride.job.art import is_draft
from plain_stride.job.covers import Covers
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import strokes_of
from plain_stride.job.rows import Part
from plain_stride.job.shapes import Shapes
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape, overdone
from plain_stride.render.paths import path_of

Ink = Shape | Black
Seen = tuple[str, Ink, tuple[Cover, ...]]
"""(ink, shape, covers that reach it) of a line or a black."""
QUICK_SCALES = ((8.0, 0.02), (20.0, 0.008))
"""(pixels a mm up to which, mm within which) a line is painted as a strip instead of its true outline."""
CHUNK, PENCIL_ROWS, KEPT_PATHS, SHORT_MM = 4, 16, 40_000, 2.0
"""Lines, and rows of pencils, painted in one step; paths kept; below SHORT_MM a line is mostly ends."""


@dataclass(eq=False)
class _Generation:
    """A picture of the board being painted, step by step.

    region: what of it is painted anew, None for all; changed: what the job has changed meanwhile. Logical pixels.
    """

    view: BoardView
    image: QImage
    steps: Iterator[Callable[[QPainter], None]]
    region: QRegion | None = None
    changed: QRegion = field(default_factory=QRegion)

    def note(self, region: QRegion) -> None:
        """The job has changed there meanwhile."""
        self.changed += region


class Shown(Protocol):
    """What a picture is painted of: the session, or a state of the job that is only looked at."""

    job: Job
    shapes: Shapes
    covers: Covers
    said: Any


@dataclass(frozen=True)
class Look:
    """Views of a moment. pencils_off, as_scanned, hand_only: pencils gone, not cleaned, the plan lifted off; alone: the
    id of the part beside which all others are dimmed, '' for none; by_part: parts told apart by colours; grey_ground:
    the paper grey; left_out: lines that are shown otherwise; overdone: how many times farther from `base` (mm) every
    width is drawn than it is."""

    pencils_off: bool = False
    as_scanned: bool = False
    hand_only: bool = False
    alone: str = ""
    by_part: bool = False
    grey_ground: bool = False
    left_out: frozenset[str] = frozenset()
    overdone: float = 1.0
    base: float = 0.35


class InkLayer:
    """`image` shows the board as `view` has it. A new view, and what changes in this one, is painted in slices beside
    it; `work` swaps it in when it is whole. look: how it is seen."""

    def __init__(self, session: Shown, small_of: "InkLayer | None" = None, rulers: bool = False) -> None:
        """small_of: another picture of the same job, whose paths serve here too; such a one has rulers if asked."""
        self._session = session
        self._rulers_shown = small_of is None or rulers
        self._paths: dict[tuple[int, int], tuple[Ink, QPainterPath]] = small_of._paths if small_of else {}
        self._cut_paths: dict[int, tuple[Ink, tuple[Cover, ...], QPainterPath]] = (
            small_of._cut_paths if small_of else {}
        )
        self.pencils: PencilShelf = small_of.pencils if small_of else PencilShelf(session.said)
        self._next: _Generation | None = None
        self._over: dict[int, tuple[Shape, Shape]] = {}
        self.index = InkIndex()
        self.image = QImage(1, 1, QImage.Format.Format_RGB32)
        self.view: BoardView | None = None
        self.look = Look()

    @property
    def busy(self) -> bool:
        return self._next is not None

    def use(self, look: Look) -> None:
        """What is painted from now on is seen so."""
        self.look = look
        self._over.clear()

    def begin(self, view: BoardView, size: QSize, ratio: float) -> None:
        """Starts to paint a view of `size` logical pixels; one that was not whole yet is given up."""
        image = QImage(size * ratio, QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(ratio)
        image.fill(THEME.color("desk"))
        box = QRectF(0, 0, size.width(), size.height())
        self._next = _Generation(view, image, self._steps(view, ratio, box, None))
        if self.view is None:
            self.image = image

    def work(self, seconds: float) -> QRegion | None:
        """Paints for about so long; gives the region of `image` that was renewed by it, None where nothing was."""
        coming = self._next
        if coming is None:
            return None
        until = time.perf_counter() + seconds
        painter = _open(coming.image)
        if coming.region is not None:
            painter.setClipRegion(coming.region)
        try:
            for step in coming.steps:
                step(painter)
                if time.perf_counter() > until:
                    return None
        finally:
            painter.end()
        self.image, self.view, self._next = coming.image, coming.view, None
        self.mend(coming.changed)
        return QRegion(0, 0, *self._logical_size()) if coming.region is None else coming.region

    def mend(self, region: QRegion) -> None:
        """Has a region of logical pixels painted anew."""
        if region.isEmpty():
            return
        if self._next is not None:
            self._next.note(region)
        elif self.view is not None:
            ratio, box = self.image.devicePixelRatio(), QRectF(region.boundingRect())
            steps = self._steps(self.view, ratio, box, self._lines_in(region, self.view))
            self._next = _Generation(self.view, self.image.copy(), steps, region)

    def lay_on(self, line: str) -> QRegion | None:
        """Paints a new line on the picture at once, where none lies over it; gives what it touched, else None."""
        view = self.view
        seen = next(self._visible([line]), None)
        if self._next is not None or view is None or seen is None:
            return None
        _, part, shape = seen
        x0, y0, x1, y1 = shape.box
        width, height = self._session.job.page.size_mm
        if x0 < 0.0 or y0 < 0.0 or x1 > width or y1 > height:
            return None
        self.index.put(line, shape)
        if self._lies_under_others(part, shape):
            return None
        painter = _open(self.image)
        try:
            self._lines(painter, view, [self._as_seen(line, part, shape)])
        finally:
            painter.end()
        return band_of(shape, view, SHOWN_BOXES)

    def _lies_under_others(self, part: Part, shape: Ink) -> bool:
        """Whether lines of parts in front reach the box of a part's newest line."""
        job = self._session.job
        in_front = {other.id for other in job.parts() if other.order < part.order}
        if not in_front:
            return False
        rows = (job.inked(key) for key in self.index.touching(shape.box))
        return any(row is not None and row.part in in_front for row in rows)

    def _lines_in(self, region: QRegion, view: BoardView) -> set[str]:
        """Lines whose boxes meet a region of logical pixels."""
        back = view.transform.inverted()[0]
        touched: set[str] = set()
        for rect in list(region):  # type: ignore[call-overload]
            seen = back.mapRect(QRectF(rect))
            touched.update(self.index.touching((seen.left(), seen.top(), seen.right(), seen.bottom())))
        return touched

    def _logical_size(self) -> tuple[int, int]:
        size = self.image.deviceIndependentSize().toSize()
        return size.width(), size.height()

    def _steps(
        self, view: BoardView, ratio: float, box: QRectF, only: Iterable[str] | None
    ) -> Iterator[Callable[[QPainter], None]]:
        """What paints a box of a view, back to front, in steps that are short; only: the lines to look at."""
        seen = view.transform.inverted()[0].mapRect(box)
        yield lambda painter: self._ground(painter, view, box)
        if not self.look.pencils_off:
            for top in range(math.floor(box.top()), math.ceil(box.bottom()), PENCIL_ROWS):
                rows = QRectF(box.left(), top, box.width(), PENCIL_ROWS)
                yield partial(self._pencils_under, view=view, ratio=ratio, rows=rows)
        lines = self._seen_lines(
            seen, self._session.job.ink_ids() if only is None else self._session.job.in_order(only)
        )
        while chunk := list(itertools.islice(lines, CHUNK)):
            yield partial(self._lines, view=view, chunk=chunk)
        yield lambda painter: self._top(painter, view, seen)

    def _ground(self, painter: QPainter, view: BoardView, box: QRectF) -> None:
        painter.fillRect(box, THEME.color("desk"))
        self._sheet(painter, view)

    def _pencils_under(self, painter: QPainter, view: BoardView, ratio: float, rows: QRectF) -> None:
        painter.save()
        painter.setClipRect(rows, Qt.ClipOperation.IntersectClip)
        painter.setTransform(view.transform)
        self._draw_pencils(painter, view.scale * ratio)
        painter.restore()

    def _seen_lines(self, seen: QRectF, lines: list[str]) -> Iterator[Seen]:
        x0, y0, x1, y1 = seen.left(), seen.top(), seen.right(), seen.bottom()
        for key, part, shape in self._visible(lines):
            self.index.put(key, shape)
            bx0, by0, bx1, by1 = shape.box
            if bx0 <= x1 and bx1 >= x0 and by0 <= y1 and by1 >= y0:
                yield self._as_seen(key, part, shape)

    def _as_seen(self, key: str, part: Part, shape: Ink) -> Seen:
        """In its part's ink, behind what covers it; a draft is pale and whole, since it is looked at to be judged."""
        if is_draft(self._session.job, key):
            return "draft", shape, ()
        ink = part.ink
        if ink == "black" and self.look.alone not in ("", part.id):
            ink = "dimmed"
        elif ink == "black" and self.look.by_part:
            ink = part_ink(part)
        return ink, shape, self._session.covers.hiding(part.id, shape)

    def _lines(self, painter: QPainter, view: BoardView, chunk: list[Seen]) -> None:
        painter.setTransform(view.transform)
        painter.setPen(Qt.PenStyle.NoPen)
        colours = {"black": sheet_color("ink"), "white": THEME.color("paper"), "draft": sheet_color("pencil"),
                   "dimmed": sheet_color("hair")}  # fmt: skip
        for ink, shape, hiding in chunk:
            painter.setBrush(colours.get(ink) or QColor(ink))
            painter.drawPath(self._cut_path(shape, hiding) if hiding else self.path(shape, view.scale))
        painter.resetTransform()

    def _top(self, painter: QPainter, view: BoardView, seen: QRectF) -> None:
        paint_page_marks(painter, self._session.job, view, seen, self._rulers_shown)
        if view.turn == 0.0 and self._rulers_shown:
            paint_rulers(painter, self._session.job.page.size_mm, view)

    def path(self, shape: Ink, scale: float) -> QPainterPath:
        """The outline of a shape in mm for `scale` pixels a mm, made once: below QUICK_SCALES a strip that the eye
        cannot tell from it."""
        level = next((n for n, (most, _) in enumerate(QUICK_SCALES) if scale <= most), len(QUICK_SCALES))
        if isinstance(shape, Black) or "round" in shape.ends or shape.length < SHORT_MM:
            level = len(QUICK_SCALES)
        kept = self._paths.get((id(shape), level))
        if kept is None or kept[0] is not shape:
            if len(self._paths) > KEPT_PATHS:
                self._paths.clear()
            if isinstance(shape, Shape) and level < len(QUICK_SCALES):
                rings = shape.rings if shape.broken else [shape.strip(QUICK_SCALES[level][1])]
            else:
                rings = shape.rings
            self._paths[id(shape), level] = kept = (shape, path_of(rings))
        return kept[1]

    def _cut_path(self, shape: Ink, hiding: tuple[Cover, ...]) -> QPainterPath:
        """The outline of what covers leave of a shape, made once."""
        kept = self._cut_paths.get(id(shape))
        if kept is None or kept[0] is not shape or kept[1] != hiding:
            if len(self._cut_paths) > KEPT_PATHS:
                self._cut_paths.clear()
            self._cut_paths[id(shape)] = kept = (shape, hiding, path_of(seen_rings(shape.rings, hiding)))
        return kept[2]

    def _visible(self, lines: list[str]) -> Iterator[tuple[str, Part, Ink]]:
        """(line, its part, shape) of those lines that are not hidden."""
        job = self._session.job
        parts = {part.id: part for part in job.parts()}
        for key in lines:
            row = job.inked(key)
            part = parts.get(row.part) if row is not None else None
            if part is not None and not part.hidden and key not in self.look.left_out:
                yield key, part, self.shape(key)

    def shape(self, key: str) -> Ink:
        """A line, or a black, as this picture shows it."""
        shapes = self._session.shapes
        if self.look.hand_only and key in self._session.job.rows.lines:
            return shapes.hand_only(key)
        ink = shapes.ink(key)
        return self._overdone(ink) if self.look.overdone > 1.0 and isinstance(ink, Shape) else ink

    def _overdone(self, shape: Shape) -> Shape:
        """A line with its widths farther from the plan's base; kept as long as the board is looked at so."""
        kept = self._over.get(id(shape))
        if kept is None or kept[0] is not shape:
            kept = self._over[id(shape)] = (shape, overdone(shape, self.look.base, self.look.overdone))
        return kept[1]

    def _sheet(self, painter: QPainter, view: BoardView) -> None:
        w, h = self._session.job.page.size_mm
        sheet = view.transform.map(QPolygonF(QRectF(0, 0, w, h)))
        painter.setPen(Qt.PenStyle.NoPen)
        if THEME.variant == "day":
            painter.setBrush(QColor(0, 0, 0, 38))
            painter.drawPolygon(sheet.translated(3, 3))
        painter.setBrush(QColor(GREY_GROUND) if self.look.grey_ground else THEME.color("paper"))
        painter.drawPolygon(sheet)

    def _draw_pencils(self, painter: QPainter, scale: float) -> None:
        job = self._session.job
        for key, row in job.pencils():
            if row.hidden or row.kind == "reference":
                continue
            if row.places_passes:
                draw_passes(painter, strokes_of(job, key), row.fade, row.tint)
            elif (image := self.pencils.of(job, replace(row, clean=None) if self.look.as_scanned else row)) is not None:
                image.draw(painter, row.placing, scale, row.fade, row.tint)


def part_ink(part: Part) -> str:
    """The colour that tells a part from its neighbours, as #rrggbb: by its place from near to far."""
    return PART_INKS[(part.order - 1) % len(PART_INKS)]


def _open(image: QImage) -> QPainter:
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    return painter
