"""Seeds, finished lines and distances of the benchmarks, and the command line that makes lines of pulls."""

import json
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np
import shapely

PROGRAM = Path(sys.executable).with_name("plain-stride")


def fresh_seeds(n: int) -> list[int]:
    """Seeds that nobody has seen before this run."""
    return np.random.SeedSequence().generate_state(n).tolist()


def run(*arguments: object) -> str:
    """Runs the program's command line; gives what it printed."""
    return subprocess.run([str(PROGRAM), *map(str, arguments)], check=True, capture_output=True, text=True).stdout


def finished(folder: Path, pulls: Sequence[np.ndarray], school: str) -> list[np.ndarray]:
    """The points (n, 2) of each pull's finished line, through `import` and `lines --json`."""
    job, file = folder / f"{school}.stride", folder / f"{school}.json"
    run("new", job, "--size", "200x200mm", "--dpi", 300)
    rows = [{"samples": [[float(v) for v in row[:4]] for row in pull]} for pull in pulls]
    file.write_text(json.dumps({"units": "mm", "pulls": rows}))
    run("import", job, file, "--steady", school)
    lines: list[dict[str, Any]] = json.loads(run("lines", job, "--json"))["lines"]
    in_order = sorted(lines, key=lambda line: int(line["id"].lstrip("l")))
    job.unlink()
    return [np.array(line["points"]) for line in in_order]


def distances(points: np.ndarray, line: np.ndarray) -> np.ndarray:
    """Distance (n,) mm of points to a polyline."""
    return shapely.distance(shapely.points(points), shapely.LineString(line))


def rms(v: np.ndarray) -> float:
    """Root mean square."""
    return float(np.sqrt((v**2).mean()))
