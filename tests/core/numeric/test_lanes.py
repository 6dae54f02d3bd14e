"""Eight numbers at a time against NumPy on the same numbers."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numba import njit

from dynaface.core.numeric.lanes import WIDTH, load, minus, plus_product, store, times, total, zeros

PLACES = st.integers(0, 24 - WIDTH)


@njit
def moved(array, one, other):
    store(array, other, load(array, one))


@njit
def reckoned(array, one, other, number):
    x, y = load(array, one), load(array, other)
    store(array, 0, minus(x, times(y, number)))
    return total(plus_product(zeros(), x, y)), total(plus_product(x, x, y))


@given(PLACES, PLACES)
def test_eight_numbers_go_from_any_place_to_any_other_and_no_more(one, other):
    array = np.arange(24.0)
    expected = array.copy()
    expected[other : other + WIDTH] = array[one : one + WIDTH]
    moved(array, one, other)
    np.testing.assert_array_equal(array, expected)


@given(PLACES, PLACES, st.floats(-100, 100))
def test_each_is_reckoned_with_its_own(one, other, number):
    array = np.random.default_rng(one * 100 + other).normal(0, 1, 24)
    x, y = array[one : one + WIDTH].copy(), array[other : other + WIDTH].copy()
    found = reckoned(array, one, other, number)
    np.testing.assert_allclose(array[:WIDTH], x - y * number, rtol=1e-12, atol=1e-12)
    np.testing.assert_allclose(found, (x @ y, x.sum() + x @ y), rtol=1e-12, atol=1e-12)


def test_nothing_is_eight_zeros():
    @njit
    def cleared(array):
        store(array, WIDTH, zeros())

    array = np.ones(3 * WIDTH)
    cleared(array)
    np.testing.assert_array_equal(array.reshape(3, WIDTH).sum(axis=1), [WIDTH, 0, WIDTH])
