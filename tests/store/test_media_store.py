"""Bytes under their hash: kept once, read in parts, never under a name that a client gave."""

import hashlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import LimitError, NotFoundError
from dynaface.store.media import PIECE, Media


@pytest.fixture(scope="module")
def media(tmp_path_factory):
    return Media(str(tmp_path_factory.mktemp("media")))


@pytest.fixture
def memory():
    """An object store that is no folder of this machine."""
    return Media("memory://dynaface-test")


def files(media):
    """All paths in the store."""
    return sorted(media._files.find(media._root))


@given(st.binary(min_size=0, max_size=3000), st.integers(0, 3000), st.integers(0, 3000))
def test_any_part_of_any_bytes_comes_back(media, data, start, length):
    name, size = media.put_bytes(data)
    assert (name, size) == (hashlib.sha256(data).hexdigest(), len(data))
    start = min(start, size)
    stop = min(start + length, size)
    assert b"".join(media.open(name).pieces(start, stop)) == data[start:stop]
    assert media.get(name) == data


def test_large_parts_are_read_in_pieces(media):
    data = bytes(range(256)) * (PIECE // 128)
    name, size = media.put(iter([data]), 10 * PIECE)
    pieces = list(media.open(name).pieces(5, size))
    assert max(map(len, pieces)) <= PIECE
    assert b"".join(pieces) == data[5:]


def test_the_same_bytes_are_kept_once(media):
    before = files(media)
    first, _ = media.put_bytes(b"the lamp burns low")
    second, _ = media.put(iter([b"the lamp ", b"burns low"]), 100)
    assert first == second
    assert len(files(media)) == len(before) + 1


def test_too_many_bytes_leave_nothing_behind(media):
    before = files(media)
    with pytest.raises(LimitError):
        media.put(iter([b"a" * 60, b"b" * 60]), 100)
    assert files(media) == before


def test_a_sender_that_breaks_off_leaves_nothing_behind(media):
    before = files(media)

    def broken():
        yield b"half of it"
        raise ConnectionError

    with pytest.raises(ConnectionError):
        media.put(broken(), 100)
    assert files(media) == before


@pytest.mark.parametrize("name", ["", "..", "../../etc/passwd", "a" * 63, "A" * 64, "a" * 64 + "/..", "%2e%2e"])
def test_what_is_no_hash_is_no_path(media, name):
    for ask in (media.get, media.size, media.open, media.drop, lambda n: media.read(n, 0, 1)):
        with pytest.raises(NotFoundError):
            ask(name)


def test_a_folder_is_its_owners_only(tmp_path):
    Media(str(tmp_path / "media"))
    assert (tmp_path / "media").stat().st_mode & 0o077 == 0


def test_what_never_became_a_medium_is_swept(tmp_path):
    media = Media(str(tmp_path))
    (tmp_path / "incoming" / "left").write_bytes(b"half")
    assert media.sweep(3600) == 0
    assert media.sweep(-1) == 1
    assert list((tmp_path / "incoming").iterdir()) == []


def test_what_was_dropped_is_gone_and_may_be_dropped_again(media):
    name, _ = media.put_bytes(b"for a moment")
    media.drop(name)
    media.drop(name)
    with pytest.raises(NotFoundError):
        media.get(name)


def test_an_object_store_is_a_store_like_any_other(memory):
    name, size = memory.put_bytes(b"far away")
    assert memory.size(name) == size
    assert b"".join(memory.open(name).pieces(4, 8)) == b"away"
    memory.drop(name)
    with pytest.raises(NotFoundError):
        memory.size(name)
