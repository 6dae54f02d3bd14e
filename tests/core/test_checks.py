"""Checks of arguments: each message has the name, the value and what is allowed."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core import checks
from dynaface.core.errors import InputError


@given(st.floats(-5, 5), st.floats(-5, 5), st.floats(0, 5))
def test_numbers_are_within_their_limits_or_refused(value, low, width):
    if low <= value <= low + width:
        assert checks.within("gain", value, low, low + width) == value
    else:
        with pytest.raises(InputError, match="gain is"):
            checks.within("gain", value, low, low + width)


@pytest.mark.parametrize("value", ["fast", None, [], {}, float("nan"), float("inf")])
def test_what_is_no_number_is_refused_by_name(value):
    with pytest.raises(InputError, match="gain is"):
        checks.within("gain", value, 0, 1)


def test_a_number_in_words_counts():
    assert checks.within("gain", "0.5", 0, 1) == 0.5


def test_shapes_of_arrays_are_named_with_what_is_wanted():
    array = np.zeros((4, 3))
    assert checks.shaped("points", array, None, 3) is array
    with pytest.raises(InputError, match=r"points has shape \(4, 3\); it must be \(any, 2\)"):
        checks.shaped("points", array, None, 2)
    with pytest.raises(InputError, match="it must be"):
        checks.shaped("points", array, 4)


def test_the_place_of_a_value_that_is_not_finite_is_named():
    array = np.zeros((4, 3))
    assert checks.finite("points", array) is array
    array[2, 1] = np.nan
    with pytest.raises(InputError) as refused:
        checks.finite("points", array)
    assert refused.value.where == "index (2, 1)"


@pytest.mark.parametrize("value", ["sideways", 3, None, ["left"], {"left": 1}])
def test_what_is_not_among_the_words_is_refused_with_the_words(value):
    with pytest.raises(InputError, match="must be one of left, right"):
        checks.one_of("side", value, ("left", "right"))


def test_a_word_that_is_there_is_given_back():
    assert checks.one_of("side", "left", {"left": 1, "right": 2}) == "left"
