"""Who moves the head: the body's own turn, the face take's, or something between, and never both."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.body.rotations import IDENTITY, about, inverse, multiply
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.head.neck import chain_turns, head_chain, local_of_chain
from dynaface.sims.body_suit import skeleton as suit
from dynaface.sims.skeletons import BUILDS, make

NAMES = ("hips", "chest", "neck1", "neck2", "head")
FRAMES = 5


def skeleton(names=NAMES, turned=False):
    rest = np.tile(IDENTITY, (len(names), 1))
    if turned:
        rest[2] = about("x", 20.0)
        rest[4] = about("z", -15.0)
    return Skeleton(names, tuple(range(-1, len(names) - 1)), np.tile([0.0, 0.1, 0.0], (len(names), 1)), rest)


def turns(*degrees):
    """(frames, joints, 4) world turns about y."""
    return np.stack([np.broadcast_to(about("y", float(d)), (FRAMES, 4)) for d in degrees], axis=1)


def angle(a, b):
    """Degrees between rotations."""
    return np.degrees(2 * np.arccos(np.clip(np.abs((a * b).sum(axis=-1)), 0, 1)))


@pytest.mark.parametrize(
    ("names", "expected"),
    [
        (NAMES, ["neck1", "neck2", "head"]),
        (("hips", "chest", "head"), ["head"]),
        (("rig:Hips", "rig:Neck", "rig:Head"), ["rig:Neck", "rig:Head"]),
        (("hips", "chest"), []),
    ],
)
def test_the_chain_goes_from_the_lowest_neck_joint_to_the_head(names, expected):
    who = skeleton(names)
    assert [who.names[i] for i in head_chain(who)] == expected


FACE = about("y", 40.0)


def made(weight, head=FACE):
    who, chain = skeleton(), head_chain(skeleton())
    body = turns(0, 10, 15, 20, 25)
    base = body[:, 1]
    return chain_turns(body, base, chain, np.broadcast_to(head, (FRAMES, 4)), np.full(FRAMES, weight)), body, who, chain


def test_without_weight_the_bodys_own_head_stays():
    out, body, _, chain = made(0.0)
    assert angle(out, body[:, chain]).max() < 1e-4


def test_with_all_weight_the_head_is_the_faces_against_the_chest():
    out, body, _, _ = made(1.0)
    wanted = multiply(body[:, 1], np.broadcast_to(about("y", 40.0), (FRAMES, 4)))
    assert angle(out[:, -1], wanted).max() < 1e-4


def test_it_replaces_and_never_adds():
    out, body, _, _ = made(1.0, IDENTITY)
    assert angle(out[:, -1], body[:, 1]).max() < 1e-4


def test_the_turn_is_spread_evenly_over_the_chain():
    out, body, _, _ = made(1.0)
    against_chest = [float(angle(multiply(inverse(body[:, 1]), out[:, n]), IDENTITY)[0]) for n in range(3)]
    assert against_chest == pytest.approx([40 / 3, 80 / 3, 40], abs=1e-3)


def test_half_the_weight_lies_between():
    out, body, _, _ = made(0.5)
    assert float(angle(multiply(inverse(body[:, 1]), out[:, -1]), IDENTITY)[0]) == pytest.approx(
        (15 + 40) / 2, abs=1e-3
    )


def test_weight_may_change_from_frame_to_frame():
    who, chain, body = skeleton(), head_chain(skeleton()), turns(0, 10, 15, 20, 25)
    weight = np.linspace(0, 1, FRAMES)
    out = chain_turns(body, body[:, 1], chain, np.broadcast_to(about("y", 40.0), (FRAMES, 4)), weight)
    against = angle(multiply(inverse(body[:, 1]), out[:, -1]), IDENTITY)
    assert who.names[chain[-1]] == "head"
    np.testing.assert_allclose(against, 15 + 25 * weight, atol=1e-3)


@pytest.mark.parametrize("turned", [False, True])
def test_local_rotations_give_the_world_turns_back(turned):
    who = skeleton(turned=turned)
    chain, body = head_chain(who), turns(0, 10, 15, 20, 25)
    base = body[:, 1]
    local = local_of_chain(who, base, chain, body[:, chain])
    rest, _ = who.global_rest()
    above = multiply(base, rest[who.parents[chain[0]]])
    for number, joint in enumerate(chain):
        above = multiply(above, local[:, number])
        assert angle(above, multiply(body[:, joint], rest[joint])).max() < 1e-4


class TestUnnamed:
    """Heads and necks whose names say nothing, or are of other makes."""

    @pytest.mark.parametrize("build", BUILDS, ids=lambda b: b.make)
    def test_are_found_by_how_the_skeleton_hangs_together(self, build):
        made = make(build, 3)
        told = replace(made.skeleton, names=tuple(f"j{n}" for n in range(len(made.skeleton.names))))
        chain = head_chain(told)
        assert made.truth[chain[-1]] == "head"
        assert all(made.truth[j].startswith("neck") for j in chain[:-1])
        assert told.chained(chain)

    def test_names_of_other_makes_are_heads_too(self):
        rig = suit()
        names = tuple(f"C_{n}_JNT" for n in rig.names)
        assert head_chain(replace(rig, names=names)) == head_chain(rig)

    def test_a_lone_chain_is_no_head(self):
        tail = Skeleton(
            ("a", "b", "c"),
            (-1, 0, 1),
            np.array([[0, 0, 0], [0, 0.3, 0], [0, 0.3, 0.0]]),
            np.tile([0, 0, 0, 1.0], (3, 1)),
        )
        assert head_chain(tail) == []
