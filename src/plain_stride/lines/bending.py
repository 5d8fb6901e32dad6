"""A line bent where it is wrong, and carried on past its ends. What lies outside a bend stays as it was, piece by
piece; what lies inside is fitted anew. Both are kept in the line's own place, before it was moved anywhere.
"""

import itertools
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from plain_stride.lines.curve import Arc, between, direction, straight
from plain_stride.lines.fit import fit_smooth, path_directions

WITHIN_MM, STEP_MM, LEAST_STEPS = 0.002, 0.15, 24
"""How near a bent stretch is fitted, and apart of the places by which it is."""
FREE_END_MM, LEAST_REACH_MM, MOST_REACH_MM, STILL_MM = 1.0, 0.2, 500.0, 1e-7
"""A bend that takes hold so near an end takes the end along, elsewhere ends stay; what moves by less has not moved."""
KINK_RAD = 0.05
HOOK_MM, TIP_MM, HOOKED_RAD, STRAIGHT_MM, STEEPEST = 1.0, 0.2, 0.1, 2.0, 2.0
"""Where lines run on, an end's direction is that of so much of it, as a hand hooks; where one is carried on, of so
much, if its very end runs otherwise by more than that; a turned end is straightened over so much, and turned by no more
than this slope."""
CURVED_MM, TIGHTEST_MM, MOST_GROWN_MM, TURN_RAD = 4.0, 3.0, 200.0, 0.7
"""An end is carried on in the mean curvature of its last stretch, never more tightly than that, by so many mm at most,
in pieces that turn by no more."""


@dataclass(frozen=True)
class Bend:
    """at: the source parameter where the line was taken hold of; by: dx, dy mm it was drawn there; reach: mm along the
    line to either side over which it gives."""

    at: float
    by: tuple[float, float]
    reach: float


@dataclass(frozen=True)
class Push:
    """Whatever lies within `reach` mm of a place goes along with it, the less the farther away, as the place goes from
    one point of `path` (x, y) mm to the next. Lines that meet there give together, and meet still."""

    path: tuple[tuple[float, float], ...]
    reach: float


@dataclass(frozen=True)
class EndTurn:
    """An end set into another direction, where it lies. at: its source parameter, and whether it is the line's end;
    way: the direction (dx, dy), of any length, in which the line runs there; reach: mm along it over which it gives."""

    at: float
    at_end: bool
    way: tuple[float, float]
    reach: float


Give = Bend | Push | EndTurn
EndWays = Mapping[int, np.ndarray]
"""Directions (2,), of any length, of a stretch's start (0) and end (-1)."""


@dataclass(frozen=True)
class Growth:
    """mm by which a line goes on beyond its start and its end."""

    start: float = 0.0
    end: float = 0.0


@dataclass(frozen=True, eq=False)
class Course:
    """A centreline before it is moved: curve (m, 4, 2) mm; s, source_t (k,): arc lengths and source parameters."""

    curve: np.ndarray
    s: np.ndarray
    source_t: np.ndarray


def bent(course: Course, bends: tuple[Give, ...], closed: bool = False) -> Course:
    """The course with its bends, in the order in which they were made. A closed one gives across its seam."""
    for bend in bends:
        if isinstance(bend, Push):
            course = _pushed(course, bend, closed)
        elif isinstance(bend, EndTurn):
            course = _end_turned(course, bend)
        else:
            course = _ring_bent(course, bend) if closed else _bent(course, bend)
    return course


def pushed(points: np.ndarray, push: Push) -> np.ndarray:
    """Places (n, 2) mm where a push takes them."""
    out = points.copy()
    path = np.array(push.path)
    for at, by in zip(path[:-1], np.diff(path, axis=0), strict=True):
        away = np.minimum(((out - at) ** 2).sum(axis=1) / push.reach**2, 1.0)
        out += ((1.0 - away) ** 3)[:, None] * by
    return out


def _pushed(course: Course, push: Push, closed: bool) -> Course:
    arc = Arc(course.curve)
    dense = places_along(arc, 0.0, arc.length)
    before = arc.point(dense)
    after = pushed(before, push)
    gives = np.flatnonzero(np.hypot(*(after - before).T) > STILL_MM)
    if not len(gives):
        return course
    ends = gives[0] <= 1 and gives[-1] >= len(dense) - 2
    if closed and ends and len(gives) < len(dense) - 2:
        # It gives on both sides of the seam: the ring is opened where it does not.
        still = np.setdiff1d(np.arange(len(dense)), gives)
        return _opened_at(course, arc, float(dense[still[len(still) // 2]]), lambda c: _pushed(c, push, False))
    first, last = max(int(gives[0]) - 1, 0), min(int(gives[-1]) + 1, len(dense) - 1)
    a, b = float(dense[first]), float(dense[last])
    inside = places_along(arc, a, b)
    moved = pushed(arc.point(inside), push)
    course = _finer(course, a, 0.0, b - a)
    curve, s = _laid_in(arc, course.s, inside, moved)
    return Course(curve, s, course.source_t)


def _opened_at(course: Course, arc: Arc, cut: float, change: Callable[[Course], Course]) -> Course:
    """A ring, changed as if it began and ended elsewhere, with its seam where it was."""
    seam = arc.length - cut
    order = np.argsort((course.s[:-1] - cut) % arc.length)
    places = np.append((course.s[:-1] - cut)[order] % arc.length, arc.length)
    # What each place is stays with it: the places are told by their number, and put back in order after.
    turned = Course(_turned(arc, cut), np.append(0.0, places), np.arange(len(places) + 1.0))
    done = change(turned)
    whole = Arc(done.curve)
    at_seam = float(np.interp(seam, turned.s, np.interp(turned.source_t, done.source_t, done.s)))
    moved = np.interp(np.arange(1.0, len(places)), done.source_t, done.s)
    s = np.empty(len(course.s))
    s[order] = (moved - at_seam) % whole.length
    s[0], s[-1] = 0.0, whole.length
    return Course(_turned(whole, at_seam), np.maximum.accumulate(s), course.source_t)


def grown(course: Course, growth: Growth) -> Course:
    """The course carried on past its ends, along its own curvature; source parameters go on evenly."""
    arc = Arc(course.curve)
    rate = float(course.source_t[-1] - course.source_t[0]) / max(arc.length, 1e-9)
    curves, s, source_t = [course.curve], course.s, course.source_t
    if growth.end > 0.0:
        curves.append(_carried_on(arc, growth.end))
        s = np.append(s, arc.length + growth.end)
        source_t = np.append(source_t, source_t[-1] + rate * growth.end)
    if growth.start > 0.0:
        back = _carried_on(Arc(course.curve[::-1, ::-1]), growth.start)
        curves.insert(0, back[::-1, ::-1])
        s = np.append(0.0, s + growth.start)
        source_t = np.append(source_t[0] - rate * growth.start, source_t)
    return Course(np.concatenate(curves), s, source_t)


def on_from(arc: Arc, mm: np.ndarray) -> np.ndarray:
    """Places (n, 2), so many mm (n,) past its end, at which a curve goes on along its own curvature."""
    place, angle, curvature = _at_end(arc)
    turn = curvature * mm[:, None]
    # The chord of an arc: its length times sin(turn / 2) / (turn / 2), half the turn aside of the tangent.
    way = angle + turn / 2.0
    out: np.ndarray = place + mm[:, None] * np.sinc(turn / (2.0 * np.pi)) * np.hstack([np.cos(way), np.sin(way)])
    return out


def _carried_on(arc: Arc, mm: float) -> np.ndarray:
    """The arc (m, 4, 2), so many mm long, in which a curve goes on from its end."""
    place, angle, curvature = _at_end(arc)
    n = max(1, int(np.ceil(abs(curvature) * mm / TURN_RAD)))
    pieces = []
    for _ in range(n):
        piece, angle, place = _arc_piece(place, angle, curvature, mm / n)
        pieces.append(piece)
    return np.array(pieces)


def _at_end(arc: Arc) -> tuple[np.ndarray, float, float]:
    """(the place (2,) of a curve's end, the angle of its direction, its curvature in 1 / mm) over its last stretch. A
    hook of the hand at the very end is none of its direction."""
    reach = min(CURVED_MM, arc.length / 2.0)
    hook = min(TIP_MM, reach / 2.0)
    a, b, c, d = arc.point(arc.length - np.array([reach, reach - hook, hook, 0.0]))
    turn = _angle(b - a, d - c)
    curvature = float(np.clip(turn / max(reach - hook, 1e-9), -1.0 / TIGHTEST_MM, 1.0 / TIGHTEST_MM))
    # The chord of an arc runs as the arc does in its middle.
    angle = float(np.arctan2(*(d - c)[::-1])) + curvature * hook / 2.0
    last = direction(arc.curve, np.array([len(arc.curve) - 1]), np.array([1.0]))[0]
    off = _angle(np.array([np.cos(angle), np.sin(angle)]), last)
    return arc.curve[-1, 3], angle + (off if abs(off) < HOOKED_RAD else 0.0), curvature


def _angle(a: np.ndarray, b: np.ndarray) -> float:
    """By how much b (2,) is turned against a, radians."""
    return float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))


def _arc_piece(at: np.ndarray, angle: float, curvature: float, mm: float) -> tuple[np.ndarray, float, np.ndarray]:
    """(a cubic (4, 2) of a circle's arc, the angle it ends with, its end). By 4/3 tan of a quarter of its turn."""
    turn = curvature * mm
    way, on = (np.array([np.cos(a), np.sin(a)]) for a in (angle, angle + turn))
    if abs(turn) < 1e-9:
        end, handle = at + way * mm, mm / 3.0
    else:
        side = np.array([-np.sin(angle), np.cos(angle)]) / curvature
        end = at + side + np.array([np.sin(angle + turn), -np.cos(angle + turn)]) / curvature
        handle = 4.0 / 3.0 * np.tan(turn / 4.0) / curvature
    return np.array([at, at + way * handle, end - on * handle, end]), angle + turn, end


def _tangent(arc: Arc, s: float) -> np.ndarray:
    k, u = arc.locate(np.array([s]))
    return np.asarray(direction(arc.curve, k, u)[0])


def _bent(course: Course, bend: Bend) -> Course:
    arc = Arc(course.curve)
    middle = float(np.interp(bend.at, course.source_t, course.s))
    ahead, behind = (_reach(bend.reach, room) for room in (arc.length - middle, middle))
    course = _finer(course, middle, behind, ahead)
    curve, s = _give(arc, course.s, middle, (behind, ahead), bend.by)
    return Course(curve, s, course.source_t)


def _end_turned(course: Course, turn: EndTurn) -> Course:
    arc = Arc(course.curve)
    at = float(np.interp(turn.at, course.source_t, course.s))
    course = _finer(course, at, turn.reach if turn.at_end else 0.0, 0.0 if turn.at_end else turn.reach)
    a, b = (max(at - turn.reach, 0.0), arc.length) if turn.at_end else (0.0, min(at + turn.reach, arc.length))
    dense = places_along(arc, a, b)
    inwards = at - dense if turn.at_end else dense - at
    way, place = np.array(turn.way) / np.hypot(*turn.way), arc.point(np.array([at]))
    own = end_way(arc, at, turn.at_end)
    slope = (own[0] * way[1] - own[1] * way[0]) / max(float(own @ way), 1e-9)
    # No step in place at the end, nor in direction where it fades.
    share = np.clip(1.0 - inwards / turn.reach, 0.0, 1.0) ** 2
    left = np.array([-own[1], own[0]]) * np.clip(slope, -STEEPEST, STEEPEST)
    points = arc.point(dense)
    moved = points + ((dense - at) * share)[:, None] * left
    straight_share = (1.0 - np.clip(inwards / min(STRAIGHT_MM, turn.reach), 0.0, 1.0) ** 2) ** 3
    moved += straight_share[:, None] * (place + (dense - at)[:, None] * way - moved)
    # What a trim took goes along as it was, turned round the end.
    beyond, cos, sin = inwards < -1e-9, float(own @ way), float(own[0] * way[1] - own[1] * way[0])
    moved[beyond] = place + (points[beyond] - place) @ np.array([[cos, sin], [-sin, cos]])
    ends = {} if beyond.any() else {-1 if turn.at_end else 0: way}
    return Course(*_laid_in(arc, course.s, dense, moved, ends), course.source_t)


def end_way(arc: Arc, at: float, at_end: bool) -> np.ndarray:
    """(2,), of length 1: the direction in which a curve runs at an end, arc length `at`, over its last mm."""
    reach = min(HOOK_MM, arc.length / 2.0)
    a, b = arc.point(np.array([at - reach, at] if at_end else [at, at + reach]))
    way: np.ndarray = (b - a) / max(float(np.hypot(*(b - a))), 1e-12)
    return way


def _ring_bent(course: Course, bend: Bend) -> Course:
    arc = Arc(course.curve)
    middle, reach = float(np.interp(bend.at, course.source_t, course.s)), min(bend.reach, arc.length / 2.0)
    course = _finer(course, middle, reach, reach)
    if reach <= middle <= arc.length - reach:
        curve, s = _give(arc, course.s, middle, (reach, reach), bend.by)
        return Course(curve, s, course.source_t)
    # It gives on both sides of the seam: the ring is opened across from there, and closed again where it was.
    cut = (middle + arc.length / 2.0) % arc.length
    opened = Arc(_turned(arc, cut))
    seam = arc.length - cut
    places = np.append((course.s - cut) % arc.length, seam)
    curve, moved = _give(opened, places, arc.length / 2.0, (reach, reach), bend.by)
    whole = Arc(curve)
    s = (moved[:-1] - moved[-1]) % whole.length
    s[[0, -1]] = 0.0, whole.length
    return Course(_turned(whole, float(moved[-1])), s, course.source_t)


def _finer(course: Course, middle: float, behind: float, ahead: float) -> Course:
    """The course known at more places where it gives: between the few of a drawn one, parameters would drift."""
    length = float(course.s[-1])
    steps = np.linspace(-behind, ahead, int(np.ceil((behind + ahead) / STEP_MM)) + 1) + middle
    # On a ring the stretch may go on past the seam; elsewhere what falls there only adds places.
    places = np.sort(steps % max(length, 1e-9))
    places = places[(places > 0.0) & (places < length)]
    at = np.searchsorted(course.s, places)
    source_t = np.interp(places, course.s, course.source_t)
    return Course(course.curve, np.insert(course.s, at, places), np.insert(course.source_t, at, source_t))


def _turned(arc: Arc, at: float) -> np.ndarray:
    """A closed curve that begins elsewhere."""
    return np.concatenate([between(arc, at, arc.length), between(arc, 0.0, at)])


def _give(arc: Arc, s: np.ndarray, middle: float, reaches: tuple[float, float],
          by: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """(a curve drawn by dx, dy mm at arc length `middle`, giving over reaches (behind, ahead), where its places s (k,)
    are then)."""
    behind, ahead = reaches
    a, b = max(middle - behind, 0.0), min(middle + ahead, arc.length)
    dense = places_along(arc, a, b)
    at = np.clip(np.where(dense < middle, (middle - dense) / behind, (dense - middle) / ahead), 0.0, 1.0)
    share = (1.0 - at * at) ** 3
    return _laid_in(arc, s, dense, arc.point(dense) + share[:, None] * np.array(by))


def _laid_in(
    arc: Arc, s: np.ndarray, dense: np.ndarray, moved: np.ndarray, turned: EndWays | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """(a curve, a stretch of which has moved: its places at arc lengths `dense` (n,) lie at (n, 2) now, where places s
    (k,) of the old one are then). turned: as for `refitted`."""
    a, b = float(dense[0]), float(dense[-1])
    curve = refitted(arc, dense, moved, turned=turned)
    pieces = [between(arc, 0.0, a)] if a > 1e-6 else []
    pieces += [curve] + ([between(arc, b, arc.length)] if b < arc.length - 1e-6 else [])
    chords = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(moved, axis=0).T))])
    chords *= Arc(curve).length / max(float(chords[-1]), 1e-9)
    inside = np.interp(s, dense, a + chords)
    return np.concatenate(pieces), np.where(s < a, s, np.where(s > b, s - b + a + chords[-1], inside))


def _reach(reach: float, room: float) -> float:
    """How far a bend reaches to one side: not over an end, which stays, but where it took hold close to it."""
    return reach if room < FREE_END_MM else max(min(reach, room), 1e-6)


def places_along(arc: Arc, a: float, b: float) -> np.ndarray:
    """Arc lengths (n,) by which a stretch is looked at, its kinks among them."""
    n = max(LEAST_STEPS, int(np.ceil((b - a) / STEP_MM)))
    joints = arc.at_piece_ends()
    return np.unique(np.concatenate([np.linspace(a, b, n + 1), joints[(joints > a) & (joints < b)]]))


def refitted(
    arc: Arc, dense: np.ndarray, moved: np.ndarray, within: float = WITHIN_MM, turned: EndWays | None = None
) -> np.ndarray:
    """Moved places (n, 2) of arc lengths `dense` (n,) as cubics within so many mm, with the kinks that the curve had
    there, and its own directions at the ends where these have not moved, or those that are given."""
    kinks = [s for s in kinks_of(arc) if dense[0] + 1e-6 < s < dense[-1] - 1e-6]
    cuts = [0, *(int(np.argmin(np.abs(dense - s))) for s in kinks), len(dense) - 1]
    out = []
    for a, b in itertools.pairwise(dict.fromkeys(cuts)):
        path = moved[a : b + 1]
        if len(path) < 3:
            out.append(straight(path))
            continue
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
        ways = path_directions(path, s)
        for end, row in ((0, 0), (len(dense) - 1, -1)):
            if (a if row == 0 else b) != end:
                continue
            if turned and row in turned:
                ways[row] = turned[row] / np.hypot(*turned[row])
            elif np.allclose(path[row], arc.point(dense[[end]])[0], atol=1e-9):
                ways[row] = _tangent(arc, float(dense[end]) + (1e-7 if row == 0 else -1e-7))
        out.append(fit_smooth(path, within, ways)[0])
    return np.concatenate(out)


def kinks_of(arc: Arc) -> list[float]:
    """Arc lengths at which a curve changes its direction at once."""
    m = len(arc.curve)
    if m < 2:
        return []
    k = np.arange(m - 1)
    a = direction(arc.curve, k, np.ones(m - 1))
    b = direction(arc.curve, k + 1, np.zeros(m - 1))
    turn = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
    return [float(s) for s in arc.at_piece_ends()[1:-1][turn > KINK_RAD]]
