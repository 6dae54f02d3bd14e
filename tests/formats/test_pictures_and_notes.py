"""Numbered pictures in an archive, and notes sheets: round trips, odd ones, hostile ones."""

import io
import struct
import zipfile
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import DynafaceError, InputError, LimitError
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries import notes_sheet, pictures
from dynaface.formats.entries.notes_sheet import Note, slate_key
from tests.makers import zipped


def reds(footage, first=0):
    return [int(p[0, 0, 0]) for p in footage.pictures(first)]


@pytest.mark.parametrize("kind", ["png", "jpg"])
def test_pictures_come_in_the_order_of_their_numbers(kind):
    found = pictures.read(zipped([10, 9, 2, 1, 11], kind=kind, name="{:d}"))
    assert (found.width, found.height, found.frames, found.sound) == (64, 48, 5, False)
    assert reds(found) == pytest.approx([5, 10, 45, 50, 55], abs=2)
    assert reds(found, 3) == pytest.approx([50, 55], abs=2)


def test_an_absent_number_is_a_gap_in_time():
    found = pictures.read(zipped([1, 2, 3, 5], rate="24"))
    assert found.rate == Fraction(24)
    np.testing.assert_allclose(found.times, np.array([0, 1, 2, 4]) / 24)
    assert "unevenly" in " ".join(pictures.FORMAT.check(found)["notes"])


def test_without_a_rate_thirty_is_taken_and_a_bad_one_is_told():
    assert pictures.read(zipped()).rate == Fraction(30)
    for rate in ("quick", "0", "9" * 200):
        with pytest.raises(InputError):
            pictures.read(zipped(rate=rate))


def archive(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        for name, data in files.items():
            made.writestr(name.replace("__", "."), data)
    return out.getvalue()


def png(width, height):
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I4sII", 13, b"IHDR", width, height) + b"\x08\x02\x00\x00\x00"


@pytest.mark.parametrize(("data", "said"), [
    (archive(a1__png=png(100_000, 100_000)), "100000 x 100000"),
    (archive(a1__png=png(64, 48)), None),
    (archive(a1__png=b"hello"), "no PNG or JPEG"),
    (archive(face__png=png(64, 48)), "no number"),
    (archive(rate__txt=b"30"), "no PNG or JPEG in it"),
    (zipped([1, 2])[:-30], "cannot be read"),
])  # fmt: skip
def test_what_cannot_be_is_told(data, said):
    with pytest.raises(InputError, match=said):
        list(pictures.read(data).pictures())


def test_two_clips_in_one_archive_and_pictures_of_two_sizes_are_told():
    out = io.BytesIO()
    one, other = (
        zipfile.ZipFile(io.BytesIO(zipped([1], size=s))).read("clip/face_0001.png") for s in ((64, 48), (48, 64))
    )
    with zipfile.ZipFile(out, "w") as made:
        made.writestr("a/1.png", one)
        made.writestr("b/1.png", one)
    with pytest.raises(InputError, match="number 1"):
        pictures.read(out.getvalue())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        made.writestr("1.png", one)
        made.writestr("2.png", other)
    with pytest.raises(InputError, match="not 64 x 48"):
        list(pictures.read(out.getvalue()).pictures())


def test_a_bomb_is_refused_before_it_is_unpacked():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("1.png", bytes(70_000_000))
    assert len(out.getvalue()) < 200_000
    with pytest.raises(LimitError, match="64 MB"):
        pictures.read(out.getvalue())
    # The same when the archive's directory lies about the size.
    lied = out.getvalue().replace(struct.pack("<I", 70_000_000), struct.pack("<I", 1000))
    with pytest.raises(DynafaceError):
        list(pictures.read(lied).pictures())


def test_a_sheet_is_chosen_by_its_header_not_its_name():
    sheet = b"Slate;Keep;Comment\n4A / 1;x;the pause\n4B / 2;;\n"
    assert format_of(sheet, "day1.csv").name == "notes sheet"
    assert notes_sheet.read(sheet) == (Note("4A / 1", True, "the pause"), Note("4B / 2", False, ""))


def test_a_sheet_without_circles_leaves_them_alone():
    assert notes_sheet.read(b"take,notes\n4A1,fine\n,nothing\n") == (Note("4A1", None, "fine"),)


def test_a_mistake_is_told_with_its_line():
    with pytest.raises(InputError, match="line 3"):
        notes_sheet.read(b"slate,circled\n4A,yes\n4B,perhaps\n")
    with pytest.raises(InputError, match="UTF-8"):
        notes_sheet.read(b"slate,circled\n4A\xff,yes\n")


def test_slates_are_the_same_however_they_are_written():
    assert slate_key("4A / 1 cam") == slate_key("4a_1-CAM")


TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc", "Zl", "Zp")), max_size=20).map(str.strip)


@given(st.lists(st.builds(Note, TEXT.filter(bool), st.sampled_from([True, False]), TEXT), max_size=8))
def test_what_is_written_is_read_as_the_same(notes):
    assert notes_sheet.read(notes_sheet.write(tuple(notes))) == tuple(notes)
