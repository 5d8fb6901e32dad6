"""Symmetry: what every new line is copied by."""

from functools import partial

from plain_stride.desk.keys.action import Action, Entry
from plain_stride.desk.sheet.gestures.gestures import Gestures
from plain_stride.desk.sheet.symmetry_in_hand import ROUNDS, SymmetryInHand, symmetry_word
from plain_stride.lines.symmetry import MIRRORED, ROUND


def symmetry_entries(symmetry: SymmetryInHand, gestures: Gestures) -> list[Entry]:
    now = symmetry_word(gestures.context.session.now.symmetry)
    kinds = [(MIRRORED, 1, "mirrored about an axis"), (MIRRORED, 2, "mirrored about two axes"),
             *((ROUND, n, f"turned round, {n} in all") for n in ROUNDS)]  # fmt: skip
    words = {(MIRRORED, 1): "mirrored", (MIRRORED, 2): "2 axes"}
    return [
        Action(words="single lines", run=symmetry.off, checked=lambda: now == "single"),
        *(_kind(symmetry, kind, n, told, words.get((kind, n), f"{n} round") == now) for kind, n, told in kinds),
        None,
        Action(words="lay its axis or middle elsewhere…",
               run=lambda: gestures.take_tool(symmetry.laying_tool())),
    ]  # fmt: skip


def _kind(symmetry: SymmetryInHand, kind: str, count: int, words: str, chosen: bool) -> Action:
    return Action(words=words, run=partial(symmetry.use, kind, count), checked=lambda: chosen)


def symmetry_actions(symmetry: SymmetryInHand) -> list[Action]:
    return [Action(key="M", held="new lines are copied by the symmetry, or single", tapped="keep it so, or back",
                   run=symmetry.toggle, hold=symmetry.toggle, let_go=symmetry.toggle)]  # fmt: skip
