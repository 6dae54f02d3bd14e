"""A sound that comes in pieces is summed up as the whole is."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.sound.sound import Sound, peaks
from dynaface.core.sound.summary import PeaksInPieces, SoundSummary

RATE = 800


def sound(samples, channels=2):
    return Sound(np.random.default_rng(samples).uniform(-0.8, 0.8, (samples, channels)).astype(np.float32), RATE)


@given(
    samples=st.integers(0, 4000),
    cuts=st.lists(st.integers(0, 4000), max_size=6),
    a_second=st.sampled_from([1, 50, 200, 333]),
)
def test_pieces_of_any_size_have_the_peaks_of_the_whole(samples, cuts, a_second):
    whole = sound(samples)
    summary, drawn = SoundSummary(RATE, 2), PeaksInPieces(RATE, 2, a_second)
    for piece in np.split(whole.samples, sorted(c for c in cuts if c <= samples)):
        summary.add(piece)
        drawn.add(piece)
    np.testing.assert_array_equal(drawn.all(), peaks(whole, a_second))
    assert summary.findings()["seconds"] == whole.seconds
    assert summary.findings()["peak"] == pytest.approx(np.abs(whole.samples).max(initial=0))


@pytest.mark.parametrize(
    ("samples", "note"),
    [(np.zeros((900, 1)), ["it is silent"]), (np.ones((900, 1)), ["it is clipped"]), (np.full((900, 1), 0.5), [])],
)
def test_silence_and_clipping_are_said(samples, note):
    summary = SoundSummary(RATE, 1)
    summary.add(samples.astype(np.float32))
    found = summary.findings()
    assert found["notes"] == note
    assert (found["rate"], found["channels"]) == (RATE, 1)
