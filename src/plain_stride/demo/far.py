"""The demo's distance: the lock house with its lit windows, poplars, the bridge, hills, the moon behind clouds."""

import numpy as np

from plain_stride.demo.draw import Points, Thing, box, curve, ring, straight

DUSK_SEED = 19


def cottage() -> Thing:
    t = Thing("Lock house", "middle", False)
    roof = [(168.6, 66.6), (182.0, 45.4), (219.0, 44.6), (234.0, 66.0)]
    t.edge(*roof, roof[0], pressure=0.5)
    t.edge((170.4, 69.0), (232.0, 68.6), role="inner", pressure=0.55)
    t.edge((208.6, 44.8), (208.6, 33.6), (216.0, 33.4), (216.0, 44.6), pressure=0.5)
    t.edge((207.4, 33.6), (207.4, 31.2), (217.2, 31.0), (217.2, 33.4), (207.4, 33.6), role="inner")
    t.edge((174.0, 69.0), (174.0, 97.4), pressure=0.5)
    t.edge((229.0, 68.8), (229.0, 97.0), pressure=0.58)
    t.edge((222.4, 97.0), (222.4, 78.4), (212.6, 78.4), (212.6, 88.0), role="inner", pressure=0.5)
    for x in (180.0, 196.0):
        t.edge((x, 76.0), (x + 10, 76.0), (x + 10, 87.0), (x, 87.0), (x, 76.0), role="inner")
        t.edge((x + 5, 76.0), (x + 5, 87.0), role="detail")
        t.edge((x, 81.4), (x + 10, 81.4), role="detail")
        t.edge((x - 1.0, 88.6), (x + 11, 88.6), role="detail", pressure=0.5)
    for row, y in enumerate((50.6, 55.8, 61.0)):
        left, right = 182.0 - (y - 45) * 0.62, 219.0 + (y - 45) * 0.68
        t.add(curve((left + 3, y), ((left + right) / 2, y - 0.4), (right - 3, y + 0.2)), "texture", "1", 0.5)
        for k in range(5):
            x = left + 6 + (k + 0.5 * (row % 2)) * (right - left - 10) / 5
            t.add(straight((x, y + 0.2), (x - 0.6, y + 3.6)), "texture", "1", 0.45)
    t.add(curve((211.6, 30.4), (208.2, 25.6), (213.8, 21.4), (210.0, 15.6), (216.4, 9.6)), "detail", "2", 0.4)
    t.add(curve((214.2, 30.2), (212.4, 25.8), (217.6, 21.8), (214.6, 16.2), (221.6, 10.4)), "detail", "2", 0.4)
    t.covers.append(
        np.vstack(
            [
                curve((211.6, 30.4), (208.2, 25.6), (213.8, 21.4), (210.0, 15.6), (216.4, 9.6)),
                curve((221.6, 10.4), (214.6, 16.2), (217.6, 21.8), (212.4, 25.8), (214.2, 30.2)),
            ]
        )
    )
    t.covers += [np.array(roof), box(174, 66, 229, 97.2), box(208.6, 33, 216, 46), box(207.4, 31, 217.2, 33.6)]
    t.blacks.append(box(213.2, 79.0, 221.8, 97.0))
    t.crosses += [(217.4, 88.2, 2.4)]
    return t


def poplars() -> Thing:
    t = Thing("Poplars", "middle", False)
    for x, top, wide in ((9.0, 50.0, 4.6), (19.5, 37.0, 5.4), (151.5, 62.0, 3.6), (159.5, 56.0, 4.2)):
        left = [(x - 0.8, 97.6), (x - wide, 85.0), (x - wide * 0.9, 68.0), (x, top)]
        right = [(x + 0.8, 97.6), (x + wide, 85.0), (x + wide * 0.85, 68.0), (x, top)]
        left, right = _leafy(left), _leafy(right)
        t.outer(*left, pressure=0.42)
        t.outer(*right, pressure=0.52)
        for k in range(3):
            y = top + 16 + 9 * k
            t.add(curve((x - 0.6, y + 6), (x + 0.4, y + 2), (x + 1.4, y - 3)), "texture", "1", 0.5)
        t.cover(curve(*left), curve(*right)[::-1])
    return t


def _leafy(side: Points) -> Points:
    """A side of a poplar with a few lobes of leaves along it."""
    path = curve(*side)
    picked = path[np.linspace(0, len(path) - 1, 15).astype(int)]
    middle = side[-1][0]
    out = [(float(x + (0.55 if k % 2 else -0.35) * np.sign(x - middle)), float(y)) for k, (x, y) in enumerate(picked)]
    return [side[0], *out[1:-1], side[-1]]


def bridge() -> Thing:
    t = Thing("Bridge", "far", True)
    t.add(curve((98.0, 96.6), (108.0, 90.4), (121.0, 87.8), (134.0, 90.2), (145.0, 96.4)), "outer", "2", 0.5)
    t.add(curve((101.6, 94.0), (110.0, 88.6), (121.0, 86.2), (132.0, 88.4), (141.4, 93.8)), "inner", "2", 0.45)
    arch = ring(121.0, 98.0, 9.6, 7.0, start=180.0, turn=180.0)
    t.add(arch, "outer", "2", 0.5)
    t.blacks.append(np.vstack([ring(121.0, 98.0, 9.2, 6.6, start=180.0, turn=122.0), [(125.0, 95.2), (119.6, 97.4),
                                                                                     (112.0, 97.8)]]))  # fmt: skip
    t.crosses += [(117.4, 95.4, 1.4)]
    for angle in np.radians((205.0, 230.0, 255.0, 285.0, 310.0, 335.0)):
        c, s = np.cos(angle), np.sin(angle)
        t.edge((121 + 9.6 * c, 98 + 7.0 * s), (121 + 11.4 * c, 98 + 8.6 * s), role="detail", pressure=0.4)
    t.cover(curve((98.0, 96.6), (108.0, 90.4), (121.0, 87.8), (134.0, 90.2), (145.0, 96.4)),
            np.array([(145, 98), (130.6, 98)]), arch[::-1], np.array([(111.4, 98), (98, 98)]))  # fmt: skip
    return t


def land() -> Thing:
    t = Thing("Hills and canal", "far", True)
    t.add(curve((0.0, 98.6), (50.0, 98.2), (98.0, 97.6)), "outer", "2", 0.55)
    t.add(curve((145.0, 97.4), (190.0, 97.8), (240.0, 96.8)), "outer", "2", 0.55)
    for x, y, long in ((4, 103, 20), (30, 106, 16), (8, 109.4, 14), (44, 102.6, 14), (106, 103.4, 13), (112, 107, 9)):
        t.detail((x, y), (x + long * 0.35, y - 0.6), (x + long * 0.7, y + 0.5), (x + long, y))
    near = [(0.0, 84.0), (30.0, 79.0), (70.0, 83.0), (112.0, 87.0), (160.0, 82.0), (200.0, 84.0), (240.0, 80.0)]
    far = [(0.0, 70.0), (22.0, 62.0), (52.0, 66.0), (92.0, 72.0), (126.0, 70.0), (164.0, 60.0), (204.0, 62.0),
           (240.0, 70.0)]  # fmt: skip
    t.outer(*near, pressure=0.46)
    t.covers.append(np.vstack([curve(*near), [(240.0, 97.0), (0.0, 97.0)]]))
    t.outer(*far, pressure=0.42)
    t.covers.append(np.vstack([curve(*far), [(240.0, 97.0), (0.0, 97.0)]]))
    return t


def sky() -> Thing:
    t = Thing("Sky", "far", True)
    for x, y, w in ((150, 41, 5.0), (160, 35, 4.2), (166.6, 43, 3.4), (141, 33, 3.2)):
        bird = curve((x - w, y - 0.6), (x - w * 0.45, y - 2.0), (x, y), (x + w * 0.5, y - 2.2), (x + w, y - 1.2))
        t.add(bird, "outer", "2", 0.5, "fast")
    t.add(ring(39.0, 27.0, 13.5, 13.5, start=60.0), "outer", "2", 0.5, "fast")
    return t


def cloud() -> Thing:
    """A long cloud drawn across the moon: billows above, one level line below."""
    t = Thing("Cloud", "far", True)
    billows = [(17.0, 36.0), (19.4, 33.0), (24.0, 32.4), (26.4, 29.8), (31.6, 29.6), (34.4, 31.6), (38.6, 29.4),
               (43.8, 30.0), (46.0, 32.6), (50.8, 31.6), (54.6, 33.4), (59.0, 33.2), (62.6, 36.0)]  # fmt: skip
    t.add(curve(*billows), "inner", "2", 0.5)
    t.add(curve((14.0, 36.4), (38.0, 35.6), (66.0, 36.4)), "inner", "2", 0.45)
    t.add(curve((24.6, 34.2), (28.4, 32.6), (32.2, 33.2)), "detail", "2", 0.4)
    t.add(curve((41.0, 33.4), (44.4, 32.6), (47.2, 34.0)), "detail", "2", 0.4)
    t.covers.append(np.vstack([curve(*billows), [(62.6, 36.2), (17.0, 36.2)]]))
    return t


def dusk() -> Thing:
    """The evening in level strokes, denser towards the top, left open round the moon and the lantern's light."""
    t = Thing("Dusk", "far", False)
    y, n = 2.4, 0
    rng = np.random.default_rng(DUSK_SEED)
    while y < 66.0:
        x = np.linspace(-1.0, 241.0, 485)
        wave = y + 0.45 * np.sin(x / 23.0 + 1.7 * n) + 0.25 * np.sin(x / 9.0 + n)
        glow = np.hypot(x - 139.0, (wave - 92.0) * 0.95) > 56.0 + rng.uniform(-5.0, 7.0)
        moon = np.hypot(x - 39.0, wave - 27.0) > 16.5 + rng.uniform(-0.6, 2.6)
        for a, b in _runs(glow & moon):
            a, b = a + int(rng.integers(0, 16)), b - int(rng.integers(0, 16))
            for c, d in _broken(a, b, rng):
                line = np.column_stack([x[c:d], wave[c:d]])[:: max(1, (d - c) // 24)]
                if len(line) > 3:
                    t.add(curve(*map(tuple, line)), "texture", "1", 0.42 - 0.004 * y, "fast")
        y, n = y + 1.9 + y * 0.026, n + 1
    return t


def _runs(on: np.ndarray) -> list[tuple[int, int]]:
    """Stretches of True, from and to."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], on, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _broken(a: int, b: int, rng: np.random.Generator) -> list[tuple[int, int]]:
    """A long stroke in one or two pulls, with a little white where the hand was set down anew."""
    if b - a < 190 or rng.uniform() < 0.45:
        return [(a, b)]
    cut = int(rng.integers(a + 60, b - 60))
    return [(a, cut - 4), (cut + 4, b)]
