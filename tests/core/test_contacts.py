"""Contacts kept on a character's mesh, and what goes through itself there."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.cast.apply import apply_sheet
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.contacts import gap_of
from dynaface.core.cast.crossings import find_crossings
from dynaface.core.cast.outermost import find_extremes
from dynaface.core.cast.sheet import parse_sheet
from dynaface.core.cast.study import Edge, Study, parse_study
from dynaface.core.curves.channels import Channels

TARGETS = ("jawOpen", "mouthClose", "eyeBlinkLeft", "mouthSmileLeft")
LIPS = Edge(np.zeros(3), {"jawOpen": np.full(3, 0.030), "mouthClose": np.array([-0.020, -0.022, -0.020])}, 0.05)
LID = Edge(np.full(3, 0.008), {"eyeBlinkLeft": np.full(3, -0.012)}, 0.025)
STUDY = Study(edges={"lips": LIPS, "lid left": LID})
CHARACTER = Character("Rig", (MeshTargets("face", TARGETS),), None, STUDY)


def spoken():
    """Open, shut at frames 28 to 32, open: the performer's own lips meet with jaw and mouthClose alike."""
    jaw = np.full(60, 0.4)
    close = np.zeros(60)
    close[26:35] = [0.15, 0.3, 0.4, 0.4, 0.4, 0.4, 0.4, 0.3, 0.15]
    blink = np.zeros(60)
    blink[10:17] = [0.2, 0.6, 1.0, 1.0, 0.8, 0.4, 0.1]
    smile = np.linspace(0, 0.3, 60)
    return Channels(TARGETS, np.stack([jaw, close, blink, smile], axis=1).astype(np.float32), Fraction(60))


def cast(**contacts):
    return apply_sheet(spoken(), CHARACTER, parse_sheet({"contacts": contacts}))


def test_lips_that_close_on_the_performer_close_on_the_character():
    plain, kept = cast(), cast(lips=True)
    at = gap_of(LIPS, plain.targets, plain.weights)[30]
    assert at.mean() > 0.003
    assert np.abs(gap_of(LIPS, kept.targets, kept.weights)[28:33]).max() < 0.0007
    (span,) = kept.kept
    assert (span.kind, span.on) == ("lips", True)
    assert 27 <= span.first <= 29 <= 31 <= span.last <= 33
    assert span.before > 3 > 0.7 > abs(span.after)


def test_what_is_corrected_comes_and_goes_softly_and_leaves_the_rest():
    plain, kept = cast(), cast(lips=True)
    changed = np.abs(kept.weights - plain.weights).max(axis=1)
    assert (changed[:20] == 0).all()
    assert (changed[42:] == 0).all()
    assert np.abs(np.diff(changed)).max() < 0.12
    smile = kept.targets.index("mouthSmileLeft")
    np.testing.assert_array_equal(kept.weights[:, smile], plain.weights[:, smile])
    assert 0 <= kept.weights.min() <= kept.weights.max() <= 1


def test_a_span_that_is_switched_off_stays_as_it_was():
    key = cast(lips=True).kept[0].key
    off = cast(lips=True, off=[key])
    assert not off.kept[0].on
    np.testing.assert_array_equal(off.weights, cast().weights)


def test_lids_meet_and_do_not_pass_each_other():
    plain, kept = cast(), cast(lids=True)
    assert gap_of(LID, plain.targets, plain.weights)[12].min() < -0.003
    assert abs(gap_of(LID, kept.targets, kept.weights)[12]).max() < 0.0006


def test_parted_lips_part():
    stuck = replace(LIPS, change={"jawOpen": np.full(3, 0.002)})
    character = replace(CHARACTER, study=Study(edges={"lips": stuck}))
    plain = apply_sheet(spoken(), character, parse_sheet({}))
    kept = apply_sheet(spoken(), character, parse_sheet({"contacts": {"parting": True}}))
    assert gap_of(stuck, kept.targets, kept.weights)[5].mean() > gap_of(stuck, plain.targets, plain.weights)[5].mean()
    assert {k.kind for k in kept.kept} == {"parting"}


def test_lids_that_pass_each_other_are_found_where_they_do():
    plain = cast()
    (found,) = find_crossings(plain.targets, plain.weights, STUDY.edges)
    assert found.kind == "lid left"
    assert (found.first, found.last) == (12, 14)
    assert found.depth == pytest.approx(4.0, abs=0.01)
    kept = cast(lids=True)
    assert find_crossings(kept.targets, kept.weights, STUDY.edges) == []


def test_the_extremes_of_a_take_are_found_by_way():
    found = {e.way: e for e in find_extremes(spoken())}
    assert found["lids close"].frame in (12, 13)
    assert found["lips up"].frame == 59
    assert "lips down" not in found


def test_a_study_comes_back_from_what_is_kept():
    back = parse_study(STUDY.describe())
    np.testing.assert_allclose(back.edges["lips"].change["jawOpen"], LIPS.change["jawOpen"])
    assert parse_study({"version": 0}) is None
