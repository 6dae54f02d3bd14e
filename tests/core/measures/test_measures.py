"""Measures of bodies: taken of skeletons in any pose at rest, and bodies made as large as measures say."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.contact.feet import rest_ground
from dynaface.core.contact.find_feet import find_foot_contacts
from dynaface.core.measures.fitted import MOST, fitted
from dynaface.core.measures.measures import LIMITS, Measures, measure
from dynaface.formats.character_file import open_character
from dynaface.sims.body_suit import skeleton as suit
from dynaface.sims.walk import walk

WALK = walk(60, 4).motion
BODY = WALK.skeleton
FOUND = measure(BODY)


def close(a, b, by=1e-6):
    return all(getattr(a, n) == pytest.approx(getattr(b, n), abs=by) for n in LIMITS)


class TestMeasuring:
    def test_a_suit_is_measured_as_a_person(self):
        found = measure(suit())
        assert 1.5 < found.height < 1.95
        assert found.span == pytest.approx(found.height, rel=0.12)  # as people are
        assert 0.45 < found.hips / found.height < 0.58
        assert 0.13 < found.foot / found.height < 0.17
        assert all(low < getattr(found, n) < high for n, (low, high) in LIMITS.items())

    def test_it_grows_with_the_skeleton(self):
        larger = replace(BODY, offsets=BODY.offsets * 1.3)
        grown = measure(larger)
        assert all(getattr(grown, n) == pytest.approx(1.3 * getattr(FOUND, n), rel=1e-6) for n in LIMITS)

    def test_arms_that_hang_at_rest_are_as_long(self):
        rest = BODY.rest.copy()
        for side, way in (("L", -70.0), ("R", 70.0)):
            joint = BODY.index(f"UpperArm_{side}")
            rest[joint] = multiply(about("z", way), rest[joint])
        assert measure(replace(BODY, rest=rest)).span == pytest.approx(FOUND.span, rel=0.02)

    def test_characters_have_measures_too(self):
        for name, tall in (("odile", (1.4, 1.9)), ("brindle", (0.8, 1.3))):
            rig = open_character((ASSETS / f"characters/{name}.glb").read_bytes())[0].skeleton
            assert tall[0] < measure(rig).height < tall[1]

    def test_what_a_skeleton_has_no_joints_for_is_not_known(self):
        armless = Skeleton(
            ("hips", "spine"), (-1, 0), np.array([[0, 1.0, 0], [0, 0.3, 0]]), np.tile([0, 0, 0, 1.0], (2, 1))
        )
        assert measure(armless).none


class TestFitting:
    WISHED = Measures(1.92, 1.99, 1.01, 0.29)

    def test_a_body_made_by_measures_has_them(self):
        assert close(measure(fitted(WALK, self.WISHED).skeleton), self.WISHED, 2e-3)

    def test_by_its_own_measures_it_is_as_it_was(self):
        same = fitted(WALK, FOUND)
        assert np.abs(same.skeleton.offsets - BODY.offsets).max() < 1e-9
        assert np.abs(same.root - WALK.root).max() < 1e-9

    @pytest.mark.parametrize("name", LIMITS)
    def test_one_measure_changes_what_it_is_of(self, name):
        wished = Measures(**{name: 1.1 * getattr(FOUND, name)})
        made = measure(fitted(WALK, wished).skeleton)
        assert getattr(made, name) == pytest.approx(getattr(wished, name), abs=2e-3)
        others = {
            "height": {"height"},
            "span": {"span"},
            "hips": {"hips", "height"},
            "foot": {"foot", "hips", "height"},
        }[name]
        assert all(getattr(made, n) == pytest.approx(getattr(FOUND, n), abs=8e-3) for n in LIMITS if n not in others)

    def test_its_feet_stay_on_the_ground_and_stand_when_they_stood(self):
        tall = fitted(WALK, Measures(hips=1.25 * FOUND.hips))
        assert rest_ground(tall.skeleton) == pytest.approx(rest_ground(BODY), abs=1e-6)
        before, after = find_foot_contacts(WALK), find_foot_contacts(tall)
        assert [len(f.foot) for f in after] == [len(f.foot) for f in before]
        assert after[0].foot[0][1] == pytest.approx(before[0].foot[0][1], abs=6)

    def test_it_goes_as_much_farther_as_its_legs_are_longer(self):
        tall = fitted(WALK, Measures(hips=1.25 * FOUND.hips))
        assert np.allclose(tall.root, 1.25 * WALK.root)

    def test_what_cannot_be_is_held(self):
        made = fitted(WALK, Measures(hips=100.0))
        legs = [BODY.index(f"LowLeg_{s}") for s in "LR"]
        assert np.linalg.norm(made.skeleton.offsets[legs], axis=1) == pytest.approx(
            MOST * np.linalg.norm(BODY.offsets[legs], axis=1)
        )

    def test_without_measures_nothing_changes(self):
        made = fitted(WALK, Measures())
        assert np.array_equal(made.skeleton.offsets, BODY.offsets)
