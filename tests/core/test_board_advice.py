"""Sizes against ISO 216; advice at its limits (common practice of the trade)."""

import pytest

from plain_stride.board.advice import advice
from plain_stride.board.formats import FORMATS, iso_size
from plain_stride.board.page import Page

ISO_216 = {"A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297), "A5": (148, 210),
           "A6": (105, 148), "A7": (74, 105), "A10": (26, 37), "B0": (1000, 1414), "B3": (353, 500), "B4": (250, 353),
           "B5": (176, 250), "B7": (88, 125)}  # fmt: skip
"""The standard's own table, from memory."""


@pytest.mark.parametrize("name", ISO_216)
def test_iso_sizes(name):
    assert iso_size(name[0], int(name[1:])) == ISO_216[name]


def test_there_are_no_other_iso_sizes():
    for series, n in (("C", 4), ("A", 11), ("A", -1)):
        with pytest.raises(ValueError, match="there is no"):
            iso_size(series, n)


def test_all_formats_are_upright_and_make_pages():
    for w, h in FORMATS.values():
        assert w <= h
        assert min(Page((w, h), 300.0).pixels) > 0


@pytest.mark.parametrize(
    ("size", "dpi", "words"),
    [
        ((210.0, 297.0), 600.0, []),
        ((210.0, 297.0), 599.0, ["600 dpi"]),
        ((210.0, 297.0), 300.0, ["600 dpi"]),
        ((210.0, 297.0), 299.0, ["300 dpi"]),
        ((400.0, 600.0), 74.0, ["75 dpi", "2,000 px"]),
        ((80.0, 80.0), 600.0, ["2,000 px"]),
        ((40.0, 80.0), 600.0, ["1,000 px"]),
    ],
)
def test_advice_comes_at_its_limits_and_not_before(size, dpi, words):
    said = advice(Page(size, dpi))
    assert len(said) == len(words)
    assert all(word in sentence for word, sentence in zip(words, said, strict=True))
