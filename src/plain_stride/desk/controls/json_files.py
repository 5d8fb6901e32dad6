"""Small JSON files that a page gives away and takes in; a fault is told on the page, and nothing is changed by it."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from plain_stride.desk.controls.controls import Sentence
from plain_stride.errors import StrideError
from plain_stride.finish.write import write_whole
from plain_stride.job.reading import read_json

_T = TypeVar("_T")


def given(path: Path, text: str, fault: Sentence) -> bool:
    """Writes a file; whether it was written."""
    try:
        write_whole(path, text.encode())
    except StrideError as why:
        fault.say(str(why))
        return False
    fault.say("")
    return True


def taken(path: Path, parse: Callable[[dict[str, Any]], _T], kept: str, fault: Sentence) -> _T | None:
    """What a file holds, None where it cannot be used. kept: a sentence on what is safe then."""
    try:
        found = parse(read_json(path))
    except StrideError as why:
        fault.say(f"{why}. {kept}")
        return None
    fault.say("")
    return found
