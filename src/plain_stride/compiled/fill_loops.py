"""Loops that turn outlines into coverage, to be compiled: the exact area that an outline covers of every pixel.

An edge adds its signed area to the pixels that it crosses and its height to all that lie right of them; the running
sum along a row is the coverage. Exact for outlines that do not cross themselves; holes turn the other way.
"""

import math

import numpy as np

LEAST = 1e-4
"""Coverage below this is none: what rounding leaves of sums."""


def thinned(points: np.ndarray, rings: np.ndarray, off: float, keep: np.ndarray) -> None:
    """Marks in `keep` the corners of rings that must stay so that none of the others is farther than `off` from the
    straight that takes its place: from the last corner kept, the cone of ways that pass near all that were left out."""
    for r in range(len(rings) - 1):
        first, last = rings[r], rings[r + 1]
        if last <= first:
            continue
        keep[first] = 1
        anchor = first
        # The cone's two sides, as ways from the anchor; none yet while `open`.
        lx = ly = hx = hy = 0.0
        narrow = False
        i = first + 1
        while i < last:
            dx, dy = points[i, 0] - points[anchor, 0], points[i, 1] - points[anchor, 1]
            if narrow and (lx * dy - ly * dx < 0.0 or dx * hy - dy * hx < 0.0):
                anchor = i - 1
                keep[anchor] = 1
                narrow = False
                continue
            far = math.sqrt(dx * dx + dy * dy)
            if far > off:
                run = math.sqrt(far * far - off * off)
                # The way turned by asin(off / far) to either side.
                ax, ay = dx * run + dy * off, dy * run - dx * off
                bx, by = dx * run - dy * off, dy * run + dx * off
                if not narrow or lx * ay - ly * ax > 0.0:
                    lx, ly = ax, ay
                if not narrow or bx * hy - by * hx > 0.0:
                    hx, hy = bx, by
                narrow = True
            i += 1
        keep[last - 1] = 1


def cross(area: np.ndarray, at: int, xa: float, xb: float, high: float) -> None:
    """A piece of an edge within the row that begins at `at`, from xa to xb, `high` rows tall (down: negative)."""
    left, right = min(xa, xb), max(xa, xb)
    first = int(left)
    if right <= first + 1:
        middle = high * (0.5 * (xa + xb) - first)
        area[at + first] += high - middle
        area[at + first + 1] += middle
        return
    last = math.ceil(right)
    slope = high / (right - left)
    start = 1.0 - (left - first)
    end = right - last + 1.0
    a0 = 0.5 * slope * start * start
    am = 0.5 * slope * end * end
    area[at + first] += a0
    if last == first + 2:
        area[at + first + 1] += high - a0 - am
    else:
        a1 = slope * (0.5 + start)
        area[at + first + 1] += a1 - a0
        for x in range(first + 2, last - 1):
            area[at + x] += slope
        area[at + last - 1] += high - a1 - (last - first - 3) * slope - am
    area[at + last] += am


def edge(area: np.ndarray, spans: np.ndarray, wide: int, x0: float, y0: float, x1: float, y1: float) -> None:
    """An edge from (x0, y0) to (x1, y1) in pixels of the field; what lies left of it counts as at its left border, what
    lies right of it does not count.

    area: rows of wide + 2, one after the other; spans (rows, 2): first and last column touched in each.
    """
    rows, far = spans.shape[0], float(wide)
    sign = 1.0
    if y0 > y1:
        x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
    if y0 == y1 or y1 <= 0.0 or y0 >= rows:
        return
    slope = (x1 - x0) / (y1 - y0)
    foot = min(y1, float(rows))
    y = max(y0, 0.0)
    x = x0 + (y - y0) * slope
    row = int(y)
    while y < foot:
        below = min(row + 1.0, foot)
        after = x0 + (below - y0) * slope
        high = sign * (below - y)
        left, right = min(x, after), max(x, after)
        at = row * (wide + 2)
        if left >= 0.0 and right <= far:
            cross(area, at, x, after, high)
        elif left < far:
            # Partly beyond a border: the share beyond the left one counts as at it.
            beyond = (min(right, 0.0) - min(left, 0.0)) / (right - left) if right > left else 1.0
            area[at] += high * beyond
            whole = right - left
            left, right = max(left, 0.0), max(left, 0.0, min(right, far))
            if right > left:
                cross(area, at, left, right, high * (right - left) / whole)
        if left < far:
            spans[row, 0] = min(spans[row, 0], int(left))
        # What begins on the page and ends beyond its right border covers all between.
        spans[row, 1] = max(spans[row, 1], int(min(right, far)) + 1)
        y, x = below, after
        row += 1


def sweep(area: np.ndarray, at: int, span: np.ndarray, ink: np.ndarray, value: np.ndarray, alpha: np.ndarray) -> None:
    """Lays what the row that begins at `at` has gathered on a row of pixels, and empties it. ink (c,): the value of
    each channel; value: c numbers a pixel, one pixel after the other; alpha: of no size on paper."""
    channels = len(ink)
    wide, clear, total = len(value) // channels, len(alpha) > 0, 0.0
    for x in range(span[0], span[1] + 1):
        here = area[at + x]
        if here != 0.0:
            area[at + x] = 0.0
            total += here
        covered = min(abs(total), 1.0)
        if covered > LEAST and x < wide:
            for c in range(channels):
                k = x * channels + c
                value[k] += (ink[c] - value[k]) * covered
            if clear:
                alpha[x] += (1.0 - alpha[x]) * covered


def fill(
    points: np.ndarray,
    rings: np.ndarray,
    lines: np.ndarray,
    reach: np.ndarray,
    inks: np.ndarray,
    top: int,
    value: np.ndarray,
    alpha: np.ndarray,
) -> None:
    """Lays lines, back to front, on a band of rows from `top` on.

    points (n, 2) in pixels; rings: where each begins in points (last: n); lines: where each begins in rings; reach
    (lines, 4): first and last row, first and last column; inks (lines, c): the value of each channel, 0..1. value:
    channels times alpha, (rows, width * c); alpha (rows, width) or (rows, 0).
    """
    rows, channels = value.shape[0], inks.shape[1]
    wide = value.shape[1] // channels
    area = np.zeros(rows * (wide + 2), np.float32)
    spans = np.empty((rows, 2), np.int64)
    for k in range(len(lines) - 1):
        low, high = max(0, reach[k, 0] - top), min(rows - 1, reach[k, 1] - top)
        left, across = max(0, reach[k, 2]), min(wide - 1, reach[k, 3]) + 1 - max(0, reach[k, 2])
        if high < low or across <= 0:
            continue
        # Each line has a field of its own, no larger than it needs: near memory is quick.
        field = spans[: high + 1 - low]
        field[:, 0], field[:, 1] = across + 2, -1
        for r in range(lines[k], lines[k + 1]):
            first, last = rings[r], rings[r + 1]
            x, y = points[last - 1, 0] - left, points[last - 1, 1] - (top + low)
            for i in range(first, last):
                u, v = points[i, 0] - left, points[i, 1] - (top + low)
                edge(area, field, across, x, y, u, v)
                x, y = u, v
        for row in range(len(field)):
            if field[row, 1] >= 0:
                right = left + across
                shown = alpha[low + row, min(left, alpha.shape[1]) : min(right, alpha.shape[1])]
                sweep(
                    area,
                    row * (across + 2),
                    field[row],
                    inks[k],
                    value[low + row, left * channels : right * channels],
                    shown,
                )
