"""After a change: which lines it touches, and the stack with only these worked out anew.

What is told of a line hangs on itself, on the lines that it meets, and on what these come to before meetings. So lines
that are others, or whose junctions are, or that meet such a one, are worked out anew; then what meets lines that came
to something else by that. All other values are taken over from before, place by place. The answer is that of the whole.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from plain_stride.form.known import Known
from plain_stride.weight.light import lit_all_round
from plain_stride.weight.plan import Plan
from plain_stride.weight.scene import Scene
from plain_stride.weight.stack import Stack, of_lines, of_meetings, of_places


@dataclass(frozen=True, eq=False)
class Again:
    """One scene after another that has the same parts."""

    scene: Scene
    before: Scene

    @cached_property
    def were(self) -> np.ndarray:
        """Which places of before these are (n,), -1 for none."""
        return self.scene.known.places.were(self.before.known.places)

    @cached_property
    def lines_were(self) -> np.ndarray:
        """Which lines of before these are (m,), -1 for none."""
        row = self.before.known.places.row
        return np.array([row.get(key, -1) for key in self.scene.known.places.lines], int)

    def taken_over(self, values: np.ndarray) -> np.ndarray:
        """Values of before (k,) at the places of now (n,), nought where there were none."""
        return np.where(self.were >= 0, np.append(values, 0)[self.were], 0)

    def lines_with(self, places: np.ndarray) -> np.ndarray:
        """Lines (m,) that have a place of some (n,)."""
        line = self.scene.known.places.line
        out: np.ndarray = np.bincount(line[places], minlength=len(self.scene.known.places.lines)) > 0
        return out

    def others_by(self, now: np.ndarray, before: np.ndarray) -> np.ndarray:
        """Lines (m,) whose values (n,) are others than before's (k,)."""
        return self.lines_with((self.were < 0) | (self.taken_over(before) != now))

    def meets(self, lines: np.ndarray) -> np.ndarray:
        """Lines (m,) that are among some (m,), or meet one of them."""
        found, out = self.scene.known.junctions, lines.copy()
        out[found.line[lines[found.other]]] = True
        return out

    def touched(self, plan: Plan) -> np.ndarray:
        """Lines (m,) that are others than before, or meet one that is, or met one that is gone."""
        now, then = self.scene, self.before
        others = np.zeros(len(now.known.places.lines), bool)
        for own, old in ((now.known.hidden, then.known.hidden), (now.form, then.form), (now.role, then.role)):
            others |= self.others_by(own, old)
        of_line = [(now.throws, then.throws), (now.part, then.part)]
        of_line += [(lit_all_round(now, lamp.at), lit_all_round(then, lamp.at)) for lamp in plan.lamps if lamp.at]
        for own, old in of_line:
            others |= np.append(old, 0)[self.lines_were] != own
        return self.meets(others) | self._meet_otherwise(now.known, then.known)

    def _meet_otherwise(self, now: Known, then: Known) -> np.ndarray:
        """Lines (m,) whose junctions are others than before."""
        count, old_count = (
            np.bincount(known.junctions.line, minlength=len(known.places.lines)) for known in (now, then)
        )
        first, old_first = (np.append(0, np.cumsum(many))[:-1] for many in (count, old_count))
        were = self.lines_were
        as_many = (were >= 0) & (count == np.append(old_count, 0)[were])
        a, b = now.junctions, then.junctions
        row = np.flatnonzero(as_many[a.line])
        old = np.append(old_first, 0)[were[a.line[row]]] + row - first[a.line[row]]
        differs = were[a.other[row]] != b.other[old]
        for name in ("s", "other_s", "kind", "gap", "joined"):
            differs |= getattr(a, name)[row] != getattr(b, name)[old]
        out = ~as_many
        out[a.line[row[differs]]] = True
        return out


def stack_again(now: Again, plan: Plan, before: Stack) -> Stack:
    """The stack of a scene, of which that of the one before is known."""
    scene, touched = now.scene, now.touched(plan)
    part, those = scene.around(touched)
    steps, turned = of_places(part, plan)
    put = _Put(now, touched, those)
    without = Stack(of_lines(scene, plan), {name: put(steps[name], before.own[name]) for name in steps},
                    None if turned is None or before.turned is None else put(turned, before.turned))  # fmt: skip
    if before.meetings is None:
        return without
    met = now.meets(touched | now.others_by(without.so_far, before.so_far))
    part, those = scene.around(met)
    steps_there = of_meetings(part, plan, without.so_far[scene.known.places.index_of(those)])
    return replace(without, meetings=_Put(now, met, those)(np.asarray(steps_there), before.meetings))


class _Put:
    """Puts what was worked out anew for some lines (a mask (m,)), told with others (those (j,)), over what was."""

    def __init__(self, now: Again, lines: np.ndarray, those: np.ndarray) -> None:
        self._now = now
        index = now.scene.known.places.index_of(those)
        self._anew = np.flatnonzero(lines[now.scene.known.places.line[index]])
        self._to = index[self._anew]

    def __call__(self, some: np.ndarray, before: np.ndarray) -> np.ndarray:
        out = self._now.taken_over(before)
        out[self._to] = some[self._anew]
        return out
