"""Time at work and what is left, against simulated working days whose truth is known."""

import numpy as np
import pytest

from plain_stride.order.forecasting import Done, forecast
from plain_stride.order.working_time import Act, active_seconds, sittings, went_back

JOBS = 500


def job(rng, tiring):
    """Lines of a whole job: seconds, mm, hours into the day, day. Long lines take longer, some are tried again, good
    and bad half-hours follow each other, days differ, and the pace falls (or rises) through each day."""
    n = int(rng.integers(150, 1200))
    mm = np.exp(rng.normal(3.0, 0.8, n))
    start, each, a_day = rng.uniform(5, 60), rng.uniform(0.3, 2.0), rng.uniform(2.0, 7.0)
    own = np.exp(rng.normal(0.0, 0.5, n) - 0.125) * rng.geometric(0.6, n) / 1.67
    mood = np.zeros(n)
    for i in range(1, n):
        mood[i] = 0.9 * mood[i - 1] + rng.normal(0.0, 0.12) * np.sqrt(1.0 - 0.81)
    day, hour, today = 0, 0.0, np.exp(rng.normal(0.0, 0.1))
    rows = []
    for i in range(n):
        if hour > a_day:
            day, hour, today = day + 1, 0.0, np.exp(rng.normal(0.0, 0.1))
        seconds = (start + each * mm[i]) * own[i] * np.exp(mood[i] + tiring * hour) * today
        rows.append((seconds, mm[i], hour, day))
        hour += seconds / 3600.0
    return Done(*np.array(rows).T)


@pytest.mark.parametrize(("tiring", "seed"), [((-0.02, 0.10), 5), ((0.08, 0.08), 6)])
def test_the_truth_lies_in_the_interval_four_times_in_five(tiring, seed):
    rng = np.random.default_rng(seed)
    inside, off = 0, []
    for _ in range(JOBS // 2):
        whole = job(rng, rng.uniform(*tiring))
        cut = int(np.searchsorted(np.cumsum(whole.seconds), whole.seconds.sum() / 3.0))
        so_far = Done(*(v[:cut] for v in (whole.seconds, whole.mm, whole.hour, whole.day)))
        truth = whole.seconds[cut:].sum() / 3600.0
        told = forecast(so_far, float(whole.mm[cut:].sum()), len(whole.mm) - cut)
        inside += told.low <= truth <= told.high
        off.append(abs(told.hours / truth - 1.0))
    assert 0.72 <= inside / (JOBS // 2) <= 0.88
    assert np.median(off) <= 0.15


def even(n, seconds=60.0):
    hour = np.arange(n) * seconds / 3600.0
    return Done(np.full(n, seconds), np.full(n, 30.0), hour, np.zeros(n))


def test_an_even_hand_takes_as_long_as_it_took():
    told = forecast(even(100), 60 * 30.0, 60)
    assert told.hours == pytest.approx(1.0, rel=0.03) and told.low <= 1.0 <= told.high
    assert told.from_lines == 100


def test_no_interval_is_told_before_thirty_lines_and_nothing_without_a_line():
    told = forecast(even(20), 300.0, 10)
    assert told.hours == pytest.approx(10 / 60.0, rel=0.05) and told.low is None and told.high is None
    assert forecast(even(0), 300.0, 10).hours is None
    assert forecast(even(50), 0.0, 0).hours == 0.0


def test_lines_that_took_no_time_break_nothing():
    done = even(60)
    done.seconds[20:50] = 0.0
    told = forecast(done, 300.0, 10)
    assert 0.0 < told.low <= told.hours <= told.high
    assert forecast(Done(np.zeros(40), np.full(40, 30.0), np.zeros(40), np.zeros(40)), 300.0, 10).hours is None


def test_the_last_six_hundred_lines_set_the_pace():
    slow, fast = even(600, 120.0), even(600, 30.0)
    both = Done(*(np.append(a, b) for a, b in zip((slow.seconds, slow.mm, slow.hour, slow.day),
                                                  (fast.seconds, fast.mm, fast.hour, fast.day), strict=True)))  # fmt: skip
    told = forecast(both, 60 * 30.0, 60)
    assert told.from_lines == 600 and told.hours == pytest.approx(0.5, rel=0.05)


def acts(*times, own=2.0):
    return [Act(float(t), own) for t in times]


def test_pauses_do_not_count_and_the_pen_always_does():
    """100 s of pulls ten seconds apart, then a pause of an hour, then one more: 2 + 10 x 10 + 2 s."""
    told = active_seconds(acts(*range(0, 110, 10), 3700))
    assert told.tolist() == [2.0] + [10.0] * 10 + [2.0]
    assert active_seconds([]).tolist() == []


def test_what_was_done_within_a_second_counts_by_the_pen():
    assert active_seconds(acts(5, 5, 5)).tolist() == [2.0, 2.0, 2.0]


def test_half_an_hour_of_nothing_ends_a_sitting():
    told = sittings(acts(0, 10, 20, 1000, 4000, 4010))
    assert [(one.first, one.last) for one in told] == [(0, 3), (4, 5)]
    assert told[0].begun == -2.0 and told[0].ended == 1000.0 and told[0].active == 24.0
    assert sittings([]) == []


def test_a_clock_that_goes_back_begins_a_sitting_and_is_told():
    some = acts(100, 110, 50, 60)
    assert went_back(some) == [(2, 60.0)]
    told = sittings(some)
    assert [(one.first, one.last) for one in told] == [(0, 1), (2, 3)]
    assert sum(one.active for one in told) == 2.0 + 10.0 + 2.0 + 10.0
