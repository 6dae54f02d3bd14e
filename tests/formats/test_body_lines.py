"""A recorded body: read from packets that came unevenly, late, twice or not at all, and from files that are damaged."""

from fractions import Fraction

import numpy as np
import orjson
import pytest

from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.bodies import read_bodies
from dynaface.formats.entries import body_lines
from dynaface.sims.body_suit import move

HEAD = b'{"skeleton": [["hips", "", [0, 0.9, 0], [0, 0, 0, 1]]]}\n'


@pytest.fixture(scope="module")
def walk():
    return move(2.0, parse_timecode("10:00:00:00", Fraction(60)), 4)


def angles(one, other):
    """Degrees between rotations."""
    return np.degrees(2 * np.arccos(np.clip(np.abs((one * other).sum(axis=-1)), 0, 1)))


def test_a_motion_comes_back_as_it_was(walk):
    found = body_lines.read(body_lines.write(walk))
    assert found.skeleton.names == walk.skeleton.names
    assert found.rate == walk.rate
    assert found.timecode == walk.timecode
    assert angles(found.local, walk.local).max() < 0.01
    assert found.root == pytest.approx(walk.root, abs=1e-6)


def test_packets_that_came_late_twice_or_unevenly_are_a_motion_at_one_rate(walk):
    rng = np.random.default_rng(1)
    head, *lines = body_lines.write(walk).splitlines()
    packets = [orjson.loads(line) for line in lines]
    for packet in packets:
        packet["seconds"] += float(rng.uniform(-0.001, 0.001)) + 0.002
    kept = [p for n, p in enumerate(packets) if n % 17 != 5]
    mixed = [kept[n] for n in np.argsort(np.arange(len(kept)) + rng.uniform(0, 3, len(kept)))]
    found = body_lines.read(b"\n".join([head, *(orjson.dumps(p) for p in [*mixed, mixed[10]])]))
    assert found.rate == walk.rate
    count = min(found.frames, walk.frames)
    assert abs(found.frames - walk.frames) <= 1
    assert angles(found.local[:count], walk.local[:count]).max() < 2.0


def test_what_a_packet_does_not_say_stays(walk):
    data = (
        HEAD
        + b'{"seconds": 0, "joints": {"hips": [0, 1, 0, 0]}, "root": [0, 1, 0]}\n{"seconds": 0.5, "joints": {"other": [0, 0, 0, 1]}}\n'
    )
    found = body_lines.read(data)
    assert found.local[-1, 0] == pytest.approx([0, 1, 0, 0])
    assert found.root[-1] == pytest.approx([0, 0.1, 0])


def test_a_recording_that_was_cut_off_is_read_to_its_last_whole_packet(walk):
    data = body_lines.write(walk)
    cut = data[: len(data) * 3 // 4]
    assert body_lines.read(cut).frames == cut.count(b"\n") - 1


@pytest.mark.parametrize(
    ("data", "where"),
    [
        (b"", "line 1"),
        (b"[]\n", "line 1"),
        (b'{"skeleton": 3}\n', "line 1"),
        (b'{"skeleton": [["hips", "", [0, 0], [0, 0, 0, 1]]]}\n', "skeleton/0"),
        (b'{"skeleton": [["hips", "nobody", [0, 0, 0], [0, 0, 0, 1]]]}\n', "hips"),
        (HEAD, "line 1"),
        (HEAD + b'{"seconds": 0, "joints": {}}\n', "line 2"),
        (HEAD + b'{"joints": {"hips": [0, 0, 0, 1]}}\n', "line 2"),
        (HEAD + b'{"seconds": 0, "joints": {"hips": [0, 0, 0, 0]}}\n', "line 2"),
        (
            HEAD + b'{"seconds": 0, "joints": {"hips": [0, 0\n{"seconds": 1, "joints": {"hips": [0, 0, 0, 1]}}\n',
            "line 2",
        ),
    ],
)
def test_what_is_damaged_is_refused_with_its_place(data, where):
    with pytest.raises(InputError) as refused:
        body_lines.read(data)
    assert refused.value.where == where


def test_a_recording_of_days_is_refused():
    lines = [b'{"seconds": %d, "joints": {"hips": [0, 0, 0, 1]}}' % s for s in (0, 90_000)]
    with pytest.raises(LimitError):
        body_lines.read(HEAD + b"\n".join(lines))


def test_it_is_one_of_the_bodies_that_a_take_can_have(walk):
    (found,) = read_bodies(body_lines.write(walk), "walk.jsonl")
    assert found.describe()["joints"] == len(walk.skeleton.names)
