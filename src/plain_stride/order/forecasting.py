"""How long what is left will take: by the pace of the lines so far, with the interval that holds it four times in five.

A line takes (length + c) x pace x e^(k h) seconds: c mm of starting anew, h hours into the day, during which a hand may
tire. Pace and its spread come from blocks of lines that follow each other (a moving-block bootstrap, Kuensch 1989), so
that good and bad half-hours count as such; days differ among themselves as well.
"""

from dataclasses import dataclass

import numpy as np

LEAST_LINES = 30
SURE = 0.8
BLOCK, DRAWS = 12, 600
MOST_LINES = 600
"""The last lines that the pace is taken from."""
DAY_SPREAD, DAY_WEIGHT = 0.10, 2.0
"""How far the pace of days differs (log) before days were seen, and how many days that counts as."""
TIRING_SPREAD = 0.05
"""How far a hand tires or speeds up an hour (log), before it was seen."""
USUAL_HOURS = 4.0
LEAST_S = 1e-3
"""What came in faster than anybody draws has no logarithm else."""


@dataclass(frozen=True, eq=False)
class Done:
    """Lines that were finished, in order. seconds: (n,) at work for each, tries and mends and all; mm: (n,) its length;
    hour: (n,) of work before it on its day; day: (n,) a number for each day."""

    seconds: np.ndarray
    mm: np.ndarray
    hour: np.ndarray
    day: np.ndarray


@dataclass(frozen=True)
class Forecast:
    """hours of work; low, high: the interval (80 %), None before LEAST_LINES; from_lines: how many it is from."""

    hours: float | None
    low: float | None
    high: float | None
    from_lines: int


def forecast(done: Done, mm: float, lines: float, hours_a_day: float | None = None, seed: int = 0) -> Forecast:
    """mm and lines that are left. hours_a_day: of work, None for as many as the days so far had."""
    last = slice(max(0, len(done.mm) - MOST_LINES), None)
    seconds, long, hour, day = (v[last] for v in (done.seconds, done.mm, done.hour, done.day))
    n, seconds = len(seconds), np.maximum(seconds, LEAST_S)
    if mm <= 0.0 and lines <= 0:
        return Forecast(0.0, 0.0, 0.0, n)
    if not n or seconds.sum() <= LEAST_S * n:
        return Forecast(None, None, None, n)
    again = _start_mm(long, seconds)
    a_day = hours_a_day or _hours_of(day, hour)
    if n < LEAST_LINES:
        pace = seconds.sum() / (long + again).sum()
        return Forecast(float(pace * (mm + again * lines)) / 3600.0, None, None, n)
    rng = np.random.default_rng(seed)
    work = long + again
    tires, sure = _tiring(seconds, work, hour, day)
    k = np.append(tires, tires + sure * rng.standard_normal(DRAWS))
    picks = np.vstack([np.arange(n), _blocks(rng, n, DRAWS)])
    pace = seconds[picks].sum(axis=1) / (work[picks] * np.exp(k[:, None] * hour[picks])).sum(axis=1)
    fresh = pace * (mm + again * lines) / 3600.0
    spread = _day_spread(seconds, work * np.exp(tires * hour), day)
    days, to_come = len(np.unique(day)), np.maximum(1.0, fresh / a_day)
    off = rng.standard_normal(DRAWS + 1) * spread * np.sqrt(1.0 / days + 1.0 / to_come)
    off[0] = 0.0
    hours = _through_days(fresh * np.exp(off) * _to_come(rng, seconds, work, lines), k, a_day)
    low, high = np.quantile(hours[1:], [(1 - SURE) / 2, (1 + SURE) / 2])
    middle = float(np.median(hours[1:]))
    return Forecast(middle, float(low), float(high), n)


def _start_mm(mm: np.ndarray, seconds: np.ndarray) -> float:
    """mm that starting a line is worth: the least squares of seconds = a + b mm, each line weighed by its length, as
    long lines vary more."""
    if len(mm) < 8 or np.ptp(mm) <= 0.0:
        return float(mm.mean()) / 2.0
    weight = 1.0 / (mm + mm.mean()) ** 2
    x, y = np.average(mm, weights=weight), np.average(seconds, weights=weight)
    slope = np.average((mm - x) * (seconds - y), weights=weight) / np.average((mm - x) ** 2, weights=weight)
    if slope <= 0.0:
        return float(20.0 * mm.mean())
    return float(np.clip((y - slope * x) / slope, 0.0, 20.0 * mm.mean()))


def _blocks(rng: np.random.Generator, n: int, draws: int) -> np.ndarray:
    """(draws, n) numbers of lines, in blocks that follow each other round and round."""
    size = min(BLOCK, n)
    starts = rng.integers(0, n, (draws, -(-n // size)))
    return np.asarray(((starts[:, :, None] + np.arange(size)) % n).reshape(draws, -1)[:, :n])


def _tiring(seconds: np.ndarray, work: np.ndarray, hour: np.ndarray, day: np.ndarray) -> tuple[float, float]:
    """(log an hour, its standard error) from blocks of lines within days, drawn towards none by what is usual."""
    rate, at = [], []
    for one in np.unique(day):
        mine = np.flatnonzero(day == one)
        if len(mine) < 2 * BLOCK:
            continue
        for block in np.array_split(mine, len(mine) // BLOCK):
            rate.append(np.log(seconds[block].sum() / work[block].sum()))
            at.append((float(hour[block].mean()), one))
    if len(rate) < 4:
        return 0.0, TIRING_SPREAD
    y, x, of = np.array(rate), np.array([a for a, _ in at]), np.array([d for _, d in at])
    for one in np.unique(of):
        y[of == one] -= y[of == one].mean()
        x[of == one] -= x[of == one].mean()
    sxx = float((x**2).sum())
    if sxx <= 0.0:
        return 0.0, TIRING_SPREAD
    slope = float((x * y).sum()) / sxx
    freedom = max(1, len(y) - len(np.unique(of)) - 1)
    error = float(np.sqrt(((y - slope * x) ** 2).sum() / freedom / sxx))
    told = 1.0 / max(error, 1e-6) ** 2
    prior = 1.0 / TIRING_SPREAD**2
    return slope * told / (told + prior), float(np.sqrt(1.0 / (told + prior)))


def _day_spread(seconds: np.ndarray, work: np.ndarray, day: np.ndarray) -> float:
    """How far days differ (log, standard deviation), mixed with what is usual as long as few were seen."""
    rates = np.array([np.log(seconds[day == one].sum() / work[day == one].sum()) for one in np.unique(day)
                      if (day == one).sum() >= BLOCK])  # fmt: skip
    if len(rates) < 2:
        return DAY_SPREAD
    seen = float(rates.var(ddof=1))
    return float(np.sqrt((DAY_WEIGHT * DAY_SPREAD**2 + (len(rates) - 1) * seen) / (DAY_WEIGHT + len(rates) - 1)))


def _to_come(rng: np.random.Generator, seconds: np.ndarray, work: np.ndarray, lines: float) -> np.ndarray:
    """(1 + DRAWS,) what the lines to come take over what they take on the average: 1 first."""
    n, many = len(seconds), int(min(max(1.0, lines), 2000.0))
    size = min(BLOCK, n)
    starts = rng.integers(0, n, (DRAWS, -(-many // size)))
    picks = ((starts[:, :, None] + np.arange(size)) % n).reshape(DRAWS, -1)[:, :many]
    share = seconds[picks].sum(axis=1) / work[picks].sum(axis=1) / (seconds.sum() / work.sum())
    return np.append(1.0, share)


def _hours_of(day: np.ndarray, hour: np.ndarray) -> float:
    """Hours of work on a day, as the days so far had them; the last one may not be over."""
    most = [float(hour[day == one].max()) for one in np.unique(day)]
    whole = most[:-1] or most
    return max(float(np.mean(whole)), 0.5) if max(whole) >= 1.0 else USUAL_HOURS


def _through_days(fresh: np.ndarray, tires: np.ndarray, a_day: float) -> np.ndarray:
    """Hours that fresh hours of work take when each day's pace goes as e^(k h): whole days, then the rest of one."""
    k = np.where(np.abs(tires) < 1e-9, 1e-9, tires)
    done_a_day = (1.0 - np.exp(-k * a_day)) / k
    whole = np.floor(fresh / done_a_day)
    rest = fresh - whole * done_a_day
    inside = np.clip(1.0 - k * rest, 1e-6, None)
    return np.asarray(whole * a_day + np.minimum(-np.log(inside) / k, a_day))
