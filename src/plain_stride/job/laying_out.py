"""Lines of an import worked out before their change is made, away from the job: in a thread, or in another process."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib
from plain_stride.hand.pull import Pull
from plain_stride.job.change_context import DEFAULT_PART, DEFAULT_ROLE, DEFAULT_TIER
from plain_stride.job.job import Job
from plain_stride.lines.centre import centreline_of
from plain_stride.lines.edits import End
from plain_stride.lines.given import Form
from plain_stride.lines.recipe import PlanProfile, Recipe, Worked, even_profile, given_centreline, worked

Wanted = Sequence[tuple[str, dict[str, Any]]]


@dataclass(frozen=True, eq=False)
class Sheet:
    """What a line is worked out from: a pull as the file keeps it, or a form; and the plan's wish for it."""

    source: Pull | Form
    nib: Nib
    ends: tuple[End, End]
    plan: PlanProfile
    share: float


def sheets_of(job: Job, wanted: Wanted) -> tuple[list[tuple[str, dict[str, Any]]], list[Sheet]]:
    """(the same changes, their pulls as the file keeps them; what their lines are worked out from, in order)."""
    tiers, plan = {one.name: one.tier for one in job.parts()}, job.plan
    changes, sheets = [], []
    for name, given in wanted:
        arguments = dict(given)
        if name == "part" and "tier" in arguments:
            tiers.setdefault(arguments["name"], arguments["tier"])
        if name in ("pull", "line"):
            there = str(arguments.get("part", DEFAULT_PART))
            tiers.setdefault(there, arguments.get("tier") or DEFAULT_TIER)
            wish = str(arguments.get("role") or DEFAULT_ROLE)
            profile, share = even_profile(plan.width(wish, tiers[there])), plan.share_of(wish)
            if name == "pull":
                pull = arguments["pull"] = arguments["pull"].as_kept()
                end = End(pull.nib.ends)
                sheets.append(Sheet(pull, pull.nib, (end, end), profile, share))
            else:
                first, last = (End(kind, 0.0) for kind in arguments.get("ends", ("round", "round")))
                sheets.append(Sheet(arguments["form"], arguments["nib"], (first, last), profile, share))
        changes.append((name, arguments))
    return changes, sheets


def laid_out(sheets: Sequence[Sheet]) -> list[Worked | None]:
    """Each line worked out; None where it makes none, which its change will say."""
    out: list[Worked | None] = []
    for sheet in sheets:
        try:
            out.append(worked(_recipe(sheet)))
        except StrideError:
            out.append(None)
    return out


def _recipe(sheet: Sheet) -> Recipe:
    source = sheet.source
    if isinstance(source, Pull):
        centre = centreline_of(source, source.nib.steadying)
        return Recipe(centre, sheet.nib, sheet.ends, plan=sheet.plan, share=sheet.share)
    return Recipe(given_centreline(source.curve), sheet.nib, sheet.ends, source.closed, source.widths,
                  plan=sheet.plan, share=sheet.share)  # fmt: skip
