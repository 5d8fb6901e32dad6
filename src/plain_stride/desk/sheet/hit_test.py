"""Which ink lies under a place, or inside a loop: looked up by boxes, so that it costs the same on a full sheet."""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.ink_index import InkIndex
from plain_stride.job.history import RowChange
from plain_stride.lines.black import Black, filled_rings, winding
from plain_stride.lines.cross import nearest
from plain_stride.lines.shape import Shape

REACH_PX = 14.0
LOOKS = 4


@dataclass(frozen=True)
class Touch:
    """A place on a line: id, arc length in mm, distance in mm from where the pen points."""

    line: str
    s: float
    away: float


class HitTest:
    """Ink that is seen and not dimmed, of the open job as it is now."""

    def __init__(self, session: Session) -> None:
        self._session, self._index = session, InkIndex()
        self._old: set[str] | None = None
        session.changed.connect(self._job_changed)

    def line_at(self, place: tuple[float, float], scale: float, first: Collection[str] = ()) -> Touch | None:
        """The line nearest to a place in mm within REACH_PX, the nearer part where several are; None without any.
        scale: pixels a mm; first: lines that go before all others."""
        reach, (x, y), at = REACH_PX / scale, place, np.array(place)
        shown, rows = self._session.shown_parts(), self._session.job.rows.lines
        near = [key for key in reversed(self.near((x - reach, y - reach, x + reach, y + reach)))
                if key in rows and rows[key].part in shown]  # fmt: skip
        # Those that may lie nearest are looked at first; what cannot be nearer than the best is not gone along.
        least = {key: (key not in first, _at_least(self._session.shapes[key], at)) for key in near}
        best: tuple[tuple[bool, float, int], Touch] | None = None
        for rank, key in sorted(enumerate(near), key=lambda item: least[item[1]]):
            if least[key][1] > reach or (best is not None and least[key] > best[0][:2]):
                continue
            touch = self._touch(key, at)
            found = (key not in first, round(touch.away, 6), rank)
            if touch.away <= reach and (best is None or found < best[0]) and not self._covered(key, place):
                best = (found, touch)
        return best[1] if best is not None else None

    def black_at(self, place: tuple[float, float]) -> str:
        """The foremost visible black that a place in mm lies in; '' for none."""
        at, (x, y) = np.array([place]), place
        shown, rows = self._session.shown_parts(), self._session.job.rows.blacks
        for key in reversed(self.near((x, y, x, y))):
            if key in rows and rows[key].part in shown:
                rings = self._session.shapes.black(key).rings
                if sum(int(winding(ring, at)[0]) for ring in rings):
                    return key
        return ""

    def inside(self, loop: np.ndarray, touching: bool = False) -> list[str]:
        """Lines and blacks that lie inside a loop (n, 2) in mm by more than half their length or edge; touching: those
        that it only touches as well. What is locked is left out."""
        (x0, y0), (x1, y1) = loop.min(axis=0), loop.max(axis=0)
        shown, rows = self._session.shown_parts() - self._locked(), self._session.job.inked_rows()
        keys = [key for key in self.near((float(x0), float(y0), float(x1), float(y1))) if rows[key].part in shown]
        if not keys:
            return []
        inks = [self._session.shapes.ink(key) for key in keys]
        shares, touched = _within_loop(loop, inks)
        chosen = (shares > 0.5) | touched if touching else shares > 0.5
        return [keys[k] for k in np.flatnonzero(chosen).tolist()]

    def _locked(self) -> set[str]:
        return {part.id for part in self._session.job.parts() if part.locked}

    def _touch(self, key: str, place: np.ndarray) -> Touch:
        shape = self._session.shapes[key]
        points, s = shape.flat
        away, index = nearest(points, place)
        on = float(np.interp(index, np.arange(len(s)), s))
        half = sum(float(v[0]) for v in shape.widths.at(np.array([on]))) / 2.0
        return Touch(key, on, max(away - half, 0.0))

    def _covered(self, key: str, place: tuple[float, float]) -> bool:
        part, at = self._session.job.rows.lines[key].part, np.array([place])
        return any(cover.holds(at)[0] for cover in self._session.covers.hiding(part, self._session.shapes[key]))

    @property
    def behind(self) -> int:
        """How much ink is not looked up by its box yet; all of a job that was just opened."""
        return len(self._session.job.inked_rows()) if self._old is None else len(self._old)

    def near(self, box: tuple[float, float, float, float]) -> list[str]:
        """Ink whose box meets a box in mm, back to front."""
        self._bring_up_to_date()
        return self._session.job.in_order(self._index.touching(box))

    def _bring_up_to_date(self) -> None:
        job, shapes = self._session.job, self._session.shapes
        for key in job.ink_ids() if self._old is None else self._old:
            self._index.put(key, shapes.ink(key) if job.inked(key) is not None else None)
        self._old = set()

    def _job_changed(self, rows: tuple[RowChange, ...]) -> None:
        if {change.table for change in rows} & {"plan", "parts"}:
            self._old = None
        elif self._old is not None:
            self._old.update(self._session.job.touched(rows))


def _at_least(shape: Shape, place: np.ndarray) -> float:
    """mm that a place lies from a line's ink at least."""
    return max(shape.at_least(place) - float(max(shape.widths.left.max(), shape.widths.right.max())), 0.0)


def _within_loop(loop: np.ndarray, inks: list[Shape | Black]) -> tuple[np.ndarray, np.ndarray]:
    """(what share (n,) of each line's length, or of a black's edge, lies inside a loop, whether (n,) any of it does),
    by LOOKS places on each of their pieces."""
    import shapely

    rings = [shapely.Polygon(ring) for ring in filled_rings([loop], "nonzero")]
    area = shapely.union_all([ring for ring in rings if ring.exterior.is_ccw])
    area = shapely.difference(area, shapely.union_all([ring for ring in rings if not ring.exterior.is_ccw]))
    curves = [ink.curve if isinstance(ink, Shape) else np.concatenate(ink.curves) for ink in inks]
    counts = np.array([len(curve) for curve in curves])
    pieces = np.concatenate(curves)
    u = ((np.arange(LOOKS) + 0.5) / LOOKS)[None, :, None]
    v, c = 1.0 - u, pieces[:, None]
    at = v**3 * c[:, :, 0] + 3 * v * v * u * c[:, :, 1] + 3 * v * u * u * c[:, :, 2] + u**3 * c[:, :, 3]
    shapely.prepare(area)
    within = shapely.contains_xy(area, at[..., 0].ravel(), at[..., 1].ravel()).reshape(-1, LOOKS).mean(axis=1)
    # A piece is nearly as long as the way over its handles.
    long = np.hypot(*np.moveaxis(np.diff(pieces, axis=1), -1, 0)).sum(axis=1)
    first = np.concatenate([[0], np.cumsum(counts)[:-1]])
    chains = shapely.linestrings(at.reshape(-1, 2), indices=np.repeat(np.arange(len(inks)), counts * LOOKS))
    shares = np.add.reduceat(within * long, first) / np.maximum(np.add.reduceat(long, first), 1e-12)
    return shares, shapely.intersects(area, chains)
