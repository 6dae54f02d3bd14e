"""What files of a handover are called."""

import pytest

from dynaface.core.errors import InputError
from dynaface.core.handover.file_name import file_name, named_by, parse_pattern

WORDS = {"name": "4A / 1", "production": "Lantern", "rate": "24", "timecode": "10:00:00:05"}


def test_words_of_a_pattern_are_filled_in():
    assert named_by("{production}_{name}_v2", WORDS) == "Lantern_4A_1_v2"
    assert named_by("{name} at {timecode}", WORDS) == "4A_1_at_10_00_00_05"


def test_what_is_not_known_is_left_out():
    assert named_by("{performer}{name}", WORDS) == "4A_1"
    assert named_by("{shot}", WORDS) == "take"


def test_a_name_never_leads_out_of_its_folder():
    assert file_name("../../etc/passwd") == "etc_passwd"
    assert file_name("..") == "take"
    assert "/" not in file_name("a/b\\c:d")


@pytest.mark.parametrize("pattern", ["", "{who}", "{name", "name}", "x" * 200, 7])
def test_patterns_without_sense_are_refused(pattern):
    with pytest.raises(InputError, match="pattern of names"):
        parse_pattern(pattern)
