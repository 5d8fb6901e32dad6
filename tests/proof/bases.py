"""Drawings that are clean by construction, as the lines of an import: nothing in them is a fault.

Compositions of our own (houses, round figures with folds, hills, sheets of hair, hatching) and the Hershey letters (U.S.
National Bureau of Standards, 1967, by the package HersheyFonts), whose strokes that touch are carried into each other.
Nothing here knows how the proof looks for faults.
"""

import itertools

import numpy as np
import shapely

STEP = 0.3


class Sheet:
    """Lines of one drawing, laid one by one; places that are taken are left alone."""

    def __init__(self, seed, size=(180.0, 130.0)):
        self.rng = np.random.default_rng(seed)
        self.size, self.lines, self.names = size, [], itertools.count(1)

    def lay(self, points, width, role="inner", part="Lines", closed=False, ends="round", swell=0.25, name=None):
        """A line of `width` mm that swells along its length by some share."""
        points = even(np.asarray(points, float), closed)
        share = np.linspace(0.0, 1.0, len(points))
        shape = 1.0 + swell * (np.cos(2 * np.pi * share) * -0.5 if closed else np.sin(np.pi * share) - 0.5)
        line = {
            "id": name or f"b{next(self.names)}",
            "part": part,
            "role": role,
            "closed": closed,
            "points": points,
            "widths": width * shape,
            "ends": [ends, ends],
        }
        self.lines.append(line)
        return line


def even(points, closed=False):
    """The same chain in steps of STEP, corners kept."""
    ring = np.vstack([points, points[:1]]) if closed else points
    out = []
    for a, b in itertools.pairwise(ring):
        n = max(1, int(np.ceil(np.hypot(*(b - a)) / STEP)))
        out.append(a + np.linspace(0.0, 1.0, n, endpoint=False)[:, None] * (b - a))
    if not closed:
        out.append(ring[-1:])
    return np.concatenate(out)


def bow(a, b, rise, n=60):
    """A parabola from a to b that stands off the chord by `rise` of its length."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    t = np.linspace(0.0, 1.0, n)[:, None]
    across = np.array([-(b - a)[1], (b - a)[0]])
    return a + t * (b - a) + 4 * t * (1 - t) * rise * across


def ellipse(x, y, a, b, n=160):
    t = np.linspace(0, 2 * np.pi, n, endpoint=False)
    return np.column_stack([x + a * np.cos(t), y + b * np.sin(t)])


def inside(outline, share):
    """The stretch of a chain that lies in a ring, its ends on the ring."""
    cut = shapely.intersection(shapely.LineString(share), shapely.Polygon(outline))
    parts = [part for part in shapely.get_parts(cut) if part.geom_type == "LineString"]
    return np.array(max(parts, key=lambda one: one.length).coords)


def figures(seed):
    """Round things in rows, each with an outline, contours that end on it, and folds inside."""
    sheet = Sheet(seed)
    rng = sheet.rng
    for row, column in itertools.product(range(3), range(4)):
        x, y = 28.0 + 42.0 * column + rng.uniform(-2, 2), 26.0 + 39.0 * row + rng.uniform(-2, 2)
        a, b = rng.uniform(12, 16, 2)
        t = np.linspace(0, 2 * np.pi, 200, endpoint=False)
        r = 1.0 + sum(rng.uniform(0.0, 0.05) * np.cos(k * t + rng.uniform(0, 6.3)) for k in (2, 3))
        outline = np.column_stack([x + a * r * np.cos(t), y + b * r * np.sin(t)])
        part = f"Figure {row}{column}"
        sheet.lay(outline, 0.7, "outer", part, closed=True)
        for level in (-0.45, 0.1, 0.55):
            across = bow(
                (x - 2 * a, y + level * b + rng.uniform(-1, 1)), (x + 2 * a, y + level * b), rng.uniform(0.03, 0.09)
            )
            cut = inside(outline, across)
            if np.hypot(*(cut[-1] - cut[0])) > 0.9 * a:
                sheet.lay(cut, 0.35, "inner", part)
        for _ in range(2):
            fold = free_bow(sheet, (x - 0.5 * a, y - 0.6 * b), (x + 0.3 * a, y + 0.6 * b), 2.0)
            if fold is not None:
                sheet.lay(fold, 0.3, "detail", part, ends="pointed")
    return sheet


def free_bow(sheet, low, high, far):
    """A short bow in a box that lies so far from all lines; None where there is no room."""
    for _ in range(60):
        at = sheet.rng.uniform(low, high)
        points = bow(at, at + [sheet.rng.uniform(4, 6), sheet.rng.uniform(-1, 1)], 0.1)
        chain = shapely.LineString(points)
        if all(shapely.LineString(one["points"]).distance(chain) > far for one in sheet.lines):
            return points
    return None


def houses(seed):
    """Ruled boxes with roofs, windows and boards."""
    sheet = Sheet(seed)
    rng = sheet.rng
    for row, column in itertools.product(range(2), range(3)):
        x, y = 12.0 + 56.0 * column + rng.uniform(-1, 1), 42.0 + 60.0 * row
        w, h, roof = rng.uniform(32, 40), rng.uniform(18, 22), rng.uniform(9, 13)
        part = f"House {row}{column}"

        def rule(*points, width=0.5, part=part):
            sheet.lay(points, width, "ruled", part, swell=0.0)

        rule((x, y), (x, y + h))
        rule((x + w, y), (x + w, y + h))
        rule((x, y + h), (x + w, y + h))
        rule((x, y), (x + w, y))
        rule((x, y), (x + w / 2, y - roof))
        rule((x + w / 2, y - roof), (x + w, y))
        for k in range(2):
            u, v = x + w * (0.2 + 0.4 * k), y + h * 0.3
            corners = np.array([[u, v], [u + 6, v], [u + 6, v + 7], [u, v + 7]])
            for a, b in itertools.pairwise([*corners, corners[0]]):
                rule(a, b, width=0.35)
            rule((u + 3, v), (u + 3, v + 7), width=0.25)
            rule((u, v + 3.5), (u + 6, v + 3.5), width=0.25)
    return sheet


def hills(seed):
    """Hills that stand behind each other, each line ending on the one in front; grass on the nearest."""
    sheet = Sheet(seed)
    rng = sheet.rng
    crests = []
    for k, part in enumerate(("Near hill", "Middle hill", "Far hill")):
        x = np.linspace(8.0, 172.0, 240)
        y = 105.0 - 28.0 * k - 9.0 * np.sin(x / 40.0 + rng.uniform(0, 6.3)) - 3 * np.sin(x / 17.0 + rng.uniform(0, 6.3))
        crests.append(np.column_stack([x, y]))
        sheet.lay(crests[-1], (0.9, 0.6, 0.4)[k], "outer", part)
    for k, part in ((0, "Near hill"), (1, "Middle hill")):
        for x in np.arange(18.0, 168.0, 19.0) + rng.uniform(-3, 3, 8):
            foot = np.array([x, np.interp(x, *crests[k].T)])
            top = foot - [rng.uniform(-3, 3), rng.uniform(11, 14)]
            sheet.lay(bow(foot, top, rng.uniform(-0.08, 0.08)), (0.5, 0.4)[k], "inner", part, ends="pointed")
            for side in (-1, 1):
                start = foot + 0.55 * (top - foot)
                start = _on(sheet.lines[-1 if side < 0 else -2]["points"], start)
                sheet.lay(bow(start, start + [side * 4.0, -3.0], side * -0.1), 0.3, "detail", part, ends="pointed")
    return sheet


def _on(points, at):
    line = shapely.LineString(points)
    return np.array(line.interpolate(line.project(shapely.Point(at))).coords[0])


def hair(seed):
    """Sheets of long strands that run with each other, in outlines."""
    sheet = Sheet(seed)
    rng = sheet.rng
    for row, column in itertools.product(range(2), range(3)):
        x, y = 10.0 + 58.0 * column, 12.0 + 60.0 * row
        lean = rng.uniform(-0.15, 0.15)
        for k in range(12):
            a = np.array([x + 3.6 * k, y + rng.uniform(0, 1.5)])
            b = a + [rng.uniform(-0.6, 0.6) + 40.0 * lean, 46.0 + rng.uniform(-1.5, 1.5)]
            sheet.lay(bow(a, b, 0.04), 0.35, "inner", f"Hair {row}{column}", ends="pointed")
    return sheet


def hatching(seed):
    """Fields of even strokes beside round outlines."""
    sheet = Sheet(seed)
    rng = sheet.rng
    for row, column in itertools.product(range(2), range(3)):
        x, y = 14.0 + 56.0 * column, 12.0 + 60.0 * row
        part = f"Field {row}{column}"
        sheet.lay(ellipse(x + 22, y + 24, 24, 26), 0.7, "outer", part, closed=True)
        pitch, turn = rng.uniform(0.9, 1.3), rng.uniform(0.2, 1.2)
        way, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        for k in range(16):
            middle = np.array([x + 22, y + 24]) + across * (k - 7.5) * pitch
            long = 7.0
            sheet.lay([middle - way * long, middle + way * long], 0.3, "texture", part, ends="pointed", swell=0.1,
                      name=f"h{row}{column}.{k}")  # fmt: skip
    return sheet


FONTS = ("futural", "rowmans", "scripts", "cursive", "timesi")


def letters(seed, font="futural", rows=("ABDEFHKMNPQR", "TVWXYZaehkmr", "tyzx4789BEFH")):
    """Hershey letters, 14 mm high; strokes that meet end in each other's middles."""
    from HersheyFonts import HersheyFonts

    sheet = Sheet(seed)
    book = HersheyFonts()
    book.load_default_font(font)
    book.normalize_rendering(14)
    for row, text in enumerate(rows):
        for column, letter in enumerate(text):
            for stroke in book.strokes_for_text(letter):
                points = np.array(stroke, float) * [1, -1] + [8 + 14.2 * column, 20 + 38 * row]
                long = np.hypot(*np.diff(points, axis=0).T).sum() if len(points) > 1 else 0.0
                if long > 2.0:
                    sheet.lay(points, 0.5, "inner", "Letters", swell=0.15)
    return sheet
