"""500 random changes and 500 undos: every state comes back bit for bit, in memory and in the file."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from plain_stride.job.errors import JobError
from plain_stride.job.job_files import load
from plain_stride.job.opening import open_store
from plain_stride.job.shapes import Shapes
from plain_stride.lines.given import form_from_points
from tests.conftest import plain_rows

CHANGES = 500
PARTS = ("Gate", "Heron", "Hill", "Lines")
ROLES = ("outer", "inner", "detail", "texture", "ruled", "halo")


def picture(rng) -> bytes:
    out = io.BytesIO()
    Image.fromarray(rng.integers(0, 255, (20, 30), np.uint8)).save(out, "PNG")
    return out.getvalue()


def random_change(job, rng):
    """(name, arguments) of a change; it may be one that is refused."""
    lines = list(job.rows.lines)
    line = str(rng.choice(lines)) if lines else "none"
    some = [str(k) for k in rng.choice(lines, min(len(lines), 3), replace=False)] if lines else ["none"]
    part = str(rng.choice(PARTS))
    number = lambda low, high: round(float(rng.uniform(low, high)), 3)  # noqa: E731
    sheets = list(job.rows.pencils) or ["none"]
    points = rng.uniform(5, 85, (4, 2))
    kinds = {
        "line": lambda: {"form": form_from_points(points, np.full(4, 0.2), np.full(4, 0.3), False), "nib": job.nibs()["3"],
                         "part": part, "role": str(rng.choice(ROLES))},
        "delete": lambda: {"lines": some},
        "trim": lambda: {"line": line, "at": [number(5, 85), number(5, 85)]},
        "swell": lambda: {"line": line, "factor": number(0.5, 2), "from": number(0, 20), "to": number(20, 60)},
        "set": lambda: {"lines": some, "role": str(rng.choice(ROLES)), "part": part},
        "steady": lambda: {"lines": some, "school": str(rng.choice(["off", "after"]))},
        "part": lambda: {"name": part, "tier": str(rng.choice(["near", "middle", "far"])), "order": int(rng.integers(1, 5)),
                         "hidden": bool(rng.integers(0, 2)), "locked": bool(rng.random() < 0.1)},
        "part-delete": lambda: {"name": part},
        "cover": lambda: {"name": part, "on": bool(rng.integers(0, 2)), "gap": number(0, 2),
                          "shape": points.tolist() and [points.tolist()]},
        "board": lambda: {"width_mm": number(50, 200), "dpi": number(75, 1200)},
        "pencils-add": lambda: {"data": picture(rng), "name": "scan"},
        "pencils": lambda: {"sheet": str(rng.choice(sheets)), "fade": number(0, 1), "hidden": bool(rng.integers(0, 2))},
        "pencils-remove": lambda: {"sheet": str(rng.choice(sheets))},
        "nib": lambda: {"key": str(rng.integers(1, 10)), "lightest": number(0.1, 0.4), "heaviest": number(0.5, 2)},
        "plan": lambda: {"share": number(0, 100), "base": number(0.2, 0.6)},
    }  # fmt: skip
    weights = np.array([8 if name in ("line", "swell") else 1 if name == "part-delete" else 3 for name in kinds], float)
    name = str(rng.choice(list(kinds), p=weights / weights.sum()))
    return name, kinds[name]()


def state(job) -> str:
    return json.dumps([plain_rows(job), job.history.head], sort_keys=True)


def in_file(path) -> str:
    store = open_store(path, write=False)
    try:
        return state(load(store))
    finally:
        store.close()


@pytest.mark.parametrize("seed", [1, 2])
def test_every_state_comes_back(open_job, seed):
    rng = np.random.default_rng(seed)
    open_job.pull((10, 10), (80, 60))
    made, refused, states = 0, 0, [state(open_job.job)]
    while made < CHANGES:
        name, arguments = random_change(open_job.job, rng)
        try:
            open_job.do(name, **arguments)
        except JobError:
            refused += 1
            assert state(open_job.job) == states[-1]
            continue
        if (now := state(open_job.job)) != states[-1]:
            made += 1
            states.append(now)
    assert in_file(open_job.path) == states[-1]
    for n in range(CHANGES - 1, -1, -1):
        open_job.undo()
        assert state(open_job.job) == states[n]
        if n % 50 == 0:
            assert in_file(open_job.path) == states[n]
    for n in range(1, CHANGES + 1):
        open_job.redo()
        assert state(open_job.job) == states[n]
    assert in_file(open_job.path) == states[-1]
    assert refused > 0 and len(Shapes(open_job.job).visible()) >= 0
