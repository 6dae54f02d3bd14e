"""Clips solved on all cores by the command line: the same as at once."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.cli import stretches
from dynaface.cli.stretches import FEWEST, Stretches, spans_of, stretches_of
from dynaface.core.errors import InputError
from dynaface.formats.card_file import read_card
from dynaface.formats.head_file import general_head
from tests.makers import film


@pytest.mark.parametrize(("first", "last", "cores"), [(0, 299, 2), (7, 1000, 8), (5, 5, 4), (0, 2 * FEWEST - 2, 4)])
def test_stretches_cover_all_frames_once_and_are_worth_a_process(first, last, cores):
    spans = spans_of(first, last, cores)
    assert [n for a, b in spans for n in range(a, b + 1)] == list(range(first, last + 1))
    assert len(spans) <= cores
    lengths = [b - a + 1 for a, b in spans]
    assert max(lengths) - min(lengths) <= 1
    assert len(spans) == 1 or min(lengths) >= FEWEST


@pytest.fixture(scope="module")
def clip(tmp_path_factory):
    path = tmp_path_factory.mktemp("clip") / "clip.mp4"
    path.write_bytes(film())
    return path


def test_what_two_processes_measure_is_what_one_does(clip, monkeypatch):
    card = read_card((ASSETS / "demo/mara_card.json").read_bytes(), general_head())
    once = Stretches(clip, 1, map)
    found = once.landmarks(4, 27)
    assert len(found) == 28
    assert found[:4] == [None] * 4
    whole = once.measured(card, found, 4, 27)
    monkeypatch.setattr(stretches, "FEWEST", 10)
    monkeypatch.setattr(stretches.os, "sched_getaffinity", lambda _process: {0, 1})
    with stretches_of(clip, 40) as apart:
        assert apart.cores == 2
        parts = apart.measured(card, apart.landmarks(4, 27), 4, 27)
    assert parts.frames == whole.frames == 24
    assert np.abs(parts.weights[:12] - whole.weights[:12]).max() < 1e-6
    # The second begins a little earlier and forgets that.
    assert np.abs(parts.weights - whole.weights).mean() < 0.01


def test_what_goes_wrong_in_a_process_is_said_as_here(tmp_path):
    (tmp_path / "noise.mp4").write_bytes(b"no footage")
    with pytest.raises(InputError):
        Stretches(tmp_path / "noise.mp4", 1, map).landmarks(0, 3)
