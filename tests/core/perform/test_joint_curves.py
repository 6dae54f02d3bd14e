"""Curves of joints: angles against rest without jumps, places where the skeleton has them."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import take_graph
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.joint_curves import joint_curves, place_channels
from dynaface.core.perform.perform import Performance, perform_take
from dynaface.core.shapes.rig import turn_channels
from dynaface.formats.gltf.character import read_character
from dynaface.sims.walk import walk

RIG = read_character((ASSETS / "characters/odile.glb").read_bytes())
WALK = walk(60, 3).motion
FACE = Channels(("jawOpen",), np.zeros((200, 1), np.float32), Fraction(60))


def test_places_are_where_the_joints_are():
    made = perform_take(FACE, RIG, CastSheet(), WALK, JoinSettings(feet=True))
    curves = joint_curves(made, RIG.skeleton, ["hips", "handLeft"])
    motion = made.motion(RIG.skeleton)
    positions = RIG.skeleton.pose(motion.local, motion.root)[1]
    for joint in ("hips", "handLeft"):
        own = np.stack([curves.column(n) for n in place_channels(joint)], axis=1)
        assert own == pytest.approx(positions[:, RIG.skeleton.index(joint)], abs=1e-5)


def test_angles_are_degrees_against_rest_and_go_on_past_half_a_turn():
    angles = np.linspace(0, 300, 200)
    index = RIG.skeleton.index("spine1")
    local = np.tile(RIG.skeleton.rest, (200, 1, 1))
    local[:, index] = about("y", angles)
    still = perform_take(FACE, RIG, CastSheet())
    made = Performance(
        FACE, still.cast, RIG.skeleton.names, local.astype(np.float32), np.zeros((200, 3), np.float32), "", ()
    )
    y, x, z = (joint_curves(made, RIG.skeleton, ["spine1"]).column(n) for n in turn_channels("spine1"))
    assert y == pytest.approx(angles, abs=1e-2)
    assert np.abs([x, z]).max() < 1e-2


def test_joints_that_are_not_there_are_left_out():
    made = perform_take(FACE, RIG, CastSheet())
    assert joint_curves(made, RIG.skeleton, ["tail"]).values.shape == (200, 0)
    assert len(joint_curves(made, RIG.skeleton, ["tail", "hips"]).names) == 6


def test_a_graph_has_them_when_they_are_asked_for():
    given = constant("face", FACE), 60.0, [], {}, constant("rig", RIG), None, constant("body", WALK)
    cache = Cache(500_000_000)
    assert take_graph(*given).joints is None
    one, other = (take_graph(*given, joints=j) for j in (["hips"], ["head"]))
    assert one.joints.key != other.joints.key
    assert one.performed.key == other.performed.key
    assert one.joints.result(cache).names[0] == "joint hips turn y"
