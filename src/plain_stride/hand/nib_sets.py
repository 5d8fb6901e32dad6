"""Sets of nibs to keep, to give away, to take in: plain JSON, lengths in mm."""

import json
from typing import Any

from plain_stride.hand.nib import Nib, NibError, nib_from_row

FORM = "plain-stride nibs"
KEYS = "123456789"
"""Nibs lie on the number keys."""


def nibs_json(name: str, nibs: dict[str, Nib]) -> str:
    """A set by the number keys of its nibs."""
    rows = [{"key": key, **nib.as_row()} for key, nib in nibs.items()]
    return json.dumps({"form": FORM, "units": "mm", "name": name, "nibs": rows}, ensure_ascii=False, indent=1) + "\n"


def nibs_from_json(data: dict[str, Any]) -> dict[str, Nib]:
    """Nibs by their number keys. Raises NibError."""
    rows = data.get("nibs")
    if data.get("form") != FORM:
        raise NibError(f"it does not say 'form': '{FORM}'")
    if not isinstance(rows, list) or not rows or not all(isinstance(row, dict) for row in rows):
        raise NibError("there are no 'nibs' in it")
    out: dict[str, Nib] = {}
    for row in rows:
        key = str(row.get("key", ""))
        if key not in KEYS or len(key) != 1 or key in out:
            raise NibError(f"nibs lie on the keys 1 to 9, each once, not on '{key}'")
        out[key] = nib_from_row({"response": None, **row})
    return out
