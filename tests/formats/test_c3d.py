"""C3D: round trip, other people's ways of writing it, damaged files."""

import struct
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dynaface.core.errors import DynafaceError, InputError
from dynaface.formats.c3d.parameters import read_parameters
from dynaface.formats.entries import c3d
from tests.makers import markers


def test_markers_come_back_with_gaps_labels_rate_and_timecode():
    take = markers()
    back = c3d.read(c3d.write(take))
    np.testing.assert_allclose(back.points, take.points, atol=1e-6)
    assert (back.labels, back.rate, str(back.timecode)) == (take.labels, take.rate, str(take.timecode))


@pytest.mark.parametrize("frames", [65535, 65536, 140_000])
def test_a_take_that_is_longer_than_the_header_can_say_comes_back_whole(frames):
    points = np.arange(frames * 12, dtype=np.float64).reshape(frames, 4, 3) / (frames * 12)
    back = c3d.read(c3d.write(replace(markers(count=4), points=points)))
    assert back.frames == frames
    np.testing.assert_allclose(back.points, points, atol=1e-6)


def test_a_long_file_that_does_not_say_how_long_is_not_cut_off_silently():
    long = c3d.write(replace(markers(count=4), points=np.zeros((70_000, 4, 3))))
    with pytest.raises(InputError, match="70000 are there"):
        c3d.read(long.replace(b"ACTUAL_END_FIELD", b"ACTUAL_ENT_FIELD"))


def test_more_labels_than_a_list_holds():
    many = markers(frames=3, count=300)
    assert c3d.read(c3d.write(many)).labels == many.labels


def rewritten(order="<", dec=False, scale=-1.0, units=b"mm", analogue=0):
    """The same markers as another system writes them: byte order, DEC floats, whole numbers, analogue channels."""
    take = markers()
    values = np.nan_to_num(take.points * {b"mm": 1000, b"m ": 1, b"cm": 100}[units])
    lost = np.isnan(take.points[..., 0])

    def floats(array):
        array = np.asarray(array, "f4")
        if not dec:
            return array.astype(f"{order}f4").tobytes()
        return (array * 4).astype("<f4").view("<u2").reshape(-1, 2)[:, ::-1].tobytes()

    count = len(take.labels)
    body = b""
    entries = [(1, b"USED", b"\x02\x00" + struct.pack(f"{order}h", count)), (1, b"UNITS", b"\xff\x01" + bytes([2]) + units),
               (1, b"LABELS", b"\xff\x02" + bytes([4, count]) + b"".join(n.encode().ljust(4) for n in take.labels)),
               (1, b"RATE", b"\x04\x00" + floats([120.0]))]  # fmt: skip
    for group, name, value in [(-1, b"POINT", b"\x00"), *entries]:
        tail = value if group < 0 else value + b"\x00"
        body += struct.pack("<bb", len(name), group) + name + struct.pack(f"{order}h", len(tail) + 2) + tail
    body += b"\0\0"
    section = bytes([1, 0x50, 2, 85 if dec else 86 if order == ">" else 84]) + body
    section += bytes(1024 - len(section))
    head = bytearray(512)
    struct.pack_into(f"{order}HHHHH", head, 2, count, analogue, 1, take.frames, 10)
    head[0], head[1] = 2, 0x50
    head[12:16] = floats([scale])
    struct.pack_into(f"{order}HH", head, 16, 4, 0)
    head[20:24] = floats([120.0])
    rows = np.concatenate([values, np.where(lost, -1, 0)[..., None]], axis=2)
    if scale > 0:
        rows[..., :3] = np.round(rows[..., :3] / scale)
    flat = np.concatenate([rows.reshape(take.frames, -1), np.full((take.frames, analogue), 7)], axis=1)
    data = floats(flat) if scale < 0 else flat.astype(f"{order}i2").tobytes()
    return take, bytes(head) + section + data


@pytest.mark.parametrize(
    ("how", "within"),
    [({}, 1e-6), ({"order": ">"}, 1e-6), ({"dec": True}, 1e-6), ({"units": b"m "}, 1e-6), ({"units": b"cm"}, 1e-6),
     ({"scale": 0.01}, 6e-6), ({"scale": 0.01, "order": ">"}, 6e-6), ({"analogue": 8}, 1e-6), ({"analogue": 8, "scale": 0.01}, 6e-6)],
)  # fmt: skip
def test_every_way_of_writing_is_read(how, within):
    take, data = rewritten(**how)
    read = c3d.read(data)
    np.testing.assert_allclose(read.points, take.points, atol=within)
    assert (read.labels, float(read.rate)) == (take.labels, 120.0)


WHOLE = c3d.write(markers())


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda d: d[:-600], "frames are said|but"), (lambda d: d[:300], "no C3D"), (lambda d: b"", "no C3D"),
        (lambda d: d[:2] + b"\xff\x7f" + d[4:], "32767 markers"), (lambda d: d[:515] + b"\x07" + d[516:], "no C3D"),
        (lambda d: d[:16] + b"\xff\xff" + d[18:], "not there"), (lambda d: d.replace(b"mm", b"qq"), "in 'qq'"),
    ],
)  # fmt: skip
def test_damaged_files_are_refused(change, says):
    with pytest.raises(InputError, match=says):
        c3d.read(change(WHOLE))


@settings(max_examples=80)
@given(st.data())
def test_a_file_with_bytes_changed_is_read_or_refused_never_worse(data):
    whole = bytearray(WHOLE)
    for _ in range(data.draw(st.integers(1, 8))):
        whole[data.draw(st.integers(0, 1600))] = data.draw(st.integers(0, 255))
    try:
        c3d.read(bytes(whole))
    except DynafaceError as error:
        assert str(error)


def test_parameters_are_told_by_group_and_name():
    values, _ = read_parameters(WHOLE, 2)
    assert values[("POINT", "UNITS")] == "mm"
    assert list(values[("POINT", "USED")]) == [9]


def test_markers_of_one_name_and_infinite_ones_are_refused():
    take = markers()
    with pytest.raises(InputError, match="two markers"):
        replace(take, labels=("M0",) * 9)
    with pytest.raises(InputError, match="infinitely"):
        replace(take, points=np.full_like(take.points, np.inf))
