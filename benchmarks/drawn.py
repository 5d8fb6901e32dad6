"""Drawings made by code, to be read as pencils: faces, hands, machines, trees, cloth. Lines (n, 2) mm, by a seed."""

from collections.abc import Callable

import numpy as np

from benchmarks.scoring import dense

SIZE_MM = (100.0, 100.0)
Lines = list[np.ndarray]


def through(*points: tuple[float, float], closed: bool = False) -> np.ndarray:
    """A smooth line (n, 2) through places."""
    from scipy.interpolate import CubicSpline

    p = np.array([*points, points[0]] if closed else points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T) ** 0.5)])
    spline = CubicSpline(s, p, bc_type="periodic" if closed else "natural")
    return dense(spline(np.linspace(0.0, s[-1], 60 * len(p))))


def oval(x: float, y: float, rx: float, ry: float, start: float = 0.0, end: float = 360.0) -> np.ndarray:
    """Part of an ellipse, degrees clockwise from the right."""
    a = np.radians(np.linspace(start, end, 160))
    return dense(np.column_stack([x + rx * np.cos(a), y + ry * np.sin(a)]))


def straights(*points: tuple[float, float]) -> np.ndarray:
    """A line with corners."""
    return dense(np.array(points, float))


def face(seed: int) -> Lines:
    rng = np.random.default_rng(seed)
    wide, long = rng.uniform(26.0, 32.0), rng.uniform(34.0, 40.0)
    chin = 50.0 + long
    out = [through((50 - wide, 40), (50 - 0.9 * wide, 62), (50 - 0.45 * wide, chin - 4), (50, chin),
                   (50 + 0.45 * wide, chin - 4), (50 + 0.9 * wide, 62), (50 + wide, 40))]  # fmt: skip
    for side in (-1.0, 1.0):
        x = 50 + side * 0.42 * wide
        out += [through((x - 6, 47), (x - 2, 44.5), (x + 3, 44.5), (x + 6, 47)), oval(x, 47.2, 2.1, 2.3),
                through((x - 5, 49), (x, 50.2), (x + 5, 48.6)), through((x - 7, 40), (x, 37.4), (x + 7, 39.5)),
                through((50 + side * wide, 44), (50 + side * (wide + 5), 43), (50 + side * (wide + 4), 55),
                        (50 + side * 0.93 * wide, 58))]  # fmt: skip
    out += [
        through((48, 48), (46.5, 58), (45, 61.5), (48.5, 63), (52.5, 62.4)),
        through((42, 71), (47, 69.5), (50, 70.4), (53, 69.5), (59, 71)),
        through((44, 72.5), (50, 76), (57, 72.6)),
    ]
    for x in np.linspace(-0.9, 0.9, 6) * wide:
        out.append(through((50 + x, 30 + 0.12 * abs(x)), (50 + 0.8 * x + 3, 20), (50 + 0.3 * x + 6, 12)))
    return out


def hand(seed: int) -> Lines:
    rng = np.random.default_rng(seed)
    out: Lines = [through((30, 92), (28, 75), (24, 62), (22, 52)), through((72, 92), (73, 78), (76, 66))]
    for k, (x, top) in enumerate(((30.0, 22.0), (42.0, 13.0), (54.0, 15.0), (66.0, 24.0))):
        r, lean = 4.6, rng.uniform(-3.0, 3.0)
        tip = top + rng.uniform(-3.0, 3.0)
        out.append(through((x - r, 52), (x - r + 0.6 * lean, 36), (x - r + lean, tip + 5), (x + lean, tip),
                           (x + r + lean, tip + 5), (x + r + 0.6 * lean, 36), (x + r, 53)))  # fmt: skip
        out.append(through((x - 2.2 + lean, tip + 6), (x + lean, tip + 3.4), (x + 2.4 + lean, tip + 6)))
        out.append(through((x - 3 + 0.6 * lean, 36.5), (x + 0.6 * lean, 37.6), (x + 3 + 0.6 * lean, 36.2)))
        if k:
            out.append(through((x - 6, 53), (x - 6.2, 56), (x - 5.4, 58)))
    out += [through((76, 66), (84, 56), (90, 46), (94, 47), (92, 56), (82, 70), (74, 80)),
            through((34, 66), (46, 70), (58, 66)), through((38, 84), (44, 72), (60, 62))]  # fmt: skip
    return out


def machine(seed: int) -> Lines:
    rng = np.random.default_rng(seed)
    out: Lines = [straights((12, 40), (62, 40), (62, 78), (12, 78), (12, 40)),
                  straights((12, 40), (22, 30), (72, 30), (62, 40)),
                  straights((72, 30), (72, 68), (62, 78)), oval(30, 59, 12, 12), oval(30, 59, 4, 4)]  # fmt: skip
    for k in range(6):
        a = np.radians(60 * k + rng.uniform(-8, 8))
        out.append(straights((30 + 4 * np.cos(a), 59 + 4 * np.sin(a)), (30 + 12 * np.cos(a), 59 + 12 * np.sin(a))))
    out += [straights((47, 46), (58, 46), (58, 53), (47, 53), (47, 46)), straights((47, 60), (58, 60)),
            straights((47, 64), (58, 64)), straights((47, 68), (58, 68)),
            straights((80, 12), (80, 84)), straights((88, 12), (88, 84)),
            through((72, 48), (76, 47), (80, 48)), oval(84, 12, 4, 1.6), oval(84, 84, 4, 1.6, 0, 180),
            straights((8, 78), (8, 86), (70, 86), (78, 78))]  # fmt: skip
    out += [oval(x, 82, 2.2, 2.2) for x in (18.0, 34.0, 50.0)]
    return out


def tree(seed: int) -> Lines:
    rng = np.random.default_rng(seed)
    out: Lines = [through((40, 94), (44, 76), (43, 60), (38, 48)), through((60, 94), (56, 78), (57, 62), (64, 50)),
                  through((48, 56), (50, 49), (53, 56))]  # fmt: skip
    a = np.linspace(0.0, 2.0 * np.pi, 15)[:-1]
    for k, turn in enumerate(a):
        nxt = a[(k + 1) % len(a)]
        p, q = (np.array([50 + 36 * np.cos(t), 34 + 24 * np.sin(t)]) for t in (turn, nxt))
        out_by = (p + q) / 2 + rng.uniform(2.5, 5.0) * np.array([np.cos((turn + nxt) / 2), np.sin((turn + nxt) / 2)])
        out.append(through(tuple(p), tuple(out_by), tuple(q)))
    for _ in range(9):
        x, y = 50 + rng.uniform(-24, 24), 34 + rng.uniform(-15, 12)
        out.append(through((x - 4, y), (x - 1, y - 2.2), (x + 2, y - 0.4), (x + 4, y + 1)))
    for x in (45.0, 50.0, 54.0):
        y = rng.uniform(64, 70)
        out.append(through((x, y), (x + 0.8, y + 8), (x - 0.4, y + 16)))
    return out


def cloth(seed: int) -> Lines:
    rng = np.random.default_rng(seed)
    out: Lines = [through((14, 14), (38, 10), (62, 15), (88, 11))]
    hem = [(12.0, 88.0)]
    for k in range(5):
        x = 20.0 + 15.0 * k + rng.uniform(-2, 2)
        out.append(through((38 + 5 * k, 13), (30 + 9 * k, 40), (x, 70), (x + rng.uniform(-3, 3), 86)))
        if k % 2:
            out.append(through((x + 5, 60), (x + 7, 72), (x + 5.5, 80)))
        hem += [(x, 84.0 + 4.0 * (k % 2)), (x + 7.0, 90.0 - 3.0 * (k % 2))]
    out += [through((14, 14), (16, 45), (12, 88)), through((88, 11), (86, 48), (92, 86)), through(*hem, (92, 86)),
            through((22, 24), (34, 30), (47, 26)), through((60, 24), (70, 31), (82, 25))]  # fmt: skip
    return out


DRAWN: dict[str, Callable[[int], Lines]] = {
    "face": face, "hand": hand, "machine": machine, "tree": tree, "cloth": cloth,
}  # fmt: skip
