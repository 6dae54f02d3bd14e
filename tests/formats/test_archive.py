"""Archives are read within limits, whatever they say of themselves, and every damage is one error of ours."""

import io
import struct
import zipfile

import pytest

from dynaface.core.errors import InputError, LimitError
from dynaface.formats import archive as limits
from dynaface.formats.archive import open_archive
from dynaface.formats.stored import Held

PLENTY = 1 << 30


def zipped(**members):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as out:
        for name, data in members.items():
            out.writestr(name, data)
    return made.getvalue()


def read_all(data, most=PLENTY, each=PLENTY):
    with open_archive(Held(data), most) as archive:
        return {m.filename: archive.read(m, each) for m in archive.members}


def test_members_come_back_without_folders_and_leftovers():
    data = zipped(a=b"one", **{"b/": b"", "__MACOSX/a": b"no", "b/c": b"two"})
    assert read_all(data) == {"a": b"one", "b/c": b"two"}


def test_what_grows_out_of_proportion_is_refused_before_it_is_held(monkeypatch):
    monkeypatch.setattr(limits, "FREE", 1_000_000)
    bomb = zipped(a=bytes(300_000_000))
    assert len(bomb) < 400_000
    with pytest.raises(LimitError, match="unpacks to more than"):
        read_all(bomb)


def test_a_member_and_all_of_them_together_have_limits():
    data = zipped(a=b"x" * 3000, b=b"y" * 3000)
    with pytest.raises(LimitError, match="a is more than"):
        read_all(data, each=2000)
    with pytest.raises(LimitError, match="unpacks to more than"):
        read_all(data, most=5000)


def test_a_member_that_lies_about_its_size_is_read_no_further_than_its_limit():
    data = bytearray(zipped(a=b"x" * 5000))
    at = data.rindex(b"PK\x01\x02") + 24
    data[at : at + 4] = struct.pack("<I", 10)
    try:
        assert len(read_all(bytes(data), each=100)["a"]) <= 100
    except InputError as error:
        assert "a" in str(error)


@pytest.mark.parametrize("damage", [b"", b"PK\x03\x04", b"no archive at all"])
def test_what_is_no_archive_is_one_error_of_ours(damage):
    with pytest.raises(InputError, match="cannot be read"):
        read_all(damage)


def test_a_directory_that_is_shifted_is_one_error_of_ours():
    data = bytearray(zipped(a=b"x" * 100, b=b"y" * 100))
    at = data.rindex(b"PK\x05\x06") + 16
    for shift in (1, 50, 200, 0xFFFFFF):
        moved = (
            bytes(data[:at]) + struct.pack("<I", struct.unpack_from("<I", data, at)[0] + shift) + bytes(data[at + 4 :])
        )
        with pytest.raises(InputError, match="cannot be read"):
            read_all(moved)
