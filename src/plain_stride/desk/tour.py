"""The tour: a picture of every station, made without a display."""

import os
import tempfile
import time
from pathlib import Path

from plain_stride.errors import StrideError

SIZE = (1280, 800)
REST_S = 1.0
"""Facts that take some thought are told when nothing has changed for a moment."""


class TourError(StrideError):
    """The pictures cannot be put where they should go."""


def tour(folder: Path) -> int:
    """Saves a PNG of every station, showing a demo of its own, into `folder`."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise TourError(f"{folder} cannot be made: {fault.strerror}") from None
    from plain_stride.job.demo import DEMO_NAME, make_demo

    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / f"{DEMO_NAME}.stride"
        make_demo(path)
        os.environ["XDG_CONFIG_HOME"] = temporary
        _take_pictures(path, folder)
    return 0


def _take_pictures(path: Path, folder: Path) -> None:
    from plain_stride.desk.settings import Settings
    from plain_stride.desk.shell import Shell
    from plain_stride.desk.start import application

    app = application()
    shell = Shell(path, Settings())
    shell.resize(*SIZE)
    shell.show()
    shots = [("board", "Board", "", "day"), ("pencils", "Pencils", "", "day"), ("pull", "Pull", "Hand", "day"),
             ("pull-evening", "Pull", "Line", "evening"), ("weigh", "Weigh", "", "day"),
             ("hand-over", "Hand over", "", "day")]  # fmt: skip
    for name, station, page, variant in shots:
        shell.use_variant(variant)
        shell.show_station(station)
        if page:
            shell.stations[station].show_page(page)  # type: ignore[attr-defined]
        shell.sheet.fit()
        rested = time.monotonic() + REST_S
        while time.monotonic() < rested or shell.sheet.layer.busy:
            app.processEvents()
        if not shell.grab().save(str(folder / f"{name}.png")):
            raise TourError(f"{folder / name}.png cannot be written")
    shell.close()
    shell.deleteLater()
    app.processEvents()
