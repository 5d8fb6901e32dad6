"""Steps of the work: whose part a pencil line is of, in which order, moved, parted, ticked off."""

import numpy as np
import pytest

from plain_stride.order.errors import OrderError
from plain_stride.order.pieces import DETAILS, FRAMES, INNER, SILHOUETTES, Piece, kinds_of, parts_by_neighbours
from plain_stride.order.steps import SCHOOLS, OwnOrder, moved, next_step, split_of, steps_of


def line(*points):
    return np.array(points, float)


def circle(x, y, r, n=80):
    t = np.linspace(0.0, 2.0 * np.pi, n + 1)
    return np.column_stack([x + r * np.cos(t), y + r * np.sin(t)])


def test_a_pencil_line_is_of_the_part_whose_ink_lies_beside_it():
    ink, parts = [line((0, 0), (50, 0)), line((0, 40), (50, 40))], ["coat", "gate"]
    rough = [line((0, 3), (50, 3)), line((0, 36), (50, 37)), line((0, 90), (50, 90))]
    assert parts_by_neighbours(rough, ink, parts) == ["coat", "gate", ""]
    assert parts_by_neighbours(rough, [], []) == ["", "", ""]


def test_kinds_are_told_by_what_encloses_and_by_length():
    frame = line((0, 0), (200, 0), (200, 150), (0, 150), (0, 0))
    lines = [circle(60, 60, 30), line((45, 60), (70, 62)), line((50, 50), (54, 51)), line((0, 0.3), (198, 0.2))]
    assert kinds_of(lines, ["a", "a", "a", "b"], [frame]) == [SILHOUETTES, INNER, DETAILS, FRAMES]


PIECES = [
    Piece(SILHOUETTES, "p1", 100.0, 1.0, (10.0, 10.0), 0.9), Piece(SILHOUETTES, "p2", 80.0, 0.25, (60.0, 10.0), 0.5),
    Piece(DETAILS, "p1", 10.0, 0.0, (12.0, 12.0), 0.4), Piece(DETAILS, "p1", 6.0, 0.0, (30.0, 12.0), 0.4),
    Piece(INNER, "p1", 40.0, 0.5, (14.0, 30.0), 0.6), Piece(FRAMES, "", 300.0, 0.0, (0.0, 0.0), 0.3),
]  # fmt: skip
ORDERS = {"p1": 1, "p2": 2}


def ids(own=None):
    return [step.id for step in steps_of(PIECES, ORDERS, own or OwnOrder())]


@pytest.mark.parametrize(("school", "first", "last"), [
    ("big to small", "frames/", "details/p1"),
    ("one nib at a time", "frames/", "details/p1"),
    ("darkest and nearest first", "silhouettes/p1", "frames/"),
    ("eyes first", "details/p1", "frames/"),
    ("part by part", "silhouettes/p1", "frames/"),
    ("far to near", "silhouettes/p2", "details/p1"),
])  # fmt: skip
def test_schools_order_as_they_say(school, first, last):
    """Common practice of the trade: what each school puts first."""
    told = [key for key in ids(OwnOrder(school)) if school != "far to near" or key != "frames/"]
    assert told[0] == first and told[-1] == last


def test_steps_tell_what_is_left():
    steps = {step.id: step for step in steps_of(PIECES, ORDERS, OwnOrder())}
    assert steps["silhouettes/p1"].ticked and steps["silhouettes/p1"].mm_left == 0.0
    assert steps["silhouettes/p2"].mm_left == 60.0 and steps["silhouettes/p2"].done == 0.25
    assert steps["details/p1"].lines_left == 2 and steps["details/p1"].mm_left == 16.0
    assert sum(step.mm for step in steps.values()) == sum(piece.mm for piece in PIECES)


def test_what_has_no_length_counts_by_its_number():
    remarks = [Piece("to draw again", "", 0.0, done, (1.0, 1.0)) for done in (1.0, 0.0)]
    (step,) = steps_of(remarks, {}, OwnOrder())
    assert step.done == 0.5 and step.lines_left == 1


def test_the_next_step_is_neither_ticked_nor_set_aside():
    steps = steps_of(PIECES, ORDERS, OwnOrder("part by part"))
    assert next_step(steps).id == "inner lines/p1"
    assert next_step(steps, ["inner lines/p1"]).id == "details/p1"
    assert next_step([]) is None


def test_steps_that_were_moved_stay_and_new_ones_find_their_place():
    steps = steps_of(PIECES, ORDERS, OwnOrder())
    own = OwnOrder(sequence=moved(steps, "details/p1", 0))
    assert ids(own)[0] == "details/p1"
    more = [*PIECES, Piece(INNER, "p2", 9.0, 0.0, (61.0, 20.0))]
    told = [step.id for step in steps_of(more, ORDERS, own)]
    assert told.index("inner lines/p2") == told.index("inner lines/p1") + 1
    assert len(set(told)) == len(told)
    with pytest.raises(OrderError):
        moved(steps, "nothing", 0)


def test_a_step_is_parted_in_two_halves_of_what_is_left():
    some = [Piece(DETAILS, "p", 10.0, 0.0, (float(x), 5.0)) for x in range(10)]
    split = split_of(some, "details/p")
    assert split.axis == "x" and split.at == 4.5
    halves = steps_of(some, {}, OwnOrder(splits={"details/p": split}))
    assert [step.id for step in halves] == ["details/p/first", "details/p/second"]
    assert [step.mm_left for step in halves] == [50.0, 50.0]
    with pytest.raises(OrderError, match="one line"):
        split_of(some[:1], "details/p")


def test_parts_that_come_first_do():
    assert ids(OwnOrder(first=("p2",)))[0] == "silhouettes/p2"
    with pytest.raises(OrderError, match="there is no order"):
        ids(OwnOrder("none"))
    assert all(len(words) > 10 for words, _ in SCHOOLS.values())
