"""The covers of a job's parts, each worked out once and again when its outer lines or its settings change."""

from typing import Protocol

import numpy as np

from plain_stride.form.cover import Cover, drawn_cover, found_cover, hidden_stretches, seen_rings
from plain_stride.job.records import PartRecord
from plain_stride.job.rows import JobRows
from plain_stride.lines.black import Black
from plain_stride.lines.shape import Shape


class Lines(Protocol):
    """Lines by id, as covers ask for them."""

    def __getitem__(self, line: str) -> Shape: ...


class Covers:
    """What hides what. A part that is hidden, or whose cover is off, hides nothing."""

    def __init__(self, job: JobRows, shapes: Lines) -> None:
        self._job, self._shapes = job, shapes
        self._kept: dict[str, tuple[tuple[object, ...], list[Shape], Cover | None]] = {}
        self._over: dict[str, list[Cover]] = {}
        self._now: dict[str, Cover] = {}
        self._version = -1

    def now(self) -> dict[str, Cover]:
        """All covers that hide something, by their part's key."""
        self._bring_up_to_date()
        return self._now

    def over(self, part: str) -> list[Cover]:
        """Covers of the parts in front of a part, nearest first."""
        self._bring_up_to_date()
        return self._over.get(part, [])

    def hiding(self, part: str, shape: Shape | Black) -> tuple[Cover, ...]:
        """Covers of which some lies in a line's box."""
        return tuple(cover for cover in self.over(part) if cover.reaches(shape.box))

    def seen(self, part: str, shape: Shape) -> list[np.ndarray]:
        """Rings of what is seen of a line: all of its edge, or what covers leave of it. (n, 2) mm each."""
        hiding = self.hiding(part, shape)
        return seen_rings(shape.rings, hiding) if hiding else shape.rings

    def hidden(self, part: str, shape: Shape) -> list[tuple[float, float]]:
        """Stretches (from, to) of a line, mm along it, that are hidden."""
        hiding = self.hiding(part, shape)
        return hidden_stretches(*shape.flat, hiding) if hiding else []

    def of(self, part: str) -> Cover | None:
        """A part's cover, whether it is on or off; None where its outer lines enclose nothing."""
        lines = [key for key, line in self._job.rows.lines.items() if line.part == part]
        return self._cover(part, self._job.rows.parts[part], [self._shapes[key] for key in self._outer(lines)])

    def of_all(self) -> dict[str, Cover]:
        """The covers of all parts that are shown, on or off, by their keys; parts that enclose nothing are left out."""
        parts = [part.id for part in self._job.parts() if not part.hidden]
        lines: dict[str, list[str]] = {part: [] for part in parts}
        for key, line in self._job.rows.lines.items():
            if line.part in lines:
                lines[line.part].append(key)
        rows = self._job.rows.parts
        found = {part: self._cover(part, rows[part], [self._shapes[key] for key in self._outer(lines[part])])
                 for part in parts}  # fmt: skip
        return {part: cover for part, cover in found.items() if cover is not None}

    def _outer(self, lines: list[str]) -> list[str]:
        return [key for key in lines if self._job.rows.lines[key].role == "outer"]

    def _bring_up_to_date(self) -> None:
        if self._version == self._job.version:
            return
        parts = [part for part in self._job.parts() if part.cover and not part.hidden]
        lines: dict[str, list[str]] = {part.id: [] for part in parts}
        if parts:
            for key, line in self._job.rows.lines.items():
                if line.part in lines:
                    lines[line.part].append(key)
        self._now, self._over = {}, {}
        for part in parts:
            row = self._job.rows.parts[part.id]
            cover = self._cover(part.id, row, [self._shapes[key] for key in self._outer(lines[part.id])])
            if cover is not None:
                self._now[part.id] = cover
        before: list[Cover] = []
        for part in self._job.parts():
            self._over[part.id] = list(before)
            if part.id in self._now:
                before.append(self._now[part.id])
        self._version = self._job.version

    def _cover(self, part: str, row: PartRecord, outer: list[Shape]) -> Cover | None:
        settings = (row.cover_gap, row.cover_form)
        kept = self._kept.get(part)
        if kept is not None and kept[0] == settings and kept[1] == outer:
            return kept[2]
        ink = (shape.smooth_rings for shape in outer)
        if row.cover_form:
            cover = drawn_cover([np.array(ring) for ring in row.cover_form], ink, row.cover_gap)
        else:
            cover = found_cover([shape.flat[0] for shape in outer], ink, row.cover_gap)
        self._kept[part] = (settings, outer, cover)
        return cover
