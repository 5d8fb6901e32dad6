"""The demo's drawing: a heron with a lantern in its beak on the balance beam of a canal lock, at dusk.

Things are listed from the nearest to the farthest. Each has lines and, where it is solid, covers. In the pencils the
lines of what lies behind are cut at the covers before it; in ink they run on whole, and the covers of the job hide
them. All in mm on a sheet of 240 x 160.
"""

from dataclasses import dataclass, field

import numpy as np

from plain_stride.hand.resample import read_at

SIZE_MM = (240.0, 160.0)
LEAST_MM = 2.5
"""Shorter rests of a cut line are left out."""
Points = list[tuple[float, float]]


@dataclass(frozen=True, eq=False)
class SceneLine:
    """points (n, 2); role; nib key; pressure of the pull; pace."""

    points: np.ndarray
    role: str
    nib: str = "3"
    pressure: float = 0.5
    pace: str = "normal"


@dataclass
class Thing:
    """A part of the drawing. cover: closed outlines that hide what lies behind."""

    part: str
    tier: str
    inked: bool
    lines: list[SceneLine] = field(default_factory=list)
    covers: list[np.ndarray] = field(default_factory=list)

    def add(self, points: np.ndarray, role: str, nib: str = "3", pressure: float = 0.5, pace: str = "normal") -> None:
        self.lines.append(SceneLine(points, role, nib, pressure, pace))


def scene() -> list[Thing]:
    """The things, near to far, their lines whole."""
    return [
        _reeds(), _bollard(), _heron(), _lantern(), _beam(), _gate(), _quay(), _water(), _cottage(), _poplars(),
        _land(),
    ]  # fmt: skip


def seen(things: list[Thing]) -> list[Thing]:
    """The things with their lines cut at the silhouettes before them and at the edge of the sheet."""
    return [_cut(thing, things[:n]) for n, thing in enumerate(things)]


def curve(*points: tuple[float, float]) -> np.ndarray:
    """A smooth curve through points."""
    p = np.array(points, float)
    t = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T) ** 0.5)])
    return read_at(t, p, np.linspace(0.0, t[-1], 24 * len(p)))


def straight(*points: tuple[float, float]) -> np.ndarray:
    """Straight from point to point."""
    p = np.array(points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    at = np.union1d(np.linspace(0.0, s[-1], max(int(s[-1]), 2)), s)
    return np.column_stack([np.interp(at, s, p[:, k]) for k in (0, 1)])


def ring(x: float, y: float, rx: float, ry: float, start: float = -90.0) -> np.ndarray:
    """An ellipse pulled all the way round, a little past its start."""
    a = np.radians(np.linspace(start, start + 366.0, 90))
    return np.column_stack([x + rx * np.cos(a), y + ry * np.sin(a)])


def _cut(thing: Thing, nearer: list[Thing]) -> Thing:
    import shapely

    hidden = shapely.unary_union([shapely.make_valid(shapely.Polygon(c)) for t in nearer for c in t.covers])
    sheet = shapely.box(0.0, 0.0, *SIZE_MM)
    out = Thing(thing.part, thing.tier, thing.inked, [], thing.covers)
    for line in thing.lines:
        seen = shapely.intersection(shapely.LineString(line.points), sheet)
        seen = shapely.difference(seen, hidden)
        seen = shapely.line_merge(seen) if seen.geom_type == "MultiLineString" else seen
        for piece in getattr(seen, "geoms", [seen]):
            if piece.geom_type == "LineString" and piece.length >= LEAST_MM:
                points = np.asarray(piece.coords)
                out.lines.append(SceneLine(points, line.role, line.nib, line.pressure, line.pace))
    return out


def _beam_top(x: float) -> float:
    return 119.5 - (x - 18.0) * 0.058


def _beam_foot(x: float) -> float:
    return 134.0 - (x - 18.0) * 0.064


def _heron() -> Thing:
    t = Thing("Heron", "near", True)
    back_of_neck = [
        (104.5, 28.5),
        (101.0, 35.0),
        (101.6, 42.5),
        (106.5, 50.0),
        (109.0, 57.5),
        (104.5, 64.5),
        (95.0, 68.0),
    ]
    front = [(120.5, 32.4), (114.2, 34.4), (110.3, 39.2), (112.4, 46.2), (117.8, 53.6), (120.8, 61.8), (119.2, 71.5),
             (113.0, 81.0), (103.5, 87.5)]  # fmt: skip
    mantle = [(95.0, 68.0), (82.0, 70.0), (66.0, 78.5), (50.5, 91.0), (38.5, 102.5)]
    under = [(103.5, 87.5), (92.0, 91.0), (77.0, 93.6), (58.0, 97.8), (38.5, 102.5)]
    crown = [(104.5, 28.5), (106.4, 24.6), (111.0, 22.4), (117.0, 23.0), (122.5, 26.6)]
    beak_top = [(122.5, 26.6), (132.0, 29.0), (143.0, 32.0), (152.5, 34.9)]
    beak_low = [(152.5, 34.9), (140.0, 34.6), (129.0, 33.6), (120.5, 32.4)]
    t.add(curve(*crown, *beak_top[1:]), "outer", pressure=0.55)
    t.add(curve(*back_of_neck), "outer", pressure=0.62)
    t.add(curve(*mantle), "outer", pressure=0.66)
    t.add(curve(*front), "outer", pressure=0.6)
    t.add(curve(*under), "outer", pressure=0.7)
    t.add(curve(*beak_low), "outer", pressure=0.5)
    t.add(curve((123.0, 30.2), (134.0, 31.4), (147.0, 34.0)), "detail", "2", 0.4)
    t.add(ring(118.2, 26.9, 1.25, 1.2), "inner", "2", 0.7, "careful")
    t.add(curve((121.4, 27.9), (118.4, 29.2), (114.0, 28.8), (109.4, 27.0)), "detail", "2", 0.5)
    t.add(curve((112.0, 25.4), (104.0, 26.8), (94.0, 31.8), (84.5, 39.8)), "inner", "3", 0.5)
    t.add(curve((109.5, 27.2), (101.0, 31.0), (93.0, 37.6), (87.8, 45.0)), "inner", "3", 0.42)
    # The folded wing: its shoulder, its lower edge, and the long primaries that fall to the tail.
    t.add(
        curve((99.5, 70.5), (104.2, 75.2), (102.2, 81.0), (92.0, 86.2), (74.0, 92.0), (50.0, 98.4)), "outer", "3", 0.5
    )
    t.add(curve((96.5, 76.5), (86.0, 80.4), (70.0, 87.0), (53.0, 95.4)), "inner", "3", 0.45)
    t.add(curve((92.0, 73.6), (80.0, 77.2), (66.0, 84.2), (51.5, 93.6)), "inner", "3", 0.42)
    t.add(curve((96.0, 81.4), (85.0, 85.0), (71.0, 89.8), (56.0, 95.6)), "inner", "3", 0.4)
    t.add(curve((88.0, 71.8), (78.0, 74.6), (67.5, 80.0)), "detail", "2", 0.4)
    # Breast plumes, and streaks down the front of the neck.
    t.add(curve((117.6, 74.0), (115.2, 82.0), (109.0, 90.2)), "inner", "3", 0.5)
    t.add(curve((114.4, 79.0), (111.0, 86.0), (105.0, 92.6)), "inner", "3", 0.45)
    t.add(curve((110.0, 83.0), (106.2, 88.6), (100.6, 93.0)), "inner", "3", 0.4)
    t.add(curve((112.6, 40.6), (114.0, 46.0), (117.6, 51.6)), "detail", "2", 0.35)
    t.add(curve((115.4, 56.0), (117.6, 61.6), (117.0, 68.0)), "detail", "2", 0.35)
    _leg(t, hip=(101.2, 88.9), heel=(103.4, 103.2), foot=101.2, pressure=0.5)
    _leg(t, hip=(89.4, 91.5), heel=(89.6, 104.4), foot=86.4, pressure=0.38)
    t.covers.append(np.vstack([curve(*crown, *beak_top[1:]), curve(*beak_low), curve(*front), curve(*under),
                               curve(*mantle)[::-1], curve(*back_of_neck)[::-1]]))  # fmt: skip
    return t


def _leg(t: Thing, hip: tuple[float, float], heel: tuple[float, float], foot: float, pressure: float) -> None:
    """A feathered thigh, the knobbed heel that bends backwards, a thin shank and long toes that grip the beam."""
    (hx, hy), (kx, ky), ground = hip, heel, _beam_top(foot)
    back = [(hx - 2.8, hy), (kx - 1.5, hy + 6.6), (kx - 1.0, ky - 2.2), (kx - 1.5, ky), (kx - 1.0, ky + 2.0),
            (foot - 0.9, ground - 3.0), (foot - 1.2, ground - 0.9)]  # fmt: skip
    front = [(hx + 2.6, hy - 1.2), (kx + 1.2, hy + 6.0), (kx + 0.9, ky - 1.6), (kx + 0.8, ky + 0.4),
             (foot + 0.8, ground - 3.2), (foot + 1.2, ground - 1.6)]  # fmt: skip
    t.add(curve(*back), "outer", "3", pressure)
    t.add(curve(*front), "outer", "3", pressure + 0.08)
    for long, grip, press in ((10.4, 0.4, 0.62), (6.8, 1.6, 0.56), (-6.6, 0.4, 0.5)):
        side, tip = np.sign(long), foot + long
        toe = curve((foot + 0.9 * side, ground - 1.5), (foot + long * 0.5, _beam_top(foot + long * 0.5) - 1.5),
                    (foot + long * 0.84, _beam_top(tip) - 0.9), (tip, _beam_top(tip) + grip))  # fmt: skip
        t.add(toe, "outer", "3", press)
        t.covers.append(np.vstack([toe, [(tip, _beam_top(tip) + 0.3), (foot, ground + 0.3)]]))
    t.add(curve((foot + 0.2, ground - 0.9), (foot + 2.2, ground + 0.6), (foot + 3.0, ground + 3.8)), "outer", "3", 0.5)
    t.covers.append(np.vstack([curve(*back), curve(*front)[::-1]]))


def _lantern() -> Thing:
    t = Thing("Lantern", "near", True)
    roof = [(144.5, 46.5), (134.0, 53.6), (155.0, 53.6), (144.5, 46.5)]
    glass = [(136.2, 53.8), (137.6, 72.0), (151.4, 72.0), (152.8, 53.8)]
    base = [(134.4, 72.2), (154.6, 72.2), (154.6, 76.2), (134.4, 76.2)]
    bail = [(141.4, 47.8), (139.4, 42.0), (141.2, 36.2), (144.6, 33.9), (148.0, 36.4), (149.6, 42.0), (147.6, 47.8)]
    flame = [(144.4, 58.0), (141.6, 63.0), (141.4, 67.0), (144.5, 69.6), (147.6, 67.0), (147.2, 63.2), (144.6, 58.0)]
    t.add(curve(*bail), "outer", "3", 0.34, "careful")
    t.add(straight((134.0, 53.6), (144.5, 46.5), (155.0, 53.6)), "outer", "3", 0.5)
    t.add(straight((133.4, 53.7), (155.6, 53.7)), "outer", "3", 0.55)
    t.add(straight((136.2, 54.2), (137.6, 72.0)), "outer", "3", 0.45)
    t.add(straight((152.8, 54.2), (151.4, 72.0)), "outer", "3", 0.55)
    t.add(
        straight((134.4, 76.2), (134.4, 72.2), (154.6, 72.2), (154.6, 76.2), (134.4, 76.2)),
        "outer",
        "3",
        0.5,
        "careful",
    )
    t.add(curve(*flame), "inner", "2", 0.5, "careful")
    t.add(straight((144.5, 69.8), (144.5, 72.0)), "detail", "2", 0.5)
    t.add(curve((139.6, 55.6), (140.4, 63.0), (140.8, 70.0)), "detail", "2", 0.3)
    t.covers += [np.array(roof), np.array(glass), np.array(base)]
    return t


def _beam() -> Thing:
    t = Thing("Beam", "near", True)
    top, foot = (lambda x: (x, _beam_top(x))), (lambda x: (x, _beam_foot(x)))
    t.add(straight(top(18), top(110), top(206)), "outer", "4", 0.4)
    t.add(straight(foot(20), foot(110), foot(206)), "outer", "4", 0.55)
    t.add(curve(top(18), (16.4, 126.8), foot(20)), "outer", "4", 0.45)
    t.add(curve((22.4, 121.6), (25.6, 126.6), (22.6, 132.0)), "inner", "3", 0.4)
    t.add(straight((36.0, _beam_top(36) + 0.4), (37.2, _beam_foot(37) - 0.4)), "inner", "3", 0.45)
    t.add(straight((43.0, _beam_top(43) + 0.4), (44.2, _beam_foot(44) - 0.4)), "inner", "3", 0.45)
    t.add(curve((50.0, 122.4), (74.0, 121.6), (92.0, 119.8)), "detail", "2", 0.4)
    t.add(curve((76.0, 126.4), (104.0, 124.0), (128.0, 123.2)), "detail", "2", 0.45)
    t.add(curve((118.0, 117.6), (142.0, 116.0), (160.0, 115.4)), "detail", "2", 0.4)
    t.add(curve((150.0, 120.8), (172.0, 119.4), (192.0, 117.6)), "detail", "2", 0.4)
    t.covers.append(np.array([top(18), top(206), foot(206), foot(20), (16.4, 126.8)]))
    return t


def _gate() -> Thing:
    t = Thing("Gate", "near", False)
    t.add(straight((206.0, 160.0), (206.0, 99.0), (218.0, 98.2), (218.0, 160.0)), "outer", "4", 0.45)
    t.add(straight((152.0, _beam_foot(152)), (152.0, 160.0)), "outer", "3", 0.55)
    t.add(straight((160.0, _beam_foot(160)), (160.0, 160.0)), "inner", "3", 0.5)
    for x in (171.0, 183.0, 195.0):
        t.add(straight((x, _beam_foot(x)), (x, 160.0)), "inner", "3", 0.4)
    t.add(straight((160.0, 140.6), (206.0, 138.6)), "inner", "3", 0.5)
    t.add(straight((160.0, 148.2), (206.0, 146.2)), "inner", "3", 0.45)
    t.add(curve((206.2, 103.6), (212.0, 104.4), (217.8, 103.0)), "detail", "2", 0.4)
    t.covers.append(np.array([(206, 160), (206, 99), (218, 98.2), (218, 160)]))
    t.covers.append(np.array([(152, 125), (206, 121), (206, 160), (152, 160)]))
    return t


def _bollard() -> Thing:
    t = Thing("Bollard", "near", False)
    left = [(58.0, 126.4), (51.2, 127.6), (48.8, 131.4), (51.0, 135.6), (53.8, 138.0), (53.0, 146.0), (50.6, 154.6)]
    right = [(58.0, 126.4), (65.0, 127.6), (67.6, 131.4), (65.4, 135.6), (62.6, 138.0), (63.4, 146.0), (66.0, 154.6)]
    t.add(curve(*left), "outer", "4", 0.5)
    t.add(curve(*right), "outer", "4", 0.62)
    t.add(curve((51.0, 135.4), (58.2, 138.2), (65.4, 135.4)), "inner", "3", 0.45)
    for n in range(3):
        y = 141.0 + 2.6 * n
        t.add(curve((53.2 - 0.2 * n, y), (58.2, y + 2.4), (63.4 + 0.2 * n, y - 0.2)), "inner", "3", 0.5)
    t.add(
        curve((53.0, 148.4), (44.0, 150.0), (34.0, 147.6), (22.0, 151.8), (8.0, 150.0), (0.0, 152.4)), "outer", "3", 0.5
    )
    t.add(
        curve((53.0, 151.0), (44.0, 152.6), (34.0, 150.2), (22.0, 154.4), (8.0, 152.6), (0.0, 155.0)), "outer", "3", 0.6
    )
    t.covers.append(np.vstack([curve(*left), curve(*right)[::-1]]))
    return t


def _quay() -> Thing:
    t = Thing("Quay", "near", False)
    t.add(curve((0.0, 143.0), (48.0, 142.0), (104.0, 141.4)), "outer", "4", 0.4)
    t.add(straight((104.0, 141.4), (104.6, 160.0)), "outer", "4", 0.55)
    t.add(straight((66.0, 150.2), (104.2, 149.8)), "inner", "3", 0.4)
    t.add(straight((84.0, 149.9), (84.4, 160.0)), "inner", "3", 0.4)
    t.covers.append(np.array([(0, 143), (104, 141.4), (104.6, 160), (0, 160)]))
    return t


def _reeds() -> Thing:
    t = Thing("Reeds", "near", False)
    for base, tip, lean, wide in ((222.5, (221.0, 118.0), -1.5, 2.2), (227.0, (231.5, 104.0), 2.0, 2.6),
                                  (231.5, (226.0, 111.0), -2.0, 2.4), (236.0, (239.0, 97.0), 1.5, 2.4)):  # fmt: skip
        mid = ((base + tip[0]) / 2 + lean, (160.0 + tip[1]) / 2)
        left = [(base - wide / 2, 160.0), (mid[0] - wide / 2.4, mid[1]), tip]
        right = [(base + wide / 2, 160.0), (mid[0] + wide / 2.4, mid[1]), tip]
        t.add(curve(*left), "outer", "3", 0.5)
        t.add(curve(*right), "outer", "3", 0.58)
        t.covers.append(np.vstack([curve(*left), curve(*right)[::-1]]))
    t.add(curve((219.0, 160.0), (218.0, 140.0), (214.6, 124.0)), "outer", "3", 0.45)
    head = ring(213.4, 117.6, 1.7, 6.4)
    t.add(head, "outer", "3", 0.6)
    t.covers.append(head)
    return t


def _water() -> Thing:
    t = Thing("Water", "middle", False)
    for x, y, long in ((110, 139.5, 22), (126, 144.5, 20), (108, 149.6, 16), (130, 153.4, 19), (112, 157.0, 14)):
        t.add(curve((x, y), (x + long * 0.3, y - 0.9), (x + long * 0.65, y + 0.7), (x + long, y)), "detail", "2", 0.5)
    return t


def _cottage() -> Thing:
    t = Thing("Cottage", "middle", False)
    roof = [(177.0, 75.6), (185.5, 58.0), (213.5, 57.0), (223.0, 75.0)]
    t.add(straight(*roof, roof[0]), "outer", "3", 0.5)
    t.add(straight((206.5, 57.2), (206.5, 49.6), (212.0, 49.4), (212.0, 57.0)), "outer", "3", 0.45)
    t.add(straight((181.0, 76.0), (181.0, 97.0)), "outer", "3", 0.5)
    t.add(straight((219.0, 75.6), (219.0, 97.0)), "outer", "3", 0.55)
    t.add(straight((203.0, 97.0), (203.0, 82.0), (210.5, 82.0), (210.5, 97.0)), "inner", "3", 0.4)
    t.add(straight((187.0, 81.0), (197.0, 80.8), (197.0, 89.0), (187.0, 89.0), (187.0, 81.0)), "inner", "3", 0.4)
    t.add(straight((192.0, 81.0), (192.0, 89.0)), "detail", "2", 0.4)
    t.add(straight((187.0, 85.0), (197.0, 84.9)), "detail", "2", 0.4)
    for x in (189.0, 196.0, 203.0):
        t.add(straight((x, 60.4), (x - 2.6, 73.4)), "texture", "2", 0.35)
    t.covers += [np.array(roof), np.array([(181, 75), (219, 75), (219, 97), (181, 97)]),
                 np.array([(206.5, 58), (206.5, 49.6), (212, 49.4), (212, 58)])]  # fmt: skip
    return t


def _poplars() -> Thing:
    t = Thing("Poplars", "middle", False)
    for x, top, wide in ((19.0, 44.0, 5.0), (31.0, 33.0, 5.8), (43.5, 49.0, 4.8)):
        left = [(x - 0.8, 97.5), (x - wide, 84.0), (x - wide * 0.9, 66.0), (x, top)]
        right = [(x + 0.8, 97.5), (x + wide, 84.0), (x + wide * 0.85, 66.0), (x, top)]
        t.add(curve(*left), "outer", "3", 0.45)
        t.add(curve(*right), "outer", "3", 0.52)
        t.add(curve((x - 0.4, 90.0), (x - 0.6, 74.0), (x + 0.2, top + 14.0)), "detail", "2", 0.35)
        t.covers.append(np.vstack([curve(*left), curve(*right)[::-1]]))
    return t


def _land() -> Thing:
    t = Thing("Hills and moon", "far", True)
    t.add(ring(207.0, 27.0, 13.0, 13.0), "outer", "2", 0.45)
    t.add(curve((0.0, 97.4), (60.0, 98.0), (130.0, 96.8), (205.0, 97.6), (240.0, 96.2)), "outer", "2", 0.55)
    far = [
        (0.0, 70.0),
        (22.0, 63.0),
        (54.0, 61.0),
        (92.0, 70.0),
        (126.0, 73.0),
        (164.0, 65.0),
        (204.0, 64.0),
        (240.0, 72.0),
    ]
    near = [(0.0, 86.0), (34.0, 80.0), (74.0, 83.0), (112.0, 88.5), (160.0, 84.0), (196.0, 85.0), (240.0, 81.0)]
    t.add(curve(*near), "outer", "2", 0.5)
    hill = np.vstack([curve(*near), [(240.0, 97.0), (0.0, 97.0)]])
    t.covers.append(hill)
    t.add(curve(*far), "outer", "2", 0.45)
    return t
