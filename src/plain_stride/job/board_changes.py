"""Named changes of the board and what it is for, of print targets and the nibs."""

from dataclasses import replace
from typing import Any

from plain_stride.board.job_sheet import sheet_from_row
from plain_stride.board.targets import LIMITS, STANDARD, target_from_row
from plain_stride.hand.nib import Nib, Steadying
from plain_stride.hand.response import Response, response_of
from plain_stride.job.board_facts import sheet_of, targets_of
from plain_stride.job.change_context import ChangeContext, change, flag, nib_named, number
from plain_stride.job.errors import JobError
from plain_stride.job.names import checked_name
from plain_stride.job.pencil_changes import move_references_beside
from plain_stride.job.records import TargetRecord
from plain_stride.job.rows import BOARD

MOST_EDGE_MM = 50.0


@change
def board(
    m: ChangeContext,
    width_mm: float | None = None,
    height_mm: float | None = None,
    dpi: float | None = None,
    enlarge: float | None = None,
    bleed_mm: float | None = None,
    margin_mm: float | None = None,
    gutter_mm: float | None = None,
    target: str | None = None,
) -> None:
    """Changes the finished size, the resolution, the enlargement, what is drawn beyond the trim (bleed) and kept
    clear within it (margin), the gutter between frames, or what it is printed on. No line is touched. Raises
    JobError."""
    new: dict[str, Any] = {}
    for column, value in (("width_mm", width_mm), ("height_mm", height_mm), ("dpi", dpi), ("enlarge", enlarge)):
        if value is not None:
            new[column] = number(value, column)
    for column, value in (("bleed_mm", bleed_mm), ("margin_mm", margin_mm), ("gutter_mm", gutter_mm)):
        if value is not None:
            new[column] = number(value, column.replace("_mm", ""), 0.0, MOST_EDGE_MM)
    if target is not None:
        if target not in targets_of(m.job):
            raise JobError(f"there is no print target '{target}'; there are: {', '.join(targets_of(m.job))}")
        new["target"] = target
    row = replace(m.job.board, **new)
    if 2.0 * row.margin_mm >= min(row.page.size_mm):
        raise JobError(f"a safe margin of {row.margin_mm:g} mm leaves nothing of this sheet")
    m.draft.put(BOARD, row)
    move_references_beside(m)


@change
def job_sheet(
    m: ChangeContext,
    purpose: str | None = None,
    ink: str | None = None,
    finish: str | None = None,
    school: str | None = None,
    due: str | None = None,
) -> None:
    """What the job is for: purpose, black and white or for colour, how finished, how settled the pencils are to be,
    the day it is due (YYYY-MM-DD, or empty)."""
    row = sheet_of(m.job).as_row()
    told = {"purpose": purpose, "ink": ink, "finish": finish, "school": school, "due": due}
    row.update({key: value for key, value in told.items() if value is not None})
    m.draft.change("board", BOARD, sheet=sheet_from_row(row))


@change
def target(
    m: ChangeContext,
    name: str,
    line_mm: float | None = None,
    gap_mm: float | None = None,
    dpi: float | None = None,
    distance_mm: float | None = None,
) -> None:
    """Alters a print target for this job, or adds one of the inker's own; values left out stay, or are those of fine
    offset."""
    before = targets_of(m.job).get(name) or next(iter(STANDARD.values()))
    told = {"line_mm": line_mm, "gap_mm": gap_mm, "dpi": dpi, "distance_mm": distance_mm}
    row = {**before.as_row(), "name": name, **{key: v for key, v in told.items() if v is not None}}
    assert set(told) == set(LIMITS)
    m.draft.put(name, TargetRecord(target=target_from_row(row)))


@change
def target_delete(m: ChangeContext, name: str) -> None:
    """Takes an own target away, or brings a standard one back to its values. Raises JobError."""
    if name not in m.job.rows.targets:
        raise JobError(f"there is no own or altered print target '{name}'")
    m.draft.remove("targets", name)
    if m.job.board.target not in targets_of(m.job):
        m.draft.change("board", BOARD, target=next(iter(STANDARD)))


WHAT = {"lightest": "a width", "heaviest": "a width", "end_mm": "an end", "grain": "a grain"}


@change
def nib(
    m: ChangeContext,
    key: str,
    lightest: float | None = None,
    heaviest: float | None = None,
    ends: str | None = None,
    end_mm: float | None = None,
    school: str | None = None,
    leeway: Any = "keep",
    response: Any = "keep",
    name: str | None = None,
    group: str | None = None,
    grain: float | None = None,
    held: str | None = None,
    less_in_bends: bool | None = None,
    limited: bool | None = None,
) -> None:
    """Alters a nib: its name and group, widths and the length of its ends in mm, kind of ends, school of steadying,
    leeway (null: auto), what pressure becomes ([[pressure, share], ..], both 0..1; null: as it is), grain of its
    edge in mm (0: crisp), what its mm are mm of (paper or screen), whether tight bends are steadied more lightly,
    whether its width changes no faster than the swell limit. Raises JobError."""
    if name is not None:
        checked_name(name, "a nib's name", 40)
    if group:
        checked_name(group, "a nib's group", 40)
    old = nib_named(m.job, key)
    leeway = old.steadying.leeway if leeway == "keep" else None if leeway is None else number(leeway, "a leeway")
    widths = {"lightest": lightest, "heaviest": heaviest, "end_mm": end_mm, "grain": grain}
    given: dict[str, Any] = {k: number(v, WHAT[k]) for k, v in widths.items() if v is not None}
    given |= {k: v for k, v in {"name": name, "ends": ends, "held": held}.items() if v is not None}
    if limited is not None:
        given["limited"] = flag(limited, "limited")
    if group is not None:
        given["group"] = group.strip()
    if response != "keep":
        given["response"] = Response() if response is None else response_of(response)
    less = old.steadying.less_in_bends if less_in_bends is None else flag(less_in_bends, "less_in_bends")
    setting = Steadying(school if school is not None else old.steadying.school, leeway, less)
    new = replace(old, steadying=setting, **given)
    m.draft.change("nibs", str(key), nib=new)


def nib_changes(nibs: dict[str, Nib]) -> list[tuple[str, dict[str, Any]]]:
    """Changes that lay whole nibs on their number keys."""
    wanted = []
    for key, new in nibs.items():
        row = new.as_row()
        steadying = row.pop("steadying")
        wanted.append(("nib", {"key": key, **row, **steadying}))
    return wanted
