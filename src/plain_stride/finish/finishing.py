"""A stack of passes done over the final art, one after the other: each takes what the one before left."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plain_stride import colour
from plain_stride.finish.art import (
    Art,
    ArtBlack,
    ArtCopy,
    ArtFlats,
    ArtLine,
    ArtPart,
    ExportStopped,
    Inked,
    SoftCopy,
    Thing,
)
from plain_stride.finish.passes import LinesAway, OffRegister, Pass, SecondPass, Soft, Thinned, Tint, Tooth
from plain_stride.hand.simulated import HANDS, Hand, TargetError, pulled
from plain_stride.lines.affine import Affine, moved, scaled, turned
from plain_stride.lines.area_black import area_of_black, black_of_area
from plain_stride.lines.black import BlackError
from plain_stride.lines.edges import CRISP, ToothedEdge
from plain_stride.lines.given import curve_through
from plain_stride.lines.shape import Shape
from plain_stride.lines.stretches import beside, drawn_in, on_path, stretch_of

TOOTH_AT_MM, TOOTH_MOST = 0.5, 2.0
"""A line of this width has the tooth as deep as it is said; thinner ones more of it, at most so many times."""
PACE, KNOT_S = "normal", 0.03
"""How fast the second pass is drawn; s between two places that its curve goes through."""
STEP_MM, BESIDE_MM, LEAST_RUN_MM = 0.4, 0.15, 1.0
"""Along a line, flats are looked up so often, so far beyond its edge; shorter runs stay as what lies round them."""
ColourAt = Callable[[np.ndarray], list[str | None]]
Told = Callable[[float], bool]


@dataclass(frozen=True)
class Stack:
    """What a stack of passes is done with. part_keys: names of parts by their keys; flat_at: the colours of the flats
    at places (n, 2) mm, None where there are none."""

    passes: Sequence[Pass]
    part_keys: dict[str, str]
    flat_at: ColourAt | None = None


def finished(art: Art, stack: Stack, told: Told = lambda share: True) -> Art:
    """The art after all passes that are switched on. told: the share done; False raises FinishError."""
    things = art.things
    done = [one for one in stack.passes if one.on]
    for k, one in enumerate(done):
        things = _after(replace(art, things=things), one, stack)
        if not told((k + 1) / len(done)):
            raise ExportStopped("stopped: nothing was finished")
    return replace(art, things=things)


def _after(art: Art, one: Pass, stack: Stack) -> tuple[Thing, ...]:
    if isinstance(one, Soft):
        return _with(art, one, stack, [SoftCopy(tuple(_chosen(art, one, stack)), one)], one.over)
    if isinstance(one, OffRegister):
        return _with(art, one, stack, _off_register(art, one, stack), one.over)
    if isinstance(one, SecondPass):
        return _with(art, one, stack, _second_pass(art, one, stack), True)
    if isinstance(one, Tint):
        return _tinted(art, one, stack)
    change: Callable[[Inked], Iterable[Inked]] = {
        Tooth: lambda line: [_toothed(line, one)],
        Thinned: lambda line: _thinned(line, one),
        LinesAway: lambda line: _away(line, one, stack.flat_at),
    }[type(one)]
    return tuple(_changed(thing, one, stack, change) if isinstance(thing, ArtPart) else thing for thing in art.things)


def _takes(one: Pass, part: ArtPart, line: Inked, stack: Stack) -> bool:
    """Whether a pass is for a line or a black of a part. What other passes added is only taken with the whole."""
    if not one.parts and not one.lines:
        return True
    return not part.finish and (line.id in one.lines or any(stack.part_keys.get(k) == part.name for k in one.parts))


def _chosen(art: Art, one: Pass, stack: Stack) -> list[Inked]:
    return [line for part in art.parts for line in part.lines if _takes(one, part, line, stack)]


def _changed(part: ArtPart, one: Pass, stack: Stack, change: Callable[[Inked], Iterable[Inked]]) -> ArtPart:
    lines: list[Inked] = []
    for line in part.lines:
        lines += change(line) if _takes(one, part, line, stack) else [line]
    return replace(part, lines=tuple(lines))


def _with(art: Art, one: Pass, stack: Stack, added: Sequence[Thing], over: bool) -> tuple[Thing, ...]:
    """The things with some more, over or under the ink that the pass is for; flats and scans stay below."""

    def is_for(thing: Thing) -> bool:
        return isinstance(thing, ArtPart) and any(_takes(one, thing, line, stack) for line in thing.lines)

    places = [k for k, thing in enumerate(art.things) if is_for(thing)]
    if not places:
        return art.things
    at = places[-1] + 1 if over else places[0]
    return (*art.things[:at], *added, *art.things[at:])


def _copies(art: Art, one: Pass, stack: Stack, copy: Callable[[Inked], Inked | None]) -> list[ArtPart]:
    """The parts again, with copies of what the pass is for."""
    out = []
    for part in art.parts:
        lines = [new for line in part.lines if _takes(one, part, line, stack) and (new := copy(line)) is not None]
        if lines:
            out.append(ArtPart(part.name, part.tier, part.ink, tuple(lines), colour=part.colour, finish=one.title))
    return out


def _off_register(art: Art, one: OffRegister, stack: Stack) -> list[ArtPart]:
    middle = np.array(art.page.size_mm) / 2.0
    matrix = Affine().then(scaled(middle, one.scale)).then(turned(middle, one.turn)).then(moved(*one.by))
    return _copies(art, one, stack, lambda line: ArtCopy(line, matrix, one.colour or line.colour))


# The second pass


def _second_pass(art: Art, one: SecondPass, stack: Stack) -> list[ArtPart]:
    drawn = HANDS[one.hand]
    # Its shake is taken out as that of any pull is: what is left is how it wanders.
    hand = replace(drawn, tremor=0.0, wander=drawn.wander * one.loose)
    return _copies(art, one, stack, lambda line: _again(line, one, hand))


def _again(line: Inked, one: SecondPass, hand: Hand) -> Inked | None:
    if not isinstance(line, ArtLine):
        return None
    points = line.shape.flat[0]
    try:
        samples = pulled(points, hand, PACE, [one.seed, *line.id.encode()], line.shape.closed)
    except TargetError:
        return None
    return replace(line, shape=_on_samples(line.shape, samples, one.weight))


def _on_samples(shape: Shape, samples: np.ndarray, weight: float) -> Shape:
    t = samples[:, 3]
    at = np.linspace(t[0], t[-1], max(4, int((t[-1] - t[0]) / KNOT_S)) + 1)
    p = np.column_stack([np.interp(at, t, samples[:, k]) for k in (0, 1)])
    p = p[np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-3])]
    curve, _ = curve_through(p, False)
    # A closed line comes back nearly to where it began, as a hand does.
    return replace(on_path(shape, curve, False, weight), ends=("round", "round") if shape.closed else shape.ends)


# What changes lines themselves


def _toothed(line: Inked, one: Pass) -> Inked:
    assert isinstance(one, Tooth)
    if not isinstance(line, ArtLine) or line.shape.edge is not CRISP:
        return line
    wide = float(np.average(line.shape.body.full)) or TOOTH_AT_MM
    deep = one.grain * min(float(np.sqrt(TOOTH_AT_MM / wide)), TOOTH_MOST)
    return replace(line, shape=replace(line.shape, edge=ToothedEdge(deep)))


def _thinned(line: Inked, one: Pass) -> list[Inked]:
    assert isinstance(one, Thinned)
    if isinstance(line, ArtLine):
        return [replace(line, shape=drawn_in(line.shape, one.mm, one.least))]
    if isinstance(line, ArtBlack):
        try:
            return [replace(line, shape=black_of_area(area_of_black(line.shape).buffer(-one.mm, quad_segs=16)))]
        except BlackError:
            return []
    return [replace(line, of=thin) for thin in _thinned(line.of, one)]


def _away(line: Inked, one: Pass, flat_at: ColourAt | None) -> list[Inked]:
    assert isinstance(one, LinesAway)
    if not isinstance(line, ArtLine) or flat_at is None or line.id in one.keep:
        return [line]
    gone = _parting(line.shape, flat_at, one.difference)
    if not gone:
        return [line]
    if gone == [(0.0, line.shape.length)]:
        return []
    kept = _between(gone, line.shape.length)
    return [replace(line, shape=stretch_of(line.shape, a, b)) for a, b in kept if b - a > LEAST_RUN_MM]


def _parting(shape: Shape, flat_at: ColourAt, difference: float) -> list[tuple[float, float]]:
    """Stretches (from, to) mm of a line on whose two sides flats differ enough."""
    s, *places = beside(shape, STEP_MM, BESIDE_MM)
    sides = [flat_at(side) for side in places]
    parts = np.array([a is not None and b is not None and colour.difference(a, b) > difference
                      for a, b in zip(*sides, strict=True)])  # fmt: skip
    return _runs(parts, s)


def _runs(on: np.ndarray, s: np.ndarray) -> list[tuple[float, float]]:
    """Stretches where something holds at places along a line; a short one counts as what lies round it."""
    from scipy.ndimage import median_filter

    many = 2 * int(LEAST_RUN_MM / max(float(s[1] - s[0]), 1e-9) / 2.0) + 1
    smooth = median_filter(on.astype(np.uint8), many, mode="nearest") > 0
    edges = np.flatnonzero(np.diff(np.concatenate([[False], smooth, [False]]).astype(np.int8)))
    last = len(s) - 1
    middles = np.concatenate([[s[0]], (s[1:] + s[:-1]) / 2.0, [s[last]]])
    return [(float(middles[a]), float(middles[b])) for a, b in edges.reshape(-1, 2).tolist()]


def _between(gone: list[tuple[float, float]], length: float) -> list[tuple[float, float]]:
    cuts = [0.0, *(v for run in gone for v in run), length]
    return [(a, b) for a, b in zip(cuts[::2], cuts[1::2], strict=True) if b > a]


def _tinted(art: Art, one: Tint, stack: Stack) -> tuple[Thing, ...]:
    def tinted(name: str) -> str:
        return name if name in colour.NAMED else colour.with_lightness(one.colour, round(colour.lightness(name), 4))

    def change(line: Inked) -> list[Inked]:
        return [replace(line, colour=tinted(line.colour))]

    out: list[Thing] = []
    for thing in art.things:
        if isinstance(thing, ArtPart):
            part = _changed(thing, one, stack, change)
            out.append(replace(part, colour=tinted(part.colour)))
        elif isinstance(thing, ArtFlats) and not one.parts and not one.lines:
            out.append(ArtFlats(tuple((name, tinted(own), area) for name, own, area in thing.areas)))
        elif isinstance(thing, SoftCopy):
            out.append(replace(thing, of=tuple(new for line in thing.of for new in change(line))))
        else:
            out.append(thing)
    return tuple(out)


def pictures_in(passes: Iterable[Pass]) -> list[str]:
    """Titles of the passes that are pictures in any file."""
    return [one.title for one in passes if one.on and one.pixels]
