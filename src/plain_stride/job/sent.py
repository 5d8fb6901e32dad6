"""A delivery that was made, as the file keeps it."""

from dataclasses import dataclass
from typing import Any

from plain_stride.job.checking import json_of
from plain_stride.job.errors import DamagedError


@dataclass(frozen=True)
class Sent:
    """made: UTC; step: of the history, on which the job stood; manifest: of its files."""

    name: str
    made: str
    step: int
    manifest: dict[str, Any]


def sent_of(row: tuple[Any, ...]) -> Sent:
    """A row of the file. Raises DamagedError."""
    name, made, step, text = row
    manifest = json_of(text) if isinstance(text, str) else None
    if not (isinstance(name, str) and isinstance(made, str) and isinstance(step, int) and isinstance(manifest, dict)):
        raise DamagedError("a delivery that was made is none")
    return Sent(name, made, step, manifest)
