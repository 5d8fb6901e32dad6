"""The hand book: kept, read, taken elsewhere, deleted for good; what is no hand book is left alone."""

import sqlite3
from dataclasses import replace

import numpy as np
import pytest

from plain_stride.hand.simulated import Hand, pulled
from plain_stride.practice.drills import drill_named
from plain_stride.practice.errors import PracticeError
from plain_stride.practice.experiments import experiment
from plain_stride.practice.figures import by_month, figures_of, what_changed
from plain_stride.practice.hand_book import KEPT_BEST, KEPT_LAST, PRINCIPLE, BookPage, Kept, hand_book
from plain_stride.practice.measuring import measured
from plain_stride.practice.report import practice_json
from plain_stride.practice.simulated import practised
from plain_stride.practice.warm_up import PageFacts, WarmUp, chosen_drills, ended_words, page_facts

CIRCLES = drill_named("circles")


@pytest.fixture
def book(tmp_path):
    with hand_book(tmp_path / "hand-book.db") as book:
        yield book


def fill(book, count=20, hand="average", seed=1, person="me"):
    for kept in practised(CIRCLES, hand, count, seed, person):
        book.add(kept)


def test_what_was_pulled_is_there_again(book):
    (kept,) = practised(CIRCLES, "average", 1, 1, "me")
    number = book.add(kept)
    (back,) = book.pulls("me", "simulated", "circles")
    assert back.measures == kept.measures and back.made == kept.made
    assert np.allclose(book.samples_of(number), kept.samples, atol=1e-4)
    assert book.devices() == [("me", "simulated")] and book.samples_of(999) is None


def test_samples_of_the_last_and_the_best_are_kept(book):
    fill(book, KEPT_LAST + 40)
    kept = [k for k in book.pulls() if book.samples_of(k.id) is not None]
    assert KEPT_LAST <= len(kept) <= KEPT_LAST + KEPT_BEST
    best = book.best("me", "simulated", "circles")
    assert [k.score for k in best] == sorted(k.score for k in book.pulls())[: len(best)]
    assert len(book.pulls()) == KEPT_LAST + 40 and len(book.pulls(last=7)) == 7


def test_it_is_taken_elsewhere_and_taken_in_once(book, tmp_path):
    fill(book, 6)
    book.write(BookPage("2026-11-30T08:00:00+00:00", "me", PRINCIPLE, "Undersides heavy.", {"job": "Lock"}))
    told = book.as_json()
    with hand_book(tmp_path / "other.db") as other:
        assert other.take_in(told) == 7
        assert other.take_in(told) == 0
        assert [k.measures for k in other.pulls()] == [k.measures for k in book.pulls()]
        assert [p.words for p in other.pages(words="UNDER")] == ["Undersides heavy."]


@pytest.mark.parametrize("told", [[], {}, {"hand book": 1, "pulls": [{}]}, {"hand book": 1, "pulls": 3},
                                  {"hand book": 1, "pages": ["x"]}, {"hand book": 2}])  # fmt: skip
def test_what_is_none_is_not_taken_in(book, told):
    fill(book, 2)
    with pytest.raises(PracticeError, match=r"nothing was taken in|no hand book"):
        book.take_in(told)
    assert len(book.pulls()) == 2


def test_deleted_is_gone_from_the_file(tmp_path):
    path = tmp_path / "hand-book.db"
    with hand_book(path) as book:
        fill(book, 5, person="somebody-else")
        book.write(BookPage("2026-11-30T08:00:00+00:00", "somebody-else", PRINCIPLE, "a-secret-of-mine", {}))
    assert b"a-secret-of-mine" in path.read_bytes()
    with hand_book(path) as book:
        book.delete_all("somebody-else")
        assert book.pulls() == [] and book.pages() == []
    assert b"a-secret-of-mine" not in path.read_bytes() and b"somebody-else" not in path.read_bytes()


def test_another_persons_pulls_stay(book):
    fill(book, 3)
    fill(book, 3, person="B.")
    book.delete_all("me")
    assert {k.person for k in book.pulls()} == {"B."}


def test_a_file_that_is_no_hand_book_is_left_as_it_is(tmp_path):
    path = tmp_path / "hand-book.db"
    path.write_bytes(b"not a database at all" * 100)
    with pytest.raises(PracticeError, match="safe"), hand_book(path):
        pass
    assert path.read_bytes().startswith(b"not a database")
    other = tmp_path / "other.db"
    db = sqlite3.connect(other)
    db.execute("CREATE TABLE mine (x)")
    db.commit()
    db.close()
    with pytest.raises(PracticeError, match="left as it is"), hand_book(other):
        pass


def test_a_newer_book_is_left_as_it_is(tmp_path):
    path = tmp_path / "hand-book.db"
    with hand_book(path) as book:
        fill(book, 1)
    db = sqlite3.connect(path)
    db.execute("PRAGMA user_version = 9")
    db.commit()
    db.close()
    with pytest.raises(PracticeError, match="newer version"), hand_book(path):
        pass


def test_damaged_measures_are_said(book):
    fill(book, 1)
    book._db.execute("UPDATE pulls SET measures = '{\"shake\": 1}'")
    with pytest.raises(PracticeError, match="damaged"):
        book.pulls()


def test_a_full_disk_is_said_and_what_was_kept_is_safe(book, tmp_path):
    fill(book, 3)
    with pytest.raises(PracticeError, match="no room on the disk"), hand_book(tmp_path / "hand-book.db") as full:
        full._db.execute(f"PRAGMA max_page_count = {full._db.execute('PRAGMA page_count').fetchone()[0]}")
        fill(full, 60)
    assert len(book.pulls()) >= 3


def test_the_report_tells_each_hand_its_months_and_changes(book):
    fill(book, 60, "shaky", 1)
    fill(book, 60, "average", 2)
    told = practice_json(book)
    (hand,) = told["hands"]
    assert hand["figures"]["shake"]["value"] == pytest.approx(0.15, rel=0.1)
    assert hand["figures"]["best_speed"] is None
    change = next(c for c in hand["changes"] if c["figure"] == "shake")
    assert change["real"] and change["factor"] == pytest.approx(0.5, rel=0.1)
    assert next(iter(hand["months"].values()))["pulls"] == 120
    assert len(told["drills"]) >= 12


def test_the_steadiest_direction_is_the_hands_own(book):
    """A hand that wanders three times as far across 60 degrees as along it: Hand.strain .5."""
    lines = drill_named("straight lines")
    for n in range(80):
        target = lines.target(n)
        samples = pulled(target.points, Hand(0.05, 0.35, 60.0, strain=0.5), "normal", [3, n])
        found = measured(samples, target)
        book.add(Kept(f"2026-11-30T08:{n // 60:02}:{n % 60:02}", "me", "pen", lines.name, n, 1.0, found, found.wander,
                      samples))  # fmt: skip
    (hand,) = practice_json(book)["hands"]
    off = abs(hand["steadiest"]["axis_deg"] - 60.0) if hand["steadiest"]["axis_deg"] is not None else 90.0
    assert min(off, 180.0 - off) < 25.0


def test_the_best_speed_is_told_of_one_target_only(book):
    """Straight lines are faster than circles of one hand, and err more in it by that alone: together they tell nothing."""
    for drill, pace, seed in (("circles", "careful", 1), ("straight lines", "fast", 2), ("arcs", "normal", 3)):
        for kept in practised(drill_named(drill), "average", 12, seed, "me", pace):
            book.add(kept)
    assert figures_of(book.pulls()).best_speed is None
    for pace, seed in (("careful", 4), ("normal", 5), ("fast", 6)):
        for kept in practised(drill_named("the same stroke"), "average", 6, seed, "me", pace):
            book.add(kept)
    assert figures_of(book.pulls()).best_speed is not None


def test_an_experiment_tells_sizes_in_print(book):
    """At twice the size a hand errs as much on the tablet, half in print."""
    target = drill_named("the same stroke").target(0)
    for n in range(24):
        scale = (1.0, 2.0)[n % 2]
        samples = pulled(target.points, Hand(0.15, 0.35), "normal", [3, n], glass=scale)
        found = measured(samples, target, scale)
        book.add(Kept(f"2026-11-30T08:00:{n:02}", "me", "pen", "the same stroke", n, scale, found, found.wander))
    told = experiment(book.pulls())
    assert told.size == 2.0 and told.in_print[2.0] == pytest.approx(told.in_print[1.0] / 2.0, rel=0.3)
    assert told.school == "after" and told.spot is None
    assert experiment([]).size is None and experiment([]).school is None


def test_the_shake_of_each_month_is_that_of_its_pulls(book):
    for month, hand in ((10, "shaky"), (11, "average")):
        for n, kept in enumerate(practised(CIRCLES, hand, 12, month, "me")):
            book.add(replace(kept, made=f"2026-{month}-03T08:00:{n:02}.000+00:00"))
    told = book.shake_by_month("me", "simulated")
    assert list(told) == ["2026-10", "2026-11"]
    each = [k.measures.shake for k in book.pulls() if k.made.startswith("2026-10")]
    assert told["2026-10"] == pytest.approx(np.sqrt(np.mean(np.square(each))))


@pytest.mark.parametrize(("kind", "words"), [("principle", " "), ("none", "x"), ("setting", "x" * 3000)])
def test_a_page_that_cannot_be_is_refused_wherever_it_comes_from(book, kind, words):
    with pytest.raises(PracticeError, match="a page of the hand book"):
        BookPage("2026-11-30T08:00:00+00:00", "me", kind, words, {})
    row = {"made": "2026-11-30", "person": "me", "kind": kind, "words": words}
    with pytest.raises(PracticeError, match="nothing was taken in"):
        book.take_in({"hand book": 1, "pages": [row]})
    assert book.pages() == []


def test_like_is_held_against_like(book):
    fill(book, 20)
    before = book.pulls()
    lines = list(practised(drill_named("from the wrist"), "average", 20, 1, "me"))
    assert what_changed(before, lines) == ()
    assert by_month(before)[before[0].made[:7]].pulls == 20
    assert figures_of([]).pulls == 0


# The warm-up


def test_a_warm_up_is_of_what_the_page_asks_and_what_went_worst():
    line = np.column_stack([np.linspace(0.0, 160.0, 400), np.zeros(400)])
    long = page_facts([line, line + 5.0])
    assert long.long == 1.0 and long.bent == 0.0 and long.pencils
    assert "from the shoulder" in chosen_drills(long, [])
    angle = np.linspace(0.0, 40.0, 2000)
    curly = page_facts([np.column_stack([5.0 * np.cos(angle), 5.0 * np.sin(angle)])])
    assert curly.bent > 0.9 and "S-curves" in chosen_drills(curly, [])
    assert "hatching" in chosen_drills(PageFacts(hatched=0.5), []) and "hatching" not in chosen_drills(long, [])
    assert "parallel lines" in chosen_drills(PageFacts(), ["parallel lines"])


def test_a_warm_up_ends_when_the_hand_has_settled_not_before_three_minutes():
    warm = WarmUp(("straight lines", "circles"))
    shakes = (0.12 * (1.0 + 0.6 * np.exp(-np.arange(60) / 4.0))).tolist()
    assert warm.over(shakes, 120.0) is None
    found = warm.over(shakes, 200.0)
    assert "fell from **0.19 to 0.12 mm**" in ended_words(found)
    rng = np.random.default_rng(1)
    never = (0.12 * np.exp(rng.normal(0.0, 0.1, 20) + 2.0 * np.exp(-np.arange(20) / 15.0))).tolist()
    assert warm.over(never, 300.0) is None
    assert "still changes" in ended_words(warm.over(never, 361.0))
    assert [warm.drill(n) for n in (0, 7, 8, 16)] == ["straight lines", "straight lines", "circles", "straight lines"]
