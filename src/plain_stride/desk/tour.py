"""The tour: a picture of every station, made without a display."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from plain_stride.errors import StrideError
from plain_stride.job.board_facts import frames_of

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from plain_stride.desk.main_window import MainWindow

SIZE = (1280, 800)
REST_S, STRAYS_MM = 1.0, 0.4
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
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.demo.job import DEMO_NAME, make_demo

    load_if_compiled()
    with tempfile.TemporaryDirectory() as temporary:
        path = Path(temporary) / f"{DEMO_NAME}.stride"
        make_demo(path)
        os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = temporary
        _take_pictures(path, folder)
        _final_art(Path(temporary) / "finished.stride", folder / "final-art.png")
    return 0


def _final_art(path: Path, out: Path) -> None:
    """The demo inked to the end, exported at its full size."""
    from plain_stride.demo.job import make_demo
    from plain_stride.finish.write import write_whole
    from plain_stride.job.art import art_of
    from plain_stride.job.job_files import opened
    from plain_stride.job.shapes import Shapes
    from plain_stride.render.export import png_of

    make_demo(path, finished=True)
    with opened(path) as (job, store):
        write_whole(out, png_of(art_of(job, Shapes(job, store)), False, False))


def _save(main_window: "MainWindow", widget: "QWidget", path: Path) -> None:
    """A picture of a widget, once facts are told and pictures whole."""
    from PySide6.QtCore import QCoreApplication

    _wait(lambda: main_window.session.weigher.settled)
    rested = time.monotonic() + REST_S
    # What is asked of the drawing, as a map of its weights, is asked as the station is shown.
    asked = main_window.session.drawing.worker
    while (
        time.monotonic() < rested or asked.busy or main_window.desk.sheet.layer.busy or getattr(widget, "busy", False)
    ):
        QCoreApplication.processEvents()
    if not widget.grab().save(str(path)):
        raise TourError(f"{path} cannot be written")


def _more_pictures(main_window: "MainWindow", folder: Path) -> None:
    """What is not a station: the history, the sheet of keys, the opening sheet."""
    from plain_stride.desk.dialogs.history import History
    from plain_stride.desk.dialogs.key_sheet import KeySheet
    from plain_stride.desk.keys.key_plan import KEYS

    main_window.preferences.use_variant("day")
    session, layer = main_window.session, main_window.desk.sheet.layer
    for name, box, size in (
        ("history", History(main_window, session, layer, lambda step: None, lambda: None), (720, SIZE[1])),
        ("keys", KeySheet(main_window, main_window.desk.all_actions, KEYS, lambda: None), (900, SIZE[1])),
    ):
        box.resize(*size)
        box.show()
        _save(main_window, box, folder / f"{name}.png")
        box.close()
    main_window.show_opening()
    _save(main_window, main_window, folder / "opening.png")


def _prepare(main_window: "MainWindow", shot: str) -> None:
    """What a picture needs besides its station: frames on the sheet, the pencils read, what the ink lost shown."""
    from plain_stride.desk.session.pencil_reader import LOST
    from plain_stride.desk.stations.weigh import WeighNotes

    reader = main_window.desk.pencils().reader
    if shot == "board-frames":
        main_window.session.make("frame-grid", rows=2, columns=2)
        main_window.session.make("frame-merge", frames=list(frames_of(main_window.session.job))[2:])
    elif shot == "pencils-read":
        # The frames of the picture before are no part of the demo.
        main_window.session.timeline.undo()
        main_window.session.timeline.undo()
        reader.read()
        _wait(lambda: not reader.running)
        main_window.desk.pencils().show_worst()
    elif shot == "pencils-ink":
        reader.show(LOST)
        main_window.desk.moments.show_ink_alone(True)
    elif shot == "pull":
        learned: list[bool] = []
        main_window.desk.turning.learn(lambda: learned.append(True))
        _wait(lambda: bool(learned))
        reader.show("")
        main_window.session.show_on_strip(None)
        main_window.desk.moments.show_ink_alone(False)
    elif shot == "weigh":
        # The hem of the coat, which turns from the lantern and back.
        rows = main_window.session.job.rows
        coat = [key for key, row in rows.lines.items() if rows.parts[row.part].name == "Coat" and row.role == "outer"]
        main_window.session.choose(coat[:1])
    elif shot == "tone":
        _show_hatching(main_window)
    elif shot == "weigh-map":
        weigh = main_window.desk.stations["Weigh"]
        assert isinstance(weigh, WeighNotes)
        main_window.session.choose([])
        weigh.see.show_map(True)
    elif shot == "pull-again":
        _show_takes(main_window)
    elif shot in ("pull-nib", "pull-evening"):
        main_window.session.take(again=False)
        main_window.session.choose([])
        main_window.desk.sheet.viewport.point(None)
        main_window.say("", False)


def _show_hatching(main_window: "MainWindow") -> None:
    """The coat's shadow in hand."""
    from plain_stride.desk.stations.weigh import WeighNotes

    weigh = main_window.desk.stations["Weigh"]
    assert isinstance(weigh, WeighNotes)
    weigh.see.show_map(False)
    job = main_window.session.job
    coat = next(key for key, row in job.rows.tones.items() if row.told.get("core"))
    strokes = job.tone_ink(coat)
    main_window.session.choose(strokes[len(strokes) // 3 :][:1])


def _strays_little(main_window: "MainWindow", key: str) -> bool:
    """Whether a near part's line keeps to a pencil line that was read."""
    from plain_stride.hand.follow import line_followed
    from plain_stride.hand.takes import straying_of

    session = main_window.session
    row = session.job.rows.lines[key]
    near = any(part.id == row.part and part.tier == "near" for part in session.job.parts())
    points = session.shapes[key].flat[0]
    pencil = line_followed(points, session.strokes.guides) if near else None
    return pencil is not None and straying_of(points, pencil) < STRAYS_MM


def _show_takes(main_window: "MainWindow") -> None:
    """Three more takes of a line by simulated hands, and the key for another one tapped."""
    import numpy as np
    from PySide6.QtCore import QPointF

    from plain_stride.hand.pull import Pull
    from plain_stride.hand.simulated import HANDS, pulled

    session = main_window.session
    pulled_lines = [key for key in session.shapes.visible() if session.job.rows.lines[key].pull]
    by_length = sorted(pulled_lines, key=lambda key: -session.shapes[key].length)
    key = next(key for key in by_length if _strays_little(main_window, key))
    shape = session.shapes[key]
    meant = shape.arc.point(np.linspace(0.0, shape.length, 80))
    for seed, hand in enumerate(("average", "shaky", "calm")):
        session.choose([key])
        session.make("again", line=key, pull=Pull(pulled(meant, HANDS[hand], "normal", seed), session.nib), what="take")
    session.arm_again()
    main_window.desk.sheet.viewport.point(QPointF(*main_window.desk.sheet.view.to_glass(meant[:1])[0]))


def _wait(until: Callable[[], bool]) -> None:
    from PySide6.QtCore import QCoreApplication

    while not until():
        QCoreApplication.processEvents()


def _take_pictures(path: Path, folder: Path) -> None:
    from plain_stride.desk.main_window import MainWindow
    from plain_stride.desk.settings import Settings
    from plain_stride.desk.start import application
    from plain_stride.desk.stations.base import PagedNotes
    from plain_stride.desk.tour_apart import SHOTS as APART_SHOTS
    from plain_stride.desk.tour_apart import show_apart
    from plain_stride.desk.tour_hand_over import show_hand_over
    from plain_stride.desk.tour_mend import put_away, show_mending
    from plain_stride.desk.tour_proof import show_proof

    app = application()
    main_window = MainWindow(path, Settings())
    main_window.resize(*SIZE)
    main_window.show()
    shots = [("board", "Board", "Sheet", "day"), ("board-frames", "Board", "Frames", "day"),
             ("pencils-read", "Pencils", "Read", "day"), ("pencils-ink", "Pencils", "Ink", "day"),
             ("pull", "Pull", "Hand", "day"), ("pull-again", "Pull", "Again", "day"),
             ("parts", "Pull", "Hand", "day"),
             ("pull-evening", "Pull", "Line", "evening"), ("weigh", "Weigh", "Plan", "day"),
             ("weigh-map", "Weigh", "See", "day"), ("tone", "Tone", "Hatch", "day"),
             ("mend-points", "Mend", "Shape", "day"), ("mend-bend", "Mend", "Shape", "day"),
             ("mend-meetings", "Mend", "Ends", "day"), ("mend-strip", "Mend", "Ends", "day"),
             ("proof", "Proof", "Notes", "day"), ("proof-print", "Proof", "Looks", "day"),
             ("hand-over", "Hand over", "", "day"), ("hand-over-flats", "Hand over", "", "day"),
             ("hand-over-send", "Hand over", "", "day"), *APART_SHOTS]  # fmt: skip
    for name, station, page, variant in shots:
        _prepare(main_window, name)
        main_window.preferences.use_variant(variant)
        main_window.desk.show_station(station)
        if page:
            notes = main_window.desk.stations[station]
            assert isinstance(notes, PagedNotes)
            notes.show_page(page)
        main_window.desk.sheet.viewport.fit()
        if name == "parts":
            main_window.desk.show_parts(True)
        if station == "Mend":
            show_mending(main_window, name)
        if station == "Proof":
            show_proof(main_window, name)
        if station == "Hand over":
            show_hand_over(main_window, name, path.parent)
        if station in ("Practice", "Log"):
            show_apart(main_window, name, path.parent)
        _save(main_window, main_window, folder / f"{name}.png")
        if station == "Mend":
            put_away(main_window)
    _more_pictures(main_window, folder)
    main_window.close()
    main_window.deleteLater()
    app.processEvents()
