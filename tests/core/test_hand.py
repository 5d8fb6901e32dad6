"""Pulls, the banded solve, steadying and the simulated hand.

Outside: SciPy's Savitzky-Golay filter; minimum jerk's peak speed 1.875 D / T (Flash and Hogan 1985); the two-thirds
power law (Lacquaniti et al. 1983); a dense matrix solve for the banded one.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import lfilter, savgol_filter

from plain_stride.hand.live import LiveInk
from plain_stride.hand.nib import Nib, NibError, Steadying, nib_from_row, standard_nibs
from plain_stride.hand.pull import PAUSE, Pull, PullError, checked_samples, working_samples
from plain_stride.hand.resample import RATE, even_grid, read_at, slopes
from plain_stride.hand.shake import shake_hz
from plain_stride.hand.simulated import HANDS, PACES, TargetError, minimum_jerk, movement, pulled
from plain_stride.hand.solve import WHITE, penalty_for, steady_solve, tremor_filter
from plain_stride.hand.steady import sideways, steady
from tests.targets import cornered, flowing

STILL = replace(HANDS["average"], tremor=0.0)
SEEDS = range(12)
"""Published seeds of the figures below; `./run bench` uses fresh ones beside them."""


# Pulls at the door


def test_samples_keep_their_values_and_start_at_zero():
    s = checked_samples([[1, 2, 0.5, 10.0], [2, 3, 1.5, 10.1]])
    assert s[:, 3] == pytest.approx([0.0, 0.1])
    assert s[1, 2] == 1.0
    assert np.isnan(s[:, 4]).all()


def test_tilt_may_come_and_go():
    s = checked_samples([[1, 2, 0.5, 0.0, 30.0], [2, 3, 0.5, 0.1]])
    assert s[0, 4] == 30.0
    assert np.isnan(s[1, 4])


@pytest.mark.parametrize(
    "raw",
    [[], None, 7, [[1, 2, 3]], [[1, 2, 0.5, "x"]], [[1, 2, 0.5, float("nan")]], [[1, 2, 0.5, float("inf")]], [[]],
     [[1e9, 0, 0.5, 0]], [[1, 2, 0.5, 0, 0, 0]], "samples"],
)  # fmt: skip
def test_what_is_no_pull_is_refused(raw):
    with pytest.raises(PullError):
        checked_samples(raw)


def test_times_that_run_backwards_stand_still():
    s = checked_samples([[0, 0, 1, 0.0], [1, 0, 1, 0.02], [2, 0, 1, 0.01], [3, 0, 1, 0.03]])
    w = working_samples(s)
    assert (np.diff(w[:, 3]) > 0).all()
    assert w[-1, 0] == 3.0


def test_samples_of_one_time_become_their_mean():
    w = working_samples(checked_samples([[0, 0, 1, 0.0], [1, 0, 1, 0.01], [3, 0, 1, 0.01], [4, 0, 1, 0.02]]))
    assert w[:, 0] == pytest.approx([0.0, 2.0, 4.0])


def test_a_lift_that_never_came_costs_nothing():
    w = working_samples(checked_samples([[0, 0, 1, 0.0], [1, 0, 1, 0.01], [2, 0, 1, 5000.0]]))
    assert w[-1, 3] == pytest.approx(0.01 + PAUSE)


def test_samples_without_times_are_taken_as_evenly_spaced():
    w = working_samples(checked_samples([[k, 0, 1, 0.0] for k in range(5)]))
    assert np.diff(w[:, 3]) == pytest.approx([0.005] * 4)


def test_how_far_and_how_long_a_pull_went():
    """A circle of 10 mm in 2 s is 2 pi r; what trembles from sample to sample lengthens the raw path only."""
    t = np.linspace(0.0, 2.0, 401)
    round_it = 10.0 * np.column_stack([np.cos(np.pi * t), np.sin(np.pi * t)])
    places = round_it + np.random.default_rng(1).normal(0.0, 0.06, round_it.shape)
    samples = checked_samples(np.column_stack([places, np.full(401, 0.5), t]))
    assert np.hypot(*np.diff(samples[:, :2], axis=0).T).sum() > 1.15 * 2 * np.pi * 10.0
    assert Pull(samples).seconds == pytest.approx(2.0)
    assert Pull(samples).mm == pytest.approx(2 * np.pi * 10.0, rel=0.01)


def test_a_clock_that_stops_costs_a_pull_neither_time_nor_length():
    late = Pull(checked_samples([[0, 0, 1, 0.0], [3, 4, 1, 0.01], [6, 8, 1, 5000.0]]))
    assert late.seconds == pytest.approx(0.01 + PAUSE)
    assert late.mm == pytest.approx(10.0)
    timeless = Pull(checked_samples([[0, 0, 1, 0.0], [3, 4, 1, 0.0], [3, 0, 1, 0.0]]))
    assert (timeless.seconds, timeless.mm) == (0.0, pytest.approx(9.0))
    assert Pull(checked_samples([[1, 2, 0.5, 0.0]])).mm == 0.0


# Resampling and the solve


def test_the_cubic_through_samples_reproduces_a_parabola():
    t = np.array([0.0, 0.1, 0.25, 0.3, 0.5])
    p = np.column_stack([t**2, 3 * t])
    at = np.linspace(0, 0.5, 21)
    assert read_at(t, p, at) == pytest.approx(np.column_stack([at**2, 3 * at]), abs=1e-12)
    assert slopes(t, p)[:, 0] == pytest.approx(2 * t)


def test_the_even_grid_keeps_both_ends():
    grid = even_grid(np.array([0.0, 0.013, 0.09, 0.1004]))
    assert grid[0] == 0.0
    assert grid[-1] == 0.1004
    assert np.ptp(np.diff(grid)) < 1e-12


@pytest.mark.parametrize("tremor", [False, True])
def test_the_banded_solve_agrees_with_a_dense_one(tremor):
    n, rate = 40, 200
    y = np.random.default_rng(1).normal(size=(n, 2)).cumsum(axis=0)
    penalty = np.linspace(10.0, 1000.0, n - 3)
    penalty[17] = 0.0
    third = np.diff(np.eye(n), 3, axis=0)
    precision = np.eye(n)
    if tremor:
        # The stationary covariance of the AR(4) noise, from its impulse response (SciPy's filter), inverted.
        h = lfilter([1.0], tremor_filter(rate), np.eye(1, 6000)[0])
        cov = [h[: len(h) - lag] @ h[lag:] for lag in range(n)]
        precision = np.linalg.inv([[cov[abs(i - j)] for j in range(n)] for i in range(n)])
    dense = np.linalg.solve(precision + third.T @ np.diag(penalty) @ third, precision @ y)
    noise = tremor_filter(rate) if tremor else WHITE
    assert steady_solve(y, penalty, noise) == pytest.approx(dense, abs=2e-4)


@pytest.mark.parametrize("hz", [4.0, 6.0, 8.0])
def test_half_gain_lies_at_the_cutoff(hz):
    n, rate = 2000, 200
    wave = np.sin(2 * np.pi * hz * np.arange(n) / rate)[:, None]
    noise = tremor_filter(rate)
    out = steady_solve(wave, np.full(n - 3, penalty_for(hz, rate, noise)), noise)
    middle = slice(700, 1300)
    assert np.std(out[middle]) / np.std(wave[middle]) == pytest.approx(0.5, abs=0.01)


def even_path(samples):
    return read_at(samples[:, 3], samples[:, :2], even_grid(samples[:, 3]))


# The simulated hand


def test_minimum_jerk_peaks_at_1_875_of_the_mean_speed():
    u = np.linspace(0, 1, 100_001)
    assert np.diff(minimum_jerk(u)).max() * 100_000 == pytest.approx(1.875, abs=1e-4)


def test_a_short_straight_pull_has_the_closed_form_peak_speed():
    path, t = movement(np.array([[0.0, 0.0], [6.0, 0.0]]), 35.0, False, 1.0)
    speed = np.hypot(*np.gradient(path, t, axis=0).T)
    assert speed.max() == pytest.approx(1.875 * 6.0 / t[-1], rel=0.01)


def test_speed_follows_the_two_thirds_law():
    def middle_speed(radius):
        a = np.linspace(0, 4 * np.pi, 600)
        path, t = movement(radius * np.column_stack([np.cos(a), np.sin(a)]), 35.0, False, 1.0)
        return np.median(np.hypot(*np.gradient(path, t, axis=0).T))

    slope = np.log(middle_speed(20.0) / middle_speed(5.0)) / np.log(20.0 / 5.0)
    assert slope == pytest.approx(1.0 / 3.0, abs=0.02)
    assert middle_speed(10.0) == pytest.approx(35.0, rel=0.03)


@pytest.mark.parametrize("name", HANDS)
def test_tremor_has_its_amplitude_and_its_band(name):
    target = np.array([[0.0, 0.0], [200.0, 0.0]])
    both = [pulled(target, h, "careful", 5) for h in (HANDS[name], replace(HANDS[name], tremor=0.0))]
    shake = (both[0] - both[1])[:, :2]
    per_axis = np.sqrt((shake**2).mean(axis=0))
    assert per_axis == pytest.approx([HANDS[name].tremor / np.sqrt(2)] * 2, rel=0.25)
    power = np.abs(np.fft.rfft(shake[:, 0] * np.hanning(len(shake)))) ** 2
    hz = np.fft.rfftfreq(len(shake), 1 / 200)
    assert power[(hz > 7.5) & (hz < 12.5)].sum() / power.sum() > 0.98


def test_the_same_seed_gives_the_same_pull():
    target = flowing(3)
    assert (pulled(target, HANDS["shaky"], "fast", 9) == pulled(target, HANDS["shaky"], "fast", 9)).all()
    assert (pulled(target, HANDS["shaky"], "fast", 9) != pulled(target, HANDS["shaky"], "fast", 10)).any()


def test_enlargement_divides_the_shake():
    target = np.array([[0.0, 0.0], [60.0, 0.0]])
    one, two = (np.std(pulled(target, HANDS["shaky"], "careful", 2, glass=g)[:, 1]) for g in (1.0, 2.0))
    assert two < 0.75 * one


def test_pressure_is_of_13_bits_and_rises_and_falls():
    p = pulled(flowing(1), HANDS["calm"], "normal", 1)[:, 2]
    assert p * 8191 == pytest.approx(np.round(p * 8191), abs=1e-6)
    assert p[0] < 0.15
    assert p[-1] < 0.15
    assert p.max() > 0.4


@pytest.mark.parametrize("points", [[[1, 1]], [[1, 1], [1, 1]], [[0, 0], [float("nan"), 1]], [1, 2, 3]])
def test_targets_that_are_no_curve_are_refused(points):
    with pytest.raises(TargetError):
        pulled(np.array(points, float), HANDS["calm"], "normal", 0)


def test_an_unknown_pace_is_refused():
    with pytest.raises(TargetError, match="careful"):
        pulled(np.array([[0, 0], [9, 0]]), HANDS["calm"], "sprint", 0)


# Steadying


def removed_and_loss(pace: str, seeds) -> tuple[float, float]:
    """(share of the tremor removed, 95th percentile of the largest shape moves of a hand without tremor)."""
    gone, loss = [], []
    for seed in seeds:
        target = flowing(seed)
        shaky, calm = (pulled(target, h, pace, seed) for h in (HANDS["average"], STILL))
        a, b = steady(shaky, Steadying()), steady(calm, Steadying())
        tremor = shaky[:, :2] - calm[:, :2]
        gone.append(1 - np.sqrt(((a.path - b.path) ** 2).sum() / (tremor**2).sum()))
        loss.append(sideways(b.path, b.raw, RATE).max())
    return float(np.mean(gone)), float(np.percentile(loss, 95))


@pytest.mark.parametrize(
    ("pace", "least", "most"), [("careful", 0.90, 0.05), ("normal", 0.85, 0.10), ("fast", 0.70, 0.30)]
)
def test_auto_takes_out_the_shake_and_keeps_the_shape(pace, least, most):
    gone, loss = removed_and_loss(pace, SEEDS)
    assert gone >= least
    assert loss <= most


def test_auto_is_nearer_to_what_was_meant_than_savitzky_golay():
    """SciPy's filter of 41 samples and third order, the reference smoother, on the same pulls."""
    ours, theirs = [], []
    for seed in SEEDS:
        target = flowing(seed)
        shaky, calm = (pulled(target, h, "normal", seed)[:, :2] for h in (HANDS["average"], STILL))
        a = steady(pulled(target, HANDS["average"], "normal", seed), Steadying())
        ours.append(np.mean(sideways(a.path, calm, RATE) ** 2))
        theirs.append(np.mean(sideways(savgol_filter(shaky, 41, 3, axis=0), calm, RATE) ** 2))
    assert np.sqrt(np.mean(ours)) < 0.75 * np.sqrt(np.mean(theirs))


def test_off_and_no_leeway_are_the_hand_exactly():
    s = pulled(flowing(4), HANDS["shaky"], "normal", 4)
    for setting in (Steadying("off"), Steadying("after", 0.0), Steadying("live", 0.0)):
        out = steady(s, setting)
        assert (out.path == out.raw).all()
        assert out.tremor_mm == out.moved_mm == 0.0


def test_leeway_mixes_hand_and_auto_up_to_its_own():
    s = pulled(flowing(5), HANDS["shaky"], "fast", 5)
    auto = steady(s, Steadying())
    half = steady(s, Steadying("after", auto.own_leeway_mm / 2))
    assert half.path == pytest.approx((auto.path + auto.raw) / 2, abs=1e-9)
    assert half.moved_mm == pytest.approx(auto.own_leeway_mm / 2)
    assert (steady(s, Steadying("after", auto.own_leeway_mm)).path == auto.path).all()
    # Above it the line is smoothed along its length, as far as there is room; live it stays at auto.
    assert (steady(s, Steadying("after", auto.own_leeway_mm * 4.0)).path != auto.path).any()


@settings(max_examples=15)
@given(st.integers(0, 10_000), st.floats(0, 360), st.booleans())
def test_steadying_knows_no_direction(seed, turn, mirror):
    s = pulled(flowing(seed % 50), HANDS["average"], "normal", seed)
    a = np.radians(turn)
    matrix = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]) @ np.diag([-1.0 if mirror else 1.0, 1.0])
    turned = s.copy()
    turned[:, :2] = s[:, :2] @ matrix.T
    assert steady(turned, Steadying()).path == pytest.approx(steady(s, Steadying()).path @ matrix.T, abs=1e-6)


def test_a_reversed_pull_gives_the_reversed_line():
    s = pulled(flowing(8), HANDS["average"], "normal", 8)
    back = s[::-1].copy()
    back[:, 3] = s[-1, 3] - back[:, 3]
    assert steady(back, Steadying()).path[::-1] == pytest.approx(steady(s, Steadying()).path, abs=1e-5)


@pytest.mark.parametrize("pace", PACES)
def test_stopped_corners_are_kept(pace):
    worst, found = [], 0
    for seed in SEEDS:
        target = cornered(seed)
        meant, _ = movement(target, PACES[pace], False, 1.0)
        truth = pulled(target, STILL, pace, seed)[np.hypot(*(meant - target[1]).T).argmin(), :2]
        out = steady(pulled(target, HANDS["average"], pace, seed), Steadying())
        found += len(out.corners) == 1
        worst.append(np.hypot(*(out.path - truth).T).min())
    assert found >= 11
    assert np.percentile(worst, 95) <= 0.15


def test_a_smooth_curve_has_no_corners():
    found = [len(steady(pulled(flowing(k), HANDS["average"], "normal", k), Steadying()).corners) for k in range(40)]
    assert sum(found) <= 1


@pytest.mark.parametrize("rate", [30, 60, 125, 200, 1000])
def test_the_report_rate_matters_little(rate):
    target = flowing(2)
    full = pulled(target, HANDS["average"], "normal", 2)
    at = np.arange(0.0, full[-1, 3], 1.0 / rate)
    s = np.column_stack([np.interp(at, full[:, 3], full[:, k]) for k in range(5)])
    a, b = steady(full, Steadying()), steady(s, Steadying())
    same = np.column_stack([np.interp(b.t, a.t, a.path[:, k]) for k in (0, 1)])
    off = sideways(b.path, same, RATE)
    assert np.sqrt((off**2).mean()) < (0.03 if rate >= 60 else 0.08)


@pytest.mark.parametrize("n", [1, 2, 3, 4, 5, 8])
def test_tiny_pulls_come_through(n):
    out = steady(checked_samples([[k, k, 0.5, 0.004 * k] for k in range(n)]), Steadying())
    assert np.isfinite(out.path).all()
    assert out.path[0] == pytest.approx([0, 0], abs=1e-6)


def test_live_ink_ends_where_the_finished_line_does():
    """Moving the pen up makes no jump: the live tip is the end of the line of that school. A line that is steadied
    after the pull knows more by then; where it moves the tip, it is by a hair."""
    s = pulled(flowing(6), HANDS["average"], "normal", 6)
    ink, fresh = LiveInk(Steadying("live"), 1.0), []
    for x, y, pressure, t, _ in s:
        ink.add(x, y, pressure, t)
        fresh.append(ink.advance())
    out, after = steady(s, Steadying("live")), steady(s, Steadying())
    assert np.hypot(*(ink.tail[-1, :2] - out.path[-1])) <= 0.01
    assert np.hypot(*(ink.tail[-1, :2] - after.path[-1])) <= 0.03
    assert np.hypot(*(np.vstack(fresh)[0, :2] - out.path[0])) <= 0.05
    times = np.concatenate([np.vstack(fresh)[:, 3], ink.tail[:, 3]])
    assert (np.diff(times) > 0).all()


def test_live_ink_survives_any_clock():
    ink = LiveInk(Steadying(), 1.0)
    for k, t in enumerate([0.0, 0.0, 0.01, 0.005, 3.0, 3.0, 3.001, 90.0]):
        ink.add(k * 0.5, 0.0, 0.5, t)
        ink.advance()
    assert np.isfinite(ink.tail).all()


def test_the_live_school_settles_what_it_drew():
    s = pulled(flowing(6), HANDS["average"], "normal", 6)
    live, after = steady(s, Steadying("live")), steady(s, Steadying())
    assert np.hypot(*(live.path - after.path).T).max() < 0.2
    assert live.tremor_mm > 0.5 * after.tremor_mm


@pytest.mark.parametrize("name", ["calm", "average", "shaky"])
def test_a_slow_shake_is_known_by_its_pulls_and_a_shape_is_not_taken_for_one(name, monkeypatch):
    """Of hands that shake at 5 to 8 Hz, at 8 to 12, and not at all, along the same flowing curves."""
    from plain_stride.hand import simulated

    def found(hand, pace):
        return [shake_hz(even_path(pulled(flowing(s), hand, pace, s)), 1.0, 200.0) for s in range(20)]

    usual, none = HANDS[name], replace(HANDS[name], tremor=0.0)
    for pace in ("careful", "normal", "fast"):
        assert found(usual, pace) == [10.0] * 20 and found(none, pace) == [10.0] * 20
    monkeypatch.setattr(simulated, "TREMOR_BAND", (5.0, 8.0))
    assert all(6.0 <= hz <= 7.2 for hz in found(usual, "careful"))


# Nibs


def test_the_standard_nibs_are_those_of_the_design():
    nibs = standard_nibs()
    assert [(n.lightest, n.heaviest) for n in nibs.values()] == [
        (0.10, 0.25), (0.13, 0.50), (0.20, 1.00), (0.35, 1.4), (0.5, 2.0), (0.25, 0.25), (0.5, 0.5), (0.3, 1.4), (1.0, 4.0)
    ]  # fmt: skip
    assert nibs["3"].middle == pytest.approx(0.2**0.5)


def test_a_nib_comes_back_from_its_row():
    nib = Nib("x", 0.1, 0.7, "flat", 3.0, Steadying("live", 0.2))
    assert nib_from_row(nib.as_row()) == nib


@pytest.mark.parametrize(
    "wrong", [{"lightest": 2.0}, {"heaviest": 900.0}, {"lightest": 0.0}, {"ends": "frayed"}, {"end_mm": -1.0}]
)
def test_impossible_nibs_are_refused(wrong):
    with pytest.raises(NibError):
        replace(standard_nibs()["3"], **wrong)


@pytest.mark.parametrize("wrong", [("soft", None), ("after", -0.1), ("after", float("nan"))])
def test_impossible_steadying_is_refused(wrong):
    with pytest.raises(NibError):
        Steadying(*wrong)
