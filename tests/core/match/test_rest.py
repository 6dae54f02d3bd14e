"""Rest poses, the way that a body goes, and hands and feet that arrive."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import about, inverse, multiply, rotate
from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.match.anatomy import anatomy_of
from dynaface.core.match.known import full_names, skeleton_mark
from dynaface.core.match.match_settings import MatchSettings
from dynaface.core.match.rest import as_rest, find_still, heading_of, held_pose, turns_of
from dynaface.core.match.retarget import matching_of, retarget, to_local
from dynaface.core.match.travel import TRAVELS, travelled
from dynaface.core.perform.join import retarget_body
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.sims.skeletons import BUILDS, make
from dynaface.sims.walk import walk

SUIT = make(BUILDS[0], 12)
RIG = make(next(b for b in BUILDS if b.make == "another language"), 31)
WALK = walk(60, 4).motion


def posed(arms: float, seconds: float = 4.0, heading: float = 0.0) -> Motion:
    """The suit that stands with its arms hanging by so many degrees, turned by a heading."""
    skeleton = SUIT.skeleton
    local = skeleton.rest[None].repeat(round(60 * seconds), axis=0)
    for side, sign in (("L", -1), ("R", 1)):
        joint = SUIT.truth.index(f"{side} upperarm")
        local[:, joint] = multiply(about("z", sign * arms), local[:, joint])
    local[:, 0] = multiply(about("y", heading), local[:, 0])
    return Motion(skeleton, local, np.zeros((len(local), 3)), Fraction(60))


def face(frames: int) -> Channels:
    return Channels(("jawOpen",), np.zeros((frames, 1), np.float32), Fraction(60))


class TestHeldPoses:
    @pytest.mark.parametrize(("arms", "pose"), [(0, "T"), (45, "A"), (80, "arms down"), (-60, "")])
    def test_a_pose_that_is_held_is_found_and_named(self, arms, pose):
        (found,) = find_still(posed(arms))
        assert (found.pose, found.first, found.last) == (pose, 0.0, pytest.approx(4.0, abs=0.1))
        assert found.arms == pytest.approx(arms, abs=2)

    def test_one_who_moves_or_holds_too_short_holds_nothing(self):
        assert find_still(posed(0, seconds=2.5)) == ()
        assert find_still(WALK) == ()

    def test_bent_arms_are_no_named_pose(self):
        motion = posed(0)
        for side in ("L", "R"):
            joint = SUIT.truth.index(f"{side} lowerarm")
            motion.local[:, joint] = about("y", 70.0 if side == "R" else -70.0)
        assert find_still(motion)[0].pose == ""

    @pytest.mark.parametrize("heading", [0.0, 35.0, -120.0, 180.0])
    def test_the_heading_is_no_part_of_a_pose(self, heading):
        motion = posed(45, heading=heading)
        assert abs((heading_of(motion.skeleton, motion.local[0]) - heading + 180) % 360 - 180) < 0.5
        rest = as_rest(motion.skeleton, held_pose(motion, 2.0))
        at = rest.global_rest()[1]
        left, right = (at[SUIT.truth.index(f"{s} upperleg")] for s in "LR")
        assert (left - right)[0] > 0.1
        assert (left - right)[2] == pytest.approx(0, abs=1e-6)

    def test_a_pose_of_other_joints_leaves_a_rest_alone(self):
        rest = as_rest(SUIT.skeleton, {"somebody": about("x", 30.0)})
        np.testing.assert_allclose(rest.rest, SUIT.skeleton.rest)


class TestCalibration:
    @pytest.mark.parametrize("heading", [0.0, 60.0])
    def test_what_was_held_as_the_characters_rest_gives_that_rest(self, heading):
        """A suit whose file has another rest than the pose that it holds: its trunk leans in the file."""
        motion = posed(70, heading=heading)
        crooked = replace(motion, local=motion.local.copy())
        spine = SUIT.truth.index("spine 1")
        crooked.local[:, spine] = multiply(about("x", 25.0), crooked.local[:, spine])
        stood = retarget_body(face(60), RIG.skeleton, crooked, JoinSettings(match=MatchSettings(calibration=2.0)))
        turned = about("y", heading)
        for part in ("spine 3", "head"):
            joint = RIG.truth.index(part)
            np.testing.assert_allclose(np.abs(stood.turns[:, joint] @ turned), 1, atol=1e-9)

    def test_without_it_the_rest_of_the_file_counts(self):
        motion = posed(70)
        motion.local[:, SUIT.truth.index("spine 1")] = about("x", 25.0)
        stood = retarget_body(face(60), RIG.skeleton, motion, JoinSettings())
        chest = stood.turns[0, RIG.truth.index("spine 3")]
        assert 2 * np.degrees(np.arccos(abs(chest[3]))) == pytest.approx(25, abs=0.01)

    def test_a_rest_that_was_kept_counts_as_the_held_pose_did(self):
        motion = posed(70)
        held = held_pose(motion, 2.0)
        kept = JoinSettings(match=MatchSettings(rest={n: tuple(q) for n, q in held.items()}))
        one, other = (
            retarget_body(face(30), RIG.skeleton, motion, s)
            for s in (kept, JoinSettings(match=MatchSettings(calibration=2.0)))
        )
        np.testing.assert_allclose(one.local, other.local, atol=1e-12)


class TestCorrections:
    def test_degrees_are_about_left_up_and_ahead(self):
        q = turns_of({"a": (0, 90, 0)})["a"]
        np.testing.assert_allclose(rotate(q, np.array([0.0, 0, 1])), [1, 0, 0], atol=1e-12)

    @pytest.mark.parametrize("bad", [{"turns": {"a": [1, 2]}}, {"turns": {"a": "xyz"}}, {"turns": []}, {"calibration": -1}, {"travel": "far"},
                                     {"arms": 1.5}, {"start": 1}, {"turns": {"a": [0, 0, 181]}}])  # fmt: skip
    def test_bad_settings_are_refused(self, bad):
        with pytest.raises(InputError):
            parse_join(bad)


class TestTravel:
    WAY = np.array([[1.0, 0.5, -2.0]])

    @pytest.mark.parametrize(
        ("travel", "expected"),
        [("scaled", [1, 0.5, -2]), ("metres", [2, 0.5, -4]), ("ahead", [0, 0.5, -2]), ("aside", [1, 0.5, 0]), ("spot", [0, 0.5, 0]), ("still", [0, 0, 0])],
    )  # fmt: skip
    def test_each_keeps_its_part_of_the_way(self, travel, expected):
        np.testing.assert_allclose(travelled(self.WAY, travel, 0.5)[0], expected)
        assert travel in TRAVELS

    @pytest.mark.parametrize("heading", [0.0, 90.0, -150.0])
    def test_a_body_starts_where_its_character_stands_and_faces_as_it_does(self, heading):
        turned = replace(WALK, local=WALK.local.copy(), root=rotate(about("y", heading), WALK.root) + [3.0, 0, -2.0])
        turned.local[:, 0] = multiply(about("y", heading), WALK.local[:, 0])
        began = retarget_body(face(120), RIG.skeleton, turned, JoinSettings(start=True))
        plain = retarget_body(face(120), RIG.skeleton, WALK, JoinSettings(start=True))
        np.testing.assert_allclose(began.root[0, [0, 2]], 0, atol=1e-12)
        np.testing.assert_allclose(began.root, plain.root, atol=1e-6)
        looks = rotate(began.turns[0, RIG.truth.index("hips")], np.array([0.0, 0, 1]))
        assert looks[0] == pytest.approx(0, abs=1e-9)
        assert looks[2] > 0


class TestArriving:
    def seen(self, **settings):
        frames = WALK.frames // 2
        made = retarget_body(face(frames), RIG.skeleton, WALK, JoinSettings(**settings))
        at = RIG.skeleton.pose(made.local, made.root)[1]
        theirs = WALK.skeleton.pose(*WALK.at(np.arange(frames) / 60))[1]
        return at, theirs, made

    @pytest.mark.parametrize(("limb", "part", "end"), [("arms", "hand", "Hand"), ("legs", "foot", "Foot")])
    def test_places_are_kept_as_far_as_limbs_reach(self, limb, part, end):
        ours, theirs = RIG.skeleton.global_rest()[1], WALK.skeleton.global_rest()[1]
        hips = RIG.truth.index("hips")
        scale = (ours[hips, 1] - ours[:, 1].min()) / (theirs[0, 1] - theirs[:, 1].min())
        off = {}
        for weight in (0.0, 0.5, 1.0):
            at, seen, _ = self.seen(**{limb: weight})
            joint, other = RIG.truth.index(f"L {part}"), WALK.skeleton.index(f"{end}_L")
            wish = at[:, hips] + scale * (seen[:, other] - seen[:, 0])
            top = RIG.truth.index(f"L upper{limb[:3]}")
            length = np.linalg.norm(ours[RIG.truth.index(f"L lower{limb[:3]}")] - ours[top])
            length += np.linalg.norm(ours[joint] - ours[RIG.truth.index(f"L lower{limb[:3]}")])
            within = np.linalg.norm(wish - at[:, top], axis=1) < 0.99 * length
            off[weight] = np.linalg.norm(at[:, joint] - wish, axis=1)[within].mean()
        assert off[1.0] < 0.004 < off[0.0]
        assert off[1.0] < off[0.5] < off[0.0]

    def test_hands_and_feet_stay_turned_as_they_were(self):
        (_, _, plain), (_, _, there) = self.seen(), self.seen(arms=1.0, legs=1.0)
        for part in ("L hand", "R hand", "L foot", "R foot"):
            joint = RIG.truth.index(part)
            np.testing.assert_allclose(
                np.abs((plain.turns[:, joint] * there.turns[:, joint]).sum(axis=1)), 1, atol=1e-9
            )

    def test_a_body_of_the_same_build_is_not_changed(self):
        bones = WALK.skeleton
        one, other = (
            retarget_body(face(60), bones, WALK, JoinSettings(arms=w, legs=w)).local.astype(np.float64) for w in (0, 1)
        )
        apart = 2 * np.degrees(np.arccos(np.minimum(np.abs((one * other).sum(axis=-1)), 1)))
        assert apart.max() < 0.6  # limbs that are in line are kept a hair short of it


class TestKnownAgain:
    def test_a_skeleton_is_known_by_its_joints_in_whatever_scene(self):
        moved = replace(
            SUIT.skeleton, names=tuple(f"scene:{n}" for n in SUIT.skeleton.names), offsets=SUIT.skeleton.offsets * 2
        )
        assert skeleton_mark(moved) == skeleton_mark(SUIT.skeleton)
        assert full_names(moved)["Hips"] == "scene:Hips"

    def test_another_name_or_place_in_the_tree_is_another_skeleton(self):
        names = ("Hip", *SUIT.skeleton.names[1:])
        assert skeleton_mark(replace(SUIT.skeleton, names=names)) != skeleton_mark(SUIT.skeleton)
        assert skeleton_mark(RIG.skeleton) != skeleton_mark(SUIT.skeleton)


def test_a_body_with_names_of_nothing_walks_on_a_rig_of_another_language():
    turns, root = retarget(
        WALK.skeleton, WALK.local, WALK.root, RIG.skeleton, matching_of(WALK.skeleton, RIG.skeleton, {}, {})
    )
    at = RIG.skeleton.pose(to_local(RIG.skeleton, turns), root)[1]
    assert anatomy_of(RIG.skeleton).trust < 1
    assert np.ptp(at[:, RIG.truth.index("hips")], axis=0).max() > 0.5


class TestHands:
    """Fingers of one take on the wrists of another."""

    GLOVES = make(next(b for b in BUILDS if b.make == "prefixed"), 8)

    def gloves(self, curl: float) -> Motion:
        """A take of hands in which the left middle finger curls, and whose arms hang otherwise than the body's."""
        bones, truth = self.GLOVES.skeleton, self.GLOVES.truth
        local = bones.rest[None].repeat(60, axis=0)
        own = bones.global_rest()[0]
        for name, degrees in (("L upperarm", -50.0), ("L finger 3 1", -curl)):
            joint = truth.index(name)
            turn = multiply(multiply(inverse(own[joint]), about("z", degrees)), own[joint])
            local[:, joint] = multiply(local[:, joint], turn)
        return Motion(bones, local, np.zeros((60, 3)), Fraction(60))

    def joined(self, seen: Motion | None, **settings):
        return retarget_body(face(60), RIG.skeleton, WALK, JoinSettings(**settings), (), seen)

    def bend(self, made, truth: str) -> float:
        """Degrees of a finger's first joint against its hand."""
        hand, joint = RIG.truth.index(f"{truth[0]} hand"), RIG.truth.index(truth)
        against = multiply(inverse(made.turns[0, hand]), made.turns[0, joint])
        return 2 * np.degrees(np.arccos(min(abs(against[3]), 1)))

    def test_a_finger_is_bent_as_in_the_take_of_hands(self):
        straight, curled = (self.joined(self.gloves(c)) for c in (0.0, 40.0))
        hand, joint = RIG.truth.index("L hand"), RIG.truth.index("L finger 3 1")
        one, other = (multiply(inverse(m.turns[0, hand]), m.turns[0, joint]) for m in (straight, curled))
        assert 2 * np.degrees(np.arccos(abs(one @ other))) == pytest.approx(40, abs=0.1)
        assert self.bend(curled, "L finger 2 1") == pytest.approx(self.bend(straight, "L finger 2 1"), abs=1e-6)

    def test_hands_stay_on_the_wrists_of_the_body(self):
        plain, gloved = self.joined(None), self.joined(self.gloves(40))
        for side in "LR":
            hand = RIG.truth.index(f"{side} hand")
            np.testing.assert_allclose(gloved.turns[:, hand], plain.turns[:, hand], atol=1e-12)
        assert gloved.moving >= plain.moving

    @pytest.mark.parametrize(("sides", "moved"), [("left", True), ("right", False), ("none", False), ("both", True)])
    def test_each_hand_counts_alone(self, sides, moved):
        one, other = (self.bend(self.joined(self.gloves(c), hands=sides), "L finger 3 1") for c in (0.0, 40.0))
        assert (abs(other - one) > 20) == moved

    def test_hands_have_a_time_of_their_own(self):
        late = self.gloves(0.0)
        joint = self.GLOVES.truth.index("L finger 3 1")
        late.local[30:, joint] = self.gloves(40.0).local[30:, joint]
        made = self.joined(late, hands_nudge=-20.0)
        joint, hand = RIG.truth.index("L finger 3 1"), RIG.truth.index("L hand")
        against = multiply(inverse(made.turns[:, hand]), made.turns[:, joint])
        changed = np.flatnonzero(np.abs(np.diff(against[:, 3])) > 1e-3)
        assert changed.tolist() == [9]

    def test_fingers_are_matched_by_hand_as_well(self):
        names = dict(zip(self.GLOVES.truth, self.GLOVES.skeleton.names, strict=True))
        ours = RIG.skeleton.names[RIG.truth.index("L finger 2 1")]
        told = {ours: names["L finger 3 1"]}
        assert self.bend(self.joined(self.gloves(40.0), hands_match=MatchSettings(told)), "L finger 2 1") > 20

    def test_the_rest_of_a_finger_is_corrected_against_its_hand(self):
        ours = RIG.skeleton.names[RIG.truth.index("L finger 3 1")]
        corrected = MatchSettings(turns={ours: (0.0, 0.0, 25.0)})
        plain, turned = (self.joined(self.gloves(0.0), hands_match=m) for m in (MatchSettings(), corrected))
        finger, other = (RIG.truth.index(j) for j in ("L finger 3 1", "L finger 2 1"))
        one = plain.turns[0, finger] @ turned.turns[0, finger]
        assert 2 * np.degrees(np.arccos(min(abs(one), 1))) == pytest.approx(25, abs=1e-3)
        np.testing.assert_allclose(turned.turns[0, other], plain.turns[0, other], atol=1e-9)

    def test_without_a_body_the_fingers_move_alone(self):
        made = retarget_body(face(60), RIG.skeleton, None, JoinSettings(), (), self.gloves(40.0))
        assert self.bend(made, "L finger 3 1") > 20
        assert all(RIG.truth[RIG.skeleton.index(n)].split()[1] == "finger" for n in made.moving)

    @pytest.mark.parametrize("side", ["L", "R"])
    @pytest.mark.parametrize("naming", ["", "nonsense"])
    def test_a_lone_hand_is_known(self, side, naming):
        made = make(BUILDS[0], 12, naming)
        joints = [j for j, t in enumerate(made.truth) if t == f"{side} hand" or t.startswith(f"{side} finger")]
        at = made.skeleton.global_rest()[1]
        parents = [joints.index(p) if (p := made.skeleton.parents[j]) in joints else -1 for j in joints]
        offsets = np.array([at[j] - (at[joints[p]] if p >= 0 else 0) for j, p in zip(joints, parents, strict=True)])
        lone = Skeleton(
            tuple(made.skeleton.names[j] for j in joints), tuple(parents), offsets, made.skeleton.rest[joints]
        )
        slots = anatomy_of(lone).slots
        assert slots[0] == ("hand", side, 0)
        for joint, index in enumerate(joints[1:], 1):
            digit, number = made.truth[index].split()[2:]
            assert slots[joint] == (f"finger{digit}", side, int(number))
