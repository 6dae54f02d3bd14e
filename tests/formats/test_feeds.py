"""Open Sound Control and JSON lines: datagrams and lines to packets and back; damaged ones; how signals are read."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import FACE_CHANNELS, messages_of, packets_of
from dynaface.core.feed.packet import Packet
from dynaface.core.shapes.standard import CHANNELS, HEAD_ANGLES, SHAPES
from dynaface.formats.feed_line import read_line, write_line
from dynaface.formats.feed_reading import SignalReader, learn
from dynaface.formats.osc import read_datagram, write_datagram
from dynaface.sims.feed_phone import foreign, plain

FACE = Packet("mara", 7, 1.25, "10:00:01:15", {n: round(i / 64, 6) for i, n in enumerate(FACE_CHANNELS)})
WHOLE = Packet("mara", 7, 1.25, "", {"jawOpen": 0.25}, {"head": (0.0, 0.0, 0.0, 1.0)}, (0.0, 0.5, 0.0))


def same(a, b):
    assert (a.performer, a.number, a.seconds, a.timecode) == (b.performer, b.number, b.seconds, b.timecode)
    assert a.values == pytest.approx(b.values, abs=1e-5)
    assert a.root == pytest.approx(b.root)
    assert set(a.joints) == set(b.joints)
    for name in a.joints:
        assert a.joints[name] == pytest.approx(b.joints[name], abs=1e-5)


@pytest.mark.parametrize("packet", [FACE, WHOLE])
def test_packets_go_through_datagrams_and_lines(packet):
    (found,) = packets_of(read_datagram(write_datagram(messages_of(packet))))
    same(found, packet)
    same(read_line(write_line(packet)), packet)


def test_a_clock_of_the_day_keeps_its_milliseconds():
    late = Packet("a", 1, 86_399.0017, "", {"jawOpen": 0.5})
    (found,) = packets_of(read_datagram(write_datagram(messages_of(late))))
    assert found.seconds == pytest.approx(86_399.0017, abs=1e-6)


def test_a_face_fits_one_packet_of_an_ordinary_network():
    assert len(write_datagram(messages_of(FACE))) < 1400


@given(st.binary(max_size=200))
def test_any_bytes_are_messages_or_refused(data):
    try:
        packets_of(read_datagram(data))
    except InputError as refused:
        assert refused.message


@pytest.mark.parametrize("cut", range(1, 120, 7))
def test_a_datagram_that_is_cut_short_is_no_crash(cut):
    data = write_datagram([*messages_of(WHOLE), *messages_of(FACE)])
    try:
        packets_of(read_datagram(data[:-cut]))
    except InputError as refused:
        assert refused.message


@given(st.text(max_size=80))
def test_any_text_is_a_packet_or_refused(text):
    try:
        read_line(text)
    except InputError as refused:
        assert refused.message


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("[1, 2]", "no JSON object"),
        ('{"joints": {"head": [0, 0, 1]}}', "4 numbers"),
        ('{"channels": {"jawOpen": 1}, "root": [1, 2]}', "3 numbers"),
        ('{"joints": {"head": [0, 0, 0, 0]}}', "4 numbers"),
        ("{" + "x" * 300_000, "letters"),
    ],
)
def test_lines_that_are_wrong_say_what(line, words):
    with pytest.raises(InputError, match=words):
        read_line(line)


def test_any_other_object_is_flattened():
    found = read_line(
        json.dumps(
            {"number": 4, "seconds": 2.5, "face": {"left": {"blink": 0.3}}, "blend": [{"n": "jawOpen", "v": 0.2}]}
        )
    )
    assert (found.number, found.seconds) == (4, 2.5)
    assert found.values == {"face.left.blink": 0.3, "blend.jawOpen": 0.2}


def test_values_that_are_no_numbers_are_left_out():
    assert read_line(
        '{"channels": {"jawOpen": 0.5, "tongueOut": "far", "mouthPucker": true, "cheekPuff": null}}'
    ).values == {"jawOpen": 0.5}


def shown(recipe, values):
    row = np.full(len(CHANNELS), np.nan, np.float32)
    SignalReader(recipe).read_into(row, values)
    return {n: float(row[i]) for i, n in enumerate(CHANNELS) if np.isfinite(row[i])}


def test_another_layout_in_percent_and_radians_is_understood_by_its_names():
    rng = np.random.default_rng(2)
    truth = {n: float(v) for n, v in zip(SHAPES, rng.uniform(0, 1, 52), strict=True)} | dict(
        zip(HEAD_ANGLES, (20.0, -12.0, 5.0), strict=True)
    )
    (found,) = packets_of(read_datagram(foreign(Packet(values=truth))))
    recipe = learn([found.values])
    assert recipe.percent
    assert recipe.radians
    assert shown(recipe, found.values) == pytest.approx(truth, abs=1e-3)


def test_our_own_layout_is_read_as_it_is():
    (found,) = packets_of(read_datagram(plain(FACE)))
    assert found.ours
    assert shown(learn([found.values], found.ours), found.values) == pytest.approx(FACE.values, abs=1e-5)


def test_what_is_not_known_stays_unread_and_what_is_called_time_is_no_channel():
    recipe = learn([{"/a/time": 3.0, "/a/glow": 0.5, "/a/jawOpen": 0.2}])
    assert recipe.columns == {"/a/time": "", "/a/glow": "", "/a/jawOpen": "jawOpen"}


def test_a_whole_number_that_no_float_holds_is_no_value_and_no_clock():
    huge = "9" * 400
    packet = read_line(f'{{"seconds": {huge}, "channels": {{"jawOpen": {huge}, "jawLeft": 0.5}}}}')
    assert packet.values == {"jawLeft": 0.5}
    assert packet.seconds is None
    with pytest.raises(InputError, match="rotation of 'hips'"):
        read_line(f'{{"joints": {{"hips": [0, 0, 0, {huge}]}}}}')
