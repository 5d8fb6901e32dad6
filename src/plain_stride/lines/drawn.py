"""Shapes that are drawn as lines: straights, bows, ellipses, parallels; and what was pulled made so."""

import numpy as np

from plain_stride.lines.errors import LinesError

ROUND_POINTS, BOW_POINTS = 96, 48
LEAST_MM, LEAST_RISE, COARSE_MM = 0.2, 0.01, 0.1
"""The least size of a shape; how far, of its length, a line must rise over its chord to be part of a circle; the grain
below which a line has no bends of its own."""


class DrawnError(LinesError):
    """A shape that cannot be drawn."""


def bow(a: np.ndarray, b: np.ndarray, through: np.ndarray) -> np.ndarray:
    """(n, 2): the arc of a circle from a to b through a point; straight where the three lie on a line."""
    centre = _circle_through(a, b, through)
    if centre is None:
        return np.array([a, b])
    r = float(np.hypot(*(a - centre)))
    t0, t1, t2 = (np.arctan2(*(p - centre)[::-1]) for p in (a, through, b))
    forward = (t1 - t0) % (2 * np.pi) < (t2 - t0) % (2 * np.pi)
    sweep = (t2 - t0) % (2 * np.pi) if forward else -((t0 - t2) % (2 * np.pi))
    t = t0 + np.linspace(0.0, sweep, BOW_POINTS)
    return centre + r * np.column_stack([np.cos(t), np.sin(t)])


def _circle_through(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> np.ndarray | None:
    u, v = b - a, c - a
    cross = float(u[0] * v[1] - u[1] * v[0])
    if abs(cross) < 1e-6 * float(u @ u):
        return None
    d = 2.0 * cross
    x = (v[1] * (u @ u) - u[1] * (v @ v)) / d
    y = (u[0] * (v @ v) - v[0] * (u @ u)) / d
    out: np.ndarray = a + np.array([x, y])
    return out


def ellipse(centre: np.ndarray, half: tuple[float, float], turn: float = 0.0) -> np.ndarray:
    """(n, 2) points round an ellipse, not repeated; half: its half-axes, mm; turn: degrees clockwise of the first.
    Raises CurveError."""
    if min(half) < LEAST_MM / 2.0:
        raise DrawnError("an ellipse needs two sides: drag it open")
    t = np.linspace(0.0, 2.0 * np.pi, ROUND_POINTS, endpoint=False)
    p = np.column_stack([half[0] * np.cos(t), half[1] * np.sin(t)])
    a = np.radians(turn)
    c, s = np.cos(a), np.sin(a)
    out: np.ndarray = p @ np.array([[c, s], [-s, c]]) + centre
    return out


def parallel(points: np.ndarray, gap: float, closed: bool = False) -> np.ndarray:
    """(n, 2): a line beside another at a gap in mm, to its left where the gap is above 0. The inside of tight bends
    is left out where it would turn back on itself. Raises CurveError."""
    import shapely

    coarse = _coarse(np.vstack([points, points[:1]]) if closed else points)
    if len(coarse) < 2:
        raise DrawnError("that line is too short to have one beside it")
    whole = shapely.LineString(coarse)
    # To the left as seen on the sheet, y down, is the other side for a library whose y goes up.
    beside = shapely.offset_curve(whole, -gap, quad_segs=16, join_style="round")
    parts = [p for p in shapely.get_parts(beside) if p.length > LEAST_MM]
    if not parts:
        raise DrawnError("nothing is left of a line at that gap: it bends more tightly")
    out: np.ndarray = shapely.get_coordinates(max(parts, key=lambda p: p.length))
    if not closed and np.hypot(*(out[0] - points[0])) > np.hypot(*(out[-1] - points[0])):
        out = out[::-1]
    return out[:-1] if closed and len(out) > 3 and np.allclose(out[0], out[-1]) else out


def _coarse(points: np.ndarray) -> np.ndarray:
    """Without the hooks, finer than COARSE_MM, in which a pull begins and ends: a parallel would turn round them."""
    keep = [points[0]]
    for p in points[1:]:
        if np.hypot(*(p - keep[-1])) >= COARSE_MM:
            keep.append(p)
    return np.array(keep)


def rounded(points: np.ndarray) -> tuple[np.ndarray, bool]:
    """(the circle or the arc that fits points (n, 2) best, whether it is closed). Raises DrawnError for a straight.

    By least squares of x2 + y2 + ax + by + c (Kasa 1976)."""
    chord = points[-1] - points[0]
    off = points - points[0]
    rise = np.abs(chord[0] * off[:, 1] - chord[1] * off[:, 0]).max() / max(float(np.hypot(*chord)), 1e-9)
    length = float(np.hypot(*np.diff(points, axis=0).T).sum())
    if float(np.hypot(*chord)) > 0.5 * length and rise < LEAST_RISE * length:
        raise DrawnError("that line bends too little to be round: straighten it instead")
    m = np.column_stack([points, np.ones(len(points))])
    a, b, c = np.linalg.lstsq(m, -(points**2).sum(axis=1), rcond=None)[0]
    centre = np.array([-a / 2.0, -b / 2.0])
    r = max(float(centre @ centre - c), 0.0) ** 0.5
    t = np.unwrap(np.arctan2(*(points - centre).T[::-1]))
    if abs(t[-1] - t[0]) > 1.8 * np.pi:
        return ellipse(centre, (r, r)), True
    at = np.linspace(t[0], t[-1], BOW_POINTS)
    return centre + r * np.column_stack([np.cos(at), np.sin(at)]), False


def elliptic(points: np.ndarray) -> tuple[np.ndarray, bool]:
    """(the ellipse or its arc that fits points (n, 2) best, whether it is closed). Raises DrawnError where none does.

    The direct least squares fit of Fitzgibbon in the stable form of Halir and Flusser (1998)."""
    mean, size = points.mean(axis=0), max(float(np.ptp(points, axis=0).max()), 1e-9)
    x, y = ((points - mean) / size).T
    quadratic, linear = np.column_stack([x * x, x * y, y * y]), np.column_stack([x, y, np.ones(len(x))])
    s1, s2, s3 = quadratic.T @ quadratic, quadratic.T @ linear, linear.T @ linear
    try:
        t = -np.linalg.solve(s3, s2.T)
        m = np.linalg.inv(np.array([[0.0, 0.0, 2.0], [0.0, -1.0, 0.0], [2.0, 0.0, 0.0]])) @ (s1 + s2 @ t)
        _, vectors = np.linalg.eig(m)
    except np.linalg.LinAlgError:
        raise DrawnError("no ellipse lies along that line") from None
    vectors = np.real(vectors)
    fits = 4.0 * vectors[0] * vectors[2] - vectors[1] ** 2
    if not (fits > 0.0).any():
        raise DrawnError("no ellipse lies along that line")
    first = vectors[:, int(np.argmax(fits))]
    return _along_conic(np.concatenate([first, t @ first]), points, mean, size)


def _along_conic(conic: np.ndarray, points: np.ndarray, mean: np.ndarray, size: float) -> tuple[np.ndarray, bool]:
    """The stretch of an ellipse, a x2 + b xy + c y2 + d x + e y + f = 0 of points less their mean, over their size."""
    a, b, c, d, e, f = conic
    form = np.array([[a, b / 2.0], [b / 2.0, c]])
    centre = np.linalg.solve(2.0 * form, -np.array([d, e]))
    level = float(centre @ form @ centre) - f
    values, axes = np.linalg.eigh(form)
    squares = level / values
    if not (squares > 0.0).all() or squares.max() > 1e4 * squares.min() or squares.max() > 1e4:
        raise DrawnError("no ellipse lies along that line")
    half = np.sqrt(squares)
    u = ((points - mean) / size - centre) @ axes / half
    angle = np.unwrap(np.arctan2(u[:, 1], u[:, 0]))
    closed = abs(angle[-1] - angle[0]) > 1.8 * np.pi
    end = angle[0] + 2.0 * np.pi * np.sign(angle[-1] - angle[0]) if closed else angle[-1]
    at = np.linspace(angle[0], end, ROUND_POINTS, endpoint=not closed)
    made = (np.column_stack([np.cos(at), np.sin(at)]) * half) @ axes.T + centre
    return made * size + mean, bool(closed)


def straightened(points: np.ndarray) -> tuple[np.ndarray, bool]:
    """(the straight from end to end of points (n, 2), never closed). Raises DrawnError for a line that goes round."""
    if np.hypot(*(points[-1] - points[0])) < LEAST_MM:
        raise DrawnError("that line goes round: it cannot be made straight")
    return points[[0, -1]], False


SHAPES = {"straight": straightened, "round": rounded, "ellipse": elliptic}
_COSTS = {"straight": 1.0, "round": 1.4, "ellipse": 2.0}
"""A shape that can bend more must lie so much nearer to be meant."""


def shapes_meant(points: np.ndarray) -> list[tuple[str, np.ndarray, bool]]:
    """(name, points (n, 2), whether it is closed) of each of SHAPES that a line (m, 2) could be meant as, the likeliest
    first. All in mm."""
    made = []
    for name, make in SHAPES.items():
        try:
            shape, closed = make(points)
        except DrawnError:
            continue
        ring = np.vstack([shape, shape[:1]]) if closed else shape
        made.append((_COSTS[name] * _apart(points, ring), name, shape, closed))
    return [(name, shape, closed) for _, name, shape, closed in sorted(made, key=lambda one: one[0])]


def _apart(points: np.ndarray, line: np.ndarray) -> float:
    """Root mean square distance, mm, of points from a chain of points."""
    import shapely

    away = shapely.distance(shapely.LineString(line), shapely.points(points))
    return float(np.sqrt((away**2).mean()))
