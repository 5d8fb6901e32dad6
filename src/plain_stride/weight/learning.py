"""A plan learned from widths that a hand gave: what its pressure did outside and inside, near and far, away from the
light, in bends and at meetings.

The plan itself is fitted, saturation, slope and smoothing with it (a straight line through the same figures errs by a
quarter), by least squares on powers of two of the width; ends and what lies closed are left out. Meetings are one
figure, in the proportions of the rule book. How sure a figure is comes from how lines differ, not from how many places
they have, since neighbours along a line tell the same (the clustered covariance of Liang and Zeger 1986).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plain_stride.weight.plan import FROM_ABOVE, Plan, PlanError, Rule
from plain_stride.weight.rule_book import BENDS, ENDS, LIGHT, MEETINGS, MIDDLES, ROLE, RULES, TIER
from plain_stride.weight.scene import DETAIL, INNER, OUTER, TEXTURE, Scene
from plain_stride.weight.soft_ends import end_lengths
from plain_stride.weight.stack import MOST_DOWN, MOST_UP, stacked, total
from plain_stride.weight.weighing import softened

LEAST_LINES, LEAST_MM, LEAST_SPREAD = 12, 40.0, 0.12
"""A figure needs so many lines that carry it, over so much length; and must differ so much along the drawing."""
MOST_SE, ROUNDS, STEP = 0.25, 12, 1e-3
"""Steps: how unsure a figure may be that is told; how often the fit is mended; by how much a figure is tried."""
ODD_STEPS, ODD_MM = 0.8, 4.0
"""A stretch breaks the rules where it lies so far off, over so much."""
END_MM = 3.0
LEARNED = "Learned"
ALIKE = 0.02
"""A figure is not told apart from others where these explain all but such a share of what it does."""
_FITTED = (ROLE, TIER, LIGHT, MEETINGS, BENDS, MIDDLES)
_THINNEST = 0.02
_MEETING = RULES[MEETINGS].figures


@dataclass(frozen=True)
class Figure:
    """value: in steps of sqrt 2, or mm for the base; low, high: 95 % of where it lies; enough: whether there is enough
    to tell; lines: how many carry it."""

    name: str
    value: float
    low: float
    high: float
    enough: bool
    lines: int


@dataclass(frozen=True)
class Odd:
    """A stretch that breaks the rules: its line, where (mm), mm there and mm that the plan would give."""

    line: str
    at: tuple[float, float]
    is_mm: float
    would_mm: float


@dataclass(frozen=True)
class Learned:
    """plan: with what could be told, all else as it was; explained: the share of the widths' variation (R squared of
    log widths) that it explains; odd: the worst first."""

    plan: Plan
    figures: tuple[Figure, ...]
    explained: float
    odd: tuple[Odd, ...]
    lines: int


NAMES = ("base", "outer", "detail", "texture", "near", "far", "away", "towards", "bend", "meeting", "middle")


def learned(
    scene: Scene, wide: np.ndarray, before: Plan, progress: Callable[[float], bool] = lambda share: True
) -> Learned:
    """The plan that widths (n,) at the places of a scene follow. before: whose light and whose other figures stand;
    progress: told the share done, gives False where it is to stop. Raises PlanError where there is too little to learn
    from, or it was stopped. The plan is laid some hundred times."""
    before = replace(before, lamps=before.lamps or FROM_ABOVE)
    use = _usable(scene, wide, before)
    places = scene.known.places
    lines = np.unique(places.line[use])
    if len(lines) < LEAST_LINES or places.weight[use].sum() < LEAST_MM:
        raise PlanError(f"there is too little to learn from: {len(lines)} lines that a hand weighted, {LEAST_LINES} are"
                        " the least")  # fmt: skip
    features = _features(scene, before)
    log = 2.0 * np.log2(np.maximum(wide, _THINNEST))
    carried = {name: _carried(scene, features, name, use) for name in NAMES}
    known = _told_apart(features, carried, use)
    fit = _Fit(scene, before, log, use, known)
    values = fit.settled(_start(before, log, use), progress)
    progress(1.0)
    errors = fit.errors(values)
    enough = known & (errors <= MOST_SE)
    off = log - fit.model(values)
    spread = float(np.average((log[use] - np.average(log[use])) ** 2))
    explained = 1.0 - float(np.average(off[use] ** 2)) / max(spread, 1e-12)
    figures = tuple(_figure(name, values[k], errors[k], bool(enough[k]), carried[name]) for k, name in enumerate(NAMES))
    return Learned(_plan(before, figures), figures, explained, _odd(scene, wide, fit.model(values), use), len(lines))


def _usable(scene: Scene, wide: np.ndarray, before: Plan) -> np.ndarray:
    """Places (n,) that tell of the plan: seen, not ruled, away from ends."""
    places = scene.known.places
    ends = np.maximum(end_lengths(scene, before), 0.0) if before.is_on(ENDS) else np.zeros((len(places.lines), 2))
    open_end = np.where(places.closed, 0.0, 1.0)[:, None]
    off = np.maximum(ends, END_MM * (ends > 0.0)) * open_end
    length = places.length[places.line]
    far = (places.s >= off[places.line, 0]) & (places.s <= length - off[places.line, 1])
    return far & ~scene.known.hidden & np.isin(scene.role, (OUTER, INNER, DETAIL, TEXTURE)) & (wide > _THINNEST)


def _features(scene: Scene, before: Plan) -> dict[str, np.ndarray]:
    """What a step of each figure adds at every place (n,), before saturation."""
    ones = {
        "away": (LIGHT, {"away": 1.0, "towards": 0.0}), "towards": (LIGHT, {"away": 0.0, "towards": 1.0}),
        "bend": (BENDS, {"bend": 1.0}), "middle": (MIDDLES, {"middle": 1.0}),
        "meeting": (MEETINGS, _meetings(1.0)),
    }  # fmt: skip
    out = {}
    for name, (rule, figures) in ones.items():
        own = dict(before.rule(rule).figures) | figures
        alone = replace(before, roles=dict.fromkeys(before.roles, 0.0), rules=tuple(
            Rule(one.name, one.name == rule, own if one.name == rule else {}) for one in before.rules))  # fmt: skip
        out[name] = _unsaturated(stacked(scene, alone)[rule])
    tier = scene.tier[scene.known.places.line]
    out |= {"outer": scene.role == OUTER, "detail": scene.role == DETAIL, "texture": scene.role == TEXTURE,
            "near": tier == 0, "far": tier == 2, "base": np.ones(len(tier))}  # fmt: skip
    return {name: np.asarray(values, float) for name, values in out.items()}


def _unsaturated(steps: np.ndarray) -> np.ndarray:
    most = np.where(steps >= 0.0, MOST_UP, MOST_DOWN)
    out: np.ndarray = most * np.arctanh(np.clip(steps / most, -0.999999, 0.999999))
    return out


def _carried(scene: Scene, features: dict[str, np.ndarray], name: str, use: np.ndarray) -> int:
    """How many lines carry a figure."""
    there = use & (np.abs(features[name]) > LEAST_SPREAD)
    return len(np.unique(scene.known.places.line[there]))


def _told_apart(features: dict[str, np.ndarray], carried: dict[str, int], use: np.ndarray) -> np.ndarray:
    """Which figures are asked for: enough lines carry them, and those before them do not tell the same already."""
    chosen: list[np.ndarray] = []
    known = np.zeros(len(NAMES), bool)
    for k, name in enumerate(NAMES):
        own = features[name][use]
        if name != "base" and (carried[name] < LEAST_LINES // 2 or np.abs(own).max() < LEAST_SPREAD):
            continue
        rest = own
        if chosen:
            table = np.column_stack(chosen)
            rest = own - table @ np.linalg.lstsq(table, own, rcond=None)[0]
        if (rest**2).sum() > ALIKE * (own**2).sum():
            chosen.append(own)
            known[k] = True
    return known


def _start(before: Plan, log: np.ndarray, use: np.ndarray) -> np.ndarray:
    light, bend = before.rule(LIGHT), before.rule(BENDS)
    values = {"base": float(np.median(log[use])), "outer": 1.0, "detail": -1.0, "texture": -1.5,
              "near": 0.5, "far": -0.5, "away": light["away"], "towards": light["towards"], "bend": bend["bend"],
              "meeting": before.rule(MEETINGS)["stem"], "middle": before.rule(MIDDLES)["middle"]}  # fmt: skip
    return np.array([values[name] for name in NAMES])


class _Fit:
    """Widths as a plan gives them, and the figures that come nearest to those of a hand."""

    def __init__(self, scene: Scene, before: Plan, log: np.ndarray, use: np.ndarray, known: np.ndarray) -> None:
        self._scene, self._before, self._log, self._use, self._known = scene, before, log, use, known

    def model(self, values: np.ndarray) -> np.ndarray:
        """2 log2 of the widths (n,) in mm; figures that are not asked for add nothing."""
        told = dict(zip(NAMES, np.where(self._known, values, 0.0).tolist(), strict=True))
        plan = _with_figures(self._before, told | {"base": 1.0})
        plan = replace(plan, rules=tuple(replace(rule, on=rule.name in _FITTED) for rule in plan.rules))
        wide = 2.0 ** ((told["base"] + total(self._scene, stacked(self._scene, plan))) / 2.0)
        wide = softened(self._scene.known.places, wide)
        return np.asarray(2.0 * np.log2(np.maximum(wide, _THINNEST)))

    def settled(self, start: np.ndarray, progress: Callable[[float], bool]) -> np.ndarray:
        """The figures of the least squares (Gauss-Newton, held back where a step makes it worse)."""
        values, own = np.where(self._known, start, 0.0), np.flatnonzero(self._known)
        worst = self._worth(values)
        for n in range(ROUNDS):
            if not progress(n / ROUNDS):
                raise PlanError("stopped: nothing was learned")
            slopes = self._slopes(values)
            step = np.zeros(len(values))
            step[own] = np.linalg.lstsq(slopes[:, own], (self._log - self.model(values))[self._use], rcond=1e-8)[0]
            for _ in range(6):
                worth = self._worth(values + step)
                if worth <= worst:
                    break
                step /= 2.0
            if worth > worst or np.abs(step).max() < STEP:
                break
            values, worst = values + step, worth
        return values

    def errors(self, values: np.ndarray) -> np.ndarray:
        """How unsure each figure is: standard errors that let lines, not places, be independent."""
        own, slopes = np.flatnonzero(self._known), self._slopes(values)[:, self._known]
        off = (self._log - self.model(values))[self._use]
        line = self._scene.known.places.line[self._use]
        sums = np.zeros((int(line.max()) + 1, len(own)))
        np.add.at(sums, line, slopes * off[:, None])
        bread = np.linalg.pinv(slopes.T @ slopes)
        out = np.full(len(values), np.inf)
        out[own] = np.sqrt(np.maximum(np.diag(bread @ (sums.T @ sums) @ bread), 0.0))
        # A figure that changes nothing where it stands, as a meeting that takes weight away, is not told.
        out[own[np.abs(slopes).max(axis=0) == 0.0]] = np.inf
        return out

    def _worth(self, values: np.ndarray) -> float:
        return float(((self._log - self.model(values))[self._use] ** 2).sum())

    def _slopes(self, values: np.ndarray) -> np.ndarray:
        here, out = self.model(values)[self._use], np.zeros((int(self._use.sum()), len(values)))
        for k in np.flatnonzero(self._known):
            moved = values.copy()
            moved[k] += STEP
            out[:, k] = (self.model(moved)[self._use] - here) / STEP
        return out


def _figure(name: str, value: float, error: float, enough: bool, lines: int) -> Figure:
    low, high = value - 1.96 * error, value + 1.96 * error
    if name == "base":
        value, low, high = (float(2.0 ** (v / 2.0)) for v in (value, low, high))
    return Figure(name, float(value), float(low), float(high), enough, lines)


def _plan(before: Plan, figures: Sequence[Figure]) -> Plan:
    """A plan with the figures that could be told; all else as it was."""
    told = {one.name: one.value for one in figures if one.enough}
    return replace(_with_figures(before, told), name=LEARNED)


def _with_figures(before: Plan, told: dict[str, float]) -> Plan:
    """A plan with these figures; inner lines and the middle are what others are told against."""
    roles = dict(before.roles) | {name: told[name] for name in ("outer", "detail", "texture") if name in told}
    tiers = dict(before.tiers) | {name: told[name] for name in ("near", "far") if name in told}
    rules = []
    for rule in before.rules:
        limits = RULES[rule.name].figures
        held = {name: float(np.clip(value, limits[name].low, limits[name].high))
                for name, value in _figures_of(rule.name, told).items()}  # fmt: skip
        rules.append(replace(rule, figures=dict(rule.figures) | held))
    base = told.get("base", before.base)
    return replace(before, base=base, roles=roles | {"inner": 0.0}, tiers=tiers | {"middle": 0.0}, rules=tuple(rules))


def _meetings(stem: float) -> dict[str, float]:
    """The figures of the meetings, in the proportions of the rule book."""
    return {name: stem * _MEETING[name].value / _MEETING["stem"].value for name in ("stem", "bar", "corner")}


def _figures_of(rule: str, told: dict[str, float]) -> dict[str, float]:
    if rule == LIGHT:
        return {name: told[name] for name in ("away", "towards") if name in told}
    if rule == MEETINGS and "meeting" in told:
        return _meetings(told["meeting"])
    if rule == BENDS and "bend" in told:
        return {"bend": told["bend"]}
    return {"middle": told["middle"]} if rule == MIDDLES and "middle" in told else {}


def _odd(scene: Scene, wide: np.ndarray, model: np.ndarray, use: np.ndarray) -> tuple[Odd, ...]:
    """The stretches that lie far off what the plan would give, one a line."""
    places, out = scene.known.places, []
    off = np.where(use, 2.0 * np.log2(np.maximum(wide, _THINNEST)) - model, 0.0)
    far = np.abs(off) > ODD_STEPS
    length = np.bincount(places.line[far], places.weight[far], minlength=len(places.lines))
    for k in np.flatnonzero(length >= ODD_MM).tolist():
        on = places.of(k)
        worst = on.start + int(np.abs(off[on]).argmax())
        x, y = places.points[worst].tolist()
        out.append(
            (abs(float(off[worst])), Odd(places.lines[k], (x, y), float(wide[worst]), float(2 ** (model[worst] / 2))))
        )
    return tuple(odd for _, odd in sorted(out, key=lambda item: -item[0]))
