"""The findings of a job, kept from one state of it to the next: after a change, only lines that are others, or are seen
otherwise, and what lies round them, are looked at again. Findings of the page as a whole are found anew."""

from collections.abc import Callable, Iterable, Mapping
from weakref import WeakKeyDictionary

import numpy as np

from plain_stride.form.contacts import Contact
from plain_stride.form.drawing import Drawing
from plain_stride.job.proof_page import page_of
from plain_stride.job.proof_told import Proof, sorted_out
from plain_stride.job.rows import JobRows
from plain_stride.job.shapes import Shapes
from plain_stride.lines.shape import Shape
from plain_stride.proof.balance import balance_of
from plain_stride.proof.checks import of_lines, told_of
from plain_stride.proof.finding import Finding
from plain_stride.proof.page import Against, Page

MOST_SHARE = 0.3
"""Where more of the lines are others, all are looked at."""


class ProofKeeper:
    """Keeps the findings of one job."""

    def __init__(self) -> None:
        self._shapes: Mapping[str, Shape] = {}
        self._contacts: Mapping[str, tuple[Contact, ...]] = {}
        self._facts: Mapping[str, tuple[object, ...]] = {}
        self._token: tuple[object, ...] = ()
        self._found: list[Finding] = []

    def now(
        self, job: JobRows, shapes: Shapes, drawing: Callable[[], Drawing], against: Against | None
    ) -> Proof:  # fmt: skip
        """The proof of a job as it stands. drawing: gives it, as somebody keeps it."""
        page = page_of(job, shapes, drawing, against)
        self._bring_up_to_date(page, _token(job))
        return sorted_out(job, told_of(page, self._found), balance_of(page))

    def _bring_up_to_date(self, page: Page, token: tuple[object, ...]) -> None:
        facts = _facts(page)
        others = self._others(page, facts) if token == self._token else None
        if others is None or len(others) > MOST_SHARE * max(len(page.black_lines), 1):
            self._found = of_lines(page, page.black_lines)
        elif others:
            self._look_again(page, others)
        self._shapes, self._contacts, self._facts, self._token = page.shapes, page.contacts, facts, token

    def _others(self, page: Page, facts: Mapping[str, tuple[object, ...]]) -> set[str]:
        """Lines that are not what they were, gone ones as well, and those that they touch or touched."""
        changed = {key for key, shape in page.shapes.items() if self._shapes.get(key) is not shape}
        changed |= self._shapes.keys() - page.shapes.keys()
        changed |= {key for key, told in facts.items() if self._facts.get(key) != told}
        changed |= {key for key, told in page.contacts.items() if self._contacts.get(key, ()) is not told}
        near = {other for key in changed for contacts in (self._contacts, page.contacts)
                for contact in contacts.get(key, ()) for other in contact.lines}  # fmt: skip
        return changed | near

    def _look_again(self, page: Page, others: set[str]) -> None:
        kept = [one for one in self._found if not others & set(one.lines)]
        # A finding that two lines share is told of either: its other line is looked at again as well.
        gone = {key for one in self._found if others & set(one.lines) for key in one.lines}
        again = of_lines(page, [key for key in page.black_lines if key in others | gone])
        self._found = _each_once([*kept, *again])


def _each_once(found: Iterable[Finding]) -> list[Finding]:
    out: dict[tuple[object, ...], Finding] = {}
    for one in found:
        out[one.kind, frozenset(one.lines), one.at] = one
    return list(out.values())


def _facts(page: Page) -> dict[str, tuple[object, ...]]:
    """What the checks know of each line besides its ink and what it meets: its role, how much of it is hidden, and of
    which rows it is."""
    known = page.inked.scene.known
    hidden = np.bincount(known.places.line, known.hidden, minlength=len(page.lines)).tolist()
    rows = [page.sets.rows[page.sets.of[key]] if page.sets.holds(key) else () for key in page.lines]
    return {key: (page.roles[key], count, row, key in page.hatching)
            for key, count, row in zip(page.lines, hidden, rows, strict=True)}  # fmt: skip


def _token(job: JobRows) -> tuple[object, ...]:
    """What all findings hang on besides lines: none of these is changed in place."""
    rows = job.rows
    tables = (rows.board, rows.parts, rows.manners, rows.targets, rows.frames, rows.blacks)
    return tuple((key, row) for table in tables for key, row in table.items())


_keepers: WeakKeyDictionary[Shapes, ProofKeeper] = WeakKeyDictionary()


def keeper_of(shapes: Shapes) -> ProofKeeper:
    """The keeper of a job's findings, which lives as long as its shapes."""
    return _keepers.setdefault(shapes, ProofKeeper())
