"""How well the proof finds what is wrong: faults planted by script, at four sizes; what it marks on clean drawings; and
how well widths of finished inks are read back.

The drawings named in UNSEEN, and the letters of all fonts in them, were not looked at while limits were set.
"""

import tempfile
from collections import Counter
from pathlib import Path

import numpy as np

from plain_stride.compiled import ready
from tests.proof import bases, planting
from tests.proof.scoring import Score, points_at, proofed, scored

SEEN, UNSEEN = (100, 101, 102), (900, 901)
MADE = {"figures": bases.figures, "houses": bases.houses, "hills": bases.hills, "hair": bases.hair,
        "hatching": bases.hatching, "letters": bases.letters}  # fmt: skip
FONTS = ("rowmans", "cursive", "scripts", "timesi", "gothiceng")
"""Hershey fonts that nothing was tuned on."""
PLANTED, FIRST = 5, 10


def main() -> None:
    ready.load()
    with tempfile.TemporaryDirectory() as folder:
        for words, seeds in (("looked at", SEEN), ("unseen", UNSEEN)):
            _clean(Path(folder), words, seeds)
            for kind in planting.SIZES:
                rows = [_scored(Path(folder), kind, level, seeds) for level in range(4)]
                told = "  ".join(f"{one.found:2}/{one.planted:2} {one.precision:.2f}" for one in rows)
                print(f"  {words:9} {kind:17} found, precision under, at, twice, well over its limit: {told}")
        _first_ten(Path(folder))
        _clean_letters(Path(folder))


def _first_ten(folder: Path) -> None:
    """How many of the first findings of unseen drawings with two faults of each kind are true."""
    for name, make in MADE.items():
        for seed in UNSEEN:
            sheet, rng = make(seed), np.random.default_rng([seed, FIRST])
            kinds = [kind for kind in planting.SIZES if name in planting.ON[kind] and kind != "off-board"]
            made = [one for kind in kinds for one in planting.plant(sheet, kind, planting.SIZES[kind][2], 2, rng)]
            first = proofed(folder, sheet)[:FIRST]
            true = sum(bool(points_at(one, made)) for one in first)
            print(
                f"  {name}, unseen, {len(made)} faults: {true} of the first {len(first)} findings are true (>= 8 of 10)"
            )


def _scored(folder: Path, kind: str, level: int, seeds: tuple[int, ...]) -> Score:
    whole = Score()
    for name in planting.ON[kind]:
        for seed in seeds:
            sheet, rng = MADE[name](seed), np.random.default_rng([seed, level])
            made = planting.plant(sheet, kind, planting.SIZES[kind][level], PLANTED, rng)
            changes = [("board", {"margin_mm": planting.MARGIN_MM})] if kind == "off-board" else []
            one = scored(proofed(folder, sheet, (), changes), made, kind)
            whole = Score(*(getattr(whole, k) + getattr(one, k) for k in ("planted", "found", "told", "right")))
    return whole


def _clean(folder: Path, words: str, seeds: tuple[int, ...]) -> None:
    lines, told = 0, Counter[str]()
    for make in MADE.values():
        for seed in seeds:
            sheet = make(seed)
            lines += len(sheet.lines)
            told.update(one["severity"] for one in proofed(folder, sheet))
    _tell(f"clean drawings, {words}", lines, told)


def _clean_letters(folder: Path) -> None:
    for font in FONTS:
        sheet = bases.letters(1, font)
        found = proofed(folder, sheet)
        _tell(f"clean letters, {font}, unseen", len(sheet.lines), Counter(one["severity"] for one in found))
        print(f"    {dict(Counter(one['kind'] for one in found))}")


def _tell(words: str, lines: int, told: Counter[str]) -> None:
    must, should, look = (100.0 * told[name] / max(lines, 1) for name in ("must", "should", "look"))
    print(
        f"  {words}: {lines} lines; marked for each 100 lines {must:.2f} must (<= 1), {must + should:.2f} with should"
        f" (<= 3), {look:.2f} to look at"
    )
