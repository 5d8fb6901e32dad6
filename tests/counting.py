"""A question that takes its time: with nothing beside it, so that a worker that is asked it need load nothing else."""

import time
from dataclasses import dataclass

from plain_stride.errors import StrideError


@dataclass(frozen=True)
class Count:
    """Counts to a number, a step every few ms; some numbers are refused, some are faults of ours."""

    to: int

    def answered(self, at, progress):
        if self.to == 13:
            raise StrideError("thirteen is not counted to")
        if self.to == 7:
            raise ZeroDivisionError("seven")
        for n in range(self.to):
            if not progress(n / self.to):
                raise StrideError("stopped")
            time.sleep(0.005)
        return self.to
