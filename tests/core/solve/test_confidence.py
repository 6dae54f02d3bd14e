"""Confidence: how likely a region is right falls with every sign against it, and what is not seen or not solved is never believed."""

import numpy as np
import pytest

from dynaface.core.shapes.regions import FACE
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.clip import SURE, finish
from dynaface.core.solve.confidence import CHANCES, COLUMNS, LIKE, confidence
from dynaface.formats.card_file import read_card
from dynaface.pipelines.solve_footage import measure_footage
from tests.core.solve.test_motion import ASSETS, HEAD, demo  # noqa: F401

ALL, NONE = np.ones(len(SHAPES), bool), np.zeros(len(SHAPES), bool)


def said(moved=0.0, apart=0.0, seen=1.0, solved=ALL, sampled=ALL):
    """region -> confidence of one frame in which every shape has the weight `moved`, by itself `apart` more, and is seen by `seen`."""
    weights = np.full((1, len(SHAPES)), moved)
    made = confidence(weights, weights + apart, np.full_like(weights, seen), solved, sampled)[0]
    return {region: float(made[own].max()) for region, own in COLUMNS.items()}


def test_every_region_but_tongue_and_head_has_its_chance():
    assert set(CHANCES) == set(FACE) - {"tongue", "head"}


@pytest.mark.parametrize("region", COLUMNS)
def test_each_sign_against_a_region_makes_it_less_likely(region):
    best = said()[region]
    for worse in ({"moved": 0.3}, {"apart": 0.1}, {"seen": 0.6}, {"sampled": NONE}):
        assert said(**worse)[region] <= best, worse
    assert said(moved=0.3, apart=0.1, seen=0.6, sampled=NONE)[region] < best - 0.2


def test_what_is_hidden_is_marked_however_still_it_is():
    assert max(said(seen=0.2).values()) < SURE
    assert max(said(seen=0.0).values()) == 0


def test_what_is_not_solved_is_not_believed():
    lips = np.isin(np.arange(len(SHAPES)), COLUMNS["lips"])
    assert said(solved=~lips)["lips"] == 0
    assert said(solved=~lips)["jaw"] == said()["jaw"]
    # The rest of a region is judged by itself.
    one = np.isin(np.arange(len(SHAPES)), COLUMNS["lips"][1:])
    assert said(solved=one)["lips"] == pytest.approx(said()["lips"])


def test_the_card_of_another_performer_does_not_fit(demo):  # noqa: F811
    card, clip, found = demo
    other = read_card((ASSETS / "demo/ivo_card.json").read_bytes(), HEAD)
    fits = {
        name: finish(c, measure_footage(clip, found, c, 0, 9), clip.rate)
        for name, c in (("own", card), ("other", other))
    }
    assert fits["other"].fits < LIKE < fits["own"].fits
    assert fits["other"].confidence[:, : len(SHAPES)].mean() < fits["own"].confidence[:, : len(SHAPES)].mean() - 0.2
