"""Hatching in the real window: 2,000 strokes on the sheet, changed while a slider moves; the pen on a board of 20,000;
how laying grows; and the hatch card with what newsprint makes of it."""

import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from benchmarks.drawing import took
from benchmarks.idle import counted
from benchmarks.pen import P95_MS, report, window_run
from plain_stride.board.page import Page
from plain_stride.board.targets import STANDARD
from plain_stride.compiled import ready
from plain_stride.job.changes import make, make_all
from plain_stride.job.job_files import new_job, opened
from plain_stride.job.shapes import Shapes
from plain_stride.tone.covered import covered
from plain_stride.tone.printed import printed
from tests.virtual_display import virtual_display

ON_SHEET_MS, FRAMES_A_SECOND, STROKES, MANY = 300.0, 15.0, 2_000, 20_000
SIZE_MM = (420.0, 297.0)
PICTURE = Path(__file__).parent.parent / "docs" / "screenshots" / "hatch-card.png"
CARD_MM, CARD_DPI, GREYS = (120.0, 62.0), 300.0, (0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8)
RED = (179, 38, 30)


def field(pitch: float, seed: int = 1) -> dict[str, Any]:
    """A hatch over a whole A3."""
    w, h = SIZE_MM
    return {"around": [[0, 0], [w, 0], [w, h], [0, h]], "grey": 0.3, "angle": 0, "pitch": pitch, "seed": seed}


def main() -> None:
    ready.load()
    with tempfile.TemporaryDirectory() as folder, virtual_display() as env:
        _growth(Path(folder))
        page = Path(folder) / "page.stride"
        new_job(page, Page(SIZE_MM, 300.0))
        told, idle, thrown = counted(lambda: _in_window(page, env, folder))
        print(f"  {told['strokes']:,} strokes on the sheet after {told['laid'] * 1000:.0f} ms (<= {ON_SHEET_MS:g}),"
              f" their outlines after {told['outlined'] * 1000:.0f} ms")  # fmt: skip
        for where, spent in told["frames"].items():
            print(f"  laid anew while a slider moves, {where}: {1.0 / np.median(spent):.1f} frames a second at the"
                  f" median, {1.0 / np.percentile(spent, 95):.1f} at p95 (>= {FRAMES_A_SECOND:g})")  # fmt: skip
        print(f"    {idle.words()}; runs thrown away: {thrown}", flush=True)
        many = Path(folder) / "many.stride"
        _many(many)
        for scale in ("5", "15"):
            report(f"{MANY:,} strokes, {scale} px/mm", lambda s=scale: window_run(many, env, folder, s), P95_MS)
    _card()


def _in_window(page: Path, env: dict[str, str], folder: str) -> dict[str, Any]:
    copy = page.with_name("copy.stride")
    shutil.copy(page, copy)
    own = {**env, **{f"XDG_{kind}_HOME": folder for kind in ("CONFIG", "DATA", "STATE")}}
    command = [sys.executable, "-m", "benchmarks.tone_window", str(copy), json.dumps(field(SIZE_MM[0] / STROKES))]
    done = subprocess.run(command, env=own, check=True, capture_output=True, text=True)
    return dict(json.loads(done.stdout))


def _growth(folder: Path) -> None:
    """Milliseconds to lay hatches of more and more strokes as one change."""
    path, spent = folder / "growth.stride", []
    new_job(path, Page(SIZE_MM, 300.0))
    counts = (500, 2_000, 8_000)
    with opened(path) as (job, _):
        shapes = Shapes(job)
        for n in counts:
            spent.append(min(took(lambda n=n: make(job, shapes, "hatch", field(SIZE_MM[0] / n))) for _ in range(2)))
    rate = np.polyfit(np.log(counts), np.log(spent), 1)[0]
    words = ", ".join(f"{n:,} in {ms:.0f} ms" for n, ms in zip(counts, spent, strict=True))
    print(f"  laid as one change: {words}: n^{rate:.2f}")


def _many(path: Path) -> None:
    new_job(path, Page(SIZE_MM, 300.0))
    with opened(path, write=True) as (job, store):
        shapes, pitch = Shapes(job, store), SIZE_MM[0] / (MANY / 4)
        told = [("hatch", {**field(pitch, k), "angle": 20 * k}) for k in range(4)]
        made = make_all(job, shapes, told, "tones")
        assert made.commit is not None
        store.commit(made.commit)


def _card() -> None:
    """Greys of one set, of two, and by hand, as drawn; beneath as newsprint prints them, what is lost or closes in
    red."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "card.stride"
        new_job(path, Page(CARD_MM, CARD_DPI))
        with opened(path) as (job, _):
            shapes = Shapes(job)
            for row, more in enumerate(({}, {"second": 70.0}, {"evenness": 0.6})):
                for k, grey in enumerate(GREYS):
                    x, y = 3.0 + 14.5 * k, 3.0 + 19.5 * row
                    around = [[x, y], [x + 12.5, y], [x + 12.5, y + 17.0], [x, y + 17.0]]
                    make(job, shapes, "hatch", {"around": around, "grey": grey, "nib": "3", "seed": k, **more})
            rings = [ring for key in job.line_ids() for ring in shapes[key].rings]
    box, target = (0.0, 0.0, *CARD_MM), STANDARD["newsprint"]
    drawn = covered(rings, box, CARD_DPI / 25.4)
    made = printed(covered(rings, box, target.dpi / 25.4), target)
    page = np.repeat(np.where(made.ink, 23, 255).astype(np.uint8)[..., None], 3, axis=2)
    page[made.lost | made.closed] = RED
    size = (drawn.shape[1] // 2 * 2, drawn.shape[0] // 2 * 2)
    upper = Image.fromarray((255.0 * (1.0 - drawn)).astype(np.uint8)).convert("RGB").resize(size)
    lower = Image.fromarray(page).resize(size, Image.Resampling.LANCZOS)
    both = Image.new("RGB", (size[0], 2 * size[1]), (255, 255, 255))
    both.paste(upper, (0, 0))
    both.paste(lower, (0, size[1]))
    small = both.resize((both.width * 3 // 4, both.height * 3 // 4), Image.Resampling.LANCZOS)
    small.quantize(24, Image.Quantize.MAXCOVERAGE, dither=Image.Dither.NONE).save(PICTURE, optimize=True)
    print(f"  the hatch card: {PICTURE.name}")
