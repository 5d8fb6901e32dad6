"""What goes to whom: files, sizes, colour, bleed and limits, as JSON has it; the usual deliveries."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

from plain_stride.finish.choices import COLOURS, LAYERINGS
from plain_stride.finish.errors import FinishError
from plain_stride.measure import MAX_DPI

DELIVERABLE = ("svg", "pdf", "png", "tif", "ora", "csv", "json", "flats.svg", "flats.png", "flats.json")
MOST_FILES, MOST_SCALES, MOST_WIDTH = 60, (1, 2, 3), 60_000
_NAME = re.compile(r"^[^/\\\0<>:\"|?*\x00-\x1f]{1,120}$")


class DeliveryError(FinishError):
    """A delivery that cannot be."""


@dataclass(frozen=True)
class WantedFile:
    """name: without its ending, {job} for the job's; kind: one of DELIVERABLE; dpi or width in pixels, None as the
    board; scales: a PNG at so many times the size each; each: a file for each part, with a table of their places."""

    name: str
    kind: str
    dpi: float | None = None
    width: int | None = None
    bw: bool = False
    colour: str = "auto"
    transparent: bool = False
    by: str = "one"
    bleed: bool = False
    marks: bool = False
    strokes: bool = False
    plain: bool = False
    flats: bool = False
    pencils: bool = False
    scales: tuple[int, ...] = (1,)
    each: bool = False


@dataclass(frozen=True)
class Delivery:
    """to: whom it goes to, in a word; limits: least_mm, the thinnest line that may be; least_dpi, of pictures; most_mb,
    of all files."""

    name: str
    to: str
    files: tuple[WantedFile, ...]
    limits: Mapping[str, float]


LIMITS = {"least_mm": (0.0, 10.0), "least_dpi": (1.0, MAX_DPI), "most_mb": (0.01, 100_000.0)}


def checked_delivery(told: Any) -> Delivery:
    """A delivery of JSON {"name", "to", "files": [..], "limits": {..}}. Raises DeliveryError."""
    if not isinstance(told, dict) or not isinstance(told.get("files"), list) or not told["files"]:
        raise DeliveryError('a delivery is {"name", "to", "files": [{"name", "kind"}, ..], "limits": {}}')
    if len(told["files"]) > MOST_FILES:
        raise DeliveryError(f"a delivery has {MOST_FILES} files at most")
    strange = set(told) - {"name", "to", "files", "limits", "units"}
    if strange:
        raise DeliveryError(f"a delivery knows no '{min(map(str, strange))[:40]}'")
    files = tuple(_file(row) for row in told["files"])
    names = [(one.name, one.kind) for one in files]
    if len(set(names)) < len(names):
        raise DeliveryError("two files of a delivery have one name: give each its own")
    name = _text(told.get("name", "Delivery"), "name")
    return Delivery(name, _text(told.get("to", name), "to"), files, _limits(told.get("limits", {})))


def _text(value: Any, what: str) -> str:
    if not isinstance(value, str) or not _NAME.match(value) or value.strip(". ") == "":
        raise DeliveryError(f"a delivery's '{what}' is a text of 1 to 120 letters, without / \\ : and their like")
    return value


def _limits(value: Any) -> Mapping[str, float]:
    if not isinstance(value, dict) or set(value) - set(LIMITS):
        raise DeliveryError(f"limits are {', '.join(LIMITS)}")
    return {name: _number(number, name, *LIMITS[name]) for name, number in value.items()}


def _file(row: Any) -> WantedFile:
    if not isinstance(row, dict):
        raise DeliveryError('a file is {"name", "kind", ..}')
    known = {one.name for one in fields(WantedFile)}
    strange = [str(key) for key in row if key not in known]
    if strange:
        raise DeliveryError(f"a file of a delivery knows no '{strange[0][:40]}'; it takes: {', '.join(sorted(known))}")
    kind = row.get("kind")
    if kind not in DELIVERABLE:
        raise DeliveryError(f"a file's kind is one of {', '.join(DELIVERABLE)}, not '{str(kind)[:40]}'")
    out: dict[str, Any] = {"name": _text(row.get("name", "{job}"), "name"), "kind": kind}
    for key in ("bw", "transparent", "bleed", "marks", "strokes", "plain", "flats", "pencils", "each"):
        if not isinstance(row.get(key, False), bool):
            raise DeliveryError(f"'{key}' of a file is true or false")
        out[key] = row.get(key, False)
    if row.get("dpi") is not None:
        out["dpi"] = _number(row["dpi"], "dpi", 1.0, MAX_DPI)
    if row.get("width") is not None:
        out["width"] = int(_number(row["width"], "width", 1, MOST_WIDTH))
    for key, words in (("colour", COLOURS), ("by", LAYERINGS)):
        if row.get(key, getattr(WantedFile, key)) not in words:
            raise DeliveryError(f"'{key}' of a file is one of {', '.join(words)}")
        out[key] = row.get(key, getattr(WantedFile, key))
    if out["pencils"] and kind != "ora":
        raise DeliveryError("pencils go with ora, where they are a layer: they are no part of final art")
    scales = row.get("scales", [1])
    if not isinstance(scales, list | tuple) or not scales or any(one not in MOST_SCALES for one in scales):
        raise DeliveryError(f"'scales' of a file are some of {', '.join(map(str, MOST_SCALES))}")
    out["scales"] = tuple(dict.fromkeys(int(one) for one in scales))
    return WantedFile(**out)


def _number(value: Any, what: str, low: float, high: float) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
        raise DeliveryError(f"'{what}' goes from {low:g} to {high:g}, not {str(value)[:40]}")
    return float(value)


USUAL: Mapping[str, dict[str, Any]] = {
    "Printer": {
        "name": "Printer", "to": "printer", "limits": {"least_mm": 0.1, "least_dpi": 600},
        "files": [{"name": "{job} press", "kind": "pdf", "bleed": True, "marks": True},
                  {"name": "{job} line", "kind": "tif", "bw": True, "dpi": 1200, "bleed": True}],
    },
    "Colourist": {
        "name": "Colourist", "to": "colourist", "limits": {"least_dpi": 300},
        "files": [{"name": "{job}", "kind": "ora", "by": "part", "flats": True, "bleed": True},
                  {"name": "{job} ink", "kind": "png", "transparent": True, "bleed": True},
                  {"name": "{job} flats", "kind": "flats.png", "bleed": True}],
    },
    "Screen": {
        "name": "Screen", "to": "screen", "limits": {"most_mb": 20},
        "files": [{"name": "{job}", "kind": "png", "width": 1000, "scales": [1, 2, 3]},
                  {"name": "{job}", "kind": "svg"}],
    },
    "Animator": {
        "name": "Animator", "to": "animator", "limits": {},
        "files": [{"name": "{job}", "kind": "png", "width": 1920, "transparent": True, "each": True},
                  {"name": "{job}", "kind": "svg"}],
    },
    "Archive": {
        "name": "Archive", "to": "archive", "limits": {},
        "files": [{"name": "{job}", "kind": "svg"}, {"name": "{job}", "kind": "pdf", "bleed": True},
                  {"name": "{job} layers", "kind": "ora", "by": "part", "flats": True, "pencils": True},
                  {"name": "{job} lines", "kind": "csv"}, {"name": "{job} lines", "kind": "json"}],
    },
}  # fmt: skip
"""By name. What they ask for is common practice of the trade, no standard: 1,200 dpi for line art of one bit, 600 at
least for print, no line under 0.1 mm."""
