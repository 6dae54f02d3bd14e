"""A hand before the mouth: proposed as a touch where the face take did not see the lips and a hand was near them."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import Timecode
from dynaface.core.perform.join_settings import JoinSettings, parse_contacts
from dynaface.core.snags_body.evidence import BodyEvidence
from dynaface.core.snags_body.find import find_body_snags
from dynaface.sims.stage_body import perform
from dynaface.sims.touches import Plan

BEGINS, RATE, FRAMES = 1.0, 60.0, 540
TOUCHED = (5.0, 6.5)
"""Seconds of the body between which the right hand is at the chin."""
EXACT = perform(10, Timecode(0, Fraction(120)), 5, 0, [Plan("RightHand", *TOUCHED)])


def short_of_it(degrees: float = 15.0) -> Motion:
    """The actor as a suit with a twisted arm has it: the hand stays before the face."""
    local, joint = EXACT.local.copy(), EXACT.skeleton.index("UpperArm_R")
    local[:, joint] = multiply(local[:, joint], about("y", -degrees))
    return replace(EXACT, local=local)


SHORT = short_of_it()


def lips(*hidden: tuple[float, float]) -> np.ndarray:
    """How sure the lips are, low between seconds of the body."""
    at = np.arange(FRAMES) / RATE + BEGINS
    return np.where(np.any([(at >= a) & (at <= b) for a, b in hidden], axis=0), 0.2, 0.9)


def found(motion: Motion, seen, **settings):
    evidence = BodyEvidence(motion, BEGINS, RATE, FRAMES, (), JoinSettings(**settings), None, seen)
    return find_body_snags(evidence, ("hand before the mouth",))


@pytest.mark.parametrize("degrees", [8.0, 15.0, 30.0])
def test_a_hand_near_lips_that_were_not_seen_is_proposed_as_a_touch(degrees):
    (snag,) = found(short_of_it(degrees), lips(TOUCHED))
    assert (snag.region, snag.channels) == ("handRight", ("Hand_R",))
    contact, touch = snag.steps
    assert contact["value"]["side"] == "RightHand"
    assert contact["value"]["first"] == pytest.approx(TOUCHED[0], abs=0.1)
    assert contact["value"]["last"] == pytest.approx(TOUCHED[1], abs=0.1)
    assert touch == {"put": "touch", "value": True}
    assert (snag.first, snag.last) == (pytest.approx(240, abs=6), pytest.approx(330, abs=6))


def test_lips_that_are_seen_for_a_moment_between_are_one_touch():
    assert len(found(SHORT, lips((5.0, 5.6), (5.66, 6.5)))) == 1


def test_with_the_mend_nothing_is_left():
    (snag,) = found(SHORT, lips(TOUCHED))
    contacts = parse_contacts({"seen": snag.steps[0]["value"]})
    assert found(SHORT, lips(TOUCHED), touch=True, contacts=contacts) == []


@pytest.mark.parametrize(
    ("motion", "seen"),
    [
        (SHORT, None),
        (SHORT, np.full(FRAMES, 0.9)),
        (SHORT, lips((8.0, 9.0))),  # something else hid the mouth
        (SHORT, lips((5.5, 5.55))),  # a frame or two say nothing
        (EXACT, lips(TOUCHED)),  # found to touch already
    ],
)
def test_nothing_is_proposed_where_no_hand_hid_the_mouth_or_it_touches_already(motion, seen):
    assert found(motion, seen) == []
