"""Snags of bodies: each kind is found where it was put in, its mend takes it away, and a sound body has none."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.body.rotations import about, inverse, multiply
from dynaface.core.body.skeleton import Motion, at_rest
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.snags_body.evidence import BodyEvidence, Shown
from dynaface.core.snags_body.find import BODY_DETECTORS, find_body_snags
from dynaface.core.tidy_body.stack import BODY_STEPS
from dynaface.core.tidy_body.step import placed_body_step, tidy_body
from dynaface.sims.body_faults import BODY_FAULTS
from dynaface.sims.walk import spoilt, walk

WALK = spoilt(walk(120, 4).motion, 0.02, 0.0002, 0.0, 5)
AT = {n: i for i, n in enumerate(WALK.skeleton.names)}
BEGINS, RATE = 1.0, 60.0


def evidence(motion: Motion, shown: Shown | None = None, **settings) -> BodyEvidence:
    frames = int((motion.seconds - BEGINS) * RATE)
    return BodyEvidence(motion, BEGINS, RATE, frames, find_foot_contacts(motion), JoinSettings(**settings), shown)


def found(motion, *args, **settings):
    return find_body_snags(evidence(motion, *args, **settings))


def kinds(snags):
    return {s.kind for s in snags}


def mended(motion, snags):
    """The motion with the steps of some mends."""
    steps = []
    for given in (m for s in snags for m in s.steps):
        more = dict(given)
        name, groups = more.pop("step"), more.pop("groups")
        steps.append(placed_body_step(BODY_STEPS, name, more, True, groups, more.pop("first", None), more.pop("last", None)))  # fmt: skip
    return tidy_body(motion, steps)


def test_a_sound_body_has_none():
    assert found(WALK, feet=True) == []


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("kind", sorted(BODY_FAULTS))
def test_what_is_broken_is_found_there_and_its_mend_takes_it_away(kind, seed):
    broken = BODY_FAULTS[kind](WALK, np.random.default_rng(seed))
    held = {"feet": kind != "through the ground"}
    own = [s for s in found(broken.motion, **held) if s.kind == kind]
    first, last = ((f / 120 - BEGINS) * RATE for f in (broken.first, broken.last))
    assert any(s.first <= last + 12 and s.last >= first - 12 for s in own)
    assert all(s.words.endswith(".") for s in own)
    if kind == "through the ground":
        assert own[0].steps == ({"put": "feet", "value": True},)
        return
    after = [s for s in found(mended(broken.motion, own), **held) if s.kind == kind]
    assert sum(s.severity for s in after) < 0.4 * sum(s.severity for s in own)


def test_each_kind_is_broken_somewhere():
    assert set(BODY_DETECTORS) == set(BODY_FAULTS) | {
        "foot slides",
        "head moved twice",
        "floating head",
        "knee pop",
        "hand before the mouth",
    }


def test_keys_differ_and_what_lies_outside_of_the_take_is_not_listed():
    broken = BODY_FAULTS["joints lost"](WALK, np.random.default_rng(1)).motion
    broken.local[20:50, AT["UpLeg_R"]] = broken.local[19, AT["UpLeg_R"]]
    snags = found(broken)
    assert len({s.key for s in snags}) == len(snags)
    assert all(0 <= s.first <= s.last for s in snags)


class TestFeet:
    def test_feet_that_slide_are_found_unless_the_join_holds_them(self):
        slides = replace(WALK, root=WALK.root + np.cumsum(np.full((WALK.frames, 3), [0.0, 0.0, 0.0006]), axis=0))
        assert "foot slides" in kinds(found(slides))
        assert "foot slides" not in kinds(found(slides, feet=True))
        own = [s for s in found(slides) if s.kind == "foot slides"]
        assert all(s.steps == ({"put": "feet", "value": True},) for s in own)


def shown(turn, shifts=None, root_joint="Hips", root=None, skeleton=WALK.skeleton) -> Shown:
    """A character on the suit's own skeleton whose head is turned by degrees (frames,) in the world."""
    frames = len(turn)
    local, still = at_rest(skeleton, frames)
    chain = head_chain(skeleton)
    local[:, chain[-1]] = about("y", turn)
    rotations, _ = skeleton.pose(local, still)
    turns = multiply(rotations, inverse(skeleton.global_rest()[0])[None])
    return Shown(skeleton, turns, local, still if root is None else root, root_joint, tuple(chain), shifts or {})


class TestHead:
    def head(self, degrees):
        out = replace(WALK, local=WALK.local.copy())
        out.local[:, AT["Head"]] = about("y", degrees)
        return out

    @pytest.mark.parametrize(("times", "twice"), [(1.0, False), (0.7, False), (2.0, True)])
    def test_a_head_that_turns_farther_than_the_performers_is_moved_twice(self, times, twice):
        wave = 20 * np.sin(np.arange(WALK.frames) / 120 * 3)
        body = self.head(wave)
        at = BEGINS + np.arange(int((body.seconds - BEGINS) * RATE)) / RATE
        made = shown(times * 20 * np.sin(3 * at))
        assert ("head moved twice" in kinds(found(body, made, feet=True))) == twice
        if twice:
            (one,) = [s for s in found(body, made, feet=True) if s.kind == "head moved twice"]
            assert one.steps == ({"put": "filmed", "value": "fixed"},)
            assert one.measured == pytest.approx(2, abs=0.2)
        assert "head moved twice" not in kinds(found(body, made, feet=True, filmed="fixed"))

    def test_a_head_that_slides_floats(self):
        frames = evidence(WALK).frames
        slide = np.zeros((frames, 3))
        slide[50:90, 1] = 0.04
        (one,) = [s for s in found(WALK, shown(np.zeros(frames), {"Head": slide}), feet=True) if s.kind == "floating head"]  # fmt: skip
        assert (one.first, one.last) == (50, 89)
        assert one.measured == pytest.approx(4)

    def test_a_head_that_its_body_does_not_carry_stays_behind(self):
        frames = evidence(WALK).frames
        way = np.linspace(0, 1, frames)[:, None] * [0, 0, 1.0]
        assert "floating head" in kinds(found(WALK, shown(np.zeros(frames), root_joint="elsewhere", root=way), feet=True))  # fmt: skip
        assert "floating head" not in kinds(found(WALK, shown(np.zeros(frames), root=way), feet=True))


class TestKnees:
    def test_a_leg_that_snaps_straight_pops(self):
        frames = evidence(WALK).frames
        made = shown(np.zeros(frames))
        bend = np.full(frames, 14.0)
        bend[200:] = 2.0
        made.local[:, AT["LowLeg_L"]] = about("x", bend)
        (one,) = [s for s in found(WALK, made, feet=True) if s.kind == "knee pop"]
        assert one.region == "legLeft"
        assert abs(one.first - 200) <= 2


def test_every_detector_says_what_it_looks_for():
    for name, detector in BODY_DETECTORS.items():
        assert detector.describe() == {"name": name, "label": detector.label, "help": detector.help}
        assert detector.label
        assert detector.help.endswith(".")
