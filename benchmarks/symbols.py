"""Symbols that a package carries, as lines to read: round and square shapes, gaps and crossings drawn by others."""

import io
import zipfile
from importlib.resources import files

import numpy as np
import svgelements

from benchmarks.scoring import dense

SIZE_MM, HIGH_MM, COLUMNS, ROWS = (128.0, 98.0), 24.0, 4, 3
_DRAWN_PX = 24.0
LEAST_MM, SAME_MM = 1.0, 0.15


def sheet(seed: int) -> list[np.ndarray]:
    """Lines (n, 2) mm of twelve symbols."""
    names, picture = _symbols()
    rng = np.random.default_rng(seed)
    lines: list[np.ndarray] = []
    for n, k in enumerate(rng.permutation(len(names))[: COLUMNS * ROWS]):
        place = np.array([5.0 + 31.0 * (n % COLUMNS), 5.0 + 31.0 * (n // COLUMNS)])
        lines += [line * (HIGH_MM / _DRAWN_PX) + place for line in lines_of(picture.read(names[k]))]
    return [dense(line) for line in lines]


def _symbols() -> tuple[list[str], zipfile.ZipFile]:
    picture = zipfile.ZipFile(io.BytesIO((files("heroicons") / "heroicons.zip").read_bytes()))
    return sorted(name for name in picture.namelist() if name.startswith("outline/")), picture


def lines_of(svg: bytes) -> list[np.ndarray]:
    """The strokes (n, 2) of a picture in its own units, each once."""
    found = []
    for element in svgelements.SVG.parse(io.BytesIO(svg)).elements():
        if isinstance(element, svgelements.Shape):
            for part in abs(svgelements.Path(element)).as_subpaths():
                line = _flat(svgelements.Path(part))
                if line is not None:
                    found.append(line)
    return _each_once(found)


def _flat(path: svgelements.Path) -> np.ndarray | None:
    points: list[tuple[float, float]] = []
    for piece in path:
        if isinstance(piece, svgelements.Move) or piece.start is None or piece.end is None:
            continue
        steps = np.linspace(0.0, 1.0, 2 if isinstance(piece, svgelements.Line | svgelements.Close) else 24)
        points += [(p.x, p.y) for p in map(piece.point, steps)]
    line = np.array(points, float).reshape(-1, 2)
    if len(line) < 2:
        return None
    line = line[np.concatenate([[True], np.hypot(*np.diff(line, axis=0).T) > 1e-9])]
    return line if float(np.hypot(*np.diff(line, axis=0).T).sum()) > LEAST_MM else None


def _each_once(lines: list[np.ndarray]) -> list[np.ndarray]:
    """Without what lies on a longer one for the most part."""
    from scipy.spatial import cKDTree

    kept: list[np.ndarray] = []
    for line in sorted(map(dense, lines), key=lambda one: -len(one)):
        if not kept or np.mean(cKDTree(np.vstack(kept)).query(line)[0] < SAME_MM) < 0.5:
            kept.append(line)
    return kept
