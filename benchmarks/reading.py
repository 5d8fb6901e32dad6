"""Reading pencils: lines of known place through the simulated scanner at three levels, scored against the truth;
planted undecided places; speed and memory on large scans.

Sets: flowing curves and straights strewn over a sheet, closed shapes with corners, the Hershey single-stroke letters
and symbols (packages carry them), drawings by code, and the demo's own lines; other pencils and papers.
"""

import resource
import time
from collections.abc import Sequence

import numpy as np
from HersheyFonts import HersheyFonts

from benchmarks import calibration, symbols
from benchmarks import drawn as drawings
from benchmarks.papers import PAPERS
from benchmarks.scoring import Score, dense, mean_score, score
from plain_stride.demo.draw import straight
from plain_stride.demo.scene import SIZE_MM, guides, scene, seen
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.reading import Reading, read_pencils
from plain_stride.pencils.scanner import LEVELS, scan
from tests.targets import flowing

DPI, SHEET = 300.0, (210.0, 150.0)
WANTED = {"soft": (0.997, 1.15, 0.15, 0.05, 1.08, 1), "rough": (0.96, 1.2, 0.35, 0.10, 1.12, 5),
          "photo": (0.955, 1.25, 0.35, 0.10, 1.14, 8)}  # fmt: skip
SHEETS, PLANTED_SHEETS = 4, 8
A4 = (210.0, 297.0)
LETTERS = ("Lantern lit at the lock", "the keeper minds its gate", "QUIET WATER 1247 & 93", "half a mile of towpath")
FOUND_MM = 2.0
"""How near a planted place a found one must lie."""
Drawing = tuple[list[np.ndarray], list[np.ndarray]]
"""(lines, construction lines), each (n, 2) mm."""


def main() -> None:
    for level, (f1, per, ends, corner, turning, false) in WANTED.items():
        drawn = [line.points for thing in seen(scene()) for line in thing.lines if thing.part != "Dusk"]
        sets: dict[str, list[Score]] = {
            "strewn": [scored(strewn_sheet(n), SHEET, level, n) for n in range(SHEETS)],
            "shapes": [scored(shapes_sheet(n), SHEET, level, 40 + n) for n in range(SHEETS)],
            "letters": [scored(letters_sheet(font), SHEET, level, 60 + n)
                        for n, font in enumerate(("futural", "rowmans", "cursive"))],
            "demo": [scored((drawn, guides()), SIZE_MM, level, 7)],
            "faces, hands, machines, trees, cloth": [scored((draw(n), []), drawings.SIZE_MM, level, n)
                                                     for draw in drawings.DRAWN.values() for n in (11, 12)],
            "symbols": [scored((symbols.sheet(n), []), symbols.SIZE_MM, level, n) for n in (11, 12)],
        }  # fmt: skip
        print(f"  {level}: asked F1 >= {f1}, lines per true <= {per}, ends <= {ends} mm, corners <= {corner} mm,"
              f" turning <= {turning}, false <= {false} mm")  # fmt: skip
        for name, scores in sets.items():
            print(f"    {name}: {mean_score(scores)}", flush=True)
    _papers()
    print("  how well confidence holds:")
    calibration.main()
    _planted_all()
    _speed()


def _papers() -> None:
    """Other pencils and other scans, over drawings by code and symbols."""
    print("  other pencils and papers:")
    for name, paper in PAPERS.items():
        scores = []
        for k, draw in enumerate([*drawings.DRAWN.values(), symbols.sheet]):
            lines, size = draw(13), drawings.SIZE_MM if k < len(drawings.DRAWN) else symbols.SIZE_MM
            data = paper.scanned(scan(lines, size, paper.dpi, 13, paper.how), 13)
            scores.append(score(lines, read_pencils(darkness(data), paper.dpi / 25.4)))
        print(f"    {name} ({paper.pencils}): {mean_score(scores)}", flush=True)


def strewn_sheet(seed: int) -> Drawing:
    """Flowing curves, and straights with a corner; five construction lines."""
    rng = np.random.default_rng(seed)
    lines = []
    for k in range(26):
        curve = flowing(100 * seed + k) * rng.uniform(0.5, 1.4)
        lines.append(_turned_about(curve - curve.mean(axis=0), rng) + rng.uniform((25.0, 25.0), (185.0, 125.0)))
    for _ in range(6):
        p = rng.uniform((10.0, 10.0), (200.0, 140.0))
        q = p + rng.uniform(-60.0, 60.0, 2)
        lines.append(np.clip(straight(tuple(p), tuple(q), tuple(q + rng.uniform(-40.0, 40.0, 2))), 3.0, (207.0, 147.0)))
    return lines, _guides(rng)


def shapes_sheet(seed: int) -> Drawing:
    """Boxes, triangles, stars, rings, leaves and bunches of hair, on a grid so that they stand apart."""
    rng = np.random.default_rng(1000 + seed)
    lines: list[np.ndarray] = []
    places = [(x, y) for y in (28.0, 75.0, 122.0) for x in (28.0, 66.0, 104.0, 142.0, 180.0)]
    for n, place in enumerate(places):
        size = rng.uniform(6.0, 15.0)
        shapes = (_polygon(4, size), _polygon(3, size), _star(size), _ring(size, rng), _leaf(size), _hair(size, rng))
        turn = _turn(rng)
        lines += [one @ turn + place for one in shapes[n % 6]]
    return lines, _guides(rng)


def letters_sheet(font: str) -> Drawing:
    """Hershey letters, 11 mm high."""
    letters = HersheyFonts()
    letters.load_default_font(font)
    letters.normalize_rendering(11)
    lines = []
    for row, text in enumerate(LETTERS):
        strokes = [np.array(stroke, float) for stroke in letters.strokes_for_text(text)]
        shift = np.array([8.0, 32.0 + 33.0 * row])
        wide = max(float(stroke[:, 0].max()) for stroke in strokes)
        lines += [stroke * min(1.0, 190.0 / wide) * (1.0, -1.0) + shift for stroke in strokes if len(stroke) > 1]
    return lines, _guides(np.random.default_rng(5))


def _guides(rng: np.random.Generator) -> list[np.ndarray]:
    return [np.linspace(a, b, 100) for a, b in rng.uniform((5.0, 5.0), (200.0, 140.0), (5, 2, 2))]


def _turn(rng: np.random.Generator) -> np.ndarray:
    a = rng.uniform(0.0, 2.0 * np.pi)
    return np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])


def _turned_about(curve: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    out: np.ndarray = curve @ _turn(rng)
    return out


def _polygon(n: int, size: float) -> list[np.ndarray]:
    a = np.linspace(0.0, 2.0 * np.pi, n + 1)
    return [dense(np.column_stack([np.cos(a), np.sin(a)]) * size)]


def _star(size: float) -> list[np.ndarray]:
    a = np.linspace(0.0, 2.0 * np.pi, 11)
    r = np.where(np.arange(11) % 2, 0.45, 1.0) * size
    return [dense(np.column_stack([np.cos(a) * r, np.sin(a) * r]))]


def _ring(size: float, rng: np.random.Generator) -> list[np.ndarray]:
    a = np.linspace(0.0, 2.0 * np.pi, 120)
    return [np.column_stack([np.cos(a), rng.uniform(0.4, 1.0) * np.sin(a)]) * size * f for f in (1.0, 0.45)]


def _leaf(size: float) -> list[np.ndarray]:
    t = np.linspace(0.0, 1.0, 80)
    side = np.column_stack([(2.0 * t - 1.0) * size, 0.45 * size * np.sin(np.pi * t)])
    return [side, side * (1.0, -1.0), np.column_stack([(1.6 * t - 0.8) * size, 0.0 * t])]


def _hair(size: float, rng: np.random.Generator) -> list[np.ndarray]:
    t = np.linspace(0.0, 1.0, 60)[:, None]
    ends = np.column_stack([np.full(5, 1.8 * size), np.linspace(-0.9, 0.9, 5) * size])
    return [(1 - t) ** 2 * np.zeros(2) + 2 * t * (1 - t) * (end * (0.6, 0.2)) + t**2 * end for end in ends]


def scored(drawing: Drawing, size: tuple[float, float], level: str, seed: int) -> Score:
    how = LEVELS[level]
    lines, faint = drawing
    data = scan(lines, size, DPI, seed, how, faint if level != "soft" else [])
    return score([_turned(line, how.turn, size) for line in lines], read_pencils(darkness(data), DPI / 25.4))


def _turned(points: np.ndarray, degrees: float, size: tuple[float, float]) -> np.ndarray:
    middle, a = np.array(size) / 2.0, np.radians(degrees)
    return (points - middle) @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) + middle


def planted_sheet(seed: int) -> tuple[list[np.ndarray], np.ndarray]:
    """(lines, places (n, 2) mm): shapes of which some have two passes pulled apart, and some an end withheld."""
    rng = np.random.default_rng(3000 + seed)
    lines: list[np.ndarray] = []
    places: list[np.ndarray] = []
    for n, (x, y) in enumerate((x, y) for y in (28.0, 75.0, 122.0) for x in (30.0, 80.0, 130.0, 180.0)):
        kind = ("plain", "apart", "short", "tee")[n % 4]
        turn, size = _turn(rng), rng.uniform(12.0, 17.0)
        made, place = _planted(kind, size, rng)
        lines += [one @ turn + (x, y) for one in made]
        if place is not None:
            places.append(place @ turn + (x, y))
    return lines, np.array(places)


def _planted(kind: str, size: float, rng: np.random.Generator) -> tuple[list[np.ndarray], np.ndarray | None]:
    t = np.linspace(0.0, 1.0, 120)
    if kind == "apart":
        # One line, drawn twice, that parts by 1.4 to 2.4 mm in its middle.
        off = rng.uniform(1.4, 2.4) * np.exp(-(((t - 0.5) / 0.16) ** 2))
        base = np.column_stack([(2 * t - 1) * size, 0.2 * size * np.sin(2.4 * t)])
        return [base + np.column_stack([0 * t, off / 2]), base - np.column_stack([0 * t, off / 2])], np.array(
            [0.0, 0.2 * size * np.sin(1.2)]
        )
    wall = np.column_stack([(2 * t - 1) * size, 0.0 * t])
    if kind == "plain":
        return [wall, np.column_stack([0.15 * size * np.sin(3 * t), t * size])], None
    gap = rng.uniform(1.6, 3.0) if kind == "short" else 0.0
    stem = np.column_stack([0.1 * size * (1 - t) * np.sin(3 * t), gap + t * (size - gap)])
    return [wall, stem], np.array([0.0, gap / 2.0]) if kind == "short" else None


def _planted_found(reading: Reading, places: np.ndarray) -> tuple[int, int]:
    """(planted places that were found, found places that are planted ones)."""
    found = np.array([[p.x, p.y] for p in reading.undecided]).reshape(-1, 2)
    if not len(found):
        return 0, 0
    near = np.hypot(*(found[:, None] - places[None]).transpose(2, 0, 1)) <= FOUND_MM
    return int(near.any(axis=0).sum()), int(near.any(axis=1).sum())


def _planted_scores(level: str, sheets: Sequence[int]) -> tuple[float, float]:
    hit = right = planted = told = 0
    for n in sheets:
        lines, places = planted_sheet(n)
        how = LEVELS[level]
        reading = read_pencils(darkness(scan(lines, SHEET, DPI, n, how)), DPI / 25.4)
        one, two = _planted_found(reading, _turned(places, how.turn, SHEET))
        hit, right, planted, told = hit + one, right + two, planted + len(places), told + len(reading.undecided)
    return hit / planted, right / max(told, 1)


def _planted_all() -> None:
    for level in LEVELS:
        recall, precision = _planted_scores(level, range(PLANTED_SHEETS))
        print(f"  planted undecided places, {level}: recall {recall:.2f} (>= .9), precision {precision:.2f} (>= .8)",
              flush=True)  # fmt: skip


def _speed() -> None:
    lines = [line + (0.0, 140.0 * k) for k in (0, 1) for line in strewn_sheet(k)[0]]
    for name, dpi, level, most in (("A4 at 300 dpi", 300.0, "soft", 4.0), ("A4 at 300 dpi", 300.0, "rough", 4.0),
                                   ("A4 at 680 dpi", 680.0, "rough", 20.0)):  # fmt: skip
        dark = darkness(scan(lines, A4, dpi, 3, LEVELS[level]))
        began = time.perf_counter()
        reading = read_pencils(dark, dpi / 25.4)
        spent = time.perf_counter() - began
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
        print(f"  {name}, {level}, {dark.size / 1e6:.1f} Mpx: {spent:.1f} s (<= {most:g}), {len(reading.lines)} lines;"
              f" peak of this process so far, scanner and all, {peak:.2f} GB (<= 2)", flush=True)  # fmt: skip
