"""A stack of finishes as JSON, to be shared: parts by their names."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from plain_stride.finish.passes import Pass
from plain_stride.job.rows import JobRows


def told_finishes(job: JobRows, passes: Sequence[Pass]) -> dict[str, Any]:
    """{"units": "mm", "finishes": [..]}, as `finish` takes it again."""
    return {"units": "mm", "finishes": [named(job, one).as_row() for one in passes]}


def named(job: JobRows, one: Pass) -> Pass:
    """A pass with names of parts in place of their keys; parts that are gone are left out."""
    return replace(one, parts=tuple(job.rows.parts[key].name for key in one.parts if key in job.rows.parts))
