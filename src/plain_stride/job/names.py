"""Names that the inker gives: texts that every file we write can hold."""

from plain_stride.job.errors import JobError
from plain_stride.texts import STRANGE

MOST_LETTERS = 200


def checked_name(name: object, what: str, most: int = MOST_LETTERS) -> str:
    """A name of 1 to `most` letters. Raises JobError."""
    if not isinstance(name, str) or not name.strip() or len(name) > most:
        raise JobError(f"{what} is a text of 1 to {most} letters")
    if STRANGE.search(name):
        raise JobError(f"{what} holds letters that no text can have: write it anew")
    return name
