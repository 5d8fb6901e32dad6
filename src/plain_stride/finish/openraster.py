"""OpenRaster: a zip of PNG layers, each cropped to its own box, with a stack that names them, a merged picture and a
thumbnail. As the published baseline has it (freedesktop.org, OpenRaster 0.0.6): `mimetype` first and not compressed.
"""

import io
import os
import zipfile
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from xml.sax.saxutils import quoteattr

import numpy as np
from PIL import Image

from plain_stride.finish.art import Art, ArtBlack, ArtFlats, ArtLine, ArtPart, ArtScan, Inked, Progress, Thing, share_of
from plain_stride.finish.choices import ONE, PART, ROLE, Choices
from plain_stride.finish.cropping import cropped
from plain_stride.finish.pages import Rasteriser, page_bands, whole_page
from plain_stride.finish.png import png_bytes
from plain_stride.texts import clean

MIMETYPE = b"image/openraster"
THUMBNAIL_PX = 256
CORES = os.cpu_count() or 1
BLACKS, FLATS, OVER, HATCHING = "blacks", "flats", "white over black", "hatch"
_DATE = (1980, 1, 1, 0, 0, 0)
"""Files of a zip have a date; the same art is the same file."""


@dataclass(frozen=True, eq=False)
class Sheet:
    """What one layer holds, by name."""

    name: str
    things: tuple[Thing, ...]


def openraster_bytes(art: Art, choices: Choices, rasteriser: Rasteriser, progress: Progress | None = None) -> bytes:
    """The whole file. progress: told the share done; returning False raises ExportStopped."""
    sheets = sheets_of(art, choices.by)
    told = progress or (lambda share: True)
    out, rows = io.BytesIO(), list[str]()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file, ThreadPoolExecutor(CORES) as pool:
        _put(file, "mimetype", MIMETYPE)
        waiting: deque[tuple[str, Future[bytes]]] = deque()

        def put(most: int) -> None:
            """Writes pictures as they are encoded, in their order, until no more than so many are under way."""
            while len(waiting) > most:
                name, png = waiting.popleft()
                _put(file, name, png.result())

        for k, sheet in enumerate(sheets):
            drawn = cropped(replace(art, things=sheet.things), rasteriser, share_of(told, k, len(sheets) + 1))
            if drawn is None:
                continue
            values, alpha, (x, y) = drawn
            name = f"data/layer{len(rows):03d}.png"
            # Encoding leaves the interpreter free: the next layer is filled meanwhile.
            waiting.append((name, pool.submit(png_bytes, values, alpha, art.whole.dpi, False, quick=True)))
            rows.append(f'<layer name={quoteattr(clean(sheet.name))} src="{name}" x="{x}" y="{y}" opacity="1.0"'
                        ' visibility="visible" composite-op="svg:src-over"/>')  # fmt: skip
            put(CORES)
        put(0)
        merged = _merged(art, rasteriser, share_of(told, len(sheets), len(sheets) + 1))
        _put(file, "stack.xml", _stack(art, rows).encode())
        _put(file, "mergedimage.png", png_bytes(merged, None, art.whole.dpi, False, quick=True))
        _put(file, "Thumbnails/thumbnail.png", _thumbnail(merged))
    return out.getvalue()


def sheets_of(art: Art, by: str) -> list[Sheet]:
    """The layers, back to front: what is under the ink, the ink by part, role or tier or as one, what is over it."""
    if by == ONE:
        return [Sheet(clean(art.name), art.things)]
    out: list[Sheet] = []
    for thing in art.things:
        if not isinstance(thing, ArtPart):
            name = FLATS if isinstance(thing, ArtFlats) else thing.name if isinstance(thing, ArtScan) else (
                thing.told.title)  # fmt: skip
            out.append(Sheet(name, (thing,)))
        else:
            out += _of_part(thing, by)
    return _together(out) if by != PART else out


def _of_part(part: ArtPart, by: str) -> Iterator[Sheet]:
    """The layers of a part: its ink, its blacks and its hatching."""
    if part.finish:
        yield Sheet(f"{part.finish}: {part.name}", (part,))
        return
    kinds: list[tuple[str, list[Inked]]] = []
    # What is of one colour may lie in any order: it looks the same. What is not stays as it was drawn.
    free = len({line.colour for line in part.lines}) < 2
    for line in part.lines:
        own = _name(part, line, by)
        if kinds and kinds[-1][0] == own:
            kinds[-1][1].append(line)
        elif free and (there := next((k for k in kinds if k[0] == own), None)) is not None:
            there[1].append(line)
        else:
            kinds.append((own, [line]))
    for name, run in kinds:
        yield Sheet(name, (replace(part, lines=tuple(run)),))


def _name(part: ArtPart, line: Inked, by: str) -> str:
    if part.ink == "white":
        return f"{part.name}, {OVER}"
    if isinstance(line, ArtBlack):
        return BLACKS if by == ROLE else f"{part.tier}, {BLACKS}" if by != PART else f"{part.name}, {BLACKS}"
    if isinstance(line, ArtLine) and line.tone == HATCHING:
        return HATCHING if by == ROLE else f"{part.tier}, {HATCHING}" if by != PART else f"{part.name}, {HATCHING}"
    if by == ROLE:
        return line.role if isinstance(line, ArtLine) else part.name
    return part.name if by == PART else part.tier


def _together(sheets: list[Sheet]) -> list[Sheet]:
    """Layers of one name that follow on each other as one."""
    out: list[Sheet] = []
    for sheet in sheets:
        if out and out[-1].name == sheet.name:
            out[-1] = Sheet(sheet.name, (*out[-1].things, *sheet.things))
        else:
            out.append(sheet)
    return out


def _merged(art: Art, rasteriser: Rasteriser, progress: Progress) -> np.ndarray:
    values, _ = whole_page(page_bands(art, rasteriser, False, art.coloured, progress), art.whole.pixels)
    return values


def _thumbnail(merged: np.ndarray) -> bytes:
    many = max(1, max(merged.shape[:2]) // THUMBNAIL_PX)
    picture = Image.fromarray(np.ascontiguousarray(merged))
    small = picture.reduce(many)
    small.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX))
    out = io.BytesIO()
    small.save(out, "PNG")
    return out.getvalue()


def _stack(art: Art, rows: list[str]) -> str:
    w, h = art.whole.pixels
    dpi = round(art.whole.dpi)
    # The first one of a stack is the topmost.
    layers = "\n".join(reversed(rows))
    return (f'<?xml version="1.0" encoding="UTF-8"?>\n<image version="0.0.6" w="{w}" h="{h}" xres="{dpi}"'
            f' yres="{dpi}" name={quoteattr(clean(art.name))}>\n<stack>\n{layers}\n</stack>\n</image>\n')  # fmt: skip


def _put(file: zipfile.ZipFile, name: str, data: bytes) -> None:
    file.writestr(zipfile.ZipInfo(name, _DATE), data)
