"""SVG in mm: one group a part, each line a filled outline of curves with its centreline and widths beside it."""

import base64
import json
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from xml.sax.saxutils import quoteattr

import numpy as np

from plain_stride import colour, plain_json
from plain_stride.errors import StrideError
from plain_stride.finish.art import (
    Art,
    ArtBlack,
    ArtCopy,
    ArtFlats,
    ArtLine,
    ArtPart,
    ArtScan,
    ExportStopped,
    Inked,
    OwnCover,
    SoftCopy,
)
from plain_stride.finish.pictures import Picture
from plain_stride.finish.png import png_bytes
from plain_stride.finish.svg_tree import SvgError, xml_root
from plain_stride.form.cover import covered_rings
from plain_stride.hand.nib import MAX_GRAIN_MM
from plain_stride.lines.black import Black, checked
from plain_stride.lines.edges import ToothedEdge
from plain_stride.lines.given import Form, GivenError
from plain_stride.lines.profile import Widths
from plain_stride.texts import clean

OURS = "urn:plain-stride:1"
_INKS = {"black": "#000000", "white": "#ffffff"}
_EVEN_MM = 1e-3
"""Lines whose widths differ by less than this are of one width."""


GrainPicture = Callable[[str, list[np.ndarray], tuple[int, int], float], bytes]
"""Makes a PNG of ink on nothing: of a colour, rings in mm from its corner, pixels, dpi."""
Pictures = Callable[[SoftCopy | ArtScan], Picture | None]
"""Makes what is a picture in any file."""


@dataclass(frozen=True, eq=False)
class SvgLine:
    """A line as our own SVG kept it; role: None where the file names none; grain: mm of tooth in its edge."""

    id: str
    part: str
    tier: str
    role: str | None
    ends: tuple[str, str]
    form: Form
    grain: float = 0.0


def svg_text(
    art: Art,
    progress: Callable[[float], bool] | None = None,
    grain: GrainPicture | None = None,
    pictures: Pictures | None = None,
    strokes: bool = False,
) -> str:
    """The whole file as text. progress: told the share done after each line; returning False raises ExportStopped.
    grain: makes a picture of a textured line, which then stands in the file in place of its worn outline; pictures:
    makes what is one in any file; strokes: lines of one width are strokes, not outlines."""
    w, h = (_number(v) for v in art.whole.size_mm)
    corner = _number(-art.bleed)
    linked = ' xmlns:xlink="http://www.w3.org/1999/xlink"' if grain is not None or art.has_pictures else ""
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:stride="{OURS}" version="1.1"{linked}'
        f' width="{w}mm" height="{h}mm" viewBox="{corner} {corner} {w} {h}">',
        f"<title>{_escaped(art.name)}</title>",
    ]
    taken: set[str] = set()
    done, total = 0, sum(len(part.lines) for part in art.parts)
    for part in art.things:
        if not isinstance(part, ArtPart):
            out += _flats(part, taken) if isinstance(part, ArtFlats) else _pictures(part, pictures)
            continue
        clip, head = _clip(part, art, taken), _group_head(part, taken)
        out += [*clip.values(), head.replace("<g ", f'<g clip-path="url(#{next(iter(clip))})" ') if clip else head]
        for line in part.lines:
            out.append(_pictured(line, art, grain, taken) or _path(line, taken, part.colour, strokes))
            done += 1
            if progress is not None and not progress(done / total):
                raise ExportStopped("the export was stopped: no file was written")
        out.append("</g>")
    return "\n".join([*out, "</svg>", ""])


@dataclass(frozen=True)
class OwnPart:
    """A part as our own SVG kept it; colour: #rrggbb of its ink, where that is no plain one."""

    tier: str
    ink: str
    cover: OwnCover | None
    over_frames: bool
    colour: str = ""


@dataclass(eq=False)
class OwnSvg:
    """What a file of ours holds: parts by name, lines, and (part, id, black) of blacks; order: ids back to front."""

    parts: dict[str, OwnPart] = field(default_factory=dict)
    lines: list[SvgLine] = field(default_factory=list)
    blacks: list[tuple[str, str, Black]] = field(default_factory=list)
    order: list[str] = field(default_factory=list)


def read_own(data: bytes) -> OwnSvg | None:
    """The lines and blacks of an SVG that we wrote; None where there are none. Raises SvgError where it is damaged."""
    root = xml_root(data)
    own = OwnSvg()
    for group in root.iter():
        part = group.get(f"{{{OURS}}}part")
        if part is None:
            continue
        own.parts.setdefault(part, _read_part(group))
        for path in group:
            black = path.get(f"{{{OURS}}}black")
            if path.get(f"{{{OURS}}}centre") is not None:
                own.lines.append(_read_line(path, part, group.get(f"{{{OURS}}}tier", "middle")))
                own.order.append(own.lines[-1].id)
            elif black is not None:
                own.blacks.append((part, black, _read_black(path)))
                own.order.append(black)
    return own if own.order else None


def _read_part(group: Any) -> OwnPart:
    def said(name: str, default: str = "") -> str:
        return str(group.get(f"{{{OURS}}}{name}", default))

    fill = next((name for name, colour in _INKS.items() if colour == group.get("fill")), "black")
    ink = said("ink", fill) if said("ink", fill) in _INKS else fill
    try:
        form, gap = said("cover"), float(said("cover-gap", "0"))
        cover = OwnCover(None if form == "found" else plain_json.loads(form), gap) if form else None
    except (ValueError, RecursionError):
        raise SvgError("a cover of the SVG is damaged: nothing was imported") from None
    plain = group.get("fill") in _INKS.values() or not said("ink")
    return OwnPart(said("tier", "middle"), ink, cover, said("over-frames") == "1", "" if plain else _own_colour(group))


def _own_colour(group: Any) -> str:
    try:
        return colour.checked_colour(group.get("fill"))
    except StrideError:
        raise SvgError("a colour of the SVG is damaged: nothing was imported") from None


def _read_black(path: Any) -> Black:
    curves = []
    try:
        for ring in path.get("d", "").split("Z"):
            if ring.strip():
                p = np.array(re.split("[MC, ]+", ring.strip())[1:], float).reshape(-1, 2)
                curves.append(np.stack([p[:-1:3], p[1::3], p[2::3], p[3::3]], axis=1))
        return checked(Black(tuple(curves), path.get("fill-rule", "evenodd")))
    except (ValueError, StrideError):
        raise SvgError("a black of the SVG is damaged: nothing was imported") from None


def _group_head(part: ArtPart, taken: set[str]) -> str:
    name, key = quoteattr(clean(part.name)), quoteattr(_xml_id(part.name, taken))
    more = ' stride:over-frames="1"' if part.over_frames else ""
    if part.own is not None:
        form = "found" if part.own.form is None else json.dumps(part.own.form, separators=(",", ":"))
        more += f' stride:cover={quoteattr(form)} stride:cover-gap="{_exact(part.own.gap)}"'
    if part.finish:
        return f'<g id={key} stride:finish={quoteattr(clean(part.finish))} fill="{_fill(part.colour)}" stroke="none">'
    more += f' stride:ink="{part.ink}"' if _fill(part.colour) != _INKS[part.ink] else ""
    return f'<g id={key} stride:part={name} stride:tier="{part.tier}"{more} fill="{_fill(part.colour)}" stroke="none">'


def _fill(name: str) -> str:
    return colour.NAMED.get(name, name)


def _flats(flats: ArtFlats, taken: set[str]) -> list[str]:
    """The flats map as areas."""
    import shapely

    out = ['<g id="flats" stroke="none" fill-rule="evenodd">']
    for name, fill, area in flats.areas:
        rings = (ring for piece in shapely.get_parts(area) if piece.geom_type == "Polygon"
                 for ring in (piece.exterior, *piece.interiors))  # fmt: skip
        d = " ".join("M" + " ".join(map(_pair, shapely.get_coordinates(ring)[:-1])) + "Z" for ring in rings)
        out.append(f'<path id={quoteattr(_xml_id(f"flat-{name}", taken))} fill="{_fill(fill)}" d="{d}"/>')
    return [*out, "</g>"]


def _pictures(thing: SoftCopy | ArtScan, pictures: Pictures | None) -> list[str]:
    picture = pictures(thing) if pictures is not None else None
    if picture is None:
        return []
    x, y, w, h = (_exact(v) for v in picture.box)
    png = _text64(png_bytes(picture.values, picture.alpha, 72.0, False))
    name = thing.name if isinstance(thing, ArtScan) else thing.told.title
    return [f'<image stride:finish={quoteattr(clean(name))} x="{x}" y="{y}" width="{w}" height="{h}"'
            f' preserveAspectRatio="none" xlink:href="data:image/png;base64,{png}"/>']  # fmt: skip


def _clip(part: ArtPart, art: Art, taken: set[str]) -> dict[str, str]:
    """A clip that leaves of a part what the covers before it do not hide, by its id; none where nothing is hidden.
    No line is cut: without the clip each is whole again."""
    whole = [line for line in part.lines if not isinstance(line, ArtCopy)]
    if not any(line.covers for line in whole):
        return {}
    boxes = np.array([line.shape.box for line in whole])
    (x0, y0), (x1, y1) = boxes[:, :2].min(axis=0) - 1.0, boxes[:, 2:].max(axis=0) + 1.0
    key = _xml_id(f"not-behind-{part.name}", taken)
    round_ = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    d = " ".join("M" + " ".join(_pair(p) for p in ring) + "Z" for ring in (round_, *covered_rings(part.covers)))
    return {key: f'<clipPath id={quoteattr(key)}><path d="{d}" clip-rule="evenodd"/></clipPath>'}


def _path(line: Inked, taken: set[str], of_part: str, strokes: bool = False) -> str:
    paint = "" if line.colour == of_part else f' fill="{_fill(line.colour)}"'
    key = quoteattr(_xml_id(line.id, taken))
    if isinstance(line, ArtCopy):
        rule = ' fill-rule="evenodd"' if line.even_odd else ""
        return f'<path id={key} d="{" ".join(map(ring_d, line.seen_curves()))}"{rule}{paint}/>'
    if isinstance(line, ArtBlack):
        d = " ".join(map(ring_d, line.shape.curves))
        return (f'<path id={key} d="{d}" fill-rule="{line.shape.rule}"{paint}'
                f' stride:black={quoteattr(clean(line.id))}/>')  # fmt: skip
    shape = line.shape
    if strokes and (stroke := _stroke(line)):
        return f"<path id={key} {stroke} {_own(line)}/>"
    if isinstance(shape.edge, ToothedEdge):
        # A worn edge is made of corners: cubics would smooth it.
        outline = " ".join("M" + " ".join(_pair(p) for p in ring) + "Z" for ring in shape.rings)
    else:
        outline = " ".join(ring_d(ring) for ring in shape.edge_curves)
    return f"<path id={key} d={quoteattr(outline)}{paint} {_own(line)}/>"


def _stroke(line: ArtLine) -> str:
    """A line of one width as a stroke; '' where no stroke looks the same."""
    shape, full = line.shape, line.shape.widths.full
    caps = {("round", "round"): "round", ("flat", "flat"): "butt"}
    even = full.max() - full.min() < _EVEN_MM and np.ptp(shape.widths.left - shape.widths.right) < _EVEN_MM
    lopsided = abs(float(shape.widths.left[0] - shape.widths.right[0])) > _EVEN_MM
    if not even or lopsided or shape.corners or isinstance(shape.edge, ToothedEdge):
        return ""
    cap = "butt" if shape.closed else caps.get(shape.ends)
    if cap is None:
        return ""
    d = ring_d(shape.curve) if shape.closed else ring_d(shape.curve)[:-1]
    return (f'd="{d}" fill="none" stroke="{_fill(line.colour)}" stroke-width="{_number(float(full.mean()))}"'
            f' stroke-linecap="{cap}" stroke-linejoin="round"')  # fmt: skip


def _own(line: ArtLine) -> str:
    """What makes it a line again."""
    shape = line.shape
    w = shape.widths
    table = " ".join(_exact(v) for v in np.column_stack([w.s, w.left, w.right]).ravel())
    grain = f' stride:grain="{_exact(shape.edge.grain)}"' if isinstance(shape.edge, ToothedEdge) else ""
    return (
        f"stride:id={quoteattr(clean(line.id))}"
        f' stride:role="{line.role}" stride:ends="{" ".join(shape.ends)}" stride:closed="{int(shape.closed)}"{grain}'
        f' stride:centre="{" ".join(_exact(v) for v in shape.curve.ravel())}" stride:widths="{table}"'
    )


def _pictured(line: Inked, art: Art, grain: GrainPicture | None, taken: set[str]) -> str | None:
    """A textured line as a picture, its curve beside it unseen; None for one that is written as an outline."""
    if grain is None or not isinstance(line, ArtLine) or not isinstance(line.shape.edge, ToothedEdge):
        return None
    # Whole pixels of the board, so that a picture lies on the grid that it was made on.
    mm = 25.4 / art.page.dpi
    x0, y0 = (np.floor(v / mm) * mm for v in line.shape.box[:2])
    wide, high = (int(np.ceil((b - a) / mm)) + 1 for a, b in ((x0, line.shape.box[2]), (y0, line.shape.box[3])))
    png = grain(line.colour, [ring - (x0, y0) for ring in line.shape.rings], (wide, high), art.page.dpi)
    place = " ".join(f'{name}="{_exact(v)}"' for name, v in (("x", x0), ("y", y0), ("width", wide * mm),
                                                             ("height", high * mm)))  # fmt: skip
    picture = f'<image {place} preserveAspectRatio="none" xlink:href="data:image/png;base64,{_text64(png)}"/>'
    unseen = _path(line, taken, line.colour).replace("<path ", '<path fill="none" ', 1)
    return f"{unseen}\n{picture}"


def _text64(data: bytes) -> str:
    return base64.b64encode(data).decode("ascii")


def _read_line(path: Any, part: str, tier: str) -> SvgLine:
    def own(name: str, default: str = "") -> str:
        return str(path.get(f"{{{OURS}}}{name}", default))

    try:
        curve = np.array(own("centre").split(), float).reshape(-1, 4, 2)
        table = np.array(own("widths").split(), float).reshape(-1, 3)
        start, end = own("ends", "round round").split()
        grain = float(own("grain", "0"))
    except ValueError:
        raise SvgError(f"line '{own('id')}' of the SVG is damaged: nothing was imported") from None
    whole = len(curve) and len(table) > 1 and np.isfinite(curve).all() and np.isfinite(table).all()
    whole = whole and 0.0 <= grain <= MAX_GRAIN_MM
    if not whole or (np.diff(table[:, 0]) < 0).any() or (table < 0).any() or not 0 <= grain <= MAX_GRAIN_MM:
        raise SvgError(f"line '{own('id')}' of the SVG is damaged: nothing was imported")
    try:
        form = Form(curve, own("closed") == "1", Widths(*table.T))
    except GivenError as fault:
        raise SvgError(f"line '{own('id')}' of the SVG is damaged ({fault}): nothing was imported") from None
    return SvgLine(own("id"), part, tier, own("role") or None, (start, end), form, grain)


def ring_d(curve: np.ndarray) -> str:
    """The path data of a closed chain of cubics (m, 4, 2) mm."""
    out = [f"M{_pair(curve[0, 0])}"]
    out += [f"C{_pair(c[1])} {_pair(c[2])} {_pair(c[3])}" for c in curve]
    return "".join(out) + "Z"


def _pair(p: np.ndarray) -> str:
    return f"{_number(p[0])},{_number(p[1])}"


def _number(value: float) -> str:
    """mm to a tenth of a micrometre."""
    return f"{value:.4f}".rstrip("0").rstrip(".").replace("-0", "0" if abs(value) < 5e-5 else "-0")


def _exact(value: float) -> str:
    return f"{value:.9f}".rstrip("0").rstrip(".")


def _escaped(text: str) -> str:
    clean = "".join(c for c in text if c.isprintable())
    return clean.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _xml_id(text: str, taken: set[str]) -> str:
    base = re.sub(r"[^A-Za-z0-9_.-]+", "-", text).strip("-") or "line"
    base = base if base[0].isalpha() else f"n{base}"
    key, n = base, 1
    while key in taken:
        n += 1
        key = f"{base}-{n}"
    taken.add(key)
    return key
