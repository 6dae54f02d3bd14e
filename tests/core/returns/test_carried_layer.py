"""Touch-up layers on a newer rig: they do there what they did."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.body.rotations import about, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.rig_curves import joint_turn
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.keys import Key
from dynaface.core.layers.layer import Layer, apply_layer
from dynaface.core.layers.span import Span
from dynaface.core.returns.brought import turned_by
from dynaface.core.returns.carried_layer import carry_layer
from dynaface.core.shapes.rig import slide_channels, turn_channels

ONE = np.array([0, 0, 0, 1.0])
FRAMES = 80


def rig(targets=("grin", "wart"), joints=("hips", "LeftArm"), arm=ONE):
    skeleton = Skeleton(joints, (-1, 0), np.array([[0, 1, 0], [0.2, 0.4, 0]]), np.stack([ONE, arm]))
    return Character("Rig", (MeshTargets("face", tuple(targets)),), skeleton)


OLD = rig()
Y, X, Z = turn_channels("LeftArm")
LAYER = Layer(
    "replace",
    keys={"target wart": (Key(0, 0.2), Key(40, 0.6)), Y: (Key(0, 0.0), Key(70, 80.0)), X: (Key(0, 10.0), Key(70, -40.0))},
    spans=(Span(20, 30, offset={"target grin": 0.5, Y: 12.0, X: -30.0, Z: 25.0, slide_channels("LeftArm")[0]: 40.0}, id="s"),),
)  # fmt: skip


def played(layer, joint="LeftArm"):
    """Turns (frames, 4) and slides (frames, 3) of the joint that a layer gives on nothing."""
    names = (*turn_channels(joint), *slide_channels(joint))
    made = apply_layer(Channels(names, np.zeros((FRAMES, 6), np.float32), Fraction(60)), layer)
    y, x, z = (made.column(n).astype(np.float64) for n in turn_channels(joint))
    return joint_turn(y, x, z), np.stack([made.column(n) for n in slide_channels(joint)], axis=1)


def test_on_the_same_rig_it_is_the_same():
    made, words = carry_layer(LAYER, OLD, rig(), {})
    assert words == []
    assert made.key == LAYER.key


def test_targets_and_joints_go_by_their_new_names():
    made, words = carry_layer(LAYER, OLD, rig(("grin", "mole"), ("hips", "arm_L")), {"wart": "mole"})
    assert words == []
    assert made.keys["target mole"] == LAYER.keys["target wart"]
    assert set(made.channels) >= {"target grin", "target mole", *turn_channels("arm_L")}
    assert not any("wart" in c or "LeftArm" in c for c in made.channels)
    np.testing.assert_allclose(turned_by(played(made, "arm_L")[0], played(LAYER)[0]), 0, atol=1e-4)


def test_what_has_no_place_stays_and_is_said():
    made, words = carry_layer(LAYER, OLD, rig(("grin",), ("hips", "wing")), {})
    assert any("wart" in w for w in words)
    assert any("LeftArm" in w for w in words)
    assert made.key == LAYER.key, "the older rig may be had back"


@pytest.mark.parametrize("rest", [about("x", np.float64(90.0)), about("z", np.float64(-35.0))])
def test_a_joint_that_rests_otherwise_turns_and_slides_as_it_did_in_the_world(rest):
    """World turn = G t G^-1 where G is how the joint stands at rest."""
    made, words = carry_layer(LAYER, OLD, rig(arm=rest), {})
    assert words == []
    (was, went), (now, goes) = played(LAYER), played(made)
    seen = multiply(multiply(rest, now), inverse(rest))
    keyed = np.r_[0:14, 37:FRAMES]  # where no span comes and goes
    assert turned_by(seen[keyed], was[keyed]).max() < 0.1
    assert turned_by(seen[20:31], was[20:31]).max() < 0.5
    assert np.linalg.norm(went[25]) == pytest.approx(np.linalg.norm(goes[25]), abs=0.1)


def test_curves_of_spans_go_along():
    span = Span(
        20, 30, curves={"target wart": (Key(0, 0.2), Key(10, 0.4)), Y: (Key(0, 5.0), Key(10, 50.0))}, origin=20, id="s"
    )
    layer = replace(LAYER, keys={}, spans=(span,))
    made, _ = carry_layer(layer, OLD, rig(("grin", "mole"), arm=about("x", np.float64(90.0))), {"wart": "mole"})
    assert set(made.spans[0].curves) == {"target mole", *turn_channels("LeftArm")}
    seen = multiply(multiply(about("x", np.float64(90.0)), played(made)[0]), about("x", np.float64(-90.0)))
    assert turned_by(seen[20:31], played(layer)[0][20:31]).max() < 0.1
