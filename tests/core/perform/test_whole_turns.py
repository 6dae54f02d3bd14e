"""Joints that a body moves under layers that touch them up."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import Array, about, inverse, multiply
from dynaface.core.cast.apply import CastMotion
from dynaface.core.cast.rig_curves import rig_curves, with_rig_curves
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join import retarget_body
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform
from dynaface.core.perform.whole_turns import turned_joints, with_whole_turns
from dynaface.core.shapes.rig import turn_channels
from dynaface.formats.gltf.character import read_character
from dynaface.sims.walk import walk

ODILE = read_character((ASSETS / "characters/odile.glb").read_bytes())
BONES = ODILE.skeleton
FRAMES = 90
FACE = Channels(("jawOpen", "headTurn"), np.full((FRAMES, 2), 0.1, np.float32), Fraction(60))
BODY = retarget_body(FACE, BONES, walk(60, 4).motion, JoinSettings())
REST = CastMotion((), np.zeros((FRAMES, 0), np.float32), (), {})
LEG = "upperLegLeft"
NAMES = turn_channels(LEG)


def shown(*layers: Layer, joint: str = LEG, body=BODY) -> Array:
    """(frames, 4) local rotation of a joint under touch-up layers."""
    names = tuple(sorted(turn_channels(joint)))
    beneath = with_whole_turns(REST, body, BONES, turned_joints(names))
    curves = rig_curves(beneath, names, FACE.rate)
    for layer in layers:
        curves = apply_layer(curves, layer)
    made = perform(FACE, ODILE, with_rig_curves(beneath, curves, ODILE), body)
    return made.local[:, made.joints.index(joint)].astype(np.float64)


def apart(one: Array, other: Array) -> Array:
    """Radians between rotations."""
    side = np.sign((one * other).sum(axis=-1, keepdims=True))
    return np.asarray(4 * np.arcsin(np.linalg.norm(one * side - other, axis=-1) / 2))


def says(kind: str, weight: float = 1.0, **degrees: float) -> Layer:
    keys = {f"joint {LEG} turn {axis}": (Key(0, value),) for axis, value in degrees.items()}
    return Layer(kind, weight=Weight(weight), keys=keys)


OWN = BODY.local[:, BONES.index(LEG)]
AT_REST = BONES.rest[BONES.index(LEG)]


def test_the_whole_angle_of_a_joint_is_what_the_body_does_with_it():
    assert apart(shown(), OWN).max() < 1e-5
    beneath = with_whole_turns(REST, BODY, BONES, [LEG])
    np.testing.assert_allclose(multiply(AT_REST, beneath.turns[LEG]), OWN, atol=1e-9)
    assert beneath.whole == {LEG}


def test_a_layer_that_replaces_stands_in_the_place_of_the_body():
    made = shown(says("replace", x=10.0, y=0.0, z=-20.0))
    assert apart(made, made[:1]).max() < 1e-5
    assert apart(OWN, OWN[:1]).max() > 0.02
    nothing = shown(says("replace", x=0.0, y=0.0, z=0.0))
    assert apart(nothing, AT_REST).max() < 1e-5


def test_half_of_it_is_half_the_way():
    whole, half = (shown(says("replace", w, x=0.0, y=0.0, z=0.0)) for w in (1.0, 0.5))
    np.testing.assert_allclose(apart(half, OWN), apart(half, whole), atol=1e-5)
    assert apart(shown(says("replace", 0.0, x=40.0)), OWN).max() < 1e-5


def test_an_angle_that_is_not_said_stays_the_bodys():
    beneath = rig_curves(with_whole_turns(REST, BODY, BONES, [LEG]), NAMES, FACE.rate)
    after = apply_layer(beneath, says("replace", y=5.0))
    np.testing.assert_allclose(after.column(f"joint {LEG} turn y"), 5.0, atol=1e-3)
    for axis in "xz":
        name = f"joint {LEG} turn {axis}"
        np.testing.assert_allclose(after.column(name), beneath.column(name), atol=1e-3)


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_a_layer_that_adds_turns_the_joint_in_its_own_frame_as_ever(axis):
    made = shown(says("add", **{axis: 25.0}))
    assert apart(made, multiply(OWN, about(axis, 25.0))).max() < 1e-5


def test_neck_and_head_and_what_no_body_moves_keep_what_the_cast_adds():
    assert with_whole_turns(REST, BODY, BONES, ["head", "neck1", "jaw"]) is REST
    standing = retarget_body(FACE, BONES, None, JoinSettings())
    assert with_whole_turns(REST, standing, BONES, [LEG]) is REST
    assert with_whole_turns(REST, BODY, None, [LEG]) is REST


def test_what_leans_or_turns_the_joint_besides_the_body_stays():
    turn = about("x", np.full(FRAMES, 12.0))
    cast = CastMotion((), REST.weights, (), {}, {LEG: turn})
    plain = perform(FACE, ODILE, cast, BODY)
    whole = perform(FACE, ODILE, with_whole_turns(cast, BODY, BONES, [LEG]), BODY)
    at = plain.joints.index(LEG)
    assert apart(plain.local[:, at].astype(np.float64), whole.local[:, at].astype(np.float64)).max() < 1e-5
    assert (LEG in plain.head_joints, LEG in whole.head_joints) == (True, False)
    moved = multiply(inverse(OWN), whole.local[:, at].astype(np.float64))
    assert apart(moved, turn).max() < 1e-5
