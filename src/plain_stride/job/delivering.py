"""A delivery written: all of its files, a manifest of them, each opened again and compared before it is said to be
delivered. It appears under its name when it is whole, or not at all."""

import hashlib
import json
import os
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from plain_stride.finish.art import share_of
from plain_stride.finish.checked_files import NotWhole, facts_of
from plain_stride.finish.choices import Choices
from plain_stride.finish.cropping import cropped
from plain_stride.finish.delivery import Delivery, WantedFile
from plain_stride.finish.errors import FinishError
from plain_stride.finish.finishing import pictures_in
from plain_stride.finish.pages import Rasteriser
from plain_stride.finish.png import png_bytes
from plain_stride.job.art_files import Asked, art_asked, art_bytes, dpi_asked
from plain_stride.job.board_facts import edges_of, target_of
from plain_stride.job.finished import passes_of
from plain_stride.job.flat_files import flats_bytes
from plain_stride.job.job import Job
from plain_stride.job.shapes import Shapes
from plain_stride.job.thin_lines import thin_lines
from plain_stride.measure import MM_PER_INCH
from plain_stride.texts import clean

MANIFEST = "manifest.json"
WRITING_SHARE = 0.95
"""Of the time that a delivery takes."""
Progress = Callable[[float], bool]


class DeliverError(FinishError):
    """A delivery that cannot be made."""


@dataclass(frozen=True)
class Delivered:
    """manifest: as its file has it; broken: limits that do not hold, in words."""

    manifest: dict[str, Any]
    broken: tuple[str, ...]


def deliver(
    job: Job, shapes: Shapes, wanted: Delivery, out: Path, rasteriser: Callable[[], Rasteriser], progress: Progress
) -> Delivered:
    """Writes a delivery into a folder, or a zip by its ending. What is there already is never touched. Raises
    StrideError, nothing half-written."""
    _check_place(out)
    if not job.rows.lines and not job.rows.blacks:
        raise DeliverError("nothing is inked yet: a delivery would be empty")
    part = Path(tempfile.mkdtemp(prefix=f".{out.stem[:40]}-", suffix=".part", dir=out.parent))
    try:
        folder = part / "whole"
        folder.mkdir()
        rows = []
        for name, kind, data in _files(job, shapes, wanted, rasteriser, progress):
            (folder / name).write_bytes(data)
            rows.append({"name": name, "kind": kind, "bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()})
        made = _manifest(job, shapes, wanted, rows, folder)
        (folder / MANIFEST).write_text(json.dumps(made.manifest, ensure_ascii=False, indent=1) + "\n", "utf-8")
        _synced(folder)
        if not progress(1.0):
            raise DeliverError("stopped: nothing was delivered")
        _put_in_place(folder, part, out, rows)
        return made
    except OSError as fault:
        raise DeliverError(f"{out.name} could not be written ({fault.strerror or fault}): nothing was delivered, what"
                           " was there before is untouched") from None  # fmt: skip
    finally:
        shutil.rmtree(part, ignore_errors=True)


def _check_place(out: Path) -> None:
    if out.exists() or out.is_symlink():
        raise DeliverError(f"{out.name} is there already: it was not touched; choose another name for this delivery")
    if not out.parent.is_dir():
        raise DeliverError(f"there is no folder {out.parent}: make it first, or choose another")


def _synced(folder: Path) -> None:
    for path in folder.iterdir():
        with path.open("rb") as file:
            os.fsync(file.fileno())


def _put_in_place(folder: Path, part: Path, out: Path, rows: list[dict[str, Any]]) -> None:
    """Compares what stands on the disk with what was made, and only then gives it its name."""
    for row in rows:
        if hashlib.sha256((folder / row["name"]).read_bytes()).hexdigest() != row["sha256"]:
            raise DeliverError(f"{row['name']} is not on the disk as it was made: nothing was delivered")
    if out.suffix.lower() != ".zip":
        _check_place(out)
        folder.rename(out)
        return
    packed = part / "packed.zip"
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as file:
        for path in sorted(folder.iterdir()):
            kind = zipfile.ZIP_STORED if path.suffix in (".png", ".ora", ".tif", ".pdf") else zipfile.ZIP_DEFLATED
            file.write(path, path.name, kind)
    with zipfile.ZipFile(packed) as file:
        for row in rows:
            if hashlib.sha256(file.read(row["name"])).hexdigest() != row["sha256"]:
                raise DeliverError(f"{row['name']} is not in the zip as it was made: nothing was delivered")
    _check_place(out)
    packed.rename(out)


def _files(
    job: Job, shapes: Shapes, wanted: Delivery, rasteriser: Callable[[], Rasteriser], progress: Progress
) -> Iterator[tuple[str, str, bytes]]:
    """(name, kind, bytes) of each file."""
    jobs = [(one, scale) for one in wanted.files for scale in one.scales]
    names: set[str] = set()
    for n, (one, scale) in enumerate(jobs):
        told = share_of(lambda share: progress(WRITING_SHARE * share), n, len(jobs))
        for name, kind, data in _made(job, shapes, one, scale, rasteriser, told):
            if name.lower() in names:
                raise DeliverError(f"two files would be called {name}: give them other names")
            names.add(name.lower())
            yield name, kind, data


def _made(
    job: Job, shapes: Shapes, one: WantedFile, scale: int, rasteriser: Callable[[], Rasteriser], progress: Progress
) -> Iterator[tuple[str, str, bytes]]:
    stem = clean(one.name.replace("{job}", job.name)).replace("/", "-") + (f"-{scale}x" if len(one.scales) > 1 else "")
    asked = asked_of(job, one, scale)
    if one.kind.startswith("flats."):
        ending = one.kind.split(".")[1]
        yield f"{stem}.{ending}", ending, flats_bytes(job, shapes, f".{ending}", asked, None)
    elif one.each:
        yield from _each_part(job, shapes, stem, asked, rasteriser, progress)
    else:
        yield f"{stem}.{one.kind}", one.kind, art_bytes(job, shapes, f".{one.kind}", asked, rasteriser, progress)


def asked_of(job: Job, one: WantedFile, scale: int = 1) -> Asked:
    """What a file of a delivery is to be like at a scale."""
    choices = Choices(one.bw, one.transparent, False, one.colour, one.by, one.marks, one.strokes)
    asked = Asked(choices, one.bleed, one.dpi, one.width, one.plain, one.flats, one.pencils)
    if scale == 1:
        return asked
    return Asked(choices, one.bleed, dpi_asked(job, asked) * scale, None, one.plain, one.flats, one.pencils)


def _each_part(
    job: Job, shapes: Shapes, stem: str, asked: Asked, rasteriser: Callable[[], Rasteriser], progress: Progress
) -> Iterator[tuple[str, str, bytes]]:
    """A PNG for each part, cropped to its own box, and a table of where they lie."""
    art, pixels = art_asked(job, shapes, asked), rasteriser()
    places = list[dict[str, Any]]()
    for n, part in enumerate(art.parts):
        drawn = cropped(replace(art, things=(part,)), pixels, share_of(progress, n, len(art.parts)))
        if drawn is None:
            continue
        values, alpha, (x, y) = drawn
        name = f"{stem} {len(places) + 1:02d} {clean(part.name).replace('/', '-')[:60]}.png"
        high, wide = alpha.shape
        mm = MM_PER_INCH / art.page.dpi
        box = ((x, art.bleed), (y, art.bleed), (wide, 0.0), (high, 0.0))
        places.append({"file": name, "part": part.name, "finish": part.finish or None, "order": len(places) + 1, "x": x,
                       "y": y, "w": wide, "h": high, "mm": [round(v * mm - b, 4) for v, b in box]})  # fmt: skip
        yield name, "png", png_bytes(values, alpha, art.page.dpi, asked.choices.bw)
    w, h = art.whole.pixels
    told = {"units": "px", "pixels": [w, h], "dpi": round(art.page.dpi, 4), "order": "back to front", "parts": places}
    yield f"{stem} places.json", "json", (json.dumps(told, ensure_ascii=False, indent=1) + "\n").encode()


def _manifest(job: Job, shapes: Shapes, wanted: Delivery, rows: list[dict[str, Any]], folder: Path) -> Delivered:
    for row in rows:
        try:
            row |= facts_of(row["kind"], (folder / row["name"]).read_bytes())
        except NotWhole as fault:
            raise DeliverError(f"{row['name']}: {fault}: nothing was delivered") from None
    told = _limits(job, shapes, wanted, rows)
    passes = [] if all(one.plain for one in wanted.files) else [one for one in passes_of(job) if one.on]
    manifest = {
        "units": "mm",
        "job": job.name,
        "delivery": wanted.name,
        "to": wanted.to,
        "size_mm": [round(v, 4) for v in job.page.size_mm],
        "bleed_mm": edges_of(job).bleed,
        "print": target_of(job).name,
        "finishes": [f"{one.title}: {one.says}" for one in passes],
        "pictures": pictures_in(passes),
        "limits": told,
        "files": rows,
    }
    return Delivered(manifest, tuple(row["says"] for row in told if not row["holds"]))


def _limits(job: Job, shapes: Shapes, wanted: Delivery, rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Each limit with what was measured."""
    out = []
    for name, limit in wanted.limits.items():
        if name == "least_mm":
            thin = thin_lines(job, shapes, limit)
            measured, says = float(len(thin)), f"{len(thin)} lines are thinner than {limit:g} mm"
            holds = not thin
        elif name == "least_dpi":
            found = [row["dpi"] for row in rows if row.get("dpi")]
            measured = min(found, default=limit)
            holds, says = measured >= limit - 0.5, f"the coarsest picture has {measured:g} dpi, asked are {limit:g}"
        else:
            measured = round(sum(row["bytes"] for row in rows) / 1e6, 3)
            holds, says = measured <= limit, f"the files have {measured:g} MB, asked are {limit:g} at most"
        out.append({"limit": name, "asked": limit, "measured": measured, "holds": bool(holds), "says": says})
    return out
