"""Named changes of lines that are pulled again: other takes, tails, sections, and how far they follow the pencils."""

from dataclasses import replace
from typing import Any

from plain_stride.hand.joining import SECTION, TAIL, TAKE, joined_pull
from plain_stride.hand.pull import Pull
from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.errors import JobError
from plain_stride.job.line_changes import checked_follow
from plain_stride.job.records import LineRecord

MOST_TAKES = 200


@change
def again(m: ChangeContext, line: str, pull: Pull, what: str = TAKE, at: float = 0.0) -> str:
    """Lays a pull as another take of a line; as its tail, from `at` s of its own pull on; or as its next section.
    All takes are kept, the new one is chosen. Raises JobError."""
    row = _pulled(m, line)
    if what not in (TAKE, TAIL, SECTION):
        raise JobError(f"a pull is another {TAKE}, a {TAIL} or a {SECTION} of a line, not '{what}'")
    old = m.job.pull(_pull_of(row))
    new = pull if what == TAKE else joined_pull(old, pull, number(at, "a time", 0.0))
    takes = row.tried
    if len(takes) >= MOST_TAKES:
        raise JobError(f"{MOST_TAKES} takes of one line are kept: delete the line, or pull a new one")
    key = m.draft.add_pull(new)
    m.draft.change("lines", line, **_with_pull(m, row, key), takes=(*takes, key))
    return line


@change
def take(m: ChangeContext, line: str, take: Any) -> None:
    """Chooses one of the pulls that were tried for a line, by its number from 1 on or by its key. Raises JobError."""
    row = _pulled(m, line)
    takes = row.tried
    if isinstance(take, int) and not isinstance(take, bool) and 1 <= take <= len(takes):
        key = takes[take - 1]
    elif take in takes:
        key = str(take)
    else:
        raise JobError(f"line '{line}' has {len(takes)} take{'' if len(takes) == 1 else 's'}, no '{take}'")
    if key != row.pull:
        m.draft.change("lines", line, **_with_pull(m, row, key))


@change
def follow(m: ChangeContext, lines: list[str], share: float, along: list[list[float]] | None = None) -> None:
    """Draws lines that came from pulls so far (0 to 1) to a pencil line, [x, y] mm, or to the one they follow.
    Raises JobError."""
    share = number(share, "a share", 0.0, 1.0)
    for key in line_list(lines):
        row = _pulled(m, key)
        points = along if along is not None else row.follow.line if row.follow is not None else None
        if points is None and share > 0.0:
            raise JobError(f"line '{key}' follows no pencil line yet: name one under 'along'")
        wanted = None if points is None else checked_follow({"share": share, "line": points})
        if wanted != row.follow:
            m.draft.change("lines", key, follow=wanted)


def _pulled(m: ChangeContext, line: object) -> LineRecord:
    row = m.line(line)
    if row.pull is None:
        raise JobError(f"line '{line}' came without a pull: there is none to pull again")
    return row


def _pull_of(row: LineRecord) -> str:
    assert row.pull is not None
    return row.pull


def _with_pull(m: ChangeContext, row: LineRecord, key: str) -> dict[str, Any]:
    """The row's columns with another pull: swells, shaves and bends go along with the share of its time, trims and
    growth are lifted."""
    before, after = (m.job.pull(k).samples[-1, 3] for k in (_pull_of(row), key))
    scale = float(after / before) if before > 0.0 else 1.0
    edits = tuple(edit.placed_by(lambda v: v * scale) for edit in row.edits)
    bends = tuple(replace(one, at=one.at * scale) for one in row.bends)
    return {"pull": key, "span": None, "edits": edits, "bends": bends, "growth": None, "fixed": None}
