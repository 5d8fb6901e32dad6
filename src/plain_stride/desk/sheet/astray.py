"""Pulls that land far from all lines of the part in hand and near those of another: told, never moved silently."""

import numpy as np

from plain_stride.desk.sheet.context import SheetContext
from plain_stride.lines.cross import nearest
from plain_stride.lines.shape import Shape

FAR_MM, NEAR_MM = 12.0, 3.0
"""A pull is astray where no line of its own part comes nearer than FAR_MM to it, and one of another part lies within
NEAR_MM of it for half its length."""
PLACES, MOST_BEHIND = 9, 1000
"""Where more ink than this is still to be looked up, the next pull does not wait for it."""


class AstrayPulls:
    """Looks at each new line once, a moment after it was laid."""

    def __init__(self, context: SheetContext) -> None:
        self._context, self._session = context, context.session
        self._seen = self._session.now.last_line
        self._session.updates.add(self._look)

    def _look(self) -> None:
        key, rows = self._session.now.last_line, self._session.job.rows.lines
        if key == self._seen:
            return
        self._seen = key
        if key is None or key not in rows or rows[key].pull is None or self._context.hits.behind > MOST_BEHIND:
            return
        name = self.other_part(key)
        if name:
            self._session.offered.emit(
                f"This lies in **{name}**, far from all of **{self._session.job.part_of(key).name}**.", "put it there",
                lambda: self._put(key, name),
            )  # fmt: skip

    def other_part(self, key: str) -> str:
        """The name of the part that a line lies in, by its place, where that is not its own; else ''."""
        session, rows = self._session, self._session.job.rows.lines
        shape = session.shapes[key]
        points = shape.flat[0]
        (x0, y0), (x1, y1) = points.min(axis=0) - FAR_MM, points.max(axis=0) + FAR_MM
        others = [k for k in self._context.hits.near((x0, y0, x1, y1)) if k in rows and k != key]
        own = rows[key].part
        if not any(row.part == own for k, row in rows.items() if k != key):
            return ""
        places = shape.arc.point(np.linspace(0.0, shape.length, PLACES))
        # The usual case, and told by the first line that is looked at: it lies where it should.
        if any(_distances(session.shapes[k], places).min() < FAR_MM for k in reversed(others) if rows[k].part == own):
            return ""
        shown = session.shown_parts()
        away = {k: _distances(session.shapes[k], places) for k in others if rows[k].part != own}
        medians = {
            part: float(np.median(np.min([away[k] for k in away if rows[k].part == part], axis=0)))
            for part in {rows[k].part for k in away} & shown
        }
        best = min(medians, key=lambda part: medians[part], default="")
        if not best or medians[best] > NEAR_MM or session.job.rows.parts[best].locked:
            return ""
        return str(session.job.rows.parts[best].name)

    def _put(self, key: str, name: str) -> None:
        if self._session.make("set", lines=[key], part=name) is not None:
            self._session.take(part=name)
            self._session.said.emit(f"It belongs to **{name}**, which is in hand now.", False)


def _distances(shape: Shape, places: np.ndarray) -> np.ndarray:
    """(n,) mm from places (n, 2) to a line."""
    return np.array([nearest(shape.flat[0], place)[0] for place in places])
