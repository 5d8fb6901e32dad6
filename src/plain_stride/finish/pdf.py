"""PDF of final art: pages with their boxes, each line a filled outline of curves, back to front, each part a layer that
can be switched off.

The page's own units are points of 1/72 in, y up; the trim box is the finished sheet, the bleed box holds its bleed as
well, the media box the crop marks too, where there are any. Black, white and greys are grey alone, so that they print
as one ink; there is no text on the page, and no font. ISO 32000-1: 8.11.4 (optional content), 14.11.2 (boxes).
"""

import io
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from plain_stride import colour
from plain_stride.finish.art import Art, ArtFlats, ArtPart, ArtScan, ExportStopped, Progress, Thing
from plain_stride.finish.choices import Choices
from plain_stride.finish.pages import Rasteriser
from plain_stride.finish.pictures import Picture, picture_of
from plain_stride.measure import MM_PER_INCH
from plain_stride.texts import clean

PT_PER_MM = 72.0 / MM_PER_INCH
UNITS_PER_MM = 1000
"""Coordinates are whole numbers of micrometres."""
MARK_MM, MARK_OFF_MM, MARK_WIDE_MM = 5.0, 3.0, 0.1


def pdf_bytes(
    art: Art, choices: Choices | None = None, pixels: Rasteriser | None = None, progress: Progress | None = None
) -> bytes:
    """The whole file of one page. pixels: makes what is a picture; progress: told the share done after each line;
    returning False raises ExportStopped."""
    return pdf_of_pages([art], choices or Choices(), pixels, progress)


def pdf_of_pages(
    arts: Sequence[Art], choices: Choices, pixels: Rasteriser | None, progress: Progress | None = None
) -> bytes:
    """The whole file, a page for each."""
    import pikepdf

    told = progress or (lambda share: True)
    file = pikepdf.new()
    layers: list[Any] = []
    for k, art in enumerate(arts):
        page = _Page(art, choices, pixels, file)
        done, total = 0, max(1, sum(len(part.lines) for part in art.parts))
        for thing in art.things:
            for _ in page.lay(thing):
                done += 1
                if not told((k + done / total) / len(arts)):
                    raise ExportStopped("the export was stopped: no file was written")
        layers += page.close()
    if layers:
        file.Root.OCProperties = pikepdf.Dictionary(
            OCGs=pikepdf.Array(layers), D=pikepdf.Dictionary(Order=pikepdf.Array(layers), ON=pikepdf.Array(layers))
        )
    file.docinfo["/Title"] = clean(arts[0].name)
    file.docinfo["/Producer"] = "Plain Stride"
    out = io.BytesIO()
    # The same art is the same file: its id is made of what is in it.
    file.save(out, deterministic_id=True, compress_streams=True, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    return out.getvalue()


class _Page:
    """One page as it is written."""

    def __init__(self, art: Art, choices: Choices, pixels: Rasteriser | None, file: Any) -> None:
        self._art, self._file, self._pixels = art, file, pixels
        self._choices = choices
        self._out: list[str] = []
        self._layers: list[Any] = []
        self._pictures: list[Any] = []
        self._paint = ""
        self._edge = MARK_MM + MARK_OFF_MM if choices.marks else 0.0
        w, h = (v + 2.0 * self._edge for v in art.whole.size_mm)
        off, unit = (art.bleed + self._edge) * PT_PER_MM, PT_PER_MM / UNITS_PER_MM
        self._size = (w * PT_PER_MM, h * PT_PER_MM)
        self._out.append(f"q {unit:.9f} 0 0 {-unit:.9f} {off:.6f} {self._size[1] - off:.6f} cm")

    def lay(self, thing: Thing) -> Iterator[None]:
        """Lays a thing of the page; a step for each line that is laid."""
        if isinstance(thing, ArtPart):
            self._begin(f"{thing.finish}: {thing.name}" if thing.finish else thing.name)
            for line in thing.lines:
                self._fill(line.colour, line.seen_curves(), line.even_odd)
                yield
            self._end()
        elif isinstance(thing, ArtFlats):
            self._begin("flats")
            for _, name, area in thing.areas:
                self._fill_area(name, area)
            self._end()
        elif self._pixels is not None:
            self._begin(thing.name if isinstance(thing, ArtScan) else thing.told.title)
            self._show(picture_of(thing, self._art, self._pixels))
            self._end()

    def close(self) -> list[Any]:
        """Writes the page; its layers."""
        import pikepdf

        self._out.append("Q")
        if self._choices.marks:
            self._mark()
        art, edge = self._art, self._edge * PT_PER_MM
        page = self._file.add_blank_page(page_size=self._size)
        w, h = self._size
        bleed = art.bleed * PT_PER_MM
        page.obj.BleedBox = _box(edge, edge, w - edge, h - edge)
        page.obj.TrimBox = _box(edge + bleed, edge + bleed, w - edge - bleed, h - edge - bleed)
        page.obj.Resources = pikepdf.Dictionary(
            Properties=pikepdf.Dictionary({f"/L{k}": one for k, one in enumerate(self._layers)}),
            XObject=pikepdf.Dictionary({f"/P{k}": one for k, one in enumerate(self._pictures)}),
        )
        page.obj.Contents = self._file.make_stream("\n".join(self._out).encode("ascii"))
        return self._layers

    def _begin(self, name: str) -> None:
        import pikepdf

        group = pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(clean(name)))
        self._out.append(f"/OC /L{len(self._layers)} BDC")
        self._layers.append(self._file.make_indirect(group))

    def _end(self) -> None:
        self._out.append("EMC")

    def _fill(self, name: str, curves: Sequence[np.ndarray], even_odd: bool) -> None:
        if len(curves):
            self._take(name)
            self._out += map(chain, curves)
            self._out.append("f*" if even_odd else "f")

    def _fill_area(self, name: str, area: Any) -> None:
        import shapely

        self._take(name)
        for piece in shapely.get_parts(area):
            if piece.geom_type == "Polygon":
                self._out += (_ring(shapely.get_coordinates(ring)[:-1]) for ring in (piece.exterior, *piece.interiors))
                self._out.append("f*")

    def _take(self, name: str) -> None:
        """Takes a colour in hand."""
        paint = f"{colour.grey(name):.4g} g" if colour.is_grey(name) else " ".join(
            f"{v:.4g}" for v in colour.rgb(name)) + " rg"  # fmt: skip
        if paint != self._paint:
            self._out.append(paint)
            self._paint = paint

    def _show(self, picture: Picture | None) -> None:
        if picture is None:
            return
        x, y, w, h = (round(v * UNITS_PER_MM) for v in picture.box)
        self._out.append(f"q {w} 0 0 {-h} {x} {y + h} cm /P{len(self._pictures)} Do Q")
        self._pictures.append(image_object(self._file, picture))

    def _mark(self) -> None:
        """Crop marks at the corners of the trim, outside the bleed, in black alone."""
        w, h = self._size
        off = (self._art.bleed + self._edge) * PT_PER_MM
        long, wide = MARK_MM * PT_PER_MM, MARK_WIDE_MM * PT_PER_MM
        self._out.append("0 g")
        for x in (off, w - off):
            for y in (0.0, h - long):
                self._out.append(f"{x - wide / 2:.4f} {y:.4f} {wide:.4f} {long:.4f} re")
        for y in (off, h - off):
            for x in (0.0, w - long):
                self._out.append(f"{x:.4f} {y - wide / 2:.4f} {long:.4f} {wide:.4f} re")
        self._out.append("f")


def _box(*values: float) -> Any:
    import pikepdf

    return pikepdf.Array([round(v, 6) for v in values])


def chain(curve: np.ndarray) -> str:
    """A closed chain of cubics (m, 4, 2) mm."""
    whole = np.rint(curve * UNITS_PER_MM).astype(np.int64)
    x, y = whole[0, 0].tolist()
    steps = "\n".join(["%d %d %d %d %d %d c"] * len(whole)) % tuple(whole[:, 1:].ravel().tolist())
    return f"{x} {y} m\n{steps}\nh"


def _ring(points: np.ndarray) -> str:
    whole = np.rint(points * UNITS_PER_MM).astype(np.int64)
    steps = "\n".join(["%d %d l"] * (len(whole) - 1)) % tuple(whole[1:].ravel().tolist())
    return f"{whole[0, 0]} {whole[0, 1]} m\n{steps}\nh"


def image_object(file: Any, picture: Picture) -> Any:
    import pikepdf

    def stream(values: np.ndarray, **more: Any) -> Any:
        space = pikepdf.Name.DeviceRGB if values.ndim == 3 else pikepdf.Name.DeviceGray
        return file.make_stream(np.ascontiguousarray(values).tobytes(), Type=pikepdf.Name.XObject,
                                Subtype=pikepdf.Name.Image, Width=values.shape[1], Height=values.shape[0],
                                BitsPerComponent=8, ColorSpace=space, **more)  # fmt: skip

    return stream(picture.values, SMask=stream(picture.alpha), Interpolate=True)
