"""Soft ends: how long the plan draws out the ends of lines that meet nothing."""

import numpy as np

from plain_stride.form.junctions import end_of
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import ENDS
from plain_stride.weight.scene import DETAIL, INNER, OUTER, TEXTURE, Scene

LEAST_STUB_MM = 0.01
"""A line that ends on another runs past it by no more than arithmetic has it: shorter stubs are none."""
_NAMES = {OUTER: "outer", INNER: "inner", DETAIL: "detail", TEXTURE: "texture"}


def end_lengths(scene: Scene, plan: Plan) -> np.ndarray:
    """mm over which the plan draws out the start and the end of each line (m, 2). One that meets another is drawn out
    only as far as it runs past that, so that no stub of full width stands out; none where a line goes under a part in
    front, where it is ruled, and of closed lines."""
    places, found, rule = scene.known.places, scene.known.junctions, plan.rule(ENDS)
    ends = np.column_stack([places.starts[:-1], places.starts[1:] - 1])
    shares = np.select([scene.role[ends] == role for role in _NAMES],
                       [rule[name] / 100.0 for name in _NAMES.values()], 0.0)  # fmt: skip
    reach = np.clip(shares * places.length[:, None], rule["least"], max(rule["least"], rule["most"]))
    joined = scene.known.hidden[ends]
    met = found.only(found.joined & found.at_end)
    which = end_of(places, met.line, met.s)
    joined[met.line, which] = True
    past = np.full(joined.shape, np.inf)
    np.minimum.at(past, (met.line, which), np.where(which == 1, places.length[met.line] - met.s, met.s))
    stub = np.where(np.isfinite(past) & (past > LEAST_STUB_MM), past, 0.0)
    return np.where((shares == 0.0) | places.closed[:, None], 0.0, np.where(joined, stub, reach))
