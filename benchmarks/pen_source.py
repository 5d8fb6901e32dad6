"""A pen in a process of its own: samples stamped and sent when the wall clock says, 200 a second, in pulls of 2 s.

python -m benchmarks.pen_source SECONDS LEFT TOP WIDTH HEIGHT; rows of `ROW` on the standard output: stamp (s, of
time.perf_counter), x, y (pixels), pressure, kind (0 press, 1 move, 2 lift).
"""

import math
import os
import struct
import sys
import time

ROW = struct.Struct("ddddd")
RATE, PULL_S, REST_S = 200, 2.0, 0.2


def main() -> None:
    seconds, left, top, width, height = (float(v) for v in sys.argv[1:6])
    start = time.perf_counter() + 0.2
    steps, due = round(PULL_S * RATE), start
    while due < start + seconds:
        for k in range(steps):
            due += 1.0 / RATE
            time.sleep(max(0.0, due - time.perf_counter()))
            t = due - start
            x = left + width * (0.5 + 0.45 * math.sin(2.0 * t) * math.cos(0.31 * t))
            y = top + height * (0.5 + 0.45 * math.sin(3.1 * t + 0.4))
            kind = 0.0 if k == 0 else 2.0 if k == steps - 1 else 1.0
            pressure = 0.5 + 0.3 * math.sin(5.0 * t)
            os.write(1, ROW.pack(time.perf_counter(), x, y, pressure, kind))
        due += REST_S


if __name__ == "__main__":
    main()
