"""The in and out of a clip, with handles."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.track.clip_span import MOST_HANDLES, ClipSpan


@given(st.integers(0, 500), st.integers(0, 500), st.integers(0, MOST_HANDLES), st.integers(1, 600))
def test_what_is_solved_lies_within_the_clip_and_has_what_was_marked(first, more, handles, frames):
    span = ClipSpan(first, first + more, handles)
    if first >= frames:
        with pytest.raises(InputError, match="Set in and out anew"):
            span.within(frames)
        return
    low, high = span.within(frames)
    assert 0 <= low <= first
    assert high == min(frames - 1, first + more + handles)
    assert first - low <= handles


@pytest.mark.parametrize("given", [(5, 4, 0), (-1, 4, 0), (0, 4, -1), (0, 4, MOST_HANDLES + 1)])
def test_what_is_no_span_is_refused(given):
    with pytest.raises(InputError):
        ClipSpan(*given)
