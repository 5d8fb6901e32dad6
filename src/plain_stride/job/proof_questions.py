"""What is asked of the proof beside the window."""

from dataclasses import dataclass

from plain_stride.job.proof_keeping import keeper_of
from plain_stride.job.proof_told import Proof
from plain_stride.job.questions import DrawingAtWork
from plain_stride.job.serving import Progress
from plain_stride.proof.page import Against


@dataclass(frozen=True, eq=False)
class ProofNow:
    """All that the proof finds. against: the ink held against its pencils, where these were read."""

    against: Against | None = None

    def answered(self, at: DrawingAtWork, progress: Progress) -> Proof:
        return keeper_of(at.shapes).now(at.job, at.shapes, lambda: at.drawing.now(), self.against)
