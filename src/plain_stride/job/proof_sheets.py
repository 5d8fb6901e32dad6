"""A job's proof as sheets, tables and files."""

import csv
import io
import json
from collections.abc import Sequence
from typing import Any

from plain_stride.errors import StrideError
from plain_stride.finish.proof_sheet import NoteRow, ProofSheet, proof_html, proof_pdf
from plain_stride.job.changes import make_all
from plain_stride.job.ink_pictures import ink_png, inked_of, page_png
from plain_stride.job.job import Job
from plain_stride.job.proof_mends import changes_of
from plain_stride.job.proof_records import RemarkRecord
from plain_stride.job.proof_told import Proof, sentence_of, told_finding
from plain_stride.job.serving import Progress
from plain_stride.job.shapes import Shapes
from plain_stride.lines.boxes import Box
from plain_stride.proof.finding import Finding
from plain_stride.proof.words import TITLES, limit_words, measured_words

KINDS = (".html", ".pdf", ".json", ".csv")
CROP_PER_MM, CROP_MM, MOST_AFTER = 12.0, 14.0, 60
"""Pixels a mm of the pictures of places, which are so many mm wide; of how many notes the mend is shown."""
COLUMNS = ("id", "kind", "severity", "x", "y", "lines", "measured", "limit", "unit", "advice", "mend")


def proof_bytes(job: Job, shapes: Shapes, proof: Proof, kind: str, told: dict[str, Any], progress: Progress) -> bytes:
    """A file of a proof: one of KINDS. told: the whole as JSON has it."""
    if kind == ".json":
        return (json.dumps(told, ensure_ascii=False, indent=1) + "\n").encode()
    if kind == ".csv":
        return proof_csv(proof.told)
    sheet = sheet_of(job, shapes, proof, progress)
    return proof_html(sheet) if kind == ".html" else proof_pdf(sheet)


def proof_csv(found: Sequence[Finding]) -> bytes:
    """A row for each finding; lines apart by spaces."""
    out = io.StringIO()
    rows = csv.DictWriter(out, COLUMNS, extrasaction="ignore", lineterminator="\n")
    rows.writeheader()
    for one in found:
        told = told_finding(one)
        rows.writerow({**told, "lines": " ".join(told["lines"]), "mend": told["mend"] or ""})
    return out.getvalue().encode()


def sheet_of(job: Job, shapes: Shapes, proof: Proof, progress: Progress) -> ProofSheet:
    """A proof with pictures. Raises StrideError where it is stopped."""
    inked = inked_of(job, shapes)
    size = job.page.size_mm
    picture = page_png(inked, size)
    rows = []
    for k, one in enumerate(proof.told):
        after = _mended(job, shapes, one) if k < MOST_AFTER else b""
        rows.append(_row(k + 1, one, ink_png(inked, _around(one), CROP_PER_MM), after))
        if not progress((k + 1) / len(proof.told)):
            raise StrideError("stopped: no sheet was written")
    words = tuple(map(_remark_words, job.rows.remarks.values()))
    return ProofSheet(job.name, sentence_of(job, proof.told), size, picture, tuple(rows), CROP_MM, words)


def _remark_words(row: RemarkRecord) -> str:
    by, answer = f" ({row.author})" if row.author else "", f": {row.answer}" if row.answer else ""
    return f"{row.words or 'strokes'}{by}{answer}"


def _row(number: int, one: Finding, before: bytes, after: bytes) -> NoteRow:
    figures = f"Measured {measured_words(one)}, limit {limit_words(one)}."
    return NoteRow(number, one.severity, TITLES[one.kind].capitalize(), figures, one.advice,
                   one.mend.says if one.mend else "", one.at, before, after)  # fmt: skip


def _around(one: Finding) -> Box:
    x, y = one.at
    return x - CROP_MM / 2.0, y - CROP_MM / 2.0, x + CROP_MM / 2.0, y + CROP_MM / 2.0


def _mended(job: Job, shapes: Shapes, one: Finding) -> bytes:
    """The place of a finding once its mend is made, on a copy of the job; nothing where it cannot be."""
    if one.mend is None:
        return b""
    copy = job.as_at(job.history.head)
    there = shapes.of_state(copy)
    try:
        make_all(copy, there, changes_of(one), "tried")
        return ink_png(inked_of(copy, there), _around(one), CROP_PER_MM)
    except StrideError:
        return b""
