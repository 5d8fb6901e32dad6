"""Follow: a pulled path drawn towards the pencil line that it runs along; the hand leads, the pencils are evidence."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plain_stride.hand.along import blurred, evenly, lengths_along, project_onto

REACH_MM, ALONG_DEG = 3.0, 50.0
"""How far off a pencil line may lie, and how far its direction may differ, to be the one that is meant."""
LEAST_SHARE = 0.5
"""Of the path's length that must run along a pencil line, else there is nothing to follow."""
ALONG_MM = 0.4
"""Apart of the places by which a path is looked at that may run along a line."""
PROBES = 13
"""Places of a path by which lines that it cannot run along are passed over."""
EASE_MM, EVEN_MM = 2.0, 1.0
"""Over so much the pull towards it begins and ends where it is lost; the moves are evened out over EVEN_MM."""
SUGGESTED = 0.7
"""The share at which a hand of 0.25 mm and a centreline known to 0.1 mm together stray least: by their variances,
.25^2 / (.25^2 + .1^2) = .86; less, so that the hand leads."""


@dataclass(frozen=True, eq=False)
class Guides:
    """Lines (n, 2) mm that pulls may run along."""

    lines: Sequence[np.ndarray] = ()

    @cached_property
    def boxes(self) -> np.ndarray:
        """(n, 4): least x and y, largest x and y, of each."""
        return np.array([[*line.min(axis=0), *line.max(axis=0)] for line in self.lines]).reshape(-1, 4)


def line_followed(path: np.ndarray, guides: Guides) -> np.ndarray | None:
    """The line that a path (n, 2) mm runs along for most of its length; None where it runs along none."""
    path = evenly(path, ALONG_MM)
    low, high = path.min(axis=0) - REACH_MM, path.max(axis=0) + REACH_MM
    boxes = guides.boxes
    near = np.flatnonzero((boxes[:, 2:] >= low).all(axis=1) & (boxes[:, :2] <= high).all(axis=1))
    probes = path[np.linspace(0, len(path) - 1, PROBES).astype(int)]
    found = [line for k in near.tolist() if _may_run_along(probes, line := guides.lines[k])]
    shares = [float(_near(path, line)[1].mean()) for line in found]
    best = int(np.argmax(shares)) if shares else 0
    return found[best] if shares and shares[best] >= LEAST_SHARE else None


def followed(path: np.ndarray, line: np.ndarray, share: float) -> np.ndarray:
    """The path (n, 2), even in time, drawn by `share` (0 to 1) of the way to a pencil line (m, 2) it runs along. Its
    ends stay as far along the line as the hand had them."""
    if share <= 0.0 or len(path) < 5:
        return path
    foot, meant = _near(path, line)
    s = lengths_along(path)
    weight = _eased(meant, s)
    move = (foot - path) * weight[:, None]
    return path + share * _even(move, s)


def _may_run_along(probes: np.ndarray, line: np.ndarray) -> bool:
    """Whether about half of a path's places lie within reach of a line: cheap, before it is looked at whole."""
    if len(line) <= 2:
        return False
    near = project_onto(line, probes)[2] <= REACH_MM
    return bool(near.mean() >= LEAST_SHARE - 2.0 / PROBES)


def _near(path: np.ndarray, line: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(feet (n, 2) on the line, whether it is meant (n,)): near enough, and going the same way, either way round. Past
    its ends the line goes on straight, so that a path keeps its own ends."""
    _, k, far = project_onto(line, path)
    step = np.diff(line, axis=0)
    tangents = step / np.maximum(np.hypot(*step.T), 1e-9)[:, None]
    long = np.hypot(*step.T)[k]
    along = ((path - line[k]) * tangents[k]).sum(axis=1)
    along = np.where(k == 0, along, np.maximum(along, 0.0))
    along = np.where(k == len(step) - 1, along, np.minimum(along, long))
    same = np.abs((_tangents(path) * tangents[k]).sum(axis=1)) >= np.cos(np.radians(ALONG_DEG))
    return line[k] + tangents[k] * along[:, None], (far <= REACH_MM) & same


def _eased(meant: np.ndarray, s: np.ndarray) -> np.ndarray:
    """1 where a line is meant, falling to 0 over EASE_MM towards where none is."""
    lost = np.flatnonzero(~meant)
    if not len(lost):
        return np.ones(len(s))
    at = np.searchsorted(s[lost], s)
    before = np.where(at > 0, s - s[lost][np.maximum(at - 1, 0)], np.inf)
    after = np.where(at < len(lost), s[lost][np.minimum(at, len(lost) - 1)] - s, np.inf)
    u = np.clip(np.minimum(before, after) / EASE_MM, 0.0, 1.0)
    out: np.ndarray = u * u * (3.0 - 2.0 * u)
    return out


def _even(move: np.ndarray, s: np.ndarray) -> np.ndarray:
    """Moves evened out along the path, so that the grain of the reading does not come into the line."""
    length = float(s[-1])
    if length < 2.0 * EVEN_MM:
        return move
    grid = np.linspace(0.0, length, max(8, round(length / 0.1)) + 1)
    out = np.empty_like(move)
    for axis in (0, 1):
        v = np.interp(grid, s, move[:, axis])
        out[:, axis] = np.interp(s, grid, blurred(v, EVEN_MM / (grid[1] - grid[0])))
    return out


def _tangents(points: np.ndarray) -> np.ndarray:
    tangent = np.gradient(points, axis=0)
    out: np.ndarray = tangent / np.maximum(np.hypot(*tangent.T), 1e-9)[:, None]
    return out
