"""What every command of the command line says and writes in the same way."""

import argparse
import json
import sys
from collections.abc import Callable
from typing import Any

from plain_stride.texts import clean, shortened

Command = Callable[[str, Callable[[argparse.Namespace], int | None], str], argparse.ArgumentParser]
"""Adds a command: its name, what does it, and what it does in words."""
MANY_LINES = 100
"""From so many lines on work is quicker with the compiled loops, whose loading takes half a second."""


def refuse(status: int, message: str) -> int:
    print(f"plain-stride: {shortened(' '.join(clean(message).split()))}", file=sys.stderr)
    return status


def print_json(data: Any) -> None:
    json.dump(data, sys.stdout, ensure_ascii=False)
    print()


def tell_apart(job: Any) -> None:
    if words := job.apart_words():
        print(f"plain-stride: {words}", file=sys.stderr)


def commit_made(store: Any, made: Any, shapes: Any = None) -> None:
    """Writes what a change made, with the fits that were worked out for it."""
    from dataclasses import replace

    if made.commit is not None:
        store.commit(replace(made.commit, fits=shapes.fresh_fits()) if shapes is not None else made.commit)


def share_teller() -> Callable[[float], bool]:
    """Tells on stderr how far long work has come, a line for each per cent. Never stops it."""
    told = -1

    def tell(share: float) -> bool:
        nonlocal told
        if int(share * 100.0) > told:
            told = int(share * 100.0)
            print(f"{told}%", file=sys.stderr, flush=True)
        return True

    return tell


def progress_shown(share: float) -> bool:
    """Shows how far long work has come, on a terminal only. Never stops it."""
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}{'' if share < 1 else chr(10)}", end="", file=sys.stderr, flush=True)
    return True
