"""A performance as it is asked for."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import InputError
from dynaface.core.handover.asked import asked
from dynaface.core.handover.options import HandoverOptions, parse_options
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from tests.makers import channels


@pytest.fixture(scope="module")
def rig():
    return open_character((ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")[0]


@pytest.fixture(scope="module")
def whole(rig):
    """A turning head and a body that travels, 60 frames that begin at 10:00:00:00."""
    face = replace(channels(frames=60), timecode=parse_timecode("10:00:00:00", Fraction(60)))
    made = perform_take(face, rig, CastSheet())
    way = np.stack([np.linspace(0, 2, 60), np.zeros(60), np.linspace(0, 1, 60)], axis=1).astype(np.float32)
    return replace(made, root=way, root_joint="hips")


def test_asked_for_nothing_it_is_what_it_was(whole, rig):
    assert asked(whole, rig.skeleton, HandoverOptions()).channels.timecode == whole.channels.timecode
    np.testing.assert_array_equal(asked(whole, rig.skeleton, HandoverOptions()).local, whole.local)


def test_a_stretch_has_its_frames_and_begins_at_its_own_count(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(first=10, last=19))
    assert made.channels.frames == 10
    np.testing.assert_array_equal(made.local, whole.local[10:20])
    np.testing.assert_array_equal(made.cast.weights, whole.cast.weights[10:20])
    assert made.channels.start == pytest.approx(whole.channels.start + 10 / float(whole.channels.rate))
    seconds = made.channels.timecode.seconds - whole.channels.timecode.seconds
    assert seconds == pytest.approx(10 / float(whole.channels.rate))


def test_handles_go_as_far_as_there_are_frames(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(first=3, last=50, handles=20))
    assert made.channels.frames == 60
    assert made.channels.timecode == whole.channels.timecode
    assert asked(whole, rig.skeleton, HandoverOptions(first=20, last=30, handles=5)).channels.frames == 21


def test_of_a_range_behind_the_end_nothing_is_left(whole, rig):
    with pytest.raises(InputError, match="60 frames; none is left from frame 100"):
        asked(whole, rig.skeleton, HandoverOptions(first=100))


def test_another_rate_lasts_as_long(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(rate="24"))
    assert made.channels.seconds == pytest.approx(whole.channels.seconds, abs=1 / 24)


def test_without_head_motion_neck_and_head_rest_and_the_face_goes_on(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(head=False))
    for joint in head_chain(rig.skeleton):
        number = made.joints.index(rig.skeleton.names[joint])
        np.testing.assert_allclose(made.local[:, number], np.tile(rig.skeleton.rest[joint], (60, 1)), atol=1e-6)
    assert not set(made.channels.names) & set(HEAD_ANGLES)
    np.testing.assert_array_equal(made.cast.weights, whole.cast.weights)


def test_without_travel_it_stays_where_it_begins(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(travel=False, first=30))
    np.testing.assert_array_equal(made.root, np.tile(whole.root[30], (30, 1)))


def test_a_rest_frame_comes_first_and_the_count_says_so(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(rest=True, first=10))
    assert made.channels.frames == 51
    assert not made.cast.weights[0].any()
    assert not made.root[0].any()
    for number, name in enumerate(made.joints):
        alike = abs(float(made.local[0, number] @ rig.skeleton.rest[rig.skeleton.index(name)]))
        assert alike == pytest.approx(1, abs=1e-6)
    np.testing.assert_allclose(made.cast.weights[1:], whole.cast.weights[10:])
    since = made.channels.timecode.seconds - whole.channels.timecode.seconds
    assert since == pytest.approx(9 / float(whole.channels.rate))


def test_a_neutral_frame_comes_last_where_the_body_is(whole, rig):
    made = asked(whole, rig.skeleton, HandoverOptions(neutral=True))
    assert made.channels.frames == 61
    assert not made.cast.weights[-1].any()
    np.testing.assert_array_equal(made.root[-1], whole.root[-1])


class TestOptions:
    def test_are_taken_as_given(self):
        given = {"rate": "24", "first": 3, "last": 9, "handles": 2, "head": False, "prefix": "x_", "tolerance": 0.01}
        assert parse_options(given) == HandoverOptions("24", 3, 9, 2, False, prefix="x_", tolerance=0.01)

    def test_name_joints_and_targets(self):
        assert HandoverOptions(prefix="odile_").named("jawOpen") == "odile_jawOpen"
        taken = HandoverOptions(prefix="odile_", prefixing="take off")
        assert [taken.named(n) for n in ("odile_jawOpen", "jawOpen")] == ["jawOpen", "jawOpen"]

    @pytest.mark.parametrize(
        ("given", "message"),
        [
            ({"pace": 1}, "handover option is 'pace'"), ({"head": "no"}, "head is 'no'"), ({"first": -1}, "first is -1"),
            ({"first": 1.5}, "first is 1.5"), ({"handles": 2000}, "handles is 2000"), ({"tolerance": 2}, "tolerance is 2"),
            ({"first": 9, "last": 3}, "from frame 9 to 3"), ({"rate": "soon"}, "soon"), ({"prefix": "p" * 50}, "prefix is"),
            ({"prefixing": "maybe"}, "prefixing is 'maybe'"), ({"handles": None}, "handles is None"),
        ],
    )  # fmt: skip
    def test_that_make_no_sense_are_refused(self, given, message):
        with pytest.raises(InputError, match=message):
            parse_options(given)
