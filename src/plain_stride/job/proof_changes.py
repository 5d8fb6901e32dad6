"""Named changes of the proof: what is meant so, house manners, the reviewer's remarks."""

from dataclasses import replace
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.job.change_context import ChangeContext, change, flag, number, place_of
from plain_stride.job.errors import JobError
from plain_stride.job.proof_records import MannersRecord, MeantRecord, RemarkRecord
from plain_stride.proof.intent import FINDING, KIND, LINE, PART
from plain_stride.proof.limits import manners_from_row
from plain_stride.proof.remarks import Strokes

MANNERS = "manners"


@change
def meant(
    m: ChangeContext,
    scope: str,
    kind: str = "",
    lines: list[str] | None = None,
    part: str | None = None,
    at: list[float] | None = None,
    measured: float = 0.0,
    reason: str = "",
) -> str:
    """Says that what the proof finds is meant so: of a `finding` (its kind, its lines and other ink, its place and
    what it measured), of a `line`, of a `part`, or of a whole `kind`; without a kind, of lines and parts whatever the
    proof finds. Gives its id. Raises JobError."""
    ink = _ink_meant(m, scope, lines, part)
    x, y = place_of(at if at is not None else [0.0, 0.0]).tolist()
    key, size = m.job.new_id("m"), number(measured, "what it measured")
    m.draft.put(key, _made(lambda: MeantRecord(scope=scope, kind=kind, ink=ink, x_mm=x, y_mm=y, measured=size,
                                               reason=reason)))  # fmt: skip
    return key


def _ink_meant(m: ChangeContext, scope: str, lines: list[str] | None, part: str | None) -> tuple[str, ...]:
    """What it is said of. Raises JobError."""
    if scope == PART:
        found = m.job.part_named(str(part))
        if found is None:
            raise JobError(f"there is no part '{part}'")
        return (found.id,)
    if scope == KIND:
        return ()
    keys = list(lines or ())
    known = {*m.job.inked_rows(), *m.job.rows.tones}
    if not isinstance(lines, list | None) or not all(isinstance(key, str) and key in known for key in keys):
        raise JobError(f"what a {scope} is on is a list of ids of lines, blacks and tones")
    if scope == LINE and not keys:
        raise JobError("which line is meant so?")
    return tuple(keys) if scope in (LINE, FINDING) else ()


@change
def meant_off(m: ChangeContext, meant: list[str]) -> None:
    """Takes back what was said to be meant. Raises JobError."""
    for key in _known(meant, m.job.rows.meant, "what was said to be meant"):
        m.draft.remove("meant", key)


@change
def manners(m: ChangeContext, name: str = "ours", limits: Any = None, severities: Any = None) -> None:
    """Lays house manners: limits by kind, severities by kind (must, should, look, off). Those that are not named have
    their usual ones. Raises JobError."""
    told = {"name": name, "limits": {} if limits is None else limits, "severities": severities or {}}
    made = _made(lambda: manners_from_row(told))
    m.draft.put(MANNERS, MannersRecord(manners=made))


@change
def remark(m: ChangeContext, at: list[float], words: str = "", strokes: Any = None, by: str = "") -> str:
    """Leaves a red remark on the board, at a place [x, y] mm: words, strokes (lists of [x, y, pressure]), and whose it
    is. Gives its id. Raises JobError."""
    x, y = place_of(at).tolist()
    lines = _strokes_told(strokes if strokes is not None else [])
    key = m.job.new_id("r")
    m.draft.put(key, _made(lambda: RemarkRecord(x_mm=x, y_mm=y, words=words, strokes=lines, author=by)))
    return key


def _strokes_told(strokes: Any) -> Strokes:
    """Raises JobError."""
    if not isinstance(strokes, list) or not all(isinstance(stroke, list) for stroke in strokes):
        raise JobError("the strokes of a remark are lists of [x, y, pressure]")
    return tuple(tuple(map(_sample_told, stroke)) for stroke in strokes)


def _sample_told(sample: Any) -> tuple[float, float, float]:
    if not isinstance(sample, list) or len(sample) != 3:
        raise JobError("a place of a remark's stroke is [x, y, pressure]")
    x, y = place_of(sample[:2]).tolist()
    return x, y, number(sample[2], "a pressure", 0.0, 1.0)


@change
def remark_set(
    m: ChangeContext, remark: str, words: str | None = None, answer: str | None = None, done: bool | None = None
) -> None:
    """Alters a remark: its words, what is answered to it, whether it is seen to. Raises JobError."""
    (key,) = _known([remark], m.job.rows.remarks, "remarks")
    row = m.job.rows.remarks[key]
    m.draft.put(key, _made(lambda: replace(row, words=row.words if words is None else words,
                                           answer=row.answer if answer is None else answer,
                                           done=row.done if done is None else flag(done, "done"))))  # fmt: skip


@change
def remark_delete(m: ChangeContext, remarks: list[str]) -> None:
    """Takes remarks away. Raises JobError."""
    for key in _known(remarks, m.job.rows.remarks, "remarks"):
        m.draft.remove("remarks", key)


def _known(keys: Any, rows: dict[str, Any], what: str) -> list[str]:
    if not isinstance(keys, list) or not keys or not all(isinstance(key, str) and key in rows for key in keys):
        raise JobError(f"{what}: a list of their ids")
    return list(dict.fromkeys(keys))


def _made(make: Any) -> Any:
    try:
        return make()
    except JobError:
        raise
    except (StrideError, TypeError, ValueError) as fault:
        raise JobError(str(fault)) from None
