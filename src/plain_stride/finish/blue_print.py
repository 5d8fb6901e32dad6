"""Pencils printed in pale blue at true size, with register marks, to be inked on paper: a PDF page."""

import io

import numpy as np

from plain_stride.finish.pdf import PT_PER_MM, UNITS_PER_MM, chain, image_object
from plain_stride.finish.pictures import Picture
from plain_stride.lines.curve import circle
from plain_stride.pencils.blue_out import PALE_BLUE
from plain_stride.pencils.register_marks import DISC_MM, EDGE_MM, MIDDLE_MM, RING_MM, RING_WIDE_MM, mark_places
from plain_stride.texts import clean


def blue_pdf(
    name: str, size_mm: tuple[float, float], dark: np.ndarray, box: tuple[float, float, float, float]
) -> bytes:
    """dark: (h, w) uint8 of the pencils, 255 the blackest; box: x, y, w, h mm that it fills of a sheet of this size.
    The trim box is the sheet."""
    import pikepdf

    file = pikepdf.new()
    w, h = (v + 2.0 * EDGE_MM for v in size_mm)
    page = file.add_blank_page(page_size=(w * PT_PER_MM, h * PT_PER_MM))
    edge = EDGE_MM * PT_PER_MM
    page.obj.TrimBox = pikepdf.Array([edge, edge, w * PT_PER_MM - edge, h * PT_PER_MM - edge])
    values = np.broadcast_to(np.rint(np.array(PALE_BLUE) * 255.0).astype(np.uint8), (*dark.shape, 3))
    page.obj.Resources = pikepdf.Dictionary(
        XObject=pikepdf.Dictionary({"/P0": image_object(file, Picture(values, dark, box))})
    )
    x, y, wide, high = (round(v * UNITS_PER_MM) for v in box)
    unit = PT_PER_MM / UNITS_PER_MM
    out = [f"q {unit:.9f} 0 0 {-unit:.9f} {edge:.6f} {h * PT_PER_MM - edge:.6f} cm"]
    # Nothing of the pencils lies where the marks are looked for.
    sheet = [round(v * UNITS_PER_MM) for v in size_mm]
    out += ["q", f"0 0 {sheet[0]} {sheet[1]} re W n", f"q {wide} 0 0 {-high} {x} {y + high} cm /P0 Do Q", "Q", "0 g"]
    for k, place in enumerate(mark_places(size_mm)):
        rings = [RING_MM, RING_MM - RING_WIDE_MM, DISC_MM, *([MIDDLE_MM] if k == 0 else [])]
        out += [*(chain(circle(place, radius)) for radius in rings), "f*"]
    out.append("Q")
    page.obj.Contents = file.make_stream("\n".join(out).encode("ascii"))
    file.docinfo["/Title"] = clean(name)
    file.docinfo["/Producer"] = "Plain Stride"
    whole = io.BytesIO()
    file.save(whole, deterministic_id=True, compress_streams=True)
    return whole.getvalue()
