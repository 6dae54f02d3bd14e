"""Joints of made skeletons are what they truly are, whatever their names, sizes and axes."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.errors import InputError
from dynaface.core.match.anatomy import Slot, anatomy_of
from dynaface.core.match.propose import propose_match
from dynaface.core.match.retarget import matching_of, retarget, to_local
from dynaface.sims.joint_names import NAMINGS
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import walk

BY_MAKE = {b.make: b for b in BUILDS}


def spoken(slot: Slot | None) -> str:
    """A slot in the words that the simulator has for truth."""
    if slot is None:
        return ""
    if slot.part.startswith("finger"):
        return f"{slot.side} finger {slot.part[6:]} {slot.number}"
    if slot.part.endswith(" twist"):
        return f"{slot.side} twist {slot.part[:-6]} {slot.number}"
    return f"{slot.side} {slot.part} {slot.number or ''}".strip()


def wrong(made):
    """Joints that are taken for something else. A finger's tip may pass for one more joint of it."""
    found = anatomy_of(made.skeleton)
    said = {made.skeleton.names[j]: (t, spoken(found.slots.get(j))) for j, t in enumerate(made.truth)}
    return {n: s for n, s in said.items() if s[0] != s[1] and "tip" not in s[0] and s[0] != "pelvis"}


@pytest.mark.parametrize("make_of", sorted(BY_MAKE))
@pytest.mark.parametrize("naming", ["", "nonsense"])
def test_joints_are_what_they_truly_are(make_of, naming):
    made = make(BY_MAKE[make_of], 41, naming)
    assert len(wrong(made)) <= 0.03 * len(made.truth), wrong(made)


@pytest.mark.parametrize("naming", sorted(NAMINGS))
def test_no_manner_of_naming_changes_what_a_body_is(naming):
    made = make(BY_MAKE["suit"], 5, naming)
    assert not wrong(made)
    assert len(set(made.skeleton.names)) == len(made.truth)


def test_names_are_believed_as_far_as_they_agree():
    assert anatomy_of(make(BY_MAKE["suit"], 5).skeleton).trust > 0.95
    assert anatomy_of(make(BY_MAKE["suit"], 5, "swapped").skeleton).trust < 0.3
    assert anatomy_of(make(BY_MAKE["suit"], 5, "numbers").skeleton).trust == 0
    sure = [min(anatomy_of(make(BY_MAKE["suit"], 5, n).skeleton).sure.values()) for n in ("plain", "numbers")]
    assert sure[0] > sure[1]


@pytest.mark.parametrize("factor", [0.01, 1.7, 100.0])
def test_size_changes_nothing(factor):
    skeleton = make(BY_MAKE["numbered"], 8).skeleton
    scaled = replace(skeleton, offsets=skeleton.offsets * factor)
    assert anatomy_of(scaled).slots == anatomy_of(skeleton).slots


def mirrored(skeleton: Skeleton) -> Skeleton:
    """The same body seen in a mirror across left and right, with no axes of its own."""
    at = skeleton.global_rest()[1] * [-1, 1, 1]
    parents = np.array(skeleton.parents)
    offsets = at - np.where(parents[:, None] >= 0, at[parents], 0)
    return replace(skeleton, offsets=offsets, rest=np.tile([0.0, 0, 0, 1], (len(at), 1)))


@pytest.mark.parametrize("make_of", ["numbered", "twists between", "four digits"])
def test_in_the_mirror_left_is_right(make_of):
    skeleton = make(BY_MAKE[make_of], 9, "numbers").skeleton
    other = {"L": "R", "R": "L", "": ""}
    swapped = {j: s._replace(side=other[s.side]) for j, s in anatomy_of(skeleton).slots.items()}
    assert anatomy_of(mirrored(skeleton)).slots == swapped


def test_what_goes_along_with_a_body_is_no_part_of_it():
    made = make(BY_MAKE["laden, numbered"], 3)
    slots = anatomy_of(made.skeleton).slots
    assert {made.truth[j] for j in range(len(made.truth)) if j not in slots} == {""}


def test_a_body_matches_itself():
    skeleton = make(BY_MAKE["prefixed"], 2).skeleton
    found = propose_match(skeleton, skeleton)
    assert all(ours == theirs for ours, theirs in found.matches.items())
    assert not found.shares


def test_there_and_back_is_the_same():
    one, other = make(BY_MAKE["suit"], 2).skeleton, make(BY_MAKE["another language"], 3).skeleton
    there, back = propose_match(one, other).matches, propose_match(other, one).matches
    assert {v: k for k, v in there.items()} == dict(back)


def test_a_skeleton_of_nothing_is_nothing():
    lone = Skeleton(("a",), (-1,), np.zeros((1, 3)), np.array([[0, 0, 0, 1.0]]))
    assert anatomy_of(lone).slots == {}
    assert propose_match(lone, make(BY_MAKE["suit"], 1).skeleton).matches == {}
    chain = Skeleton(tuple("abcd"), (-1, 0, 1, 2), np.ones((4, 3)), np.tile([0, 0, 0, 1.0], (4, 1)))
    assert anatomy_of(chain).axes is None


class TestCarryingOver:
    def test_a_body_on_its_own_skeleton_is_itself(self):
        motion = walk(60, 4).motion
        bones = motion.skeleton
        turns, root = retarget(bones, motion.local, motion.root, bones, matching_of(bones, bones, {}, {}))
        same = np.abs(np.sum(to_local(bones, turns) * motion.local, axis=-1))
        assert 2 * np.arccos(np.minimum(same, 1)).max() < 1e-6
        np.testing.assert_allclose(root, motion.root, atol=1e-9)

    @pytest.mark.parametrize("make_of", ["seven of the spine", "bare", "hundredths", "twists between"])
    def test_bones_point_where_those_of_the_body_do(self, make_of):
        motion, rig = walk(60, 4).motion, make(BY_MAKE[make_of], 6, "nonsense")
        carried = matching_of(motion.skeleton, rig.skeleton, {}, {})
        turns, root = retarget(motion.skeleton, motion.local, motion.root, rig.skeleton, carried)
        ours = rig.skeleton.pose(to_local(rig.skeleton, turns), root)[1]
        theirs = motion.skeleton.pose(motion.local, motion.root)[1]
        at = motion.skeleton.names.index
        for side, end in (("L", "_L"), ("R", "_R")):
            for top, bottom, names in (
                ("upperarm", "lowerarm", ("UpperArm", "ForeArm")), ("upperleg", "lowerleg", ("UpLeg", "LowLeg")),
                ("lowerleg", "foot", ("LowLeg", "Foot")),
            ):  # fmt: skip
                one = ours[:, rig.truth.index(f"{side} {bottom}")] - ours[:, rig.truth.index(f"{side} {top}")]
                two = theirs[:, at(names[1] + end)] - theirs[:, at(names[0] + end)]
                cosine = (one * two).sum(1) / np.linalg.norm(one, axis=1) / np.linalg.norm(two, axis=1)
                assert np.degrees(np.arccos(np.minimum(cosine, 1))).max() < 0.01

    def test_more_joints_of_a_spine_share_its_turn(self):
        bones, rig = make(BY_MAKE["suit"], 3).skeleton, make(BY_MAKE["seven of the spine"], 3)
        local = np.tile(bones.rest, (1, 1, 1))
        for joint in anatomy_of(bones).chain("spine"):
            local[0, joint] = about("y", 14.0)
        turns, _ = retarget(bones, local, np.zeros((1, 3)), rig.skeleton, matching_of(bones, rig.skeleton, {}, {}))
        spine = [turns[0, rig.truth.index(f"spine {n}")] for n in range(1, 8)]
        angles = [np.degrees(2 * np.arctan2(q[1], q[3])) for q in spine]
        np.testing.assert_allclose(angles, np.arange(1, 8) * 6, atol=1e-9)

    def test_a_missing_joint_is_passed_over(self):
        bones, rig = make(BY_MAKE["suit"], 3).skeleton, make(BY_MAKE["bare"], 3)
        local = np.tile(bones.rest, (1, 1, 1))
        collar = anatomy_of(bones).joint("clavicle", "L")
        local[0, collar] = about("z", 20.0)
        turns, _ = retarget(bones, local, np.zeros((1, 3)), rig.skeleton, matching_of(bones, rig.skeleton, {}, {}))
        arm = turns[0, rig.truth.index("L upperarm")]
        assert np.degrees(2 * np.arctan2(arm[2], arm[3])) == pytest.approx(20, abs=1.5)

    def test_a_rest_corrected_by_hand_turns_that_joint_and_what_follows_it(self):
        bones = make(BY_MAKE["suit"], 3).skeleton
        name, more = "LeftForeArm", about("x", 30.0)
        plain, turned = (
            retarget(bones, np.tile(bones.rest, (1, 1, 1)), np.zeros((1, 3)), bones, matching_of(bones, bones, {}, t))[
                0
            ]
            for t in ({}, {name: more})
        )
        joint = bones.index(name)
        np.testing.assert_allclose(turned[0, joint], multiply(more, plain[0, joint]), atol=1e-12)
        hand, other = bones.index("LeftHand"), bones.index("RightHand")
        np.testing.assert_allclose(turned[0, hand], multiply(more, plain[0, hand]), atol=1e-12)
        np.testing.assert_allclose(turned[0, other], plain[0, other], atol=1e-12)

    def test_a_joint_matched_across_fingers_is_not_laid_along_what_is_no_bone(self):
        bones = make(BY_MAKE["suit"], 3).skeleton
        by_hand = {"LeftIndex2": "LeftMiddle2"}
        matching = matching_of(bones, bones, by_hand, {})
        turns, _ = retarget(bones, np.tile(bones.rest, (1, 1, 1)), np.zeros((1, 3)), bones, matching)
        np.testing.assert_allclose(np.abs(turns[0, :, 3]), 1, atol=1e-9)

    @pytest.mark.parametrize("longer", [True, False])
    def test_the_last_of_a_chain_may_be_doubled_in_place_of_sharing(self, longer):
        many, few = make(BY_MAKE["seven of the spine"], 3), make(BY_MAKE["bare"], 3)
        target, source = (many, few) if longer else (few, many)
        found = propose_match(source.skeleton, target.skeleton, "last")
        assert not found.shares
        ours, theirs = ([m.skeleton.names[j] for j in anatomy_of(m.skeleton).chain("spine")] for m in (target, source))
        assert len(ours) != len(theirs)
        wanted = [*theirs[: len(ours) - 1], *[theirs[-1]] * max(1, len(ours) - len(theirs))]
        assert [found.matches[j] for j in ours] == wanted[: len(ours)]

    def test_doubled_joints_turn_alike(self):
        motion, rig = walk(60, 4).motion, make(BY_MAKE["seven of the spine"], 6)
        bones = rig.skeleton
        carried = matching_of(motion.skeleton, bones, {}, {}, "last")
        turns, _ = retarget(motion.skeleton, motion.local, motion.root, bones, carried)
        chain = anatomy_of(bones).chain("spine")
        alike = [j for j in chain if carried.matches[bones.names[j]] == carried.matches[bones.names[chain[-1]]]]
        assert len(alike) > 2
        for joint in alike:
            np.testing.assert_allclose(turns[:, joint], turns[:, chain[-1]], atol=1e-12)

    def test_joints_that_are_not_there_are_refused(self):
        bones = make(BY_MAKE["suit"], 3).skeleton
        for by_hand, turns in (({"Tail": "Hips"}, {}), ({"Hips": "Tail"}, {}), ({}, {"Tail": about("x", 1.0)})):
            with pytest.raises(InputError, match="no joint 'Tail'"):
                matching_of(bones, bones, by_hand, turns)
