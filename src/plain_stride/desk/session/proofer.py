"""The proof beside the window: asked for when nothing changes for a moment, kept as long as it is true."""

from collections.abc import Mapping

import numpy as np

from plain_stride.desk.session.asked_later import AskedLater
from plain_stride.desk.session.pencil_reader import PencilReader
from plain_stride.desk.session.session import Session
from plain_stride.errors import StrideError
from plain_stride.job.changes import make_all
from plain_stride.job.proof_mends import changes_of
from plain_stride.job.proof_questions import ProofNow
from plain_stride.job.proof_told import Proof
from plain_stride.proof.finding import Finding
from plain_stride.proof.page import Against

FEW_LINES = 60
NOTHING = Proof((), ())


class Proofer(AskedLater):
    """proof: what was found last; picked: the id of the finding in hand, '' for none. changed: any of it is another
    now."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, lambda: ProofNow(self._against()), self._take, FEW_LINES)
        self._reader: PencilReader | None = None
        self.proof, self.picked = NOTHING, ""

    def hold_against(self, reader: PencilReader) -> None:
        """What the pencils are read by: where they were, the ink is held against them as well."""
        self._reader = reader
        reader.changed.connect(self.ask_anew)

    def pick(self, finding: str) -> None:
        """Takes a finding in hand, '' for none."""
        if finding != self.picked:
            self.picked = finding
            self.changed.emit()

    def in_hand(self) -> Finding | None:
        """The finding in hand."""
        return next((one for one in self.proof.told if one.id == self.picked), None)

    def mended(self, found: Finding) -> Mapping[str, list[np.ndarray]]:
        """What the mend of a finding would make of its lines: edges (n, 2) mm by id; nothing where it has none or it
        cannot be made. The job stays as it is."""
        if found.mend is None:
            return {}
        job = self._session.job.as_at(self._session.job.history.head)
        shapes = self._session.shapes.of_state(job)
        before = {key: shapes[key] for key in found.lines if key in job.rows.lines}
        try:
            make_all(job, shapes, changes_of(found), "tried")
            return {key: shapes[key].smooth_rings for key, was in before.items()
                    if key in job.rows.lines and shapes[key] is not was}  # fmt: skip
        except StrideError:
            return {}

    @property
    def of_pencils(self) -> bool:
        """Whether the ink is held against the pencils as well."""
        return self._against() is not None

    def _take(self, proof: Proof) -> None:
        self.proof = proof
        if self.in_hand() is None:
            self.picked = ""

    def _against(self) -> Against | None:
        """The ink against its pencils, where these were read."""
        cover = self._reader.coverage() if self._reader is not None else None
        if cover is None or self._reader is None:
            return None
        return Against(cover, tuple(self._reader.lost))
