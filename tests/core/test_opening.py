"""How far the lips are apart, against the general head's own lips."""

from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.cast.edges import find_edges
from dynaface.core.cast.geometry import Geometry, MeshGeometry
from dynaface.core.curves.channels import Channels
from dynaface.core.curves.opening import MEASURED, opening
from dynaface.core.shapes.standard import SHAPES, mirrored
from dynaface.core.track.head import SKIN
from dynaface.formats.head_file import general_head


def channels(**columns):
    values = np.array([np.atleast_1d(v) for v in columns.values()], np.float32).T
    return Channels(tuple(columns), values, Fraction(30))


@pytest.fixture(scope="module")
def gaps():
    """shape -> metres by which it parts the middle of the general head's lips."""
    head = general_head()
    skin = np.unique(head.triangles[head.part == SKIN])
    mesh = MeshGeometry("skin", head.points[skin], dict(zip(SHAPES, head.shapes[:, skin], strict=True)))
    change = find_edges(Geometry((mesh,)), {s: ((s, 1.0),) for s in SHAPES})["lips"].change
    return {s: (c[2:5] + change.get(mirrored(s), c)[2:5]).mean() / 2 for s, c in change.items()}


def test_shares_are_those_of_the_general_heads_lips(gaps):
    wide = gaps["jawOpen"]
    assert wide == pytest.approx(0.033, abs=0.001)
    for shape in SHAPES:
        assert MEASURED.get(shape, 0.0) == pytest.approx(gaps.get(shape, 0.0) / wide, abs=0.065), shape


def test_a_shut_mouth_is_zero_and_a_wide_open_jaw_is_one():
    found = opening(channels(jawOpen=[0.0, 1.0, 0.5], mouthClose=[0.0, 0.0, 0.5]))
    assert found == pytest.approx([0, 1, 0])


def test_lips_that_roll_in_make_up_for_a_little_jaw():
    open_a_little = opening(channels(jawOpen=0.1, mouthRollLower=0.0, mouthRollUpper=0.0))
    rolled = opening(channels(jawOpen=0.1, mouthRollLower=0.6, mouthRollUpper=0.5))
    assert rolled < open_a_little - 0.05


def test_gaps_and_missing_shapes_count_as_nothing():
    assert opening(channels(jawOpen=[np.nan, 0.2])) == pytest.approx([0, 0.2])
    assert opening(channels(browInnerUp=[0.4])) == pytest.approx([0])


def test_pressed_lips_meet_over_a_little_jaw():
    assert opening(channels(jawOpen=0.15, mouthPressLeft=0.3, mouthPressRight=0.3))[0] < 0
