"""A warm-up for today's page and this hand: which drills, how many pulls, and when it is enough."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plain_stride.practice.drills import ELBOW_MM, WRIST_MM
from plain_stride.practice.settling import Settled, settled

MINUTES = (3.0, 6.0)
"""At least, at most."""
EACH = 8
"""Pulls of a drill before the next one comes."""
BEND_MM, MANY = 15.0, 0.15
"""Lines bend where their radius is smaller; a share of the page's length that calls for a drill of its own."""
ALWAYS = ("straight lines", "circles")


@dataclass(frozen=True)
class PageFacts:
    """What a page asks of the hand, by shares of its length: short, long: lines that the wrist and the shoulder pull;
    bent: bends tighter than 15 mm; hatched: hatching. pencils: whether there were any to look at."""

    short: float = 0.0
    long: float = 0.0
    bent: float = 0.0
    hatched: float = 0.0
    pencils: bool = False


def page_facts(lines: Sequence[np.ndarray], glass: float = 1.0, hatched_mm: float = 0.0) -> PageFacts:
    """Of lines (n, 2) mm of the page; glass: mm on the tablet for each of the page; hatched_mm: of hatching."""
    if not lines:
        return PageFacts(hatched=1.0 if hatched_mm else 0.0)
    lengths = np.array([np.hypot(*np.diff(line, axis=0).T).sum() for line in lines]) * glass
    whole = max(float(lengths.sum()) + hatched_mm * glass, 1e-9)
    bent = sum(_bent(line) for line in lines) * glass
    return PageFacts(
        float(lengths[lengths <= WRIST_MM].sum()) / whole,
        float(lengths[lengths > ELBOW_MM].sum()) / whole,
        bent / whole,
        hatched_mm * glass / whole,
        True,
    )


def chosen_drills(page: PageFacts, worst: Sequence[str]) -> list[str]:
    """Names of drills, one after the other: what every hand begins with, what the page asks for most, what went worst
    lately."""
    asks = {
        "from the wrist": page.short, "from the shoulder": page.long, "S-curves": page.bent, "spirals": page.bent / 2.0,
        "hatching": page.hatched, "arcs": max(0.0, 1.0 - page.short - page.bent) * MANY,
    }  # fmt: skip
    wanted = [name for name, share in sorted(asks.items(), key=lambda item: -item[1]) if share >= MANY / 2.0][:3]
    return list(dict.fromkeys([*ALWAYS, *wanted, *worst[:2], "the same stroke"]))


@dataclass(frozen=True)
class WarmUp:
    """drills: names, round and round. Pure: it is asked after each pull what comes next."""

    drills: tuple[str, ...]

    def drill(self, pulls: int) -> str:
        """Of the next pull, after so many."""
        return self.drills[pulls // EACH % len(self.drills)]

    def over(self, shakes: Sequence[float], seconds: float) -> Settled | None:
        """How it stands once it is enough, else None: settled after the least of minutes, or the most have gone.
        shakes: mm of each pull, in order."""
        if seconds < MINUTES[0] * 60.0:
            return None
        found = settled(shakes)
        return found if found.since is not None or seconds >= MINUTES[1] * 60.0 else None


def ended_words(found: Settled) -> str:
    """What is said at its end."""
    if found.since is None:
        return (f"Six minutes are over, and your shake still changes from pull to pull: it stands at "
                f"**{found.now:.2f} mm**. Begin with big lines, or pull a little more.")  # fmt: skip
    if found.began / found.now < 1.1:
        return f"Your hand was warm: its shake is **{found.now:.2f} mm**, and has been for **{found.since} pulls**."
    return (f"Your shake fell from **{found.began:.2f} to {found.now:.2f} mm** and has stayed there for"
            f" **{found.since} pulls**: you are warm.")  # fmt: skip


def _bent(line: np.ndarray) -> float:
    """mm of a line (n, 2) whose radius is less than BEND_MM."""
    step = np.diff(line, axis=0)
    long = np.hypot(*step.T)
    if len(long) < 3:
        return 0.0
    turn = np.abs(np.diff(np.unwrap(np.arctan2(step[:, 1], step[:, 0]))))
    at = (long[1:] + long[:-1]) / 2.0
    window = max(1, round(3.0 / max(float(at.mean()), 1e-6)))
    kernel = np.ones(window)
    rate = np.convolve(turn, kernel, "same") / np.maximum(np.convolve(at, kernel, "same"), 1e-9)
    return float(at[rate > 1.0 / BEND_MM].sum())
