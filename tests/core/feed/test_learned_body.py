"""Bodies in layouts of other programs: which numbers are rotations, in which order, of which joints."""

import numpy as np
import pytest

from dynaface.core.feed.body_packets import body_packets
from dynaface.core.feed.learned_body import NO_BODY, learn_body
from dynaface.core.feed.messages import packets_of
from dynaface.core.feed.packet import Packet
from dynaface.sims.body_suit import move


@pytest.fixture(scope="module")
def walk():
    return list(body_packets(move(2.0, None, 3)))[::8]


def by_text(packet):
    return [("/suit/bone", (name, *turn)) for name, turn in packet.joints.items()]


def w_first(packet):
    return [(f"/suit/{name}/rotation", (turn[3], *turn[:3])) for name, turn in packet.joints.items()]


def with_places(packet):
    far = [v * 100 for v in packet.root]
    return [
        (f"/stream/{name}", (*(far if name == "Hips" else (0.0, 5.0, 0.0)), *turn))
        for name, turn in packet.joints.items()
    ]


def by_axes(packet):
    return [
        (f"/{name}/q{axis}", (v,)) for name, turn in packet.joints.items() for axis, v in zip("xyzw", turn, strict=True)
    ]


def heard(packet, how):
    return packets_of(how(packet))[0]


@pytest.mark.parametrize("how", [by_text, w_first, with_places, by_axes])
def test_rotations_are_found_in_their_order_with_their_joints(walk, how):
    packets = [heard(p, how) for p in walk]
    body = learn_body([p.values for p in packets])
    for sent, came in zip(walk, packets, strict=True):
        found = body.read(came)
        assert not found.values or how is with_places
        assert found.joints.keys() == sent.joints.keys()
        for joint, turn in sent.joints.items():
            assert abs(np.dot(found.joints[joint], turn)) == pytest.approx(1, abs=1e-9)


def test_the_place_of_the_hips_is_taken_in_metres(walk):
    packets = [heard(p, with_places) for p in walk]
    body = learn_body([p.values for p in packets])
    assert body.read(packets[-1]).root == pytest.approx(walk[-1].root)


def test_a_face_beside_the_body_stays_a_face(walk):
    rows = [{**heard(p, by_text).values, "/face jawOpen": 0.2, "/face[0]": 1.0} for p in walk]
    body = learn_body(rows)
    assert set(body.read(Packet(values=rows[0])).values) == {"/face jawOpen", "/face[0]"}


def test_four_numbers_that_are_no_rotation_or_of_no_joint_are_left(walk):
    rng = np.random.default_rng(1)
    weights = [
        {f"/arm L{n}[{i}]": float(v) for n in range(9) for i, v in enumerate(rng.uniform(0, 1, 4))} for _ in range(20)
    ]
    assert learn_body(weights) == NO_BODY
    strange = [{f"/x{n}[{i}]": float(i == 3) for n in range(9) for i in range(4)} for _ in range(20)]
    assert learn_body(strange) == NO_BODY


def test_a_few_packets_say_nothing_yet(walk):
    assert learn_body([heard(p, by_text).values for p in walk[:5]]) == NO_BODY
    assert learn_body([]) == NO_BODY
