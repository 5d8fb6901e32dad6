"""The drawing's worker on 5,000 lines: when it first answers, how soon after a change, and how much memory it takes."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from shutil import copy
from typing import Any

import numpy as np
from PySide6.QtCore import QCoreApplication

from benchmarks.big_job import big_job
from plain_stride.desk.session.session import Session
from plain_stride.desk.start import application
from plain_stride.job.questions import ContactsNow
from plain_stride.job.serving import Question
from plain_stride.job.weight_questions import WeightsNow

CHANGES, CONTACTS_MS, MOST_MB = 40, 20.0, 250.0


def main() -> None:
    # A worker imports the module that began its program: one that is as small as the product's own.
    code = "from benchmarks.worker import measure; measure()"
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([sys.executable, "-c", code], check=True, env=environment)


def measure() -> None:
    application()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "big.stride"
        copy(big_job(), path)
        session = Session(path)
        try:
            first = _took(session, WeightsNow())
            lines = session.job.line_ids()
            contacts = _took(session, ContactsNow((lines[0],)))
            again = []
            for key in lines[:: len(lines) // CHANGES]:
                assert session.make("swell", line=key, factor=1.2) is not None
                again.append(_took(session, ContactsNow((key,))))
            mb = _own_mb(session.drawing.worker.pid)
        finally:
            session.close()
    print(f"  first answer {first:.1f} s after the file was opened, with contacts {contacts:.1f} s more")
    print(f"  after one line changed, its contacts: median {np.median(again) * 1000:.1f} ms, p95"
          f" {np.percentile(again, 95) * 1000:.1f} (<= {CONTACTS_MS:g})")  # fmt: skip
    print(f"  {mb:.0f} MB of its own (<= {MOST_MB:g})")


def _took(session: Session, question: Question) -> float:
    """Seconds until the answer is there."""
    answers: list[Any] = []
    begun = time.perf_counter()
    session.drawing.ask(question, answers.append)
    while not answers:
        QCoreApplication.processEvents()
    return time.perf_counter() - begun


def _own_mb(pid: int | None) -> float:
    """What is its own: pages shared with the server that it was forked from are not."""
    rows = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    return sum(int(row.split()[1]) for row in rows if row.startswith("Private_")) / 1024.0
