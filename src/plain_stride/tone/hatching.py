"""Hatching: a field filled with sets of strokes to a grey.

What a set covers is its widths over its pitch, w / p; sets that cross leave (1 - a1) (1 - a2) white. Each stroke is as
wide as the grey that is asked where it runs wants for the strip it stands for; what ends and edges take is given back
to all widths, until the set covers what was asked.
"""

import dataclasses
import itertools
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.lines.profile import TIP, pointing
from plain_stride.tone.courses import Courses, Pieces, Range, pieces_of, placed
from plain_stride.tone.errors import ToneError
from plain_stride.tone.field import Field
from plain_stride.tone.grey import Grey
from plain_stride.tone.nets import Net, Straight, sheared, spacing, travel, turned_net
from plain_stride.tone.strokes import PARTS_OF, Strokes, at_middle
from plain_stride.tone.uneven import DOT_MM, Hand, missed_ends, moved_courses, skips, wander, width_gains

STEP_MM, LEAST_PLACES, STRAIGHT_PLACES, MOST_PLACES = 2.0, 5, 9, 60
ROUNDS, CLOSE, MOST_SETS = 4, 2e-4, 3
THINNEST, MOST_COVER = 0.12, 0.985
"""Of the lightest width, below which a stroke ends; of its strip, above which it does not grow."""
TIP_PLACES = np.array([0.0, 0.06, 0.15, 0.3, 0.5, 0.75])
LEAST_ANGLE, USUAL_LEAST, ROOM = 4.0, 1.25, 1.2
HAND_TIPS = (0.6, 2.0)
CONTINUED_GAP_MM = 0.5


@dataclass(frozen=True)
class Hatch:
    """How a field is hatched. light, heavy: the nib's lightest and heaviest width, mm; crossing: degrees by which
    further sets cross the first; pitch: mm, None for as fine as holds; widening: by which share each pitch is larger
    than the one before, towards the light; tips: mm over which strokes come to a point at their start and end;
    continued: mm that fine strokes carry every stroke on beyond its end; hand: how evenly."""

    light: float
    heavy: float
    crossing: tuple[float, ...] = ()
    pitch: float | None = None
    widening: float = 0.0
    tips: tuple[float, float] = (0.0, 0.0)
    continued: float = 0.0
    hand: Hand = dataclasses.field(default_factory=Hand)


@dataclass(frozen=True)
class Holds:
    """What print holds: line and gap, the thinnest line and white, mm."""

    line: float = 0.09
    gap: float = 0.15


@dataclass(frozen=True, eq=False)
class Set:
    """One set of strokes. courses: where they go on its net; pitch: mm between them, as a mean."""

    strokes: Strokes
    net: Net
    courses: Courses

    @property
    def pitch(self) -> float:
        return self.courses.pitch


def hatched(field: Field, net: Net, grey: Grey, hatch: Hatch, holds: Holds, exact: bool = True) -> list[Set]:
    """The sets of strokes of a hatch. exact: what ends and edges take of the grey is given back; else they are for the
    eye, in a moment. Raises ToneError."""
    for a, b in itertools.combinations((0.0, *hatch.crossing), 2):
        if abs((b - a + 90.0) % 180.0 - 90.0) < LEAST_ANGLE:
            raise ToneError(f"sets cross by {LEAST_ANGLE:g} degrees at least: else they lie over each other")
    nets = [net, *(turned_net(net, by) for by in hatch.crossing)]
    if len(nets) > MOST_SETS:
        raise ToneError(f"a hatch has {MOST_SETS} sets at most")
    rounds = ROUNDS if exact else 0
    return [_set(field, one, grey, hatch, holds, (k, len(nets)), rounds) for k, one in enumerate(nets)]


def _set(field: Field, net: Net, grey: Grey, hatch: Hatch, holds: Holds, of: tuple[int, int], rounds: int) -> Set:
    which, sets = of
    least = max(USUAL_LEAST * holds.line, hatch.light)
    widening = hatch.widening * _light_ahead(field, net, grey)
    wanted = Range(hatch.light, hatch.heavy, least, ROOM * holds.gap, hatch.pitch, widening)
    courses = placed(net, field, grey, sets, wanted)
    courses = replace(courses, t=moved_courses(courses.t, hatch.hand, which))
    pieces = pieces_of(net, field, courses)
    if not len(pieces.course):
        raise ToneError("no stroke fits into that field at that pitch: draw round more, or take a finer pitch")
    strokes, cell = _drawn(net, courses, pieces, hatch, which)
    asked = float(grey.share_of(sets, field.inside).mean()) * field.area.area
    gains = width_gains(len(strokes), hatch.hand, which)
    wide = grey.share_of(sets, strokes.points) * cell * gains[:, None]
    most = np.minimum(hatch.heavy, MOST_COVER * cell)
    strokes = _to_cover(strokes, wide, most, _tips(hatch), field, asked, rounds)
    strokes = replace(strokes, asked=strokes.middle_widths / gains)
    strokes = _without_hairs(strokes, hatch)
    if not len(strokes):
        raise ToneError("so light a grey leaves no stroke that a nib could draw: take a darker one, or a wider pitch")
    if hatch.hand.evenness:
        strokes = _skipping(strokes, hatch.hand, which)
    if hatch.continued:
        strokes = _continued(strokes, hatch)
    return Set(strokes, net, courses)


def _light_ahead(field: Field, net: Net, grey: Grey) -> float:
    """1 where the field grows lighter in the way in which courses are counted, -1 where it grows darker."""
    low, high = net.span
    a, b = (net.at(np.array([t]), np.array([0.5]))[0] for t in (low + 0.25 * (high - low), low + 0.75 * (high - low)))
    return -1.0 if grey.at(b) > grey.at(a) else 1.0


def _drawn(net: Net, courses: Courses, pieces: Pieces, hatch: Hatch, which: int) -> tuple[Strokes, np.ndarray]:
    """(the strokes as thin lines, without widths yet; how wide a strip each stands for at its places (m, n), mm)."""
    chord = np.hypot(*np.diff(pieces.ends, axis=1)[:, 0].T)
    most = STRAIGHT_PLACES if isinstance(net, Straight) and not hatch.hand.evenness else MOST_PLACES
    n = int(np.clip(np.ceil(chord.max() / STEP_MM), LEAST_PLACES, most))
    share = _shares(n, float(np.median(chord)), _tips(hatch))
    t, cell = courses.t[pieces.course][:, None], courses.cell[pieces.course][:, None]
    v0, v1 = pieces.v0[:, None], pieces.v1[:, None]
    if hatch.hand.evenness:
        off = missed_ends(len(chord), hatch.hand, which) / np.maximum(chord, 1e-6)[:, None]
        v0, v1 = v0 + off[:, :1] * (v1 - v0), v1 - off[:, 1:] * (v1 - v0)
        t = t + wander(chord, share, hatch.hand, which) * cell
    v = v0 + (v1 - v0) * share
    t = np.broadcast_to(t, v.shape)
    points = net.at(t, v)
    if not hatch.hand.evenness:
        points[:, 0], points[:, -1] = pieces.ends[:, 0], pieces.ends[:, 1]
    wide = spacing(net, t, v) * cell
    apart = _apart(net, courses, pieces.course, at_middle(points, v))
    none = np.zeros(v.shape)
    return Strokes(points, none, travel(net, t, v), pieces.course, apart, none[:, 0]), wide


def _apart(net: Net, courses: Courses, course: np.ndarray, v: np.ndarray) -> np.ndarray:
    """mm (m, 2) from courses, at v (m,) along them, to where the ones before and after were asked to go."""
    asked = courses.asked
    ends = np.concatenate([[asked[0] - courses.cell[0]], asked, [asked[-1] + courses.cell[-1]]])
    here, sides = asked[course], (ends[course], ends[course + 2])
    out = []
    for there in sides:
        # Square to a course the net is left askew: half way across, v is another.
        half = v + sheared(net, here, v) * (there - here) / 2.0
        out.append(spacing(net, (here + there) / 2.0, half) * np.abs(there - here))
    return np.column_stack(out)


def _tips(hatch: Hatch) -> tuple[float, float]:
    """mm of point at both ends, those that a hand gives among them."""
    own = tuple(mm * min(1.0, 2.0 * hatch.hand.evenness) for mm in HAND_TIPS)
    return max(hatch.tips[0], own[0]), max(hatch.tips[1], own[1])


def _shares(n: int, length: float, tips: tuple[float, float]) -> np.ndarray:
    """Shares along a stroke at which its width is told: even ones, and more near points."""
    near = [np.minimum(mm / max(length, 1e-6), 0.33) for mm in tips]
    more = [near[0] * TIP_PLACES] * (tips[0] > 0.0) + [1.0 - near[1] * TIP_PLACES] * (tips[1] > 0.0)
    return np.unique(np.round(np.concatenate([np.linspace(0.0, 1.0, n), *more]), 6))


def _to_cover(
    strokes: Strokes, wide: np.ndarray, most: np.ndarray, tips: tuple[float, float], field: Field, asked: float,
    rounds: int,
) -> Strokes:  # fmt: skip
    """The strokes with widths (m, n) in such a proportion, none above `most` (m, n), that they cover so many mm2 of the
    field."""
    points, gain = _pointing(strokes, tips), 1.0
    out = replace(strokes, half=np.minimum(wide, most) * points / 2.0)
    for _ in range(rounds):
        covered = float(out.inside(field.area).sum())
        if covered <= 0.0 or abs(covered - asked) < CLOSE * asked:
            break
        gain *= asked / covered
        out = replace(strokes, half=np.minimum(wide * gain, most) * points / 2.0)
    return out


def _pointing(strokes: Strokes, tips: tuple[float, float]) -> np.ndarray:
    """How much of its width a stroke has at its places (m, n): points at its ends as a nib's are."""
    legs = np.hypot(*np.moveaxis(np.diff(strokes.points, axis=1), -1, 0))
    s = np.concatenate([np.zeros((len(strokes), 1)), np.cumsum(legs, axis=1)], axis=1)
    length = s[:, -1:]
    out = np.ones(s.shape)
    for away, mm in ((s, tips[0]), (length - s, tips[1])):
        if mm > 0.0:
            out *= pointing(away / np.maximum(np.minimum(mm, length / 3.0), 1e-9))
    return out


def _without_hairs(strokes: Strokes, hatch: Hatch) -> Strokes:
    """Without strokes that are nowhere as wide as a nib's finest point: what is that light is left white."""
    return strokes.only(2.0 * strokes.half.max(axis=1) >= THINNEST * hatch.light)


def _skipping(strokes: Strokes, hand: Hand, which: int) -> Strokes:
    """Some strokes in two, as if the pen ran dry, with or without a dot between."""
    found, lengths = skips(strokes.lengths, hand, which), strokes.lengths
    if not found:
        return strokes
    broken = {k for k, *_ in found}
    parts = [strokes.only(np.array([k not in broken for k in range(len(strokes))]))]
    for k, a, b, dot in found:
        length, one = float(lengths[k]), strokes.only(np.array([k]))
        parts += [_stretch(one, 0.0, a / length), _stretch(one, b / length, 1.0)]
        if dot:
            middle, reach = (a + b) / 2.0, DOT_MM / 2.0
            parts.append(_stretch(one, (middle - reach) / length, (middle + reach) / length))
    whole = Strokes(*(np.concatenate([getattr(one, name) for one in parts])
                      for name in PARTS_OF))  # fmt: skip
    return whole.only(np.argsort(whole.row, kind="stable"))


def _stretch(one: Strokes, a: float, b: float) -> Strokes:
    """A stretch, in shares of its length, of one stroke."""
    n = one.points.shape[1]
    at = np.linspace(a, b, n)
    legs = np.hypot(*np.diff(one.points[0], axis=0).T)
    s = np.concatenate([[0.0], np.cumsum(legs)]) / max(float(legs.sum()), 1e-9)
    points, way = (np.column_stack([np.interp(at, s, v[0, :, k]) for k in (0, 1)]) for v in (one.points, one.way))
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return Strokes(points[None], np.interp(at, s, one.half[0])[None], way[None], one.row, one.apart, one.asked)


def _continued(strokes: Strokes, hatch: Hatch) -> Strokes:
    """With a fine stroke beyond the end of each, on its own course, never between two."""
    n = strokes.points.shape[1]
    share = np.linspace(0.0, 1.0, n)
    start = strokes.points[:, -1] + strokes.way[:, -1] * CONTINUED_GAP_MM
    points = start[:, None] + strokes.way[:, -1:] * (hatch.continued * share)[None, :, None]
    half = np.broadcast_to(hatch.light / 2.0 * (1.0 - (1.0 - TIP) * share), points.shape[:2])
    way = np.broadcast_to(strokes.way[:, -1:], points.shape)
    return Strokes(np.concatenate([strokes.points, points]), np.concatenate([strokes.half, half]),
                   np.concatenate([strokes.way, way]), np.tile(strokes.row, 2), np.tile(strokes.apart, (2, 1)),
                   np.concatenate([strokes.asked, half[:, n // 2] * 2.0]))  # fmt: skip
