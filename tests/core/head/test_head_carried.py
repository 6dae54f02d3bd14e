"""Where a body carries a head."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.body.skeleton import at_rest
from dynaface.core.head.eyes import eyes_at_rest
from dynaface.core.head.head_carried import carried_head
from dynaface.core.perform.join import turns_of_local
from dynaface.sims import gloves
from dynaface.sims.skeletons import BUILDS, make

RIG = make(BUILDS[0], 12).skeleton
EYES = eyes_at_rest(RIG, None, None)
PLACE = np.array([0.4, 1.2, 3.0])


def carried(turn: float = 0.0, way=(0.0, 0.0, 0.0)):
    local, root = at_rest(RIG, 3)
    local[:, 0] = multiply(about("y", turn), local[:, 0])
    return carried_head(RIG, turns_of_local(RIG, local), local, root + way, EYES)


def test_at_rest_everything_is_where_it_is():
    made = carried()
    assert_allclose(made.seen_at_rest(PLACE), np.tile(PLACE, (3, 1)), atol=1e-9)
    still = np.tile([0.0, 0.0, 0.0, 1.0], (3, 1))
    assert_allclose(made.eyes_turned(still), np.tile(EYES.middle, (3, 1)), atol=1e-9)


def test_who_walks_up_to_a_place_sees_it_as_much_nearer():
    made = carried(way=(0.4, 0.0, 1.0))
    assert_allclose(made.seen_at_rest(PLACE)[1], PLACE - [0.4, 0.0, 1.0], atol=1e-9)


@pytest.mark.parametrize("turn", [-120.0, 35.0, 180.0])
def test_who_turns_sees_it_turned_the_other_way(turn):
    made = carried(turn)
    seen = made.seen_at_rest(PLACE)[0]
    assert abs(seen[1] - PLACE[1]) < 1e-9
    hips = RIG.global_rest()[1][0]
    assert_allclose(rotate(about("y", turn), seen - hips), PLACE - hips, atol=1e-9)


def test_the_head_turns_on_what_carries_it():
    made, head = carried(90.0), np.tile(about("y", 30.0), (3, 1))
    plain = carried(120.0)
    still = np.tile([0.0, 0.0, 0.0, 1.0], (3, 1))
    pivots = made.pivot - plain.pivot
    assert_allclose(made.eyes_turned(head) - made.pivot, plain.eyes_turned(still) - plain.pivot, atol=1e-9)
    assert np.linalg.norm(pivots[0]) < 0.1


def test_without_a_head_it_is_as_at_rest():
    bare = gloves.skeleton()
    local, root = at_rest(bare, 2)
    assert_allclose(carried_head(bare, turns_of_local(bare, local), local, root, EYES).seen_at_rest(PLACE)[0], PLACE)
