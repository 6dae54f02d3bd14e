"""Every format reads what it writes, refuses what it is not, and claims nothing that another claims."""

import pytest

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import DynafaceError, InputError
from dynaface.formats.catalogue import FORMATS, format_of
from dynaface.formats.entries import body_lines, bvh, c3d, curve_table, marker_table, notes_sheet, wav
from dynaface.sims.body_suit import move
from tests.formats.test_gltf_reading import Document, archive
from tests.makers import channels, markers, noise_film, tone, zipped

SAMPLES = {
    "curve table": curve_table.write_table(channels()),
    "wav": wav.write(tone(0.2)),
    "body lines": body_lines.write(move(0.5, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 1)),
    "bvh": bvh.write(move(0.5, parse_timecode("01:00:00:00", bvh.STANDARD_RATES[12]), 1)),
    "gltf": (ASSETS / "characters/odile.glb").read_bytes(),
    "c3d": c3d.write(markers()),
    "marker table": marker_table.write(markers()),
    "gltf archive": archive(Document().face().apart()),
    "video": noise_film(),
    "numbered pictures": zipped(),
    "notes sheet": notes_sheet.write(
        (notes_sheet.Note("4A / 1", True, "the pause"), notes_sheet.Note("4B / 2", None, ""))
    ),
}


def test_every_format_has_a_sample_here():
    assert set(SAMPLES) == set(FORMATS)


@pytest.mark.parametrize("name", sorted(FORMATS))
def test_a_sample_is_claimed_by_its_own_format_alone(name):
    head = SAMPLES[name][:65536]
    assert [f.name for f in FORMATS.values() if f.detect(head)] == [name]
    assert format_of(SAMPLES[name], "file.unknown").name == name


@pytest.mark.parametrize("name", sorted(FORMATS))
def test_a_sample_is_read_and_checked(name):
    found = FORMATS[name].check(FORMATS[name].read(SAMPLES[name]))
    assert "notes" in found


@pytest.mark.parametrize("name", sorted(FORMATS))
@pytest.mark.parametrize("share", [0.0, 0.1, 0.5, 0.97])
def test_a_truncated_file_is_refused_or_read_never_worse(name, share):
    data = SAMPLES[name][: int(len(SAMPLES[name]) * share)]
    try:
        FORMATS[name].read(data)
    except DynafaceError as error:
        assert str(error)


@pytest.mark.parametrize("name", sorted(FORMATS))
@pytest.mark.parametrize("other", sorted(FORMATS))
def test_content_of_another_kind_is_refused(name, other):
    if name == other:
        return
    with pytest.raises(InputError):
        FORMATS[name].read(SAMPLES[other])


@pytest.mark.parametrize("name", sorted(FORMATS))
def test_a_wrong_extension_is_told(name):
    extension = FORMATS[name].extensions[0]
    with pytest.raises(InputError, match="content is something else"):
        format_of(b"\x01\x02\x03 nothing at all", f"file{extension}")


def test_an_empty_file_is_told():
    with pytest.raises(InputError, match="is empty"):
        format_of(b"", "take.csv")
