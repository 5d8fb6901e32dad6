"""Contacts: kinds, places, gaps and angles. Outside: Shapely measures the distance of the two inks as polygons."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
import shapely

from plain_stride.compiled import ready
from plain_stride.form.contacts import (
    BESIDE,
    CORNER,
    CROSSING,
    LOOK_OUT_MM,
    RUN_ON,
    TEE,
    Contacts,
    Strand,
    contacts_between,
)


def strand(key, points, width=0.4, closed=False):
    points = np.asarray(points, float)
    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    half = np.full(len(points), width / 2.0)
    return Strand(key, points, s, half, half, closed)


def ink(one):
    return one.line.buffer(one.left[0], quad_segs=32)


ACROSS = strand("a", [(0, 0), (20, 0)])


@pytest.mark.parametrize(
    ("other", "kind", "gap", "angle"),
    [
        ([(10, -5), (10, 5)], CROSSING, -0.4, 90),
        ([(5, -5), (15, 5)], CROSSING, -0.4, 45),
        ([(10, 0.1), (10, 8)], TEE, -0.3, 90),
        ([(10, 1.0), (10, 8)], TEE, 0.6, 90),
        ([(20.2, 0), (30, 0.5)], RUN_ON, -0.2, 3),
        ([(20, 0.2), (20, 9)], CORNER, -0.2, 90),
        ([(3, 1), (17, 1)], TEE, 0.6, 0),
        ([(-5, 1), (10, 0.8), (25, 1)], TEE, None, None),
    ],
)
def test_kinds_gaps_and_angles(other, kind, gap, angle):
    found = contacts_between(strand("b", other), ACROSS)
    first = found[0]
    assert first.kind == kind
    if gap is not None:
        assert first.gap == pytest.approx(gap, abs=1e-6) and first.angle == pytest.approx(angle, abs=0.5)
    assert first.joined == (first.gap <= 0.4)


def test_lines_side_by_side_are_told_once_at_their_nearest_place():
    u = np.linspace(0, 1, 60)
    bow = strand("b", np.column_stack([-10 + 40 * u, 1.0 + 40 * (u - 0.4) ** 2]))
    (found,) = [c for c in contacts_between(ACROSS, bow) if c.kind == BESIDE]
    assert found.gap == pytest.approx(shapely.distance(ink(ACROSS), ink(bow)), abs=0.01)
    assert found.at[0] == pytest.approx(6.0, abs=0.5)
    assert found.places[found.lines.index(ACROSS.id)] == pytest.approx(6.0, abs=0.5)


def test_what_lies_beyond_the_look_out_is_none():
    for gap, some in ((LOOK_OUT_MM - 0.05, True), (LOOK_OUT_MM + 0.05, False)):
        y = gap + 0.4
        assert bool(contacts_between(ACROSS, strand("b", [(5, y), (10, y + 4), (15, y)]))) == some


def test_rings_have_no_ends():
    t = np.linspace(0, 2 * np.pi, 80)
    ring = strand("r", np.column_stack([10 + 4 * np.cos(t), 4.5 + 4 * np.sin(t)]), closed=True)
    assert [c.kind for c in contacts_between(ring, ACROSS)] == [BESIDE]
    inside = strand("i", [(10, 4.5), (13.5, 4.5)])
    assert [c.kind for c in contacts_between(inside, ring)] == [TEE]


def wandering(corners, key):
    p = np.array(corners, float)
    fine = np.linspace(0, len(p) - 1, 12 * len(p))
    return strand(key, np.column_stack([np.interp(fine, np.arange(len(p)), p[:, k]) for k in (0, 1)]), 0.3)


def at_random(seed):
    """Two lines: where two places of one are equally near, which is told is anyone's choice."""
    rng = np.random.default_rng(seed)
    return [wandering(rng.uniform(0, 12, (rng.integers(2, 7), 2)), key) for key in "ab"]


@pytest.mark.parametrize("seed", range(300))
def test_the_nearest_contact_is_as_near_as_the_inks_are(seed):
    a, b = at_random(seed)
    apart = float(shapely.distance(ink(a), ink(b)))
    found = contacts_between(a, b)
    if apart > LOOK_OUT_MM + 0.01:
        assert not found
    elif apart < LOOK_OUT_MM - 0.1:
        assert found
        nearest = min(c.gap for c in found)
        # Places beside are looked at so far apart; an overlap is told as below nought.
        assert nearest <= 1e-6 if apart == 0.0 else apart - 0.01 <= nearest <= apart + 0.2


@pytest.mark.parametrize("seed", range(120))
def test_loops_find_what_the_library_finds(seed):
    a, b = at_random(seed)
    plain = SimpleNamespace(**{name: ready.source_of(name) for name in ready.SIGNATURES})
    before, ready._loaded = ready._loaded, None
    try:
        slow = contacts_between(a, b)
        ready._loaded = plain
        fast = contacts_between(a, b)
    finally:
        ready._loaded = before
    assert [(c.kind, c.lines) for c in slow] == [(c.kind, c.lines) for c in fast]
    for x, y in zip(slow, fast, strict=True):
        assert (*x.at, *x.places, x.gap) == pytest.approx((*y.at, *y.places, y.gap), abs=1e-6)
        # Right at a corner a line has two directions.
        corner = min(np.abs(one.s - at).min() for one, at in zip((a, b), _by_id(x, a, b), strict=True)) < 1e-3
        assert corner or x.angle == pytest.approx(y.angle, abs=0.1)


def _by_id(contact, *strands):
    return [contact.places[contact.lines.index(one.id)] for one in strands]


def test_a_list_that_is_kept_up_to_date_is_that_of_a_new_one():
    rng = np.random.default_rng(3)
    kept, lines = Contacts(), {}
    for _ in range(150):
        key = f"l{rng.integers(0, 90)}"
        if key in lines and rng.random() < 0.3:
            del lines[key]
            kept.drop(key)
        else:
            start = rng.uniform(0, 60, 2)
            lines[key] = strand(key, start + np.cumsum(rng.normal(0, 3, (8, 2)), axis=0))
            kept.put(lines[key])
    fresh = Contacts()
    for one in lines.values():
        fresh.put(one)

    def told(contacts):
        return sorted((sorted(c.lines), c.kind, round(c.gap, 6)) for c in contacts.all())

    assert told(kept) == told(fresh) and len(told(kept)) > 20
    assert {line for line, found in kept.frozen().items() if found} == set(fresh.frozen())
    assert sum(len(found) for found in kept.frozen().values()) == 2 * len(kept.all())


@pytest.mark.parametrize("seed", range(40))
def test_what_is_told_does_not_hang_on_names(seed):
    a, b = at_random(seed)
    told = [[(c.kind, c.at, c.gap) for c in contacts_between(one, other)]
            for one, other in ((a, b), (replace(a, id="b"), replace(b, id="a")))]  # fmt: skip
    assert told[0] == told[1]


def test_of_two_near_crossings_of_kissing_rings_the_same_is_told():
    t = np.linspace(0, 2 * np.pi, 400)
    rings = [np.column_stack([x + r * np.cos(t), y + r * np.sin(t)]) for x, y, r in
             ((61.9375, 64.25, 18.28125), (89.65625, 66.25, 9.53125))]  # fmt: skip
    told = [[(c.kind, c.at) for c in contacts_between(*[strand(key, ring, closed=True)
             for key, ring in zip(names, rings, strict=True)])] for names in ("ab", "ba")]  # fmt: skip
    assert told[0] == told[1]
