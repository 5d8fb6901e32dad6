"""What the tour shows of Hand over: inks and finishes, the flats map, a delivery that was made."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QCoreApplication

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

INKS = (("umber", "#5a3a22", ("Lantern",)), ("night blue", "#1d2f5a", ("Heron",)))
FINISHES = ({"pass": "soft", "radius": 0.5, "strength": 0.35},
            {"pass": "off-register", "by": [0.8, 0.5], "colour": "#d9603a", "parts": ["Scarf"]},
            {"pass": "second-pass", "parts": ["Heron"]})  # fmt: skip


def show_hand_over(main_window: "MainWindow", shot: str, folder: Path) -> None:
    """Lays inks and finishes for the first picture, and shows what each needs. folder: for a delivery."""
    from plain_stride.desk.stations.hand_over import FINISH, FLATS_PAGE, SEND

    station, session = main_window.desk.hand_over(), main_window.session
    if shot == "hand-over":
        session.choose([])
        session.make("board", target="fine offset")
        for name, hue, parts in INKS:
            session.make("ink", name=name, colour=hue)
            for part in parts:
                session.make("part", name=part, ink=name)
        session.make("finishes", finishes=list(FINISHES))
        station.pages.words[FINISH].click()
    elif shot == "hand-over-flats":
        station.pages.words[FLATS_PAGE].click()
        _wait(lambda: station.link.known)
        found = station.link.found
        assert found is not None
        one = max((flat for flat in found.flats if flat.part == "Coat"), key=lambda flat: flat.area.area)
        station.link.pick(one.id)
    else:
        station.pages.words[SEND].click()
        station.send.deliver(folder / "delivered.zip")
        _wait(lambda: not station.send.working)
    main_window.desk.sheet.viewport.fit()
    main_window.desk.sheet.update()
    _wait(station.sight_is_true)


def _wait(until: Callable[[], bool]) -> None:
    while not until():
        QCoreApplication.processEvents()
