"""Tidy steps for bodies: each does what it says to what is broken, and nothing to what is not."""

from dataclasses import replace

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about, multiply
from dynaface.core.contact.drift import drift_of
from dynaface.core.errors import InputError
from dynaface.core.tidy_body.groups import GROUPS, groups_of, in_groups
from dynaface.core.tidy_body.stack import BODY_STEPS
from dynaface.core.tidy_body.step import placed_body_step, tidy_body
from dynaface.core.tidy_body.turns import angles_between, bridged_turns, filtered, steps_of
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import spoilt, walk

WALK = spoilt(walk(120, 4).motion, 0.02, 0.0002, 0.0, 5)
AT = {n: i for i, n in enumerate(WALK.skeleton.names)}


def run(motion, name, groups=(), first=None, last=None, on=True, **parameters):
    return tidy_body(motion, [placed_body_step(BODY_STEPS, name, parameters, on, groups, first, last)])


def off(one, other):
    """(frames, joints) degrees."""
    return angles_between(one.local, other.local)


class TestGroups:
    def test_every_joint_is_of_a_group_by_what_it_is_not_by_its_name(self):
        for build in BUILDS:
            made = make(build, 3, "nonsense")
            groups = dict(zip(made.truth, groups_of(made.skeleton), strict=True))
            assert set(groups.values()) <= set(GROUPS)
            for truth, group in (("L hand", "handLeft"), ("R foot", "legRight"), ("L upperarm", "armLeft"), ("head", "head")):  # fmt: skip
                if truth in groups:
                    assert groups[truth] == group, build.make

    def test_none_named_is_all(self):
        assert in_groups(WALK.skeleton, ()).all()
        assert not in_groups(WALK.skeleton, ("hips",)).all()


class TestPlaces:
    @pytest.mark.parametrize("name", sorted(BODY_STEPS))
    def test_beside_its_place_and_its_groups_a_step_changes_nothing(self, name):
        broken = spoilt(WALK, 1.0, 0.004, 0.05, 9)
        given = {"frames": 6.0} if name == "shift in time" else {}
        made = run(broken, name, ("legLeft",), 2.0, 3.0, **given)
        outside = np.r_[0:225, 375 : broken.frames]
        assert_allclose(off(made, broken)[outside], 0, atol=1e-5)
        others = ~in_groups(broken.skeleton, ("legLeft",))
        assert_allclose(off(made, broken)[:, others], 0, atol=1e-5)
        assert np.array_equal(made.root, broken.root)

    def test_a_step_that_is_off_changes_nothing(self):
        assert run(WALK, "smooth", on=False) is WALK

    @pytest.mark.parametrize(
        ("name", "more"),
        [
            ("no such step", {}),
            ("smooth", {"amount": 2}),
            ("smooth", {"groups": ("tail",)}),
            ("smooth", {"first": 3.0, "last": 2.0}),
            ("smooth", {"first": -1.0}),
        ],
    )
    def test_what_is_wrong_is_said(self, name, more):
        with pytest.raises(InputError):
            run(WALK, name, **more)


class TestFillGaps:
    def test_joints_that_were_lost_go_on(self):
        broken = replace(WALK, local=WALK.local.copy())
        joints = [AT["UpLeg_L"], AT["LowLeg_L"]]
        for joint in joints:
            broken.local[500:530, joint] = broken.local[499, joint]
        made = run(broken, "fill gaps")
        before, after = (off(m, WALK)[490:540, joints].max() for m in (broken, made))
        assert after < 0.35 * before
        assert_allclose(off(made, broken)[:499], 0, atol=1e-4)

    def test_one_that_is_too_long_stays(self):
        broken = replace(WALK, local=WALK.local.copy())
        broken.local[400:600, AT["UpLeg_L"]] = broken.local[399, AT["UpLeg_L"]]
        assert_allclose(off(run(broken, "fill gaps", longest=100), broken), 0, atol=1e-5)

    def test_one_that_comes_to_rest_softly_only_rests(self):
        part = np.clip((np.arange(WALK.frames) - 300) / 200, 0, 1)
        waves = 60 * part * part * (3 - 2 * part)
        rested = replace(WALK, local=WALK.local.copy())
        rested.local[:, AT["Hand_R"]] = about("z", waves)
        rested.local[:, AT["Hand_L"]] = about("z", np.where(np.arange(WALK.frames) < 700, waves, 60 - 0.9 * (np.arange(WALK.frames) - 699)))  # fmt: skip
        made = run(rested, "fill gaps", longest=2000)
        assert_allclose(off(made, rested)[:, AT["Hand_R"]], 0, atol=1e-4)
        assert off(made, rested)[:, AT["Hand_L"]].max() > 1

    def test_who_stands_still_altogether_has_lost_nothing(self):
        still = replace(WALK, local=np.tile(WALK.local[:1], (600, 1, 1)), root=WALK.root[:600] * 0)
        assert run(still, "fill gaps") is still


class TestRemoveSpikes:
    def test_wild_frames_go_and_the_rest_stays(self):
        broken = replace(WALK, local=WALK.local.copy(), root=WALK.root.copy())
        broken.local[300:302, AT["Hand_R"]] = multiply(about("z", 40.0), broken.local[300:302, AT["Hand_R"]])
        broken.root[700] += [0.2, 0.0, 0.0]
        made = run(broken, "remove spikes")
        assert off(made, WALK)[300:302, AT["Hand_R"]].max() < 1
        assert np.abs(made.root - WALK.root).max() < 0.01
        assert np.mean(off(made, WALK).max(axis=1) < 0.5) > 0.98

    def test_a_quick_movement_is_no_spike(self):
        assert np.mean(off(run(WALK, "remove spikes"), WALK).max(axis=1) < 1e-3) > 0.97


class TestSmooth:
    @pytest.mark.parametrize("method", ["low-pass", "savitzky-golay"])
    def test_trembling_goes_and_the_movement_stays(self, method):
        noisy = spoilt(WALK, 1.2, 0.004, 0.0, 11)
        made = run(noisy, "smooth", amount=0.45, method=method)
        assert np.median(off(made, WALK)) < 0.75 * np.median(off(noisy, WALK))
        rough, calm = (np.abs(np.diff(m.root, n=3, axis=0)).mean() for m in (noisy, made))
        assert calm < 0.3 * rough
        assert np.ptp(made.local[:, AT["UpLeg_L"], 0]) > 0.9 * np.ptp(WALK.local[:, AT["UpLeg_L"], 0])

    def test_an_amount_of_none_changes_nothing(self):
        assert run(WALK, "smooth", amount=0.0) is WALK

    def test_what_does_not_turn_is_left_exactly(self):
        still = np.tile(np.array([0.0, 0.6, 0.0, 0.8]), (50, 3, 1))
        assert_allclose(filtered(still, lambda v: v), still, atol=1e-12)


class TestShiftInTime:
    def test_by_frames_and_parts_of_one(self):
        made = run(WALK, "shift in time", ("legLeft",), frames=10.0)
        assert_allclose(
            off(made, replace(WALK, local=np.roll(WALK.local, 10, axis=0)))[10:, AT["LowLeg_L"]], 0, atol=1e-5
        )
        half = run(WALK, "shift in time", ("legLeft",), frames=0.5)
        assert 0 < off(half, WALK)[300:, AT["LowLeg_L"]].max() < steps_of(WALK.local)[:, AT["LowLeg_L"]].max()
        assert np.array_equal(made.root, WALK.root)


class TestHoldInLimits:
    def test_a_knee_that_bends_forward_comes_back(self):
        broken = replace(WALK, local=WALK.local.copy())
        broken.local[100:160, AT["LowLeg_R"]] = about("x", np.full(60, -40.0))
        made = run(broken, "hold in limits")
        assert_allclose(
            angles_between(made.local[110:150, AT["LowLeg_R"]], about("x", np.full(40, -12.0))), 0, atol=0.1
        )
        assert_allclose(off(made, broken)[:100], 0, atol=1e-5)

    def test_what_a_body_can_do_is_left(self):
        assert run(WALK, "hold in limits") is WALK

    def test_they_can_give(self):
        broken = replace(WALK, local=WALK.local.copy())
        broken.local[:, AT["Head"]] = about("y", np.full(WALK.frames, 110.0))
        assert_allclose(
            angles_between(run(broken, "hold in limits").local[5, AT["Head"]], about("y", 85.0)), 0, atol=0.1
        )
        assert run(broken, "hold in limits", give=40.0) is broken


class TestSteadyTheWay:
    @pytest.mark.parametrize("drift", [(0.03, 0.0, -0.02), (0.0, 0.015, 0.0)])
    def test_drift_and_a_rising_ground_are_taken_off(self, drift):
        times = np.arange(WALK.frames)[:, None] / 120
        broken = replace(WALK, root=WALK.root + times * drift)
        made = run(broken, "steady the way")
        before, after = (np.ptp(m.root - WALK.root, axis=0).max() for m in (broken, made))
        assert after < 0.3 * before

    def test_a_body_that_does_not_drift_hardly_moves(self):
        assert np.abs(run(WALK, "steady the way").root - WALK.root).max() < 0.03

    def test_without_legs_nothing_is_known(self):
        bare = make(next(b for b in BUILDS if b.make == "no legs"), 3).skeleton
        motion = replace(WALK, skeleton=bare, local=np.tile(bare.rest, (60, 1, 1)), root=np.zeros((60, 3)))
        assert drift_of(motion) is None
        assert run(motion, "steady the way") is motion


class TestBridging:
    def test_a_steady_turn_goes_on_through_a_gap_and_both_ends_are_held(self):
        turns = about("y", np.linspace(0, 90, 91))[:, None]
        flags = np.zeros((91, 1), bool)
        flags[30:60] = flags[:5] = flags[88:] = True
        made = bridged_turns(turns, flags)
        assert angles_between(made[30:60], turns[30:60]).max() < 0.4
        assert_allclose(made[0, 0], turns[5, 0])
        assert_allclose(made[90, 0], turns[87, 0])
        assert_allclose(bridged_turns(turns, flags, 10)[40, 0], turns[40, 0])
