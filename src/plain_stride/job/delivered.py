"""What was delivered, and what has changed since."""

from collections import Counter
from pathlib import Path

from plain_stride.finish.delivery import USUAL, Delivery, checked_delivery
from plain_stride.job.errors import JobError
from plain_stride.job.job import Job
from plain_stride.job.reading import read_json
from plain_stride.job.sent import Sent
from plain_stride.texts import counted

TOLD = {"frames": "frames", "board": "the board", "plan": "the plan", "parts": "parts", "inks": "inks",
        "finishes": "finishes", "flats": "flats", "hand_over": "settings of the flats",
        "pencils": "scans"}  # fmt: skip


def last_delivered(job: Job, name: str) -> Sent | None:
    """The last one of a name; None where there was none."""
    return next((one for one in reversed(job.sent) if one.name == name), None)


def wanted_delivery(job: Job, text: str) -> Delivery:
    """The delivery of a JSON file, or of a name: one that the job keeps, or a usual one. Raises StrideError."""
    if text.lower().endswith(".json"):
        return checked_delivery(read_json(Path(text)))
    kept = deliveries_of(job)
    if text not in kept:
        raise JobError(f"there is no delivery '{text[:60]}': there are {', '.join(kept)}, or name a .json file")
    return kept[text]


def deliveries_of(job: Job) -> dict[str, Delivery]:
    """Deliveries by name: the usual ones, and the job's own, which stand in their place where they are called so."""
    own = {row.name: row.told for row in job.rows.deliveries.values()}
    return {name: checked_delivery({**told, "name": name}) for name, told in {**USUAL, **own}.items()}


def changed_since(job: Job, step: int) -> list[str]:
    """What is otherwise than it was at a step of the history, in words; a sentence where that is forgotten."""
    if step and step not in job.history.steps:
        return ["what has changed since is not known: that part of the history was forgotten"]
    then = job.as_at(step)
    out = []
    for table, word in (("lines", "line"), ("blacks", "black")):
        old, new = then.rows.of(table), job.rows.of(table)
        counts = Counter({"new": len(new.keys() - old.keys()), "gone": len(old.keys() - new.keys()),
                          "changed": sum(1 for key in new.keys() & old.keys() if new[key] != old[key])})  # fmt: skip
        out += [f"{counted(n, word)} {what}" for what, n in counts.items() if n]
    out += [f"{words} changed" for table, words in TOLD.items() if then.rows.of(table) != job.rows.of(table)]
    return out or ["nothing has changed since"]
