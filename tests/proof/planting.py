"""Faults planted into drawings by a script, in sizes of its own; what is planted is measured with shapely. Nothing here
knows how the proof looks for them.

Every planter takes a drawing and a size, changes or adds lines, and tells where: (lines, (x, y)), or None where it found
no room.
"""

import numpy as np
import shapely
from shapely.ops import substring

SIZES = {
    # kind: just under, at, twice, well over; each in its own unit.
    "gap": (0.09, 0.11, 0.2, 0.6),
    "overshoot": (0.27, 0.32, 0.6, 1.4),
    "wobble": (0.05, 0.065, 0.12, 0.25),
    "blob": (0.12, 0.17, 0.3, 0.6),
    "too-thin": (1.1, 0.97, 0.5, 0.3),
    "fill-in": (1.15, 0.95, 0.5, 0.25),
    "restated": (0.5, 0.65, 0.9, 1.0),
    "stray": (1.7, 1.4, 0.75, 0.4),
    "uneven-hatch": (0.2, 0.27, 0.45, 0.6),
    "weight-inversion": (1.05, 1.13, 1.5, 2.0),
    "tangent": (0.35, 0.28, 0.15, 0.03),
    "flat-weight": (0.06, 0.035, 0.02, 0.0),
    "off-board": (0.3, 0.7, 1.5, 4.0),
    "loose-strand": (25.0, 33.0, 60.0, 80.0),
}
UNDER, AT, TWICE, WELL = range(4)


def plant(sheet, kind, size, count, random):
    """Plants `count` faults of a kind; gives [(lines, place)]."""
    out, used = [], set()
    for _ in range(60 * count):
        if len(out) == count:
            break
        done = PLANTERS[kind](sheet, size, random, used)
        if done is not None:
            out.append(done)
            used |= set(done[0])
    return out


def line_of(one):
    points = one["points"]
    return shapely.LineString(np.vstack([points, points[:1]]) if one["closed"] else points)


def ink(one):
    """What a line covers: discs along it, as a brush lays them."""
    points, radii = one["points"], np.asarray(one["widths"]) / 2
    some = slice(None, None, max(1, len(points) // 400))
    parts = [line_of(one).buffer(float(radii.min()), quad_segs=16),
             *shapely.buffer(shapely.points(points[some]), radii[some], quad_segs=16)]  # fmt: skip
    return shapely.union_all(parts)


def pick(sheet, random, used, fits):
    """A line that fits and has no fault yet."""
    some = [one for one in sheet.lines if one["id"] not in used and fits(one)]
    return some[random.integers(len(some))] if some else None


def reshaped(one, points):
    """The same line along other points: its widths go along by the share of its length."""
    share = np.linspace(0, 1, len(points))
    widths = np.interp(share, np.linspace(0, 1, len(one["widths"])), one["widths"])
    return {**one, "points": points, "widths": widths}


def put(sheet, one):
    sheet.lines[next(k for k, old in enumerate(sheet.lines) if old["id"] == one["id"])] = one


def meeting_ends(sheet, one, used):
    """(which end, ids of what it lies on) of the ends of an open line that lie on others."""
    if one["closed"]:
        return
    for end in (0, -1):
        place = shapely.Point(one["points"][end])
        met = [o for o in sheet.lines if o is not one and line_of(o).distance(place) < 0.06]
        if met and not any(o["id"] in used for o in met):
            yield end, met


def _at_an_end(sheet, random, used):
    one = pick(sheet, random, used, lambda o: not o["closed"] and len(o["points"]) > 20)
    if one is None:
        return None
    ends = list(meeting_ends(sheet, one, used))
    if not ends:
        return None
    return one, *ends[random.integers(len(ends))]


def _drawn(one, end, mm):
    """A line that loses so many mm at an end, or goes on straight (below 0)."""
    points = one["points"] if end else one["points"][::-1]
    if mm > 0:
        whole = shapely.LineString(points)
        new = np.array(substring(whole, 0, whole.length - mm).coords)
    else:
        way = points[-1] - points[-3]
        way = way / np.hypot(*way)
        new = np.vstack([points[:-1], points[-1] + np.linspace(0, -mm, max(2, int(-mm / 0.1)))[:, None] * way])
    return reshaped(one, new if end else new[::-1])


def gap(sheet, size, random, used):
    found = _at_an_end(sheet, random, used)
    if found is None:
        return None
    one, end, met = found
    if not _is_alone(sheet, one, end, met, 1.8):
        return None
    others = shapely.union_all([ink(o) for o in met])
    cap = one["widths"][end] / 2 if one["ends"][end] == "round" else 0.0
    for mm in np.arange(0.0, line_of(one).length * 0.3, 0.01):
        new = _drawn(one, end, mm) if mm else one
        if others.distance(shapely.Point(new["points"][end])) - cap >= size:
            put(sheet, new)
            return [one["id"]], new["points"][end]
    return None


def _is_alone(sheet, one, end, met, mm):
    """Whether nothing but what an end meets lies near it."""
    place = shapely.Point(one["points"][end])
    return not any(line_of(o).distance(place) < mm for o in sheet.lines if o is not one and o not in met)


def overshoot(sheet, size, random, used):
    found = _at_an_end(sheet, random, used)
    if found is None:
        return None
    one, end, met = found
    if len(met) > 1 or not _is_alone(sheet, one, end, met, 3.0) or _near_an_end(one["points"][end], met[0]):
        return None
    cap = one["widths"][end] / 2 if one["ends"][end] == "round" else 0.0
    other = ink(met[0])
    for mm in np.arange(0.02, 6.0, 0.02):
        new = _drawn(one, end, -mm)
        tip = shapely.Point(new["points"][end])
        if other.distance(tip) > 0 and other.distance(tip) + cap >= size:
            put(sheet, new)
            return [one["id"]], new["points"][end]
    return None


def _near_an_end(at, other):
    ends = () if other["closed"] else (other["points"][0], other["points"][-1])
    return any(np.hypot(*(at - end)) < 2.0 for end in ends)


def _sideways(points):
    way = np.gradient(points, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return np.column_stack([way[:, 1], -way[:, 0]])


def _along(one):
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(one["points"], axis=0).T))])


def _stretch(one, random, long, margin=4.0):
    """(arc lengths, where a stretch begins) of so many mm within a line; None where it has no room."""
    s = _along(one)
    if s[-1] < long + 2 * margin:
        return None
    return s, random.uniform(margin, s[-1] - margin - long)


def wobble(sheet, size, random, used):
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner"))
    if one is None:
        return None
    fine = reshaped(one, even_at(one["points"], 0.12))
    stretch = _stretch(fine, random, 16.0, 2.0)
    if stretch is None:
        return None
    s, start = stretch
    wave = random.uniform(2.0, 4.2)
    fade = np.clip(np.minimum(s - start, start + 16.0 - s) / 1.5, 0, 1)
    off = size * np.sqrt(2) * np.sin(2 * np.pi * (s - start) / wave) * fade
    put(sheet, {**fine, "points": fine["points"] + off[:, None] * _sideways(fine["points"])})
    return [one["id"]], fine["points"][np.argmin(np.abs(s - start - 8.0))]


def even_at(points, step):
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    at = np.linspace(0, s[-1], int(s[-1] / step) + 2)
    return np.column_stack([np.interp(at, s, points[:, k]) for k in (0, 1)])


def blob(sheet, size, random, used):
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner", "ruled"))
    if one is None:
        return None
    fine = reshaped(one, even_at(one["points"], 0.1))
    stretch = _stretch(fine, random, 3.0)
    if stretch is None:
        return None
    s, start = stretch
    at = start + 1.5
    bump = np.maximum(0.0, 1.0 - np.abs(s - at) / max(size / 0.33, 0.45)) * size
    put(sheet, {**fine, "widths": fine["widths"] + bump})
    return [one["id"]], fine["points"][np.argmin(np.abs(s - at))]


FLOOR_MM, WHITE_MM = 0.09, 0.15
"""What fine offset holds, from the table of print targets in the documents."""


def too_thin(sheet, size, random, used):
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner"))
    if one is None:
        return None
    fine = reshaped(one, even_at(one["points"], 0.2))
    stretch = _stretch(fine, random, 5.0, 6.0)
    if stretch is None:
        return None
    s, start = stretch
    down = np.clip(np.maximum(start - s, s - start - 5.0) / 3.0, 0, 1)
    widths = np.exp(np.log(FLOOR_MM * size) * (1 - down) + np.log(fine["widths"]) * down)
    put(sheet, {**fine, "widths": np.minimum(widths, fine["widths"])})
    return [one["id"]], fine["points"][np.argmin(np.abs(s - start - 2.5))]


def _beside(sheet, random, used, long, off, width):
    """A new line beside a stretch of one, at a distance between middles; None where others lie there."""
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner") and len(o["points"]) > 40)
    if one is None:
        return None
    stretch = _stretch(one, random, long, 5.0)
    if stretch is None:
        return None
    s, start = stretch
    inner = (s >= start) & (s <= start + long)
    side = random.choice([-1, 1])
    half = np.asarray(one["widths"])[inner] / 2
    points = one["points"][inner] + side * (half + width / 2 + off)[:, None] * _sideways(one["points"])[inner]
    chain = shapely.LineString(points)
    if any(line_of(o).distance(chain) < 1.5 for o in sheet.lines if o is not one):
        return None
    return one, points


def fill_in(sheet, size, random, used):
    made = _beside(sheet, random, used, random.uniform(7, 10), WHITE_MM * size, 0.3)
    if made is None:
        return None
    one, points = made
    new = sheet.lay(points, 0.3, "inner", one["part"], swell=0.0)
    return [one["id"], new["id"]], points[len(points) // 2]


def restated(sheet, size, random, used):
    """A second stroke beside one for a share of its own length; the rest of it leads away."""
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner") and len(o["points"]) > 50)
    if one is None:
        return None
    long = random.uniform(12, 16)
    stretch = _stretch(one, random, long, 3.0)
    if stretch is None:
        return None
    s, start = stretch
    inner = (s >= start) & (s <= start + long)
    on, u = one["points"][inner], np.linspace(0, 1, inner.sum())
    near = random.uniform(-0.2, 0.2) * np.sin(np.pi * u / max(size, 0.3)) + random.choice([-1, 1]) * 0.12
    away = np.maximum(u - size, 0) * long * 0.9 * random.choice([-1, 1])
    points = on + (near + away)[:, None] * _sideways(on)
    chain = shapely.LineString(points)
    if any(line_of(o).distance(chain) < 1.2 for o in sheet.lines if o is not one):
        return None
    new = sheet.lay(points, float(np.mean(one["widths"])), one["role"], one["part"], ends="pointed")
    return [one["id"], new["id"]], points[int(len(points) * min(size, 1.0) / 2)]


def free_place(sheet, random, far):
    for _ in range(200):
        at = random.uniform((10, 10), np.array(sheet.size) - 10)
        place = shapely.Point(at)
        if all(line_of(o).distance(place) > far for o in sheet.lines):
            return at
    return None


def stray(sheet, size, random, used):
    at = free_place(sheet, random, 3.5)
    if at is None:
        return None
    turn = random.uniform(0, 6.3)
    way = np.array([np.cos(turn), np.sin(turn)]) * size / 2
    new = sheet.lay(even_at(np.array([at - way, at + way]), 0.05), 0.3, "inner", "Lines", swell=0.0)
    return [new["id"]], at


def rows_of(sheet, used):
    names = {one["id"].split(".")[0] for one in sheet.lines if one["id"].startswith("h")}
    return sorted(name for name in names if name not in {key.split(".")[0] for key in used})


def uneven_hatch(sheet, size, random, used):
    rows = rows_of(sheet, used)
    if not rows:
        return None
    row = [one for one in sheet.lines if one["id"].startswith(rows[0] + ".")]
    first, last = row[0]["points"].mean(axis=0), row[-1]["points"].mean(axis=0)
    across = (last - first) / (len(row) - 1)
    steps = random.standard_normal(len(row) - 1)
    steps = 1.0 + size * (steps - steps.mean()) / steps.std()
    steps = np.maximum(steps, 0.15)
    places = np.concatenate([[0.0], np.cumsum(steps / steps.mean())])
    for k, one in enumerate(row):
        put(sheet, {**one, "points": one["points"] + across * (places[k] - k)})
    return [one["id"] for one in row], (first + last) / 2


def weight_inversion(sheet, size, random, used):
    """An inner line heavier than the outline of its part, by a factor."""
    one = pick(sheet, random, used, lambda o: o["role"] == "inner" and line_of(o).length > 10)
    if one is None:
        return None
    outer = [o for o in sheet.lines if o["part"] == one["part"] and o["role"] == "outer"]
    if not outer:
        return None
    logs = np.concatenate([np.log(o["widths"]) for o in outer])
    put(sheet, {**one, "widths": np.full(len(one["widths"]), np.exp(logs.mean()) * size)})
    return [one["id"]], one["points"][len(one["points"]) // 2]


def tangent(sheet, size, random, used):
    """A round thing of its own that passes an outline at a distance."""
    one = pick(sheet, random, used, lambda o: o["role"] == "outer")
    if one is None:
        return None
    radius = random.uniform(3.5, 5.5)
    k = random.integers(len(one["points"]))
    side = random.choice([-1, 1])
    normal = _sideways(one["points"])[k] * side
    other = ink(one)
    for far in np.arange(radius, radius + 4.0, 0.01):
        at = one["points"][k] + normal * far
        if other.distance(shapely.Point(at)) >= radius + 0.25 + size:
            break
    disc = shapely.Point(at).buffer(radius + 2.0)
    if any(line_of(o).intersects(disc) for o in sheet.lines if o is not one) or _off_sheet(sheet, at, radius + 3):
        return None
    t = np.linspace(0, 2 * np.pi, 120, endpoint=False)
    new = sheet.lay(at + radius * np.column_stack([np.cos(t), np.sin(t)]), 0.5, "outer", f"Ball {len(sheet.lines)}",
                    closed=True, swell=0.0)  # fmt: skip
    return [one["id"], new["id"]], one["points"][k]


def _off_sheet(sheet, at, far):
    return bool((at < far).any() or (at > np.array(sheet.size) - far).any())


def flat_weight(sheet, size, random, used):
    one = pick(sheet, random, used, lambda o: o["role"] in ("outer", "inner") and line_of(o).length > 28)
    if one is None or len([key for key in used if key]) > len(sheet.lines) * 0.2:
        return None
    n = len(one["widths"])
    wave = np.sqrt(2) * size * np.sin(np.linspace(0, 6 * np.pi, n))
    put(sheet, {**one, "widths": float(np.mean(one["widths"])) * (1 + wave)})
    return [one["id"]], one["points"][n // 2]


MARGIN_MM = 6.0


def off_board(sheet, size, random, used):
    """A short bow that lies over the safe margin by so much; the board's margin is MARGIN_MM."""
    high = sheet.size[1]
    y = random.uniform(15, high - 15)
    x = MARGIN_MM - size + 0.15
    points = np.column_stack([np.linspace(x, x + 5.0, 30), y + np.linspace(0, 3, 30)])
    if any(line_of(o).distance(shapely.LineString(points)) < 2.0 for o in sheet.lines):
        return None
    new = sheet.lay(points, 0.3, "inner", "Lines", swell=0.0)
    return [new["id"]], points[0]


def loose_strand(sheet, size, random, used):
    """A strand of a sheet of hair turned about its middle."""
    one = pick(sheet, random, used, lambda o: o["part"].startswith("Hair"))
    if one is None:
        return None
    mates = [o["id"] for o in sheet.lines if o["part"] == one["part"]]
    k = mates.index(one["id"])
    if not 2 <= k <= len(mates) - 3 or any(key in used for key in mates):
        return None
    middle, a = one["points"].mean(axis=0), np.radians(size) * random.choice([-1, 1])
    turn = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    put(sheet, {**one, "points": (one["points"] - middle) @ turn * 0.5 + middle})
    return [one["id"]], middle


PLANTERS = {
    "gap": gap,
    "overshoot": overshoot,
    "wobble": wobble,
    "blob": blob,
    "too-thin": too_thin,
    "fill-in": fill_in,
    "restated": restated,
    "stray": stray,
    "uneven-hatch": uneven_hatch,
    "weight-inversion": weight_inversion,
    "tangent": tangent,
    "flat-weight": flat_weight,
    "off-board": off_board,
    "loose-strand": loose_strand,
}
ON = {
    "gap": ("figures", "houses", "letters", "hills"),
    "overshoot": ("figures", "houses", "letters", "hills"),
    "wobble": ("figures", "hills"),
    "blob": ("figures", "houses", "hills", "letters"),
    "too-thin": ("figures", "hills"),
    "fill-in": ("figures", "hills"),
    "restated": ("figures", "hills"),
    "stray": ("figures", "houses", "hills"),
    "uneven-hatch": ("hatching",),
    "weight-inversion": ("figures",),
    "tangent": ("figures",),
    "flat-weight": ("figures",),
    "off-board": ("figures", "houses", "hills"),
    "loose-strand": ("hair",),
}
"""On which drawings a kind can be planted."""
