"""Files are read where they lie: what of them is in memory is what was asked for."""

import io

import numpy as np
import pytest

from dynaface.core.errors import InputError
from dynaface.formats.catalogue import FORMATS, format_of, format_of_stored
from dynaface.formats.entries import wav
from dynaface.formats.stored import Held, OnDisk, all_of
from tests.makers import film, tone


class Watched:
    """A file that counts what is read of it, and how many times it is open."""

    def __init__(self, data):
        self.data, self.read, self.opened = data, 0, 0

    @property
    def size(self):
        return len(self.data)

    def file(self):
        watched = self
        watched.opened += 1

        class File(io.BytesIO):
            def read(self, size=-1):
                got = super().read(size)
                watched.read += len(got)
                return got

            def close(self):
                if not self.closed:
                    watched.opened -= 1
                super().close()

        return File(self.data)


def test_a_clip_is_known_by_its_beginning_alone():
    file = Watched(film() + bytes(5_000_000))
    assert format_of_stored(file, "clip.mp4").name == "video"
    assert file.read <= 65536
    assert file.opened == 0


def test_pictures_of_a_clip_are_read_as_they_are_asked_for_and_the_file_is_closed(tmp_path):
    data = film()
    (tmp_path / "clip.mp4").write_bytes(data)
    for file in (Held(data), OnDisk(tmp_path / "clip.mp4"), Watched(data)):
        clip = FORMATS["video"].read_stored(file)
        assert clip.frames == 40
        whole = FORMATS["video"].read(data)
        np.testing.assert_array_equal(next(clip.pictures(20)), next(whole.pictures(20)))
    clip = FORMATS["video"].read_stored(watched := Watched(data))
    assert len(list(clip.pictures())) == 40
    assert watched.opened == 0


def test_formats_that_are_small_are_read_at_once():
    sound = wav.write(tone())
    read = FORMATS["wav"].read_stored(Held(sound))
    np.testing.assert_array_equal(read.samples, FORMATS["wav"].read(sound).samples)
    assert all_of(Held(sound)) == sound


def test_a_file_that_is_larger_than_its_format_may_be_is_refused_unread():
    class Vast(Watched):
        @property
        def size(self):
            return 10**12

    file = Vast(film())
    with pytest.raises(InputError, match="limit is"):
        format_of_stored(file, "clip.mp4")
    assert file.read <= 65536
    assert format_of(film(), "clip.mp4").limit >= 10 * 10**9
