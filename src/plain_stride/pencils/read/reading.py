"""The reading of a scan: its lines, how sure they are, and the places that are still undecided."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import numpy as np

from plain_stride.pencils.errors import PencilsError
from plain_stride.pencils.read.centres import STEP_MM, Centre, across, as_it_runs, centres_of
from plain_stride.pencils.read.confidence import GUIDE_SHARE, confidences
from plain_stride.pencils.read.doubts import doubt_of
from plain_stride.pencils.read.flat import Flat, flattened
from plain_stride.pencils.read.graph import Graph, cleaned, graph_of
from plain_stride.pencils.read.linking import chains_of, is_guide
from plain_stride.pencils.read.patches import patches_of, without_patches
from plain_stride.pencils.read.reaching import reached
from plain_stride.pencils.read.ridges import CLEAN, ROUGH, ROUGH_FROM_MM, Kind, oriented, ridges_of, strong_response
from plain_stride.pencils.read.ruled_paper import without_ruling
from plain_stride.pencils.read.undecided import Limits, Place, too_fine, undecided_places
from plain_stride.texts import counted

LEAST_PX, MOST_NET, FULL_NET, LEAST_STRONG, WEAK = 24, 1.5, 0.5, 0.03, 0.15
"""A side must have so many pixels. More mm of ridge for each square mm than MOST_NET is no drawing, nor are more than
FULL_NET that are weak; responses below LEAST_STRONG are those of paper."""
LEAST_LINE_MM = 0.8
KIND_WINDOW_MM, PAPER_DARK, ROUGH_STROKE_MM, ROUGH_MEDIAN_MM = 1.0, 0.12, 0.185, 0.160
"""Half-width that is looked at to tell clean from rough, darkness below which it is paper, RMS half-width of a single
stroke (75th percentile, median) from which it is rough: measured .144 to .172, .133 to .154 on clean pencils, .199 to
.339, .165 to .238 on rough ones. The median tells small letters, whose strokes cross and bend at every turn; letters of
doubled strokes half a millimetre apart stay rough (.243), as nothing tells them from passes."""
Progress = Callable[[float], bool]


class ReadError(PencilsError):
    """A picture in which no pencil lines can be read."""


@dataclass(frozen=True, eq=False)
class ReadLine:
    """points (n, 2) in mm of the scan, corners among them; confidence: the chance, 0..1, that it lies where it was
    meant; rough_width: mm of pencil across."""

    points: np.ndarray
    closed: bool
    confidence: float
    rough_width: float
    corners: tuple[int, ...] = ()

    @property
    def length(self) -> float:
        """mm."""
        p = np.vstack([self.points, self.points[:1]]) if self.closed else self.points
        return float(np.hypot(*np.diff(p, axis=0).T).sum())


@dataclass(frozen=True, eq=False)
class Reading:
    """kind: clean or rough; undecided: worst first; ready: share of the length that lies outside such places; guides:
    lines so faint that they were construction; patches: outlines (n, 2) mm of solid pencil; doubt: why this may be no
    drawing at all, mostly empty."""

    kind: str
    lines: list[ReadLine]
    undecided: list[Place]
    too_fine: list[Place]
    ready: float
    guides: list[ReadLine] = field(default_factory=list)
    doubt: str = ""
    patches: list[np.ndarray] = field(default_factory=list)

    @property
    def sentence(self) -> str:
        """The whole in one sentence."""
        n = len(self.undecided)
        if self.doubt:
            return f"{self.doubt}: {len(self.lines)} lines were read, few of which anybody drew."
        if not n:
            lines = counted(len(self.lines), "line")
            return f"Ready to ink: {lines}, none of them undecided."
        places = counted(n, "place")
        if self.ready >= 0.97:
            return f"Ready to ink, but for {places}; {self.ready:.0%} of the pencils are settled."
        return f"{places} are undecided: {self.ready:.0%} of the pencils are settled. Look at the worst first."


def read_pencils(
    darkness: np.ndarray,
    per_mm: float,
    progress: Progress | None = None,
    limits: Limits | None = None,
    clean: bool = False,
) -> Reading:
    """Reads a scan (uint8, 0 paper to 255 black) of so many pixels a mm. progress: told the share done; False stops.
    limits: what print holds, for detail that is not worth inking; clean: it is known to be clean, as finished inks are.

    Raises ReadError where the picture holds no lines, or is no drawing.
    """
    told = progress or (lambda share: True)
    if min(darkness.shape) < LEAST_PX:
        h, w = darkness.shape
        raise ReadError(f"a picture of {w} x {h} pixels is too small to read lines in")
    if not 0.5 <= per_mm <= 400.0:
        raise ReadError(f"pencils at {per_mm * 25.4:.0f} dpi cannot be read: place them at their true size")
    with ThreadPoolExecutor(1) as beside:
        finding = beside.submit(patches_of, darkness, per_mm)
        whole = flattened(darkness, per_mm)
        patches = finding.result()
    _step(told, 0.1)
    flat = without_ruling(without_patches(whole, patches))
    kind, rough = (CLEAN, None) if clean else kind_of(flat)
    ridges = ridges_of(flat, kind, rough if kind is ROUGH else None)
    _step(told, 0.3)
    _check_drawing(ridges.net, ridges.strong, ridges.per_mm)
    graph = cleaned(graph_of(ridges), kind)
    _step(told, 0.5)
    chains = chains_of(graph, kind)
    faint = [chain for chain in chains if is_guide(chain)]
    drawn = _long_enough(centres_of([chain for chain in chains if not is_guide(chain)], flat, kind))
    centres = reached(drawn, flat, kind)
    _step(told, 0.9)
    if not centres:
        raise ReadError("no pencil lines were found in this picture")
    guides = _long_enough([as_it_runs(chain, kind) for chain in faint])
    told_lines = _told(centres, guides, graph, kind, limits or Limits())
    return replace(told_lines, doubt=doubt_of(whole, [_length(centre) for centre in centres]), patches=patches)


def _long_enough(centres: list[Centre]) -> list[Centre]:
    return [centre for centre in centres if _length(centre) >= LEAST_LINE_MM]


def _step(told: Progress, share: float) -> None:
    if not told(share):
        raise ReadError("the reading was stopped: nothing was changed")


def _check_drawing(net: np.ndarray, strong: float, per_mm: float) -> None:
    if strong < LEAST_STRONG or np.count_nonzero(net) < 2.0 * per_mm:
        raise ReadError("no pencil lines were found in this picture: it is blank, or all of one tone")
    dense = np.count_nonzero(net) / per_mm / (net.size / per_mm**2)
    if dense > MOST_NET or (dense > FULL_NET and strong < WEAK):
        raise ReadError(
            "this does not look like a drawing: it is full of texture, and no lines can be told from it. If it is one,"
            " clean its specks first"
        )


def kind_of(flat: Flat) -> tuple[Kind, tuple[np.ndarray, np.ndarray]]:
    """(clean or rough, by how wide the darkness is across its strong ridges; responses and angles as for rough).
    Each (h, w)."""
    at = flat.at(ROUGH.per_mm)
    response, angle = oriented(at, ROUGH)
    strong = strong_response(response[response > 0.05])
    rows, cols = np.nonzero(response > max(strong, 1e-6))
    if len(rows) < 20:
        return CLEAN, (response, angle)
    pick = np.linspace(0, len(rows) - 1, min(len(rows), 1500)).astype(int)
    places = np.column_stack([cols[pick] + 0.5, rows[pick] + 0.5]) / at.per_mm
    a = angle[rows[pick], cols[pick]]
    dark, offsets = across(places, np.column_stack([np.cos(a), np.sin(a)]), flat, KIND_WINDOW_MM)
    # Narrow by all that lies across, or by the middle stroke alone where neighbours stand close.
    middle = _middle_stroke(dark)
    clean = (_spread(dark, offsets) < ROUGH_FROM_MM or _spread(middle, offsets) < ROUGH_STROKE_MM
             or _spread(middle, offsets, 50.0) < ROUGH_MEDIAN_MM)  # fmt: skip
    return CLEAN if clean else ROUGH, (response, angle)


def _spread(dark: np.ndarray, offsets: np.ndarray, percentile: float = 75.0) -> float:
    """A percentile of the RMS half-widths (mm) of profiles (n, m)."""
    mass = dark.sum(axis=1)
    middle = (dark * offsets).sum(axis=1) / np.maximum(mass, 1e-6)
    spreads = np.sqrt((dark * (offsets - middle[:, None]) ** 2).sum(axis=1) / np.maximum(mass, 1e-6))[mass > 1e-6]
    return float(np.percentile(spreads, percentile)) if len(spreads) else 0.0


def _middle_stroke(dark: np.ndarray) -> np.ndarray:
    """Profiles (n, m) without what lies beyond paper, seen from their darkest place near the middle."""
    m = dark.shape[1]
    near = slice(m // 2 - m // 5, m // 2 + m // 5 + 1)
    peak = dark[:, near].argmax(axis=1) + near.start
    index = np.arange(m)[None]
    paper = dark < PAPER_DARK
    low = np.where(paper & (index <= peak[:, None]), index, -1).max(axis=1)
    high = np.where(paper & (index >= peak[:, None]), index, m).min(axis=1)
    return np.where((index > low[:, None]) & (index < high[:, None]), dark, 0.0)


def _length(centre: Centre) -> float:
    p = np.vstack([centre.points, centre.points[:1]]) if centre.closed else centre.points
    return float(np.hypot(*np.diff(p, axis=0).T).sum())


def _told(centres: list[Centre], guides: list[Centre], graph: Graph, kind: Kind, limits: Limits) -> Reading:
    places = undecided_places(centres, graph, kind)
    settled = ready_share([c.points for c in centres], places)
    lines = [_read_line(c, kind, sure) for c, sure in zip(centres, confidences(centres, kind), strict=True)]
    faint = [_read_line(c, kind, GUIDE_SHARE * sure) for c, sure in zip(guides, confidences(guides, kind), strict=True)]
    return Reading(kind.name, lines, places, too_fine(centres, limits), settled, faint)


def _read_line(c: Centre, kind: Kind, confidence: float) -> ReadLine:
    known = c.spread[np.isfinite(c.spread)]
    width = 2.0 * np.sqrt(3.0) * float(np.median(known)) if len(known) else kind.width
    return ReadLine(c.points, c.closed, confidence, width, c.corners)


def ready_share(lines: list[np.ndarray], places: list[Place]) -> float:
    """The share of all points of lines that lie in none of the places. 0 to 1. lines: (n, 2) mm each."""
    if not lines:
        return 1.0
    points = np.vstack(lines)
    inside = np.zeros(len(points), bool)
    for p in places:
        inside |= (np.abs(points - (p.x, p.y)) <= (p.w / 2.0 + STEP_MM, p.h / 2.0 + STEP_MM)).all(axis=1)
    return float(1.0 - inside.mean())
