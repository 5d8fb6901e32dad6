"""Runs the benchmarks named, or all of them, one after the other: python -m benchmarks [NAME ...]."""

import argparse
import sys

from benchmarks import (
    board,
    drawing,
    fitting,
    hand,
    hand_over,
    liking,
    lines,
    log,
    mend,
    pen,
    pixels,
    proof,
    proofing,
    reading,
    smoothers,
    starting,
    steadying,
    svg_in,
    tone,
    weigh,
    worker,
)

BENCHES = {
    "hand": hand.main,
    "smoothers": smoothers.main,
    "liking": liking.main,
    "steadying": steadying.main,
    "fit": fitting.main,
    "lines": lines.main,
    "drawing": drawing.main,
    "worker": worker.main,
    "pixels": pixels.main,
    "hand-over": hand_over.main,
    "log": log.main,
    "proof": proof.main,
    "proofing": proofing.main,
    "svg": svg_in.main,
    "reading": reading.main,
    "start": starting.main,
    "board": board.main,
    "mend": mend.main,
    "weigh": weigh.main,
    "tone": tone.main,
    "pen": pen.main,
}


def main() -> int:
    parser = argparse.ArgumentParser(prog="benchmarks", description=__doc__)
    parser.add_argument("names", nargs="*", metavar="NAME", help=f"of {', '.join(BENCHES)}; all by default")
    names = parser.parse_args().names or list(BENCHES)
    unknown = [name for name in names if name not in BENCHES]
    if unknown:
        parser.error(f"unknown: {', '.join(unknown)}")
    for name in names:
        print(f"\n{name}", flush=True)
        BENCHES[name]()
    return 0


if __name__ == "__main__":
    sys.exit(main())
