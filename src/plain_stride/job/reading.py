"""Reading what comes from outside as JSON: pulls, lines, targets, edits. All checks at the door, one clear error."""

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from plain_stride import plain_json
from plain_stride.errors import StrideError
from plain_stride.form.roles import FOUND, check_role
from plain_stride.hand.nib import DEFAULT_NIB, Nib
from plain_stride.hand.pull import Pull, checked_samples
from plain_stride.job.changes import DEFAULT_PART, argument_names
from plain_stride.job.errors import JobError
from plain_stride.job.tone_makers import LAID_BY
from plain_stride.lines.black import Black, black_of_rings
from plain_stride.lines.given import form_from_points

MAX_BYTES = 1_000_000_000
DEFAULT_WIDTH = 0.35
"""mm, for lines that come without widths: the plan's base."""

MANY, MANY_SAMPLES = 100, 4000
Wanted = list[tuple[str, dict[str, Any]]]


class ReadingError(StrideError):
    """A file from outside that does not hold what it should."""


def read_bytes(path: Path) -> bytes:
    """A file's bytes. Raises ReadingError with what to do."""
    try:
        if not path.is_file() and path.exists():
            raise ReadingError(f"{path.name} is no file that can be read")
        if path.stat().st_size > MAX_BYTES:
            raise ReadingError(f"{path.name} is larger than {MAX_BYTES:,} bytes: split it")
        return path.read_bytes()
    except FileNotFoundError:
        raise ReadingError(f"there is no file {path}") from None
    except (OSError, ValueError) as fault:
        raise ReadingError(f"{path.name} cannot be read: {getattr(fault, 'strerror', None) or fault}") from None


def read_json(path: Path) -> dict[str, Any]:
    """The object in a JSON file of ours. NaN, Infinity and units other than mm are refused. Raises ReadingError."""
    data = read_any_json(path)
    if not isinstance(data, dict):
        raise ReadingError(f"{path.name} holds no JSON object with pulls, lines, targets or changes")
    if data.get("units", "mm") != "mm":
        raise ReadingError(f"{path.name} is in '{data['units']}': only mm can be read")
    return data


def read_any_json(path: Path) -> Any:
    """What a JSON file holds, an object or a list. NaN and Infinity are refused. Raises ReadingError."""
    try:
        return plain_json.loads(read_bytes(path).decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise ReadingError(f"{path.name} is no text in UTF-8") from None
    except RecursionError:
        raise ReadingError(f"{path.name} is nested too deeply") from None
    except ValueError as fault:
        raise ReadingError(f"{path.name} is no JSON: {fault}") from None


def import_changes(data: dict[str, Any], nib: Nib) -> Wanted:
    """The changes that lay the pulls and lines of an import, in its order. nib: what pulls are drawn with. Raises
    ReadingError."""
    if not {"pulls", "lines", "blacks"} & data.keys():
        raise ReadingError("there are neither 'pulls' nor 'lines' in it")
    out: Wanted = []
    for k, item in enumerate(_items(data, "pulls")):
        out.append(("pull", {"pull": _at(f"pull {k + 1}", lambda i=item: _pull(i, nib)), **_place(item, "pull", k)}))
    for k, item in enumerate(_items(data, "lines")):
        out.append(("line", {**_at(f"line {k + 1}", lambda i=item: _line(i)), **_place(item, "line", k)}))
    for k, item in enumerate(_items(data, "blacks")):
        place = {key: v for key, v in _place(item, "black", k).items() if key != "role"}
        out.append(("black", {"black": _at(f"black {k + 1}", lambda i=item: _black(i)), **place}))
    if not out:
        raise ReadingError("it holds no pulls and no lines")
    return out


def is_heavy(wanted: Wanted) -> bool:
    """Whether laying these is work of seconds, for which the compiled loops are worth their loading."""
    samples = sum(len(arguments["pull"].samples) for name, arguments in wanted if name == "pull")
    return len(wanted) > MANY or samples > MANY_SAMPLES


def svg_changes(data: bytes, nib: Nib, taken: Mapping[str, str]) -> tuple[Wanted, str]:
    """(the changes that lay the lines and blacks of an SVG file, a sentence of what could not be read or ''). taken:
    tiers of the job's parts by name; a part that is there already stays as it is. Raises SvgError."""
    from plain_stride.finish.svg_in import SvgLine, read_svg

    art = read_svg(data, set(taken))
    out: Wanted = []
    covers: Wanted = []
    told = [art.sentence()]
    for name in art.parts():
        own = art.own_parts.get(name)
        if name in taken:
            if own is not None and own.tier != taken[name]:
                told.append(f"Part '{name}' is {own.tier} in the file and stays {taken[name]} here.")
            continue
        row: dict[str, Any] = {"name": name, **({"ink": art.inks[name]} if name in art.inks else {})}
        if own is not None:
            if own.colour:
                out.append(("ink", {"name": own.colour, "colour": own.colour}))
            row |= {
                "tier": own.tier,
                "ink": own.colour or own.ink,
                **({"over_frames": True} if own.over_frames else {}),
            }
            if own.cover is not None:
                form = "found" if own.cover.form is None else own.cover.form
                covers.append(("cover", {"name": name, "on": True, "gap": own.cover.gap, "shape": form}))
        out.append(("part", row))
    for thing in art.things:
        place = {"part": thing.part, **({"id": thing.id} if thing.id else {})}
        if isinstance(thing, SvgLine):
            edged = replace(nib, grain=thing.grain)
            out.append(("line", {"form": thing.form, "nib": edged, "ends": thing.ends, "role": thing.role, **place}))
        else:
            out.append(("black", {"black": thing.black, **place}))
    return out + covers, " ".join(filter(None, told))


def tones(data: dict[str, Any]) -> Wanted:
    """The changes that lay the tones of a file, in its order. What a kind does not know is kept out of the way. Raises
    ReadingError."""
    if "tones" not in data:
        raise ReadingError("there are no 'tones' in it")
    out: Wanted = []
    for k, item in enumerate(_items(data, "tones")):
        kind = item.get("kind")
        if kind not in LAID_BY:
            raise ReadingError(f"tone {k + 1} is of kind '{kind}': there are {', '.join(LAID_BY)}")
        known = argument_names(LAID_BY[kind])
        out.append((LAID_BY[kind], {name: value for name, value in item.items() if name in known}))
    if not out:
        raise ReadingError("it holds no tones")
    return out


def targets(data: dict[str, Any]) -> list[dict[str, Any]]:
    """Targets with their defaults: id (or None), points (n, 2), closed, pace, part, role. Raises ReadingError."""
    if "targets" not in data:
        raise ReadingError("there are no 'targets' in it")
    out = []
    for k, item in enumerate(_items(data, "targets")):
        what = f"target {k + 1}"
        pace = item.get("pace", "normal")
        out.append(
            {
                "points": _at(what, lambda i=item: _points(i.get("points"))),
                "closed": bool(item.get("closed", False)),
                "pace": pace,
                **_place(item, "target", k),
            }
        )
    if not out:
        raise ReadingError("it holds no targets")
    return out


def edits(data: dict[str, Any]) -> Wanted:
    """The named changes of an edits file. Raises ReadingError."""
    found = _items(data, "changes")
    if "changes" not in data or not found:
        raise ReadingError("there are no 'changes' in it")
    out: Wanted = []
    for k, item in enumerate(found):
        name = item.get("change")
        if not isinstance(name, str):
            raise ReadingError(f"change {k + 1} has no name under 'change'")
        if name in NOT_FOR_EDITS:
            raise ReadingError(f"change '{name}' brings data with it: use import, pull or new --pencils instead")
        out.append((name, {key: value for key, value in item.items() if key != "change"}))
    return out


NOT_FOR_EDITS = ("pull", "line", "black", "paste", "pencils-add", "again")


def _items(data: dict[str, Any], key: str) -> list[dict[str, Any]]:
    found = data.get(key, [])
    if not isinstance(found, list) or not all(isinstance(item, dict) for item in found):
        raise ReadingError(f"'{key}' is a list of objects")
    return found


def _at(what: str, work: Any) -> Any:
    try:
        return work()
    except StrideError as fault:
        raise ReadingError(f"{what}: {fault}") from None


def _place(item: dict[str, Any], what: str, k: int) -> dict[str, Any]:
    """part, role, id and tier of an item, each a text where it is given."""
    out: dict[str, Any] = {"part": item.get("part") or DEFAULT_PART}
    for key in ("id", "tier", "role"):
        if item.get(key) is not None:
            out[key] = item[key]
    for key, value in out.items():
        if not isinstance(value, str):
            raise ReadingError(f"{what} {k + 1}: '{key}' is a text, not {value!r}")
    if "role" in out:
        _at(f"{what} {k + 1}", lambda: check_role(out["role"]))
    return out


def _pull(item: dict[str, Any], nib: Nib) -> Pull:
    return Pull(checked_samples(item.get("samples", [])), nib, device="import")


def _line(item: dict[str, Any]) -> dict[str, Any]:
    points = _points(item.get("points"))
    n = len(points)
    if item.get("left") is not None and item.get("right") is not None:
        left, right = _numbers(item["left"], "left", n), _numbers(item["right"], "right", n)
    else:
        widths = item.get("widths")
        full = np.full(n, DEFAULT_WIDTH) if widths is None else _numbers(widths, "widths", n)
        left = right = full / 2.0
    closed = item.get("closed", False)
    if not isinstance(closed, bool):
        raise ReadingError("'closed' is true or false")
    ends = item.get("ends", ["round", "round"])
    if not isinstance(ends, list) or len(ends) != 2 or not all(isinstance(e, str) for e in ends):
        raise ReadingError("'ends' are two kinds of ends")
    found = {"found": True} if item.get("role_by") == FOUND else {}
    return {"form": form_from_points(points, left, right, closed), "nib": DEFAULT_NIB, "ends": tuple(ends), **found}


def _black(item: dict[str, Any]) -> Black:
    outlines = item.get("outlines")
    if not isinstance(outlines, list):
        raise ReadingError("'outlines' are a list of outlines, each a list of [x, y] in mm")
    return black_of_rings([_points(outline) for outline in outlines])


def _points(value: object) -> np.ndarray:
    if not isinstance(value, list) or not value:
        raise JobError("'points' are a list of [x, y] in mm")
    try:
        points = np.array([[float(v) for v in p] for p in value], float)
    except (TypeError, ValueError):
        raise JobError("'points' are a list of [x, y] in mm") from None
    if points.ndim != 2 or points.shape[1] != 2 or not np.isfinite(points).all():
        raise JobError("'points' are a list of [x, y] in mm")
    return points


def _numbers(value: Any, what: str, n: int) -> np.ndarray:
    try:
        out = np.array([float(v) for v in value])
    except (TypeError, ValueError):
        raise JobError(f"'{what}' is a list of numbers in mm") from None
    if len(out) != n:
        raise JobError(f"'{what}' has {len(out)} numbers for {n} points")
    return out
