"""Files opened again after they were written: what they hold, as readers of their kind tell it."""

import csv
import io
import json
import zipfile
from typing import Any

from defusedxml.ElementTree import fromstring
from PIL import Image

from plain_stride.finish.errors import FinishError

MODES = {"1": "one bit", "L": "grey", "LA": "grey", "RGB": "RGB", "RGBA": "RGB", "P": "RGB"}


class NotWhole(FinishError):
    """A file that does not open again as what it should be."""


def facts_of(kind: str, data: bytes) -> dict[str, Any]:
    """What a file holds: pixels, dpi, colour, pages, layers, as its kind has them. Raises NotWhole."""
    try:
        return _READERS[kind.rsplit(".", 1)[-1]](data)
    except NotWhole:
        raise
    except Exception as fault:
        raise NotWhole(f"it does not open again: {fault}") from None


def _picture(data: bytes) -> dict[str, Any]:
    with Image.open(io.BytesIO(data)) as picture:
        pages = getattr(picture, "n_frames", 1)
        out = {"pixels": list(picture.size), "colour": MODES.get(picture.mode, picture.mode), "pages": pages}
        if "dpi" in picture.info:
            out["dpi"] = round(float(picture.info["dpi"][0]), 2)
        for page in range(pages):
            picture.seek(page)
            picture.load()
    return out


def _pdf(data: bytes) -> dict[str, Any]:
    import pikepdf

    with pikepdf.open(io.BytesIO(data)) as file:
        boxes = [[float(v) for v in page.trimbox] for page in file.pages]
        for page in file.pages:
            page.Contents.read_bytes()
        layers = len(file.Root.OCProperties.OCGs) if "/OCProperties" in file.Root else 0
    return {"pages": len(boxes), "trim_mm": [round((box[k + 2] - box[k]) / 72.0 * 25.4, 2) for box in boxes[:1]
                                             for k in (0, 1)], "layers": layers}  # fmt: skip


def _openraster(data: bytes) -> dict[str, Any]:
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        if file.namelist()[0] != "mimetype" or file.read("mimetype") != b"image/openraster" or file.testzip():
            raise NotWhole("it is no OpenRaster file")
        stack = fromstring(file.read("stack.xml"))
        layers = stack.findall(".//layer")
        for layer in layers:
            _picture(file.read(layer.get("src", "")))
        merged = _picture(file.read("mergedimage.png"))
    return {"pixels": merged["pixels"], "colour": merged["colour"], "layers": len(layers), "dpi": float(
        stack.get("xres", 0))}  # fmt: skip


def _svg(data: bytes) -> dict[str, Any]:
    root = fromstring(data)
    if not root.tag.endswith("svg"):
        raise NotWhole("it is no SVG")
    return {"paths": sum(1 for one in root.iter() if one.tag.endswith("}path"))}


def _json(data: bytes) -> dict[str, Any]:
    json.loads(data)
    return {}


def _csv(data: bytes) -> dict[str, Any]:
    return {"rows": sum(1 for _ in csv.reader(io.StringIO(data.decode()))) - 1}


_READERS = {"png": _picture, "tif": _picture, "pdf": _pdf, "ora": _openraster, "svg": _svg, "json": _json, "csv": _csv}
