"""The job as it was at another step, to be looked at beside what it is now."""

from PySide6.QtCore import QObject, Signal

from plain_stride.desk.bench import Bench
from plain_stride.job.covers import Covers
from plain_stride.job.job import INKED


class StateView(QObject):
    """Stands for the bench where a picture of another state is painted. Nothing can be changed through it."""

    said = Signal(str, bool)

    def __init__(self, bench: Bench, step: int) -> None:
        super().__init__()
        self.step = step
        self.job = bench.job.as_at(step)
        self.shapes = bench.shapes.of_state(self.job)
        self.covers = Covers(self.job, self.shapes)
        self.said.connect(bench.said)


def step_words(bench: Bench, step: int) -> str:
    """What a step of the history did, in words for people."""
    if not step:
        return "the empty job" if not any(not s for s in bench.job.marks.values()) else "where the history begins"
    made = bench.job.steps[step]
    words = WORDS.get(made.words, made.words)
    if made.words in ("pull", "line", "black"):
        row = next((c.after for c in made.rows if c.table in INKED and c.after is not None), None)
        parts = {**bench.job.rows["parts"], **{c.id: c.after for c in made.rows if c.table == "parts"}}
        part = parts.get(str(row["part"])) if row is not None else None
        words += f": {part['name']}" if part is not None else ""
    return words


WORDS = {
    "pull": "line pulled", "line": "line laid", "black": "black laid", "paste": "lines pasted", "delete": "taken away",
    "move": "lines moved", "duplicate": "lines duplicated", "trim": "line trimmed", "swell": "width changed",
    "set": "role, ends or part set", "steady": "steadied anew", "part": "part changed", "cover": "cover changed",
    "part-delete": "part taken away", "board": "board changed", "pencils-add": "pencils placed",
    "pencils": "pencils changed", "pencils-remove": "pencils taken off", "nib": "nib changed", "plan": "plan changed",
    "parts": "parts made", "covers": "covers made",
}  # fmt: skip
"""By the words that a step was made with."""
