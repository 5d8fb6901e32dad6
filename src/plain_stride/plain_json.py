"""JSON from outside: no NaN, no endless numbers."""

import json
from typing import Any, NoReturn


def loads(text: str) -> Any:
    """The data of a JSON text. Numbers of hundreds of digits come as the infinities that they are to a float, so that
    every check for finite numbers refuses them. Raises ValueError, or RecursionError for what is nested too deeply."""
    return json.loads(text, parse_constant=_no_constant, parse_int=_whole)


def _whole(text: str) -> int | float:
    return int(text) if len(text) < 20 else float(text)


def _no_constant(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number")
