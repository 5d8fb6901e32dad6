"""How well the confidence of read lines holds on drawings that it was not fitted on: said against right, as figures
and as a picture."""

import itertools
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw
from scipy.spatial import cKDTree

from benchmarks import drawn, symbols
from benchmarks.papers import PAPERS
from benchmarks.scoring import NEAR_MM, dense
from plain_stride.compiled import ready
from plain_stride.pencils.picture import darkness
from plain_stride.pencils.read.reading import read_pencils
from plain_stride.pencils.scanner import LEVELS, scan

SEEDS, DPI, RIGHT_SHARE = (21, 22, 23), 300.0, 0.9
BINS = (0.0, 0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 1.0)
PICTURE = Path("docs/screenshots/reading-confidence.png")
SIDE_PX, EDGE_PX = 420, 46


def main() -> None:
    jobs = [(level, seed, name) for level in ("soft", "rough", "two passes", "five passes") for seed in SEEDS
            for name in (*drawn.DRAWN, "symbols")]  # fmt: skip
    with ProcessPoolExecutor(2) as pool:
        found = [pair for some in pool.map(_told, jobs) for pair in some]
    said, right = np.array(found).T
    rows = []
    for low, high in itertools.pairwise(BINS):
        here = (said >= low) & (said < high + (high == 1.0))
        if here.any():
            rows.append((float(said[here].mean()), float(right[here].mean()), int(here.sum())))
            print(f"    said {low:.2f} to {high:.2f}, in the mean {rows[-1][0]:.2f}: right {rows[-1][1]:.2f}"
                  f" ({rows[-1][2]} lines)")  # fmt: skip
    off = np.average([abs(a - b) for a, b, _ in rows], weights=[n for _, _, n in rows])
    print(f"    off by {off:.3f} in the mean, over {len(said):,} lines; picture in {PICTURE}")
    _picture(rows).save(PICTURE, optimize=True)


def _told(job: tuple[str, int, str]) -> list[tuple[float, float]]:
    """(confidence, 1 where a line is right) for each read line of one drawing."""
    level, seed, name = job
    ready.load()
    how = LEVELS[level] if level in LEVELS else PAPERS[level].how
    lines, size = (symbols.sheet(seed), symbols.SIZE_MM) if name == "symbols" else (drawn.DRAWN[name](seed),
                                                                                    drawn.SIZE_MM)  # fmt: skip
    reading = read_pencils(darkness(scan(lines, size, DPI, seed, how)), DPI / 25.4)
    truth = cKDTree(np.vstack([dense(line) for line in lines]))
    out = []
    for line in reading.lines:
        points = dense(np.vstack([line.points, line.points[:1]]) if line.closed else line.points)
        near = float((truth.query(points)[0] < NEAR_MM).mean())
        out.append((line.confidence, float(near >= RIGHT_SHARE)))
    return out


def _picture(rows: list[tuple[float, float, int]]) -> Image.Image:
    """Said to the right, right upwards; dots as large as many lines, a straight where both are the same."""
    picture = Image.new("L", (SIDE_PX, SIDE_PX), 255)
    pen = ImageDraw.Draw(picture)

    def at(x: float, y: float) -> tuple[float, float]:
        span = SIDE_PX - 2 * EDGE_PX
        return EDGE_PX + x * span, SIDE_PX - EDGE_PX - y * span

    pen.line([at(0, 0), at(1, 0)], fill=60)
    pen.line([at(0, 0), at(0, 1)], fill=60)
    pen.line([at(0, 0), at(1, 1)], fill=190)
    for k in range(0, 101, 20):
        x, y = at(k / 100.0, 0.0)
        pen.text((x - 9, y + 6), f"{k}", fill=60)
        x, y = at(0.0, k / 100.0)
        pen.text((x - 26, y - 6), f"{k}", fill=60)
    pen.text((SIDE_PX / 2 - 60, SIDE_PX - 20), "said to be right, %", fill=60)
    pen.text((8, 12), "right within 0.25 mm, %", fill=60)
    pen.line([at(a, b) for a, b, _ in rows], fill=20, width=2)
    most = max(n for _, _, n in rows)
    for a, b, n in rows:
        x, y = at(a, b)
        r = 3.0 + 7.0 * (n / most) ** 0.5
        pen.ellipse([x - r, y - r, x + r, y + r], fill=20)
    return picture.quantize(16)


if __name__ == "__main__":
    main()
