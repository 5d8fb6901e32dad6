"""Which colour each line and black of a job has: its own ink, else its part's, else its role's, else black or white."""

from collections.abc import Mapping

from plain_stride.job.hand_over_records import HAND_OVER, HandOverRecord, InkRecord
from plain_stride.job.records import LineRecord
from plain_stride.job.rows import JobRows

PLAIN_INKS = ("black", "white")


def hand_over_of(job: JobRows) -> HandOverRecord:
    """What is set for handing over."""
    return job.rows.hand_over.get(HAND_OVER) or HandOverRecord()


def ink_named(job: JobRows, name: str) -> str | None:
    """The key of the ink of a name."""
    return next((key for key, row in job.rows.inks.items() if row.name == name), None)


class Colours:
    """The colours of a job's ink, as they are when it is made."""

    def __init__(self, job: JobRows) -> None:
        self._job = job
        self._inks: Mapping[str, InkRecord] = job.rows.inks
        self._roles = {role: key for key, row in self._inks.items() for role in row.roles}

    def ink_of(self, key: str) -> str:
        """The key of the ink that a line or a black has: 'black' and 'white' are theirs."""
        row = self._job.inked_rows()[key]
        if row.colour in self._inks:
            return str(row.colour)
        if row.colour in PLAIN_INKS:
            return str(row.colour)
        part = self._job.rows.parts[row.part]
        if part.colour in self._inks:
            return str(part.colour)
        role = row.role if isinstance(row, LineRecord) and part.ink == "black" else ""
        return self._roles.get(role, part.ink)

    def of(self, key: str) -> str:
        """The colour of a line or a black, as `colour` has them."""
        return self._colour(self.ink_of(key))

    def of_part(self, part: str) -> str:
        """The colour of a part's ink, where a line has none of its own."""
        row = self._job.rows.parts[part]
        return self._colour(row.colour if row.colour in self._inks else row.ink)

    def name_of(self, ink: str) -> str:
        """What an ink is called."""
        return self._inks[ink].name if ink in self._inks else ink

    def _colour(self, ink: str | None) -> str:
        return self._inks[str(ink)].colour if ink in self._inks else str(ink)
