"""A display of its own for a real window: Xvfb, started and ended around a piece of work."""

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def virtual_display(size: str = "1280x800x24") -> Iterator[dict[str, str]]:
    """The environment of a process whose window shall open on a fresh Xvfb. Needs Debian's package xvfb."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", size, "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    try:
        with os.fdopen(read) as told:
            number = told.readline().strip()
        if not number:
            raise RuntimeError("Xvfb did not start")
        yield {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
    finally:
        server.terminate()
        server.wait()
