"""What meetings add: where a line ends on another, where it goes under, where it stands on the ground; and lines that
run on into each other share their width."""

import numpy as np

from plain_stride.form.junctions import AT_CORNER, BAR, BY, ON, STEM, Junctions, end_of
from plain_stride.weight.plan import Plan
from plain_stride.weight.rule_book import GROUND, MEETINGS, TUCKS
from plain_stride.weight.scene import DETAIL, HALO, RULED, TEXTURE, Scene

REACH_SHARE, LEAST_REACH_MM, MOST_REACH_MM, FALL = 0.18, 1.0, 9.0, 0.7
"""How far a meeting reaches: a share of the line's length within these; it falls off as exp(-FALL (d / reach)^2)."""
RUN_ON_MM = 6.0
DOWN, LEVEL, UPRIGHT = 0.6, 0.35, 0.8
"""Ground: how far an edge faces down, how far from level what it stands on may be, how upright a thing stands."""


def meeting_steps(scene: Scene, plan: Plan, before: np.ndarray) -> np.ndarray:
    """Steps (n,) of meetings, the strongest of each place only. before (n,): steps of a line without them: one that
    ends on another comes to weigh no more than that does, unless it is nearer."""
    rule, found = plan.rule(MEETINGS), scene.known.junctions
    met = found.only(found.joined & np.isin(found.kind, (STEM, BAR, AT_CORNER)))
    steps = np.select([met.kind == STEM, met.kind == BAR], [rule["stem"], rule["bar"]], rule["corner"])
    here = scene.role[scene.known.places.at(met.line, met.s)]
    shares = {DETAIL: rule["detail"] / 100.0, TEXTURE: rule["texture"] / 100.0, RULED: 0.0, HALO: 0.0}
    steps = steps * np.select([here == role for role in shares], list(shares.values()), 1.0)
    held = (met.kind == STEM) & (scene.ground_order[met.line] >= scene.ground_order[met.other])
    room = _at(scene, before, met.other, met.other_s) + rule["bar"] - _at(scene, before, met.line, met.s)
    steps = np.where(held, np.minimum(steps, np.maximum(room, 0.0)), steps)
    return spread_along(scene, met, steps)


def tuck_steps(scene: Scene, plan: Plan) -> np.ndarray:
    """Steps (n,) where a line ends on one in front of it, or goes under a part."""
    found = scene.known.junctions
    nearer = scene.part[found.other] < scene.part[found.line]
    under = found.only(found.joined & (found.kind == STEM) & nearer)
    out = spread_along(scene, under, np.full(len(under.line), plan.rule(TUCKS)["under"]))
    return np.maximum(out, spread_along(scene, _goes_under(scene), plan.rule(TUCKS)["under"]))


def ground_steps(scene: Scene, plan: Plan) -> np.ndarray:
    """Steps (n,) where a thing stands: an edge that faces down, or the foot of an upright, touches something level of
    another part."""
    found, places = scene.known.junctions, scene.known.places
    on = found.only((found.joined | (found.kind == BY)) & (found.kind != BAR))
    here, there = places.at(on.line, on.s), places.at(on.other, on.other_s)
    level = (np.abs(places.way[there, 1]) < LEVEL) & (places.length[on.other] > REACH_SHARE * places.length[on.line])
    down = -scene.form[here] * places.left[here, 1] > DOWN
    foot = on.at_end & (np.abs(places.way[here, 1]) > UPRIGHT) & _is_lower_end(scene, on)
    apart = scene.part[on.line] != scene.part[on.other]
    stands = on.only(apart & level & (down | foot) & (scene.role[here] != HALO))
    return spread_along(scene, stands, np.full(len(stands.line), plan.rule(GROUND)["ground"]))


def run_on(scene: Scene, values: np.ndarray) -> np.ndarray:
    """Values (n,) so that lines which go on as each other share theirs at the place, and have their own again after
    RUN_ON_MM."""
    places, found = scene.known.places, scene.known.junctions
    on = found.only(found.joined & (found.kind == ON))
    if not len(on.line):
        return values
    off = (_at(scene, values, on.other, on.other_s) - _at(scene, values, on.line, on.s)) / 2.0
    out = values.copy()
    index, row, away = places.around(on.line, on.s)
    ease = np.clip(1.0 - away / np.minimum(RUN_ON_MM, np.maximum(places.length[on.line[row]] / 2.0, 1e-9)), 0.0, 1.0)
    np.add.at(out, index, off[row] * ease * ease * (3.0 - 2.0 * ease))
    return out


def spread_along(scene: Scene, at: Junctions, steps: np.ndarray | float) -> np.ndarray:
    """Steps (k,) at junctions spread along their lines (n,), the strongest only."""
    places = scene.known.places
    out = np.zeros(len(places.s))
    index, row, away = places.around(at.line, at.s)
    reach = np.clip(REACH_SHARE * places.length[at.line], LEAST_REACH_MM, MOST_REACH_MM)[row]
    np.maximum.at(out, index, np.broadcast_to(steps, len(at.line))[row] * np.exp(-FALL * (away / reach) ** 2))
    return out


def _at(scene: Scene, values: np.ndarray, line: np.ndarray, s: np.ndarray) -> np.ndarray:
    out: np.ndarray = values[scene.known.places.at(line, s)]
    return out


def _is_lower_end(scene: Scene, at: Junctions) -> np.ndarray:
    places = scene.known.places
    ends = places.starts[at.line], places.starts[at.line + 1] - 1
    y = np.stack([places.points[end, 1] for end in ends])
    which = end_of(places, at.line, at.s)
    return np.asarray(np.where(which == 1, y[1] > y[0], y[0] > y[1]))


def _goes_under(scene: Scene) -> Junctions:
    """The places where lines go under a part in front, as stems that end there."""
    places, hidden = scene.known.places, scene.known.hidden
    goes = np.flatnonzero((hidden[1:] != hidden[:-1]) & (places.line[1:] == places.line[:-1]))
    last = np.where(hidden[goes], goes + 1, goes)
    line, zero = places.line[last], np.zeros(len(last))
    return Junctions(line, line, places.s[last], places.s[last], np.full(len(last), STEM), zero, zero == 0.0)
