"""The drawing order kept bit by bit is what a sort gives."""

import numpy as np

from plain_stride.job.drawing_order import DrawingOrder


def test_kept_bit_by_bit_it_is_what_sorting_gives():
    rng = np.random.default_rng(2)
    ranks = {f"l{k}": (float(rng.integers(4)), float(k)) for k in range(40)}
    order, count = DrawingOrder((rank, key) for key, rank in ranks.items()), 40
    for _ in range(600):
        what = rng.integers(3)
        if what == 0 or not ranks:
            key, count = f"l{count}", count + 1
            ranks[key] = (float(rng.integers(4)), float(rng.uniform(0, 50)))
            order.put(key, None, ranks[key])
        else:
            key = list(ranks)[int(rng.integers(len(ranks)))]
            before = ranks.pop(key)
            after = None if what == 1 else (float(rng.integers(4)), before[1])
            order.put(key, before, after)
            if after is not None:
                ranks[key] = after
        assert order.keys == sorted(ranks, key=ranks.__getitem__)


def test_those_of_one_rank_stay_as_they_came():
    order = DrawingOrder([((0.0, 1.0), "a"), ((0.0, 1.0), "b")])
    order.put("c", None, (0.0, 1.0))
    order.put("b", (0.0, 1.0), (0.0, 1.0))
    assert order.keys == ["a", "b", "c"]
    order.put("b", (0.0, 1.0), None)
    assert order.keys == ["a", "c"]
