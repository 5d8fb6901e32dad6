"""Named changes of the pencils: sheets, passes of the inker's own, areas, drafts."""

import re
from dataclasses import replace
from typing import Any

import numpy as np

from plain_stride.board.page import placed
from plain_stride.form.roles import whole_role
from plain_stride.job.change_context import ChangeContext, change, flag, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.job import Job
from plain_stride.job.names import MOST_LETTERS, checked_name
from plain_stride.job.pencil_records import AREA_KINDS, FINAL_ART, AreaRecord, PassRecord, PencilRecord, checked_outline
from plain_stride.job.pencil_sheets import SCANS
from plain_stride.pencils.cleaning import cleaning_from_row
from plain_stride.pencils.pencil_passes import checked_stroke
from plain_stride.pencils.picture import picture_facts
from plain_stride.pencils.placing import checked_corners, checked_crop, squared_size
from plain_stride.texts import clean

TINTS = ("pale blue", "as drawn", "red", "green", "violet")
PASSES_TINT = "red"
PENCILS_NAME = "the name of pencils"
BESIDE_MM = 6.0
"""How far beside the board a picture is pinned."""


@change
def pencils_add(m: ChangeContext, data: bytes, name: str, kind: str = "rough") -> str:
    """Places a scan at its own dpi, else fitted to the board; a reference is pinned beside the board. The file's
    bytes are kept as they are. Raises JobError."""
    if kind not in SCANS:
        raise JobError(f"a scan is {', '.join(SCANS)}, not '{kind}'")
    facts = picture_facts(data)
    page = m.job.page
    place = placed(facts.pixels, facts.dpi, page)
    if kind == "reference":
        place = _beside(m.job, facts.pixels)
    fade, tint = (1.0, "as drawn") if kind == "reference" else (0.15, TINTS[0])
    return _put_sheet(
        m,
        checked_name(clean(name)[:MOST_LETTERS], PENCILS_NAME),
        kind,
        m.draft.add_image(data),
        place,
        facts.pixels,
        fade,
        tint,
    )


@change
def final_art(m: ChangeContext, data: bytes, name: str, place: list[float]) -> str:
    """Lays a scan as final art over a place [x, y, w, h] in mm: it goes out with the ink. Raises JobError."""
    facts = picture_facts(data)
    x, y, w, h = (number(v, "a place") for v in place)
    return _put_sheet(m, checked_name(clean(name)[:MOST_LETTERS], PENCILS_NAME), FINAL_ART, m.draft.add_image(data),
                      (x, y, w, h), facts.pixels, 1.0, "as drawn")  # fmt: skip


def _beside(job: Job, pixels: tuple[int, int]) -> tuple[float, float, float, float]:
    """To the right of the board, below what is pinned there already, a third of its width."""
    w = job.page.size_mm[0]
    wide = w / 3.0
    pinned = [row for _, row in job.pencils() if row.kind == "reference"]
    top = max((row.y_mm + row.h_mm + BESIDE_MM for row in pinned), default=0.0)
    return w + BESIDE_MM, top, wide, wide * pixels[1] / pixels[0]


def _put_sheet(
    m: ChangeContext,
    name: str,
    kind: str,
    image: str | None,
    place: tuple[float, float, float, float],
    pixels: tuple[int, int],
    fade: float,
    tint: str,
) -> str:
    key = m.job.new_id("s")
    x, y, w, h = place
    top = max((sheet.place for sheet in m.job.rows.pencils.values()), default=0.0)
    row = PencilRecord(name=name, image=image, x_mm=x, y_mm=y, w_mm=w, h_mm=h, px_w=pixels[0], px_h=pixels[1],
                       fade=fade, tint=tint, place=top + 1.0, kind=kind)  # fmt: skip
    m.draft.put(key, row)
    return key


@change
def pencils(
    m: ChangeContext,
    sheet: str,
    fade: float | None = None,
    tint: str | None = None,
    hidden: bool | None = None,
    placed_mm: list[float] | None = None,
    turn: float | None = None,
    crop: Any = "keep",
    corners: Any = "keep",
    clean: Any = "keep",
    locked: bool | None = None,
    kind: str | None = None,
    rename: str | None = None,
) -> None:
    """Fades (0..1, the blackest pencil against ink), tints, hides, locks, renames a sheet of pencils; places it ([x,
    y, w, h] mm), turns it (degrees clockwise), squares it up by four corners of the picture, crops and cleans it
    (null takes these off). A locked sheet is only faded, tinted, hidden, unlocked. Raises JobError."""
    row = _sheet(m, sheet)
    told = {"placed_mm": placed_mm, "turn": turn, "rename": rename, "kind": kind}
    moves = [k for k, v in told.items() if v is not None]
    moves += [k for k, v in {"crop": crop, "corners": corners, "clean": clean}.items() if v != "keep"]
    if row.locked and moves and locked is not False:
        raise JobError(f"pencils '{row.name}' are locked: unlock them first")
    new: dict[str, Any] = {}
    if fade is not None:
        new["fade"] = number(fade, "a fade", 0.0, 1.0)
    if tint is not None:
        new["tint"] = checked_tint(tint)
    for column, value in (("hidden", hidden), ("locked", locked)):
        if value is not None:
            new[column] = flag(value, column)
    if placed_mm is not None:
        new.update(_checked_place(placed_mm))
    if turn is not None:
        new["turn"] = (number(turn, "a turn", -3600.0, 3600.0) + 180.0) % 360.0 - 180.0
    if crop != "keep":
        new["crop"] = None if crop is None else checked_crop(crop)
    if corners != "keep":
        new.update(_squared(row, corners))
    if clean != "keep":
        cleaning = cleaning_from_row(clean)
        new["clean"] = None if cleaning.plain else cleaning
    if kind is not None:
        if kind not in SCANS or row.places_passes:
            raise JobError(f"a scan is {', '.join(SCANS)}; passes stay passes")
        new["kind"] = kind
    if rename is not None:
        new["name"] = checked_name(rename, PENCILS_NAME)
    changed = replace(row, **new)
    _keep_reference_beside(m, changed)
    m.draft.put(sheet, changed)


def _sheet(m: ChangeContext, sheet: object) -> PencilRecord:
    if not isinstance(sheet, str) or sheet not in m.job.rows.pencils:
        raise JobError(f"there are no pencils '{sheet}'")
    return m.job.rows.pencils[sheet]


def checked_tint(tint: object) -> str:
    """A tint by name, or any colour as #rrggbb. Raises JobError."""
    if isinstance(tint, str) and (tint in TINTS or re.fullmatch(r"#[0-9a-fA-F]{6}", tint)):
        return tint
    raise JobError(f"a tint is {', '.join(TINTS)} or a colour like #2668b0, not '{tint}'")


def _checked_place(placed_mm: object) -> dict[str, float]:
    if not isinstance(placed_mm, list) or len(placed_mm) != 4:
        raise JobError("a place for pencils is [x, y, w, h] in mm")
    x, y = (number(v, "a place") for v in placed_mm[:2])
    w, h = (number(v, "a size", 0.1, 20_000.0) for v in placed_mm[2:])
    return {"x_mm": x, "y_mm": y, "w_mm": w, "h_mm": h}


def _squared(row: PencilRecord, corners: object) -> dict[str, Any]:
    """New corners, with the height that the sheet has then; without corners the picture's own again."""
    if row.places_passes:
        raise JobError("a sheet of passes has no picture to square up")
    if corners is None:
        return {"corners": None, "h_mm": row.w_mm * row.px_h / row.px_w}
    checked = checked_corners(corners)
    return {
        "corners": checked,
        "h_mm": squared_size(checked, (row.px_w, row.px_h), row.w_mm),
    }


def move_references_beside(m: ChangeContext) -> None:
    """Moves what is pinned beside the board out of the way of a board that has grown."""
    for key, row in m.job.pencils():
        if _is_on_board(m.job, row):
            m.draft.change("pencils", key, x_mm=m.job.page.size_mm[0] + BESIDE_MM)


def _is_on_board(job: Job, row: PencilRecord) -> bool:
    w, h = job.page.size_mm
    x0, y0, x1, y1 = row.x_mm, row.y_mm, row.x_mm + row.w_mm, row.y_mm + row.h_mm
    return bool(row.kind == "reference" and x1 > 0.0 and y1 > 0.0 and x0 < w and y0 < h)


def _keep_reference_beside(m: ChangeContext, row: PencilRecord) -> None:
    """A reference is looked at, never traced: it may not lie on the board."""
    if _is_on_board(m.job, row):
        raise JobError("a reference stays beside the board: place it there, or make it a rough")


@change
def pencils_remove(m: ChangeContext, sheet: str) -> None:
    """Takes a sheet of pencils off the board, with the passes on it. Raises JobError."""
    row = _sheet(m, sheet)
    if row.locked:
        raise JobError(f"pencils '{row.name}' are locked: unlock them first")
    for key in [k for k, one in m.job.rows.passes.items() if one.sheet == sheet]:
        m.draft.remove("passes", key)
    m.draft.remove("pencils", sheet)


@change
def pencil_pass(m: ChangeContext, points: list[list[float]], sheet: str | None = None) -> str:
    """Lays a loose pencil stroke, [x mm, y mm, pressure 0..1] each; on the uppermost sheet of passes, which is made
    where there is none. Raises JobError."""
    stroke = checked_stroke(points)
    if sheet is None:
        open_sheets = [k for k, row in m.job.pencils() if row.places_passes and not row.locked]
        w, h = m.job.page.size_mm
        sheet = open_sheets[-1] if open_sheets else _put_sheet(
            m, "Pencil passes", "passes", None, (0.0, 0.0, w, h), (0, 0), 0.5, PASSES_TINT)  # fmt: skip
    row = _sheet(m, sheet)
    if not row.places_passes or row.locked:
        raise JobError(f"pencil passes lie on a sheet of their own that is not locked, not on '{row.name}'")
    if row.hidden:
        raise JobError(f"the sheet '{row.name}' is hidden: show it to pencil on it")
    key = m.job.new_id("q")
    place = max((one.place for one in m.job.rows.passes.values()), default=0.0) + 1.0
    kept = tuple(map(tuple, np.round(stroke, 3).tolist()))
    m.draft.put(key, PassRecord(sheet=sheet, points=kept, place=place))
    return key


@change
def pass_delete(m: ChangeContext, passes: list[str]) -> None:
    """Takes pencil strokes away. Raises JobError."""
    if not isinstance(passes, list) or not all(key in m.job.rows.passes for key in passes):
        raise JobError("pencil strokes are a list of their keys")
    for key in dict.fromkeys(passes):
        m.draft.remove("passes", key)


@change
def area(m: ChangeContext, kind: str, outline: list[list[float]], found: bool = False) -> str:
    """Marks an area: 'no-need' needs no ink, since something nearer or the frame will hide it; 'fill' is to be
    filled black later. found: it comes from an X in the pencils. outline: [x, y] mm. Raises JobError."""
    if kind not in AREA_KINDS:
        raise JobError(f"an area is {' or '.join(AREA_KINDS)}, not '{kind}'")
    key = m.job.new_id("a")
    m.draft.put(key, AreaRecord(kind=kind, outline=checked_outline(outline), found=flag(found, "found")))
    return key


@change
def area_delete(m: ChangeContext, areas: list[str]) -> None:
    """Takes areas away. Raises JobError."""
    if not isinstance(areas, list) or not all(key in m.job.rows.areas for key in areas):
        raise JobError("areas are a list of their keys")
    for key in dict.fromkeys(areas):
        m.draft.remove("areas", key)


@change
def take_drafts(m: ChangeContext, lines: list[str], part: str | None = None, role: str | None = None) -> None:
    """Makes ink of drafts, in another part or role if wanted. Raises JobError."""
    new: dict[str, Any] = {"draft": False}
    if part is not None:
        new["part"] = m.open_part(part)
    if role is not None:
        new["roles"] = whole_role(role)
    for key in line_list(lines):
        if not m.line(key).draft:
            raise JobError(f"line '{key}' is no draft")
        m.draft.change("lines", key, **new)


@change
def refuse_drafts(m: ChangeContext, lines: list[str]) -> None:
    """Takes drafts away; ink is never touched by it. Raises JobError."""
    for key in line_list(lines):
        if not m.line(key).draft:
            raise JobError(f"line '{key}' is no draft: delete it instead")
        m.remove(key)
