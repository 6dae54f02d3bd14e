"""Hands and feet that are moved: by how much, which way, and what stays as it is."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import at_rest
from dynaface.core.cast.apply import CastMotion
from dynaface.core.cast.character import Character
from dynaface.core.cast.rig_curves import channels_of, rig_curves, with_rig_curves
from dynaface.core.curves.channels import Channels
from dynaface.core.match.limb_bones import limbs_of
from dynaface.core.match.reached import reached
from dynaface.core.perform.join import RetargetedBody, turns_of_local
from dynaface.core.perform.perform import perform
from dynaface.core.shapes.rig import LIMBS, RigChannel, in_order, range_of, reach_channels, rig_channel, rotations
from dynaface.formats.gltf.character import read_character
from tests.makers import skeleton as short

RIGS = {n: read_character((ASSETS / f"characters/{n}.glb").read_bytes()) for n in ("odile", "brindle", "kettle")}
RIG = RIGS["odile"].skeleton
FRAMES = 6


def way(x=0.0, y=0.0, z=0.0):
    return np.tile([x, y, z], (FRAMES, 1)).astype(float)


def standing(turn=0.0, rig=RIG):
    """A character whose knees and elbows are a little bent, facing aside by degrees."""
    local, root = at_rest(rig, FRAMES)
    for bones in limbs_of(rig).values():
        local[:, bones.middle] = multiply(local[:, bones.middle], about("x", 12.0))
    local[:, 0] = multiply(about("y", turn), local[:, 0])
    return local, root


def ends(local, root, rig=RIG):
    return {limb: rig.pose(local, root)[1][:, bones.end] for limb, bones in limbs_of(rig).items()}


@pytest.mark.parametrize("name", RIGS)
def test_every_character_has_four_limbs(name):
    assert list(limbs_of(RIGS[name].skeleton)) == list(LIMBS)


@pytest.mark.parametrize("limb", LIMBS)
def test_a_limb_goes_as_far_as_it_is_told_and_no_other_does(limb):
    local, root = standing()
    was, now = ends(local, root), ends(reached(RIG, local, root, {limb: way(0.02, 0.06, -0.03)}), root)
    for other in LIMBS:
        assert now[other] - was[other] == pytest.approx(way(0.02, 0.06, -0.03) if other == limb else way(), abs=1e-6)


def test_ahead_is_where_the_hips_face():
    local, root = standing(90.0)
    was, now = ends(local, root), ends(reached(RIG, local, root, {"handLeft": way(z=-0.05)}), root)
    assert now["handLeft"] - was["handLeft"] == pytest.approx(way(x=-0.05), abs=1e-6)


def test_hands_keep_how_they_are_turned_and_frames_without_a_way_stay():
    local, root = standing()
    some = way(y=0.05)
    some[3:] = 0
    made = reached(RIG, local, root, {"handRight": some})
    wrist = limbs_of(RIG)["handRight"].end
    one, other = (RIG.pose(v, root)[0][:, wrist] for v in (local, made))
    assert np.abs((one * other).sum(axis=1)) == pytest.approx(np.ones(FRAMES), abs=1e-9)
    assert np.abs((made[3:] * local[3:]).sum(axis=2)) == pytest.approx(1.0, abs=1e-12)


def test_what_is_out_of_reach_is_reached_for():
    local, root = standing()
    made = reached(RIG, local, root, {"handLeft": way(x=5.0)})
    at, bones = RIG.pose(made, root)[1], limbs_of(RIG)["handLeft"]
    arm = at[:, bones.end] - at[:, bones.top]
    assert arm[:, 0] / np.linalg.norm(arm, axis=1) == pytest.approx(np.ones(FRAMES), abs=0.05)


def test_a_skeleton_without_that_limb_stays():
    rig = replace(short())
    local, root = at_rest(rig, FRAMES)
    assert np.array_equal(reached(rig, local, root, {"footLeft": way(y=1.0)}), local)


class TestChannels:
    def test_they_have_names_of_their_own(self):
        assert reach_channels("handLeft") == ("limb handLeft x", "limb handLeft y", "limb handLeft z")
        assert rig_channel("limb footRight y") == RigChannel("reach", "footRight", "y")
        assert [rig_channel(n) for n in ("limb tail x", "limb handLeft", "limb handLeft w")] == [None] * 3
        assert range_of("limb handLeft x") == 100
        assert rotations(["limb handLeft x"]) == ()
        assert in_order(["limb handLeft y", "jawOpen"]) == ("jawOpen", "limb handLeft y")

    def test_a_rig_has_those_of_its_limbs(self):
        assert {n for n in channels_of(RIGS["odile"]) if n.startswith("limb ")} == {
            n for limb in LIMBS for n in reach_channels(limb)
        }
        assert not [n for n in channels_of(Character("", (), None)) if n.startswith("limb ")]

    def test_curves_of_them_are_millimetres_and_come_back(self):
        rest = CastMotion((), np.zeros((FRAMES, 0), np.float32), (), {})
        names = ("limb handLeft y", "joint tail turn x", "limb footLeft z")
        curves = Channels(names, np.tile(np.array([50.0, 1.0, -20.0], np.float32), (FRAMES, 1)), Fraction(60))
        made = with_rig_curves(rest, curves, RIGS["odile"])
        assert made.reaches["handLeft"] == pytest.approx(way(y=0.05))
        assert made.reaches["footLeft"] == pytest.approx(way(z=-0.02))
        assert set(made.reaches) == {"handLeft", "footLeft"}
        assert rig_curves(made, names, Fraction(60)).values == pytest.approx(curves.values * [1, 0, 1])

    def test_a_performance_has_them_beside_a_still_body(self):
        local, root = standing()
        body = RetargetedBody(turns_of_local(RIG, local), local, root, frozenset(), "")
        face = Channels(("jawOpen",), np.zeros((FRAMES, 1), np.float32), Fraction(60))
        rest = CastMotion((), np.zeros((FRAMES, 0), np.float32), (), {}, reaches={"handLeft": way(y=0.05)})
        made = perform(face, RIGS["odile"], rest, body)
        arm = {RIG.names[j] for j in limbs_of(RIG)["handLeft"]}
        assert arm <= set(made.joints)
