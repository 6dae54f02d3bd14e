"""JSON that people bring: sheets come back, damaged ones say what is wrong and where."""

import json

import pytest

from dynaface.core.cast.sheet import CastSheet, parse_sheet
from dynaface.core.curves.keys import Key, parse_keys
from dynaface.core.errors import InputError, LimitError
from dynaface.formats.json_file import MAX_BYTES, read_json, read_table
from dynaface.formats.keys_file import write_keys
from dynaface.formats.sheet_file import read_sheet, write_sheet
from tests.makers import channels

SHEET = parse_sheet({"regionStrength": {"lips": 0.8}, "matches": {"gawp": "jawOpen"}})


@pytest.mark.parametrize("data", [b"", b"{", b"\xff\xfe", b"nothing", b"[" * 100_000])
def test_what_is_no_json_is_refused_by_the_files_name(data):
    with pytest.raises(InputError, match=r"samples\.json is no JSON"):
        read_json(data, "samples.json")


def test_a_file_of_many_megabytes_is_not_parsed():
    with pytest.raises(LimitError, match="At most 4 MB"):
        read_json(b" " * (MAX_BYTES + 1), "samples.json")


@pytest.mark.parametrize("data", [b"[]", b"3", b"null", b'"text"'])
def test_a_table_is_a_table(data):
    assert read_json(data, "x.json") == json.loads(data)
    with pytest.raises(InputError, match="must be a table"):
        read_table(data, "x.json")


def test_a_sheet_comes_back():
    assert read_sheet(write_sheet(SHEET, "Mara Quill", "odile")) == SHEET
    assert read_sheet(write_sheet(CastSheet())) == CastSheet()


def test_a_sheet_names_whose_it_is():
    plain = json.loads(write_sheet(SHEET, "Mara Quill", "odile"))
    assert (plain["dynafaceSheet"], plain["performer"], plain["character"]) == (1, "Mara Quill", "odile")


def test_a_sheet_without_its_head_is_read_too():
    assert read_sheet(b'{"regionStrength": {"lips": 0.8}, "matches": {"gawp": "jawOpen"}}') == SHEET


@pytest.mark.parametrize("version", [0, 2, "1", None])
def test_a_sheet_of_another_version_is_refused(version):
    with pytest.raises(InputError, match="we read version 1"):
        read_sheet(json.dumps({"dynafaceSheet": version}).encode())


@pytest.mark.parametrize(
    "wrong", [{"regionStrength": {"elbow": 1}}, {"regionStrength": 3}, {"matches": []}, {"colour": "red"}]
)
def test_a_sheet_that_makes_no_sense_is_refused(wrong):
    with pytest.raises(InputError):
        read_sheet(json.dumps(wrong).encode())


def test_keys_are_written_with_the_rate_and_length_that_they_belong_to():
    keys = (Key(0, 0.2), Key(10, 0.5, 0, 0.1, "free", 0.5, 0.5))
    plain = json.loads(write_keys(channels(frames=40), {"jawOpen": keys}))
    assert (plain["dynafaceKeys"], plain["rate"], plain["frames"]) == (1, "60", 40)
    assert parse_keys(plain["channels"]["jawOpen"]) == keys
