"""Mends of the proof, made as one step of undo."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.changes import Made, make_all
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes
from plain_stride.proof.finding import Finding


@dataclass(frozen=True)
class Mended:
    """made: the step, None where nothing could be mended; mended: the findings whose mends were made; left: the others,
    with why."""

    made: Made | None
    mended: tuple[Finding, ...]
    left: tuple[tuple[Finding, str], ...]


def safe_ones(found: Sequence[Finding]) -> list[Finding]:
    """Those whose mends may be made unseen, one for each of the same changes."""
    out, seen = [], set[str]()
    for one in found:
        if one.mend is not None and one.mend.safe and repr(one.mend.changes) not in seen:
            seen.add(repr(one.mend.changes))
            out.append(one)
    return out


def changes_of(found: Finding) -> list[tuple[str, dict[str, Any]]]:
    """The named changes of a finding's mend, with their arguments."""
    changes = found.mend.changes if found.mend is not None else ()
    return [(str(one["change"]), {k: v for k, v in one.items() if k != "change"}) for one in changes]


def make_mends(
    job: Job,
    shapes: Shapes,
    found: Sequence[Finding],
    words: str,
    progress: Callable[[float], bool] | None = None,
) -> Mended:  # fmt: skip
    """Makes the mends of findings as one step; one that cannot be made, as in a locked part, is left out. Grows with
    the number of mends times that of those left out. progress: as of `make_all`. Raises JobError where it stops."""
    wanted = [one for one in found if one.mend is not None]
    left: list[tuple[Finding, str]] = []
    while wanted:
        owner = [one for one in wanted for _ in changes_of(one)]
        changes = [change for one in wanted for change in changes_of(one)]
        done, stopped = 0, False

        def went_on(share: float) -> bool:
            nonlocal done, stopped
            done += 1
            stopped = progress is not None and not progress(share)
            return not stopped

        try:
            return Mended(make_all(job, shapes, changes, words, went_on), tuple(wanted), tuple(left))
        except StrideError as fault:
            if stopped or done >= len(owner):
                raise
            left.append((owner[done], str(fault)))
            wanted = [one for one in wanted if one is not owner[done]]
    return Mended(None, (), tuple(left))
