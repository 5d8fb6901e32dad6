"""What the tour shows of the proof: a note in hand with what its mend would make; print in a glass."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QCoreApplication, QPointF

if TYPE_CHECKING:
    from plain_stride.desk.main_window import MainWindow

GLASS_MM = (118.0, 119.0)
"""The hatched beam, which newsprint hardly holds."""


def show_proof(main_window: "MainWindow", shot: str) -> None:
    """Has the proof looked at, and shows what a picture needs of it."""
    from plain_stride.desk.sheet.print_sight import GLASS
    from plain_stride.desk.stations.proof import ProofNotes

    proof = main_window.desk.stations["Proof"]
    assert isinstance(proof, ProofNotes)
    viewport = main_window.desk.sheet.viewport
    if shot == "proof-print":
        main_window.session.make("board", target="newsprint")
        proof.proofer.pick("")
        main_window.session.choose([])
        viewport.fit()
        x, y = viewport.view.to_glass(np.array([GLASS_MM]))[0]
        viewport.point(QPointF(x, y))
        proof.looks.print.words[GLASS].click()
        return
    proof.notes.only("should")
    while not proof.proofer.known:
        QCoreApplication.processEvents()
    for number, one in enumerate(proof.notes.rows):
        if one.kind == "overshoot":
            proof.notes.pick_row(number)
            break
    viewport.fit()
