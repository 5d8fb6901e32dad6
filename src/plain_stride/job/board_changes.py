"""Named changes of the board, the pencils, the nibs and the plan."""

from typing import Any

from plain_stride.board.page import Page, placed
from plain_stride.hand.nib import Nib, Steadying
from plain_stride.job.job import BOARD, PLAN
from plain_stride.job.making import Making, change, flag, nib_named, number
from plain_stride.job.schema import Row
from plain_stride.job.store import JobError
from plain_stride.pencils.picture import picture_facts
from plain_stride.weight.plan import Plan

TINTS = ("pale blue", "as drawn")


@change
def board(
    m: Making,
    width_mm: float | None = None,
    height_mm: float | None = None,
    dpi: float | None = None,
    enlarge: float | None = None,
) -> None:
    """Changes the finished size, the resolution or the enlargement. No line is touched."""
    row: Any = dict(m.job.rows["board"][BOARD])
    for column, value in (("width_mm", width_mm), ("height_mm", height_mm), ("dpi", dpi), ("enlarge", enlarge)):
        if value is not None:
            row[column] = number(value, column)
    Page((row["width_mm"], row["height_mm"]), row["dpi"], row["enlarge"])
    m.draft.put("board", BOARD, row)


@change
def pencils_add(m: Making, data: bytes, name: str) -> str:
    """Places a scan at its own dpi, else fitted to the board. The file's bytes are kept as they are."""
    facts = picture_facts(data)
    x, y, w, h = placed(facts.pixels, facts.dpi, m.job.page)
    key = m.job.new_id("s")
    row: Row = {
        "name": name,
        "image": m.draft.add_image(data),
        "x_mm": x,
        "y_mm": y,
        "w_mm": w,
        "h_mm": h,
        "px_w": facts.pixels[0],
        "px_h": facts.pixels[1],
        "fade": 0.15,
        "tint": TINTS[0],
        "hidden": 0,
        "place": max((p["place"] for p in m.job.rows["pencils"].values()), default=0.0) + 1.0,  # type: ignore[type-var, operator]
    }
    m.draft.put("pencils", key, row)
    return key


@change
def pencils(
    m: Making,
    sheet: str,
    fade: float | None = None,
    tint: str | None = None,
    hidden: bool | None = None,
    placed_mm: list[float] | None = None,
) -> None:
    """Fades (0..1, the blackest pencil against ink), tints, hides or places ([x, y, w, h] mm) a sheet of pencils."""
    if sheet not in m.job.rows["pencils"]:
        raise JobError(f"there are no pencils '{sheet}'")
    new: dict[str, Any] = {}
    if fade is not None:
        new["fade"] = number(fade, "a fade", 0.0, 1.0)
    if tint is not None:
        if tint not in TINTS:
            raise JobError(f"a tint is {' or '.join(TINTS)}, not '{tint}'")
        new["tint"] = tint
    if hidden is not None:
        new["hidden"] = flag(hidden, "hidden")
    if placed_mm is not None:
        if not isinstance(placed_mm, list) or len(placed_mm) != 4:
            raise JobError("a place for pencils is [x, y, w, h] in mm")
        x, y = (number(v, "a place") for v in placed_mm[:2])
        w, h = (number(v, "a size", 0.1, 20_000.0) for v in placed_mm[2:])
        new.update(x_mm=x, y_mm=y, w_mm=w, h_mm=h)
    m.draft.change("pencils", sheet, **new)


@change
def pencils_remove(m: Making, sheet: str) -> None:
    """Takes a sheet of pencils off the board."""
    if sheet not in m.job.rows["pencils"]:
        raise JobError(f"there are no pencils '{sheet}'")
    m.draft.put("pencils", sheet, None)


@change
def nib(
    m: Making,
    key: str,
    lightest: float | None = None,
    heaviest: float | None = None,
    ends: str | None = None,
    end_mm: float | None = None,
    school: str | None = None,
    leeway: Any = "keep",
) -> None:
    """Alters a nib: widths and the length of its ends in mm, kind of ends, school of steadying, leeway (null: auto)."""
    old = nib_named(m, key)
    setting = Steadying(
        school if school is not None else old.steadying.school,
        old.steadying.leeway if leeway == "keep" else None if leeway is None else number(leeway, "a leeway"),
    )
    new = Nib(
        old.name,
        number(lightest, "a width") if lightest is not None else old.lightest,
        number(heaviest, "a width") if heaviest is not None else old.heaviest,
        ends if ends is not None else old.ends,
        number(end_mm, "an end") if end_mm is not None else old.end_mm,
        setting,
    )
    if new.ends == "broken":
        raise JobError("broken ends are not in this version: pointed, round or flat")
    m.draft.change("nibs", str(key), nib=new.as_row())


@change
def plan(m: Making, share: float | None = None, base: float | None = None) -> None:
    """Lays the plan at a share of 0 to 100 per cent against the hand (0 lifts it off), or changes its base width."""
    old = m.job.plan
    new = Plan(
        old.name,
        old.base if base is None else number(base, "a base width"),
        old.roles,
        old.tiers,
        old.halo,
        old.share if share is None else number(share, "a share", 0.0, 100.0) / 100.0,
    )
    m.draft.change("plan", PLAN, base=new.base, share=new.share)
