"""Whether the compiled loops are there, and how they get there: another process compiles them once into the user's
cache, a thread loads them from it after the window is painted. Until then, and on the command line, NumPy serves."""

import hashlib
import logging
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from types import FunctionType, SimpleNamespace

import numpy as np
import platformdirs

from plain_stride import __version__
from plain_stride.compiled import contact_loops, edge_loops, fill_loops, hand_loops, line_loops, plan_loops

_MATRIX, _CUBE, _VECTOR, _WHOLE = "float64[:,::1]", "float64[:,:,::1]", "float64[::1]", "int64[::1]"
_PIXELS, _ROW, _SPANS = "float32[:,::1]", "float32[::1]", "int64[:,::1]"
LOOPS = (hand_loops, line_loops, edge_loops, fill_loops, contact_loops, plan_loops)
_LINE = f"{_MATRIX}, {_VECTOR}, {_VECTOR}, {_VECTOR}"
SIGNATURES = {
    "solve": f"{_MATRIX}({_MATRIX}, {_VECTOR}, {_MATRIX})",
    "read": f"{_MATRIX}({_VECTOR}, {_MATRIX}, {_VECTOR})",
    "penalties": f"{_VECTOR}({_VECTOR}, float64, {_VECTOR})",
    "kinked": f"{_MATRIX}({_MATRIX}, {_VECTOR}, {_WHOLE}, float64, {_VECTOR}, {_MATRIX})",
    "blur": f"{_VECTOR}({_VECTOR}, float64)",
    "auto": f"{_MATRIX}({_MATRIX}, {_WHOLE}, {_MATRIX}, {_VECTOR}, {_VECTOR}, float64, float64)",
    "beside": f"{_VECTOR}({_MATRIX}, {_WHOLE}, {_MATRIX}, int64)",
    "slow_places": f"boolean[::1]({_VECTOR}, int64, int64, float64)",
    "nearer": f"{_MATRIX}({_CUBE}, {_CUBE}, {_MATRIX})",
    "handles": f"{_CUBE}({_CUBE}, {_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR})",
    "apart": f"{_VECTOR}({_CUBE}, {_CUBE}, {_MATRIX})",
    "arc_table": f"{_VECTOR}({_CUBE}, {_VECTOR}, {_VECTOR}, int64)",
    "speed_at": f"UniTuple(float64, 2)({_MATRIX}, float64)",
    "length_between": f"float64({_MATRIX}, float64, float64, {_VECTOR}, {_VECTOR})",
    "located": f"{_MATRIX}({_CUBE}, {_VECTOR}, {_VECTOR}, {_VECTOR}, {_VECTOR}, int64)",
    "lengths_at": f"{_VECTOR}({_CUBE}, {_VECTOR}, {_WHOLE}, {_VECTOR}, {_MATRIX}, int64)",
    "strip_steps": f"{_WHOLE}({_CUBE}, {_VECTOR}, float64)",
    "strip": f"{_MATRIX}({_CUBE}, {_VECTOR}, {_VECTOR}, {_VECTOR}, {_VECTOR}, float64)",
    "farthest": f"{_VECTOR}({_CUBE}, {_WHOLE}, {_MATRIX}, int64)",
    "error_of": f"float64({_MATRIX}, {_VECTOR}, {_MATRIX}, int64, int64, int64, int64, {_CUBE})",
    "error_of_all": f"float64({_MATRIX}, {_VECTOR}, int64, int64, int64, {_CUBE})",
    "greedy": f"Tuple(({_CUBE}, {_WHOLE}))({_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR}, float64, float64, int64, int64)",
    "cost": f"float64({_CUBE}, {_CUBE}, {_MATRIX}, {_MATRIX})",
    "equations": f"{_MATRIX}({_MATRIX}, {_MATRIX}, {_CUBE}, {_CUBE}, {_MATRIX}, {_MATRIX})",
    "banded_solve": f"{_VECTOR}({_MATRIX}, {_VECTOR})",
    "chain_curve": f"{_CUBE}({_MATRIX}, {_MATRIX})",
    "chain_sound": f"boolean({_MATRIX}, float64, float64)",
    "least_squares": f"{_MATRIX}({_MATRIX}, {_CUBE}, {_MATRIX}, {_MATRIX}, int64, {_VECTOR})",
    "disc_corners": "int64(float64, float64)",
    "arc": f"int64({_MATRIX}, int64, {_VECTOR}, float64, float64, float64, int64)",
    "cap": f"int64({_MATRIX}, int64, {_VECTOR}, {_MATRIX}, float64, float64)",
    "hull": f"int64({_MATRIX}, int64, {_MATRIX}, {_VECTOR}, float64)",
    "round_hull": f"int64({_MATRIX}, int64, {_MATRIX}, {_VECTOR}, float64)",
    "huddle": f"int64({_MATRIX}, {_VECTOR}, boolean[::1], int64, float64)",
    "sides": f"{_MATRIX}({_MATRIX}, {_VECTOR}, {_MATRIX})",
    "shown": f"UniTuple(int64, 2)({_MATRIX}, {_VECTOR})",
    "tight": f"boolean[::1]({_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR})",
    "strip_ring": f"int64({_MATRIX}, int64, {_MATRIX}, {_VECTOR}, {_MATRIX}, boolean, boolean, float64)",
    "stretches": f"Tuple(({_MATRIX}, {_WHOLE}))({_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR}, boolean[::1], boolean[::1],"
    f" {_VECTOR})",
    "sleeve": f"{_WHOLE}({_VECTOR}, {_VECTOR}, {_VECTOR}, float64)",
    "tangent": f"void({_CUBE}, int64, float64, {_VECTOR})",
    "place": f"void({_CUBE}, int64, float64, {_VECTOR})",
    "chord_length": f"float64({_CUBE}, int64, int64, {_VECTOR}, {_VECTOR})",
    "discs": f"{_MATRIX}({_CUBE}, {_VECTOR}, {_WHOLE}, {_VECTOR}, {_VECTOR}, {_VECTOR})",
    "disc_steps": f"{_WHOLE}({_CUBE}, float64, float64, float64)",
    "discs_along": f"{_MATRIX}({_CUBE}, {_VECTOR}, {_VECTOR}, {_VECTOR}, {_VECTOR}, {_VECTOR})",
    "locate": f"void({_MATRIX}, {_VECTOR}, float64, float64, {_VECTOR})",
    "heading": f"int64({_MATRIX}, {_VECTOR}, float64, {_VECTOR})",
    "facing": f"float64({_LINE}, {_VECTOR}, float64, float64, {_VECTOR})",
    "note": f"void({_LINE}, {_LINE}, int64, {_VECTOR}, {_VECTOR}, {_VECTOR})",
    "end_notes": f"int64({_LINE}, {_LINE}, boolean, boolean, float64, {_VECTOR}, {_MATRIX}, {_MATRIX}, int64)",
    "crossing_places": f"{_MATRIX}({_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR})",
    "at_chord": f"void({_MATRIX}, {_VECTOR}, float64, {_VECTOR})",
    "wide": f"float64({_VECTOR}, {_VECTOR}, {_VECTOR}, float64)",
    "nearest_chord": f"float64({_MATRIX}, {_VECTOR}, {_MATRIX}, {_VECTOR}, float64, float64, int64,"
    f" {_VECTOR}, {_VECTOR})",
    "touching": f"{_MATRIX}({_LINE}, {_LINE}, boolean[::1], {_VECTOR})",
    "have": f"float64({_WHOLE}, {_WHOLE}, {_VECTOR}, {_VECTOR}, float64, float64, int64)",
    "settle": f"int64({_WHOLE}, {_WHOLE}, {_VECTOR}, {_WHOLE}, {_WHOLE}, {_VECTOR}, {_VECTOR}, {_VECTOR}, {_VECTOR},"
    f" {_VECTOR}, float64, float64, {_VECTOR})",
    "thinned": f"void({_MATRIX}, {_WHOLE}, float64, uint8[::1])",
    "cross": f"void({_ROW}, int64, float64, float64, float64)",
    "edge": f"void({_ROW}, {_SPANS}, int64, float64, float64, float64, float64)",
    "sweep": f"void({_ROW}, int64, {_WHOLE}, {_VECTOR}, {_ROW}, {_ROW})",
    "fill": f"void({_MATRIX}, {_WHOLE}, {_WHOLE}, {_SPANS}, {_MATRIX}, int64, {_PIXELS}, {_PIXELS})",
}
"""Loops that others call stand before them."""
_WARM = "import os; os.nice(19); from plain_stride.compiled.ready import warm; warm()"
_loaded: SimpleNamespace | None = None


def kernels() -> SimpleNamespace | None:
    """The compiled loops by name, or None while they are not loaded."""
    return _loaded


def floats(*arrays: np.ndarray) -> list[np.ndarray]:
    """Arrays as the loops take them: of doubles, in one piece, writable. Their shapes (n, ...) stay."""
    return [np.require(a, np.float64, ["C", "W"]) for a in arrays]


def cache_folder() -> Path:
    """Where this version's compiled loops are kept for this user."""
    return Path(platformdirs.user_cache_dir("plain-stride")) / f"compiled-{_fingerprint()}"


def is_warm() -> bool:
    """Whether another process has compiled the loops of this very version."""
    return (cache_folder() / "whole").exists()


def load() -> None:
    """Loads the loops, compiling those that the cache lacks: 0.5 s when it is warm, half a minute when not."""
    global _loaded
    os.environ["NUMBA_CACHE_DIR"] = str(cache_folder())
    import numba

    made: dict[str, Callable[..., object]] = {}
    for name, signature in SIGNATURES.items():
        made[name] = numba.njit(signature, cache=True, nogil=True)(_calling(source_of(name), made))
    _loaded = SimpleNamespace(**made)


def source_of(name: str) -> FunctionType:
    """A loop as it is written."""
    found = next(loops for loops in LOOPS if hasattr(loops, name))
    loop: FunctionType = getattr(found, name)
    return loop


def _calling(loop: FunctionType, made: dict[str, Callable[..., object]]) -> FunctionType:
    """The loop with compiled ones in place of those it calls."""
    twin = FunctionType(loop.__code__, {**loop.__globals__, **made}, loop.__name__, loop.__defaults__)
    twin.__module__ = loop.__module__
    return twin


def warm() -> None:
    """Compiles the loops into the user's cache."""
    cache_folder().mkdir(parents=True, exist_ok=True)
    load()
    (cache_folder() / "whole").touch()


def load_if_compiled() -> None:
    """Loads the loops where that takes no compiling, and they are not loaded yet: for work of seconds."""
    if _loaded is None and is_warm():
        load_when_compiled()


def load_when_compiled() -> None:
    """Loads; when nothing is compiled yet, another process does that first, at the lowest priority. Never raises."""
    try:
        if not is_warm():
            subprocess.run([sys.executable, "-c", _WARM], check=True, capture_output=True)
        load()
    except Exception:
        # Whatever is wrong with the compiler or its cache, inking goes on.
        logging.getLogger("plain_stride").exception("the compiled loops could not be loaded; the slower ones serve")


def _fingerprint() -> str:
    source = [hashlib.sha256(Path(str(loops.__file__)).read_bytes()).hexdigest() for loops in LOOPS]
    # The compiler keeps what it made by where the source lies: another copy of it must not take this one for its own,
    # and compile in the window after all.
    lies = str(Path(__file__).resolve().parent)
    words = (__version__, sys.version, repr(SIGNATURES), lies, *source)
    return hashlib.sha256("\n".join(words).encode()).hexdigest()[:16]
