"""Sittings of any jobs, a month on one page: day by day, what was done in which job."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any


def months_json(sittings: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    """Months, the earliest first, with their days; a sitting counts to the day on which it began."""
    days: dict[str, list[dict[str, Any]]] = {}
    for one in sittings:
        days.setdefault(one["begun"][:10], []).append(one)
    months: dict[str, list[str]] = {}
    for day in sorted(days):
        months.setdefault(day[:7], []).append(day)
    return [{"month": month, **_sums([one for day in mine for one in days[day]]),
             "days": [{"day": day, **_sums(days[day]), "jobs": sorted({one["job"] for one in days[day]})}
                      for day in mine]} for month, mine in months.items()]  # fmt: skip


def month_bounds(month: str) -> tuple[datetime, datetime]:
    """The first moment of a month (YYYY-MM), local time, and that of the next. Raises ValueError."""
    year, number = int(month[:4]), int(month[5:7])
    after = (year + 1, 1) if number == 12 else (year, number + 1)
    return datetime(year, number, 1), datetime(*after, 1)


def _sums(sittings: Sequence[dict[str, Any]]) -> dict[str, Any]:
    return {"active_s": round(sum(one["active_s"] for one in sittings), 1),
            "lines": sum(one["lines"] for one in sittings),
            "mm": round(sum(one["mm"] for one in sittings), 1),
            "sittings": len(sittings)}  # fmt: skip
