"""Messages of our own layout and of any other."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import FACE_CHANNELS, LENGTHS, messages_of, packets_of, signals
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
from dynaface.core.shapes.standard import GAZE_ANGLES, HEAD_ANGLES, HEAD_TRAVEL, SHAPES

NUMBERS = st.floats(-100, 100, allow_nan=False)


def test_the_layout_names_shapes_head_gaze_and_travel_in_this_order():
    assert FACE_CHANNELS == SHAPES + HEAD_ANGLES + GAZE_ANGLES + HEAD_TRAVEL
    assert LENGTHS == (52, 55, 59, 62)


@given(
    st.dictionaries(st.sampled_from(FACE_CHANNELS), NUMBERS, min_size=1),
    st.integers(0, 1 << 40),
    st.floats(0, 2e9),
)
def test_a_face_comes_back_as_it_was(values, number, seconds):
    packet = Packet("mara", number, seconds, "10:00:00:00", values)
    assert packets_of(messages_of(packet)) == [replace(packet, ours=True)]


def test_a_body_comes_back_with_its_rotations_of_length_one():
    packet = Packet(
        "mara", 1, 0.5, "", {}, {"hips": (0.0, 0.0, 0.0, 1.0), "head": (0.6, 0.0, 0.0, 0.8)}, (0.0, 1.0, 0.0)
    )
    assert packets_of(messages_of(packet)) == [replace(packet, ours=True)]
    (address, arguments) = next(iter(messages_of(packet)))
    doubled = [*arguments[:6], "hips", 0.0, 0.0, 0.0, 2.0]
    assert packets_of([(address, doubled)])[0].joints == {"hips": (0.0, 0.0, 0.0, 1.0)}


def test_a_value_that_is_not_known_is_left_out():
    (_, arguments) = next(iter(messages_of(Packet("a", values={"jawOpen": 0.5}))))
    assert sum(math.isnan(v) for v in arguments[3:]) == len(FACE_CHANNELS) - 1


def test_face_and_body_of_a_performer_are_one_packet_and_two_performers_are_two():
    face, body = (
        Packet("a", 3, 1.0, "", {"jawOpen": 0.5}),
        Packet("a", 3, 1.0, "", {}, {"head": (0.0, 0.0, 0.0, 1.0)}, (0.0, 0.0, 0.0)),
    )
    other = Packet("b", 9, 2.0, "", {"jawOpen": 0.1})
    found = packets_of([*messages_of(face), *messages_of(other), *messages_of(body)])
    assert [p.performer for p in found] == ["a", "b"]
    assert found[0].values == {"jawOpen": 0.5}
    assert set(found[0].joints) == {"head"}


def test_single_channels_need_neither_number_nor_clock():
    found = packets_of([("/dynaface/a/channel/jawOpen", [0.25]), ("/dynaface/a/channel/headTurn", [12])])
    assert found == [Packet("a", values={"jawOpen": 0.25, "headTurn": 12.0}, ours=True)]


@pytest.mark.parametrize(
    ("address", "arguments", "words"),
    [
        ("/dynaface/a/face", [1, 0.5, "", *[0.0] * 51], "51 values"),
        ("/dynaface/a/face", [1, 0.5], "must begin with"),
        ("/dynaface/a/face", ["x", 0.5, "", *[0.0] * 52], "must be numbers"),
        ("/dynaface/a/nose", [1], "no 'nose'"),
        ("/dynaface/a/body", [1, 0.5, "", 0, 0], "a body is its root"),
        ("/dynaface/a/body", [1, 0.5, "", 0, 0, 0, "head", 0, 0, 0, 0], "a rotation of 4 numbers"),
        ("/dynaface/a/body", [1, 0.5, "", 0, 0, 0, 7, 0, 0, 0, 1], "its name"),
    ],
)
def test_what_is_not_as_the_layout_says_is_refused_with_its_address(address, arguments, words):
    with pytest.raises(InputError, match=words) as refused:
        packets_of([(address, arguments)])
    assert refused.value.where == address


@pytest.mark.parametrize(
    ("address", "arguments", "named"),
    [
        ("/x/jawOpen", [0.3], {"/x/jawOpen": 0.3}),
        ("/x/blend", ["jawOpen", 0.3, "tongueOut", 1], {"/x/blend jawOpen": 0.3, "/x/blend tongueOut": 1.0}),
        ("/x/turn", [0.1, 0.2, 0.3], {"/x/turn[0]": 0.1, "/x/turn[1]": 0.2, "/x/turn[2]": 0.3}),
        ("/x/bone", ["head", 0, 0, 0, 1], {f"/x/bone head[{i}]": float(i == 3) for i in range(4)}),
        ("/x/flag", [True], {"/x/flag": 1.0}),
        ("/x/none", [], {}),
        ("/x/odd", [None, b"bytes", math.nan, math.inf, 1e12], {}),
    ],
)
def test_any_other_layout_gives_named_numbers(address, arguments, named):
    assert dict(signals(address, arguments)) == named


def test_too_many_values_are_refused():
    with pytest.raises(InputError, match="more than"):
        packets_of([(f"/x/{i}", [0.0]) for i in range(MOST_SIGNALS + 1)])
