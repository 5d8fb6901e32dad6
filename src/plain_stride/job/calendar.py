"""Forecasts as a calendar (iCalendar, RFC 5545): a working day each, and the deadlines."""

from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

BEGINS_H = 9
"""When a working day begins, for want of better knowledge."""
MOST_DAYS = 400


def calendar_of(forecasts: Sequence[dict[str, Any]], now: datetime) -> bytes:
    """Jobs as `forecast_json` tells them, the one that is due first before the others: each day's hours go to it until
    its forecast is used up. now: with its zone."""
    from icalendar import Calendar, Event

    out = Calendar()
    out.add("prodid", "-//Plain Stride//Order of work//EN")
    out.add("version", "2.0")
    for name, begin, end, words in _blocks(forecasts, now):
        event = Event()
        event.add("uid", str(uuid5(NAMESPACE_URL, f"plain-stride {name} {begin.isoformat()}")))
        event.add("dtstamp", now)
        event.add("dtstart", begin)
        event.add("dtend", end)
        event.add("summary", name)
        event.add("description", words)
        out.add_component(event)
    data: bytes = out.to_ical()
    return data


Block = tuple[str, datetime, datetime, str]


def _blocks(forecasts: Sequence[dict[str, Any]], now: datetime) -> list[Block]:
    out: list[Block] = []
    due = sorted((f for f in forecasts if f["hours"]), key=_due)
    left = [float(f["hours"]) for f in due]
    day = now.date() + timedelta(days=1)
    for _ in range(MOST_DAYS):
        if not any(h > 0.0 for h in left):
            break
        out += _day(day, due, left, now)
        day += timedelta(days=1)
    for one in forecasts:
        if one["deadline"]:
            at = datetime.fromisoformat(one["deadline"]["at"])
            out.append((f"{one['job']}: due", at, at + timedelta(minutes=15), one["sentence"]))
    return out


def _day(day: date, due: Sequence[dict[str, Any]], left: list[float], now: datetime) -> list[Block]:
    """The blocks of one day; what they use up is taken off `left`."""
    out: list[Block] = []
    at, used = datetime.combine(day, time(BEGINS_H), now.tzinfo), 0.0
    for k, one in enumerate(due):
        room = one["hours_a_day"] - used
        if left[k] <= 0.0 or room <= 0.0 or day.weekday() not in one["days"]:
            continue
        hours = min(left[k], room)
        end = at + timedelta(hours=hours)
        out.append((one["job"], at, end, one["sentence"]))
        left[k], used, at = left[k] - hours, used + hours, end
    return out


def _due(one: dict[str, Any]) -> tuple[bool, str]:
    return (one["deadline"] is None, one["deadline"]["at"] if one["deadline"] else "")
