"""Frames that are enough."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from dynaface.core.handover.few_keys import few_keys


def between(values, kept):
    frames = np.arange(len(values))
    flat = values.reshape(len(values), -1)
    return np.stack([np.interp(frames, kept, c[kept]) for c in flat.T], axis=1)


@given(
    arrays(np.float64, st.tuples(st.integers(1, 80), st.integers(1, 4)), elements=st.floats(-1, 1)),
    st.floats(1e-4, 0.5),
)
def test_lines_between_them_stay_within_the_tolerance(values, tolerance):
    kept = few_keys(values, tolerance)
    assert (kept[0], kept[-1]) == (0, len(values) - 1)
    assert (np.diff(kept) > 0).all()
    assert np.abs(between(values, kept) - values).max() <= tolerance + 1e-12


def test_a_line_needs_its_ends_only():
    assert few_keys(np.linspace(0, 1, 500), 1e-6).tolist() == [0, 499]
    assert few_keys(np.full((90, 3, 4), 0.5), 1e-3).tolist() == [0, 89]


def test_without_a_tolerance_each_frame_is_kept():
    assert few_keys(np.zeros(40), 0).tolist() == list(range(40))
