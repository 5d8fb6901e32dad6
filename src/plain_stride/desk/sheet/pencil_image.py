"""Pencils as they are shown: cleaned, placed, faded and tinted, at a resolution that fits the view."""

from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen, qRgba
from shiboken6 import isValid

from plain_stride.errors import StrideError
from plain_stride.job.job import Job
from plain_stride.job.pencil_sheets import prepared
from plain_stride.pencils.pencil_passes import stroke_darkness, stroke_width
from plain_stride.pencils.placing import Placing
from plain_stride.render.paths import polyline

TINT_COLOURS = {"pale blue": (38, 104, 176), "as drawn": (23, 22, 26), "red": (176, 52, 40), "green": (38, 120, 70),
                "violet": (104, 62, 150)}  # fmt: skip


Key = tuple[object, ...]
KEPT = 6
"""Pictures that are kept of sheets as they were cleaned before."""


class PencilShelf(QObject):
    """Pictures of the sheets of pencils, each decoded and cleaned once and again when that changes. What takes long is
    done beside the window, which shows the picture of before meanwhile; ready: a new one is there."""

    ready = Signal()

    def __init__(self, said: Any) -> None:
        super().__init__()
        self._said = said
        self._kept: dict[Key, PencilImage | None] = {}
        self._coming: dict[Key, Future[PencilImage]] = {}
        self._worker = ThreadPoolExecutor(1)

    @property
    def busy(self) -> bool:
        return any(not work.done() for work in self._coming.values())

    def of(self, job: Job, row: Any) -> "PencilImage | None":
        """None, said once, where the file in the job is damaged."""
        key = (row.image, repr(row.corners), repr(row.clean),
               (row.w_mm, row.h_mm) if row.corners or row.clean else None)  # fmt: skip
        if key in self._coming and self._coming[key].done():
            self._keep(key, row, self._coming.pop(key).result)
        if key not in self._kept:
            data = job.image(str(row.image))
            if row.corners is None and row.clean is None:
                self._keep(key, row, lambda: PencilImage(prepared(data, row)))
            else:
                return self._meanwhile(job, row, key, data)
        return self._kept[key]

    def _keep(self, key: Key, row: Any, work: Callable[[], "PencilImage"]) -> None:
        while len(self._kept) >= KEPT:
            del self._kept[next(iter(self._kept))]
        try:
            self._kept[key] = work()
        except StrideError as fault:
            self._kept[key] = None
            self._said.emit(f"Pencils '{row.name}' cannot be shown: {fault}. The lines are all there.", True)

    def _tell(self) -> None:
        # The board may be gone by the time that its picture is there.
        if isValid(self):
            self.ready.emit()

    def _meanwhile(self, job: Job, row: Any, key: Key, data: bytes) -> "PencilImage | None":
        """Has a picture made beside the window; gives the newest one of the same sheet until it is there."""
        if key not in self._coming:
            self._coming[key] = work = self._worker.submit(lambda: PencilImage(prepared(data, row)))
            work.add_done_callback(lambda done: self._tell())
        before = [picture for old, picture in self._kept.items() if old[0] == key[0]]
        return before[-1] if before else self.of(job, {**row, "corners": None, "clean": None})


class PencilImage:
    """One sheet of pencils, kept at halved sizes."""

    def __init__(self, dark: np.ndarray) -> None:
        """dark: uint8 (h, w), 0 paper to 255."""
        self._levels = [to_full_range(dark)]
        while min(self._levels[-1].shape) > 256:
            self._levels.append(_halved(self._levels[-1]))
        self._shown: dict[int, QImage] = {}
        self._look: tuple[float, str] | None = None

    def draw(self, painter: QPainter, place: Placing, scale: float, fade: float, tint: str) -> None:
        """Paints it in its place (mm) through the painter's transform; scale: device pixels for one mm."""
        if (fade, tint) != self._look:
            self._shown.clear()
            self._look = (fade, tint)
        per_mm = self._levels[0].shape[1] / max(place.w, 1e-9)
        level = int(np.clip(np.floor(np.log2(max(per_mm / max(scale, 1e-9), 1.0))), 0, len(self._levels) - 1))
        if level not in self._shown:
            self._shown[level] = tinted_image(self._levels[level], fade, tint)
        rect = QRectF(-place.w / 2.0, -place.h / 2.0, place.w, place.h)
        painter.save()
        painter.translate(*place.middle)
        painter.rotate(place.turn)
        if place.crop is not None:
            left, top, right, bottom = place.crop
            kept = QRectF(rect.left() + left * place.w, rect.top() + top * place.h, (right - left) * place.w,
                          (bottom - top) * place.h)  # fmt: skip
            painter.setClipRect(kept, Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(rect, self._shown[level])
        painter.restore()


def tint_colour(tint: str) -> QColor:
    """The colour of a tint by name, or as #rrggbb."""
    return QColor(tint) if tint.startswith("#") else QColor(*TINT_COLOURS.get(tint, TINT_COLOURS["as drawn"]))


def faded(fade: float, tint: str) -> tuple[QColor, float]:
    """(colour, strength 0..1) in which the blackest pencil is as dark as `fade` of ink, whatever the tint."""
    colour = tint_colour(tint)
    depth = max(1.0 - colour.lightnessF(), 0.05)
    strength = fade / depth
    if strength > 1.0:
        return colour.darker(round(100 * strength)), 1.0
    return colour, strength


def draw_passes(painter: QPainter, strokes: Sequence[np.ndarray], fade: float, tint: str) -> None:
    """Pencil passes (n, 3) through the painter's transform: as soft and pale as each was pressed."""
    colour, strength = faded(fade, tint)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for stroke in strokes:
        press = float(np.mean(stroke[:, 2]))
        colour.setAlphaF(min(1.0, strength * float(stroke_darkness(np.array(press)))))
        pen = QPen(colour, float(stroke_width(np.array(press))))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        points = stroke[:, :2] if len(stroke) > 1 else np.repeat(stroke[:, :2], 2, axis=0) + [[0, 0], [0.01, 0]]
        painter.drawPolyline(polyline(points))


def tinted_image(dark: np.ndarray, fade: float, tint: str) -> QImage:
    """Darkness (h, w) as colour on nothing: the blackest pencil is as dark as `fade` of ink, whatever the tint."""
    colour, strength = faded(fade, tint)
    h, w = dark.shape
    image = QImage(dark.data, w, h, w, QImage.Format.Format_Indexed8)
    r, g, b = colour.red(), colour.green(), colour.blue()
    image.setColorTable([qRgba(r, g, b, round(v * strength)) for v in range(256)])
    return image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied, Qt.ImageConversionFlag.NoOpaqueDetection)


def to_full_range(dark: np.ndarray) -> np.ndarray:
    """Darkness with the paper's own tone taken to 0 and the blackest pencil to 255, so that a fade means one thing
    for soft and hard pencils, bright and dull scans."""
    sample = dark[:: max(1, dark.shape[0] // 1000), :: max(1, dark.shape[1] // 1000)]
    paper = float(np.percentile(sample, 50))
    marks = sample[sample > paper + 24.0]
    black = float(np.percentile(marks, 90)) if marks.size else 255.0
    table = np.clip((np.arange(256) - paper - 3.0) / max(black - paper - 3.0, 1.0), 0.0, 1.0)
    return np.ascontiguousarray((table * 255.0).astype(np.uint8)[dark])


def _halved(a: np.ndarray) -> np.ndarray:
    h, w = a.shape[0] // 2 * 2, a.shape[1] // 2 * 2
    wide = a[:h, :w].astype(np.uint16)
    total = wide[::2, ::2] + wide[1::2, ::2] + wide[::2, 1::2] + wide[1::2, 1::2]
    return np.ascontiguousarray(total // 4, np.uint8)
