"""Sets of nibs as JSON."""

import dataclasses
import json

import pytest

from plain_stride.hand.nib import NibError, Steadying, standard_nibs
from plain_stride.hand.nib_sets import nibs_from_json, nibs_json
from plain_stride.hand.response import response_of


def test_a_set_comes_back_as_it_went():
    nibs = standard_nibs()
    nibs["4"] = dataclasses.replace(
        nibs["4"],
        name="Böschung",
        steadying=Steadying("live", 0.4),
        response=response_of([[0.0, 0.1], [0.5, 0.3], [1.0, 1.0]]),
    )
    assert nibs_from_json(json.loads(nibs_json("mine", nibs))) == nibs


@pytest.mark.parametrize(
    "spoil",
    [
        lambda data: data.pop("form"),
        lambda data: data.update(nibs=[]),
        lambda data: data.update(nibs=[3]),
        lambda data: data["nibs"][0].update(key="0"),
        lambda data: data["nibs"][1].update(key="1"),
        lambda data: data["nibs"][2].update(lightest=9.0),
        lambda data: data["nibs"][2].update(heaviest=float("nan")),
        lambda data: data["nibs"][3].update(steadying={"school": "much"}),
        lambda data: data["nibs"][3].pop("ends"),
    ],
)
def test_a_spoilt_set_is_refused_with_words(spoil):
    data = json.loads(nibs_json("mine", standard_nibs()))
    spoil(data)
    with pytest.raises(NibError, match=r"\w+ \w+"):
        nibs_from_json(data)
