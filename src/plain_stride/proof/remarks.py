"""Remarks of the reviewer's own: red strokes and words on the board, which travel with the job."""

from dataclasses import dataclass

from plain_stride.errors import StrideError

MOST_LETTERS, MOST_STROKES, MOST_POINTS = 500, 200, 4000
Strokes = tuple[tuple[tuple[float, float, float], ...], ...]


class RemarkError(StrideError):
    """A remark that cannot be."""


@dataclass(frozen=True)
class Remark:
    """at: mm, where its ring stands; words; strokes: (x mm, y mm, pressure 0 to 1) each; by: whose it is; answer: what
    the inker says to it; done: whether it is seen to."""

    at: tuple[float, float]
    words: str = ""
    strokes: Strokes = ()
    by: str = ""
    answer: str = ""
    done: bool = False

    def __post_init__(self) -> None:
        for text, what in ((self.words, "words"), (self.answer, "answer"), (self.by, "by")):
            if not isinstance(text, str) or len(text) > MOST_LETTERS:
                raise RemarkError(f"a remark's {what} is a text of at most {MOST_LETTERS} letters")
        if not self.words.strip() and not self.strokes:
            raise RemarkError("a remark has words or strokes")
        if len(self.strokes) > MOST_STROKES or any(not 1 <= len(one) <= MOST_POINTS for one in self.strokes):
            raise RemarkError(f"a remark has at most {MOST_STROKES} strokes of 1 to {MOST_POINTS} points")
