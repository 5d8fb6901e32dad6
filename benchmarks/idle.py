"""How late this machine itself is: a process that does nothing but sleep 5 ms at a time.

A run whose idle timer is more than MOST_LATE_MS late at the 95th percentile does not count.
"""

import os
import struct
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TypeVar

import numpy as np

STEP_S = 0.005
MOST_LATE_MS = 2.0
MOST_RUNS = 4
_ROW = struct.Struct("dd")
Result = TypeVar("Result")


class Idle:
    """ticks (n, 2): when each tick came (time.perf_counter, s) and how late it was (s). Filled at the end."""

    def __init__(self) -> None:
        self.ticks = np.zeros((0, 2))

    def late_ms(self, per_cent: float) -> float:
        return float(np.percentile(self.ticks[:, 1], per_cent)) * 1000.0

    def words(self) -> str:
        p50, p95, worst = (self.late_ms(q) for q in (50, 95, 100))
        return f"idle timer late p50 {p50:.2f}, p95 {p95:.2f}, worst {worst:.1f} ms"

    def calm(self, at: np.ndarray, reach_s: float = 0.05, late_s: float = 0.005) -> np.ndarray:
        """Which times (n,) lie farther than reach_s from every tick that came later than late_s."""
        bad = self.ticks[self.ticks[:, 1] > late_s, 0]
        if not len(bad):
            return np.ones(len(at), bool)
        return np.abs(at[:, None] - bad[None, :]).min(axis=1) > reach_s


@contextmanager
def idle_timer() -> Iterator[Idle]:
    """Ticks beside whatever runs inside."""
    process = subprocess.Popen([sys.executable, "-m", "benchmarks.idle"], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert process.stdout is not None and process.stdin is not None
    process.stdout.read(1)
    idle = Idle()
    try:
        yield idle
    finally:
        process.stdin.close()
        rows = process.stdout.read()
        process.wait()
        idle.ticks = np.frombuffer(rows, float).reshape(-1, 2)


def counted(work: Callable[[], Result]) -> tuple[Result, Idle, int]:
    """Runs work until the machine was calm beside it, MOST_RUNS times at most: (result, idle, runs thrown away).

    When no run was calm the calmest one is given.
    """
    done = []
    for n in range(MOST_RUNS):
        with idle_timer() as idle:
            result = work()
        done.append((idle.late_ms(95), n, result, idle))
        if idle.late_ms(95) <= MOST_LATE_MS:
            return result, idle, n
    _, _, result, idle = min(done, key=lambda row: row[:2])
    return result, idle, MOST_RUNS


def _tick() -> None:
    rows = bytearray()
    os.set_blocking(sys.stdin.fileno(), False)
    os.write(1, b".")
    due = time.perf_counter() + STEP_S
    while True:
        time.sleep(max(0.0, due - time.perf_counter()))
        now = time.perf_counter()
        rows += _ROW.pack(now, now - due)
        due = max(due + STEP_S, now)
        if sys.stdin.buffer.raw.read(1) == b"":  # type: ignore[attr-defined]
            break
    sys.stdout.buffer.write(rows)
    sys.stdout.flush()


if __name__ == "__main__":
    _tick()
