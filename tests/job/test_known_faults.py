"""Ends tidied on letters whose faults are known. Outside: the strokes of the Hershey letters (U.S. National Bureau of
Standards, 1967, by the package HersheyFonts), shapely's distances and areas.

Faults as a script makes them: gaps of 0.2 to 1.2 mm and overshoots of 0.3 to 1.5 mm, measured between edges of ink, at
ends that meet another stroke. Mended: the end lies in the other's ink, and no stub is left beyond it. Touched: a sound
end that moved by more than 0.01 mm.
"""

from dataclasses import dataclass, field

import numpy as np
import shapely
from HersheyFonts import HersheyFonts
from shapely.ops import substring

from plain_stride.lines.given import form_from_points
from tests.job.test_mending import ink

WIDE, TALL, STEP = 0.5, 18, 0.01
ROWS = ("ABDEFHKMNPQR", "TVWXYZaehkmr", "tyzx4789BEFH")


@dataclass
class Letters:
    """strokes (n, 2) mm; faults: by (stroke, end), what it is to meet; sound: ends that meet, with no fault near."""

    strokes: list
    faults: dict = field(default_factory=dict)
    sound: list = field(default_factory=list)


def letters(random) -> Letters:
    font = HersheyFonts()
    font.load_default_font("futural")
    font.normalize_rendering(TALL)
    strokes = []
    for row, text in enumerate(ROWS):
        for column, letter in enumerate(text):
            for stroke in font.strokes_for_text(letter):
                points = np.array(stroke, float) * [1, -1] + [10 + 30 * column, 30 + 40 * row]
                if len(points) > 1:
                    strokes.append(points)
    out = Letters(strokes)
    lines = [shapely.LineString(points) for points in strokes]
    ends = []
    for i, points in enumerate(strokes):
        if lines[i].length < 4 or np.hypot(*(points[0] - points[-1])) < 0.1:
            continue
        for end in (0, 1):
            place = shapely.Point(points[-end])
            met = [j for j, line in enumerate(lines) if j != i and line.distance(place) < 0.05]
            ends += [(i, end, met)] if met else []
    random.shuffle(ends)
    used = set()
    for i, end, met in ends[: len(ends) // 2]:
        if i in used or used & set(met):
            continue
        faulty = _faulty(strokes[i], end, shapely.union_all([lines[j].buffer(WIDE / 2) for j in met]), random)
        if faulty is not None:
            strokes[i] = faulty
            out.faults[i, end] = met
            used.add(i)
    out.sound = [one for one in ends if one[:2] not in out.faults and not used & set(one[2])]
    return out


def _faulty(points, end, other, random):
    """A stroke with a gap or an overshoot at an end, so wide between edges of ink; None where it has no room."""
    gap = random.random() < 0.5
    size = random.uniform(0.2, 1.2) if gap else random.uniform(0.3, 1.5)
    long = shapely.LineString(points).length
    for mm in np.arange(0.0, long * 0.4 if gap else 8.0, STEP):
        new = _drawn_back(points, end, mm if gap else -mm)
        away = other.distance(shapely.Point(new[-end])) + (-WIDE if gap else WIDE) / 2
        if away >= size:
            return new
    return None


def _drawn_back(points, end, mm):
    """A stroke that loses so many mm at an end, or goes on straight."""
    turned = points if end else points[::-1]
    if mm > 0:
        new = np.array(substring(shapely.LineString(turned), 0, shapely.LineString(turned).length - mm).coords)
    else:
        way = turned[-1] - turned[-2]
        new = np.vstack([turned, turned[-1] - mm * way / np.hypot(*way)])
    return new if end else new[::-1]


def mended(open_job, key, end, others):
    shape = open_job.shapes[key]
    other, tip = shapely.union_all([ink(open_job, k) for k in others]), shapely.Point(shape.flat[0][-end])
    back = shapely.Point(shape.arc.point(np.array([shape.length - 1.0 if end else 1.0]))[0])
    beyond = shapely.get_parts(ink(open_job, key).intersection(tip.buffer(0.8 * WIDE)).difference(other))
    stub = max((np.sqrt(part.area) for part in beyond if part.distance(back) > 0.8), default=0.0)
    return other.buffer(0.01).contains(tip) and stub < 0.25


def test_faults_of_hershey_letters_are_mended_and_sound_ends_are_not_touched(open_job):
    good = faults = touched = sound = 0
    for seed in (1, 2, 3):
        made = letters(np.random.default_rng(seed))
        half, nib = WIDE / 2, open_job.job.nibs()["3"]
        keys = [open_job.do("line", form=form_from_points(points, np.full(len(points), half), np.full(len(points), half),
                                                          False), nib=nib) for points in made.strokes]  # fmt: skip
        open_job.do("plan", share=0)
        before = {(i, end): open_job.shapes[keys[i]].flat[0][-end].copy() for i, end, _ in made.sound}
        open_job.do("tidy", lines=keys, gap=1.25, overshoot=1.55)
        good += sum(mended(open_job, keys[i], end, [keys[j] for j in met]) for (i, end), met in made.faults.items())
        moved = [np.hypot(*(open_job.shapes[keys[i]].flat[0][-end] - at)) for (i, end), at in before.items()]
        touched += sum(way > 0.01 for way in moved)
        faults, sound = faults + len(made.faults), sound + len(made.sound)
        open_job.do("delete", lines=keys)
    assert faults > 60 and sound > 60
    assert good >= 0.97 * faults
    assert touched <= 0.01 * sound
