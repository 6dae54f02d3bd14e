"""Every detector finds its own trouble, is silent where there is none, and proposes a mend that helps."""

from functools import lru_cache

import numpy as np
import pytest

from dynaface.core.curves.channels import Channels
from dynaface.core.snags.find import DETECTORS, find_snags
from dynaface.core.snags.propose import joined
from dynaface.core.snags.snag import Evidence
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.sims.faults import FAULTS, break_take
from dynaface.sims.long_take import long_take
from tests.makers import channels

SEED = 31
GRACE = 3


@lru_cache(maxsize=2)
def take(seed=SEED):
    return long_take(seed)


@lru_cache(maxsize=64)
def broken(kind):
    truth, voice, phones = take()
    given, places, late = break_take(truth, voice, phones, (kind,), SEED)
    if late:  # the face earlier by as much as the voice is late
        given = given.with_values(np.roll(given.values, -round(late * 60), axis=0))
    return Evidence(given, voice), places[kind]


def touches(snag, fault):
    return (snag.first - GRACE <= fault.last and fault.first <= snag.last + GRACE
            and bool(set(snag.channels) & set(fault.channels)))  # fmt: skip


def test_there_is_a_fault_for_each_detector():
    assert sorted(FAULTS) == sorted(DETECTORS)


@pytest.mark.parametrize("kind", sorted(DETECTORS))
def test_what_was_broken_is_found_and_nothing_else(kind):
    evidence, faults = broken(kind)
    found = find_snags(evidence, (kind,))
    assert faults
    assert sum(any(touches(s, f) for s in found) for f in faults) >= 0.9 * len(faults)
    assert sum(any(touches(s, f) for f in faults) for s in found) >= 0.8 * len(found)


@pytest.mark.parametrize("kind", sorted(DETECTORS))
def test_a_snag_says_all_that_an_animator_needs(kind):
    evidence, _ = broken(kind)
    for snag in find_snags(evidence, (kind,)):
        assert 0 < snag.severity <= 1
        assert 0 <= snag.first <= snag.last < evidence.channels.frames
        assert set(snag.channels) <= set(evidence.channels.names)
        assert snag.words.endswith(".")
        assert snag.steps or snag.sound_shift
        assert snag.describe()["key"]
    keys = [s.key for s in find_snags(evidence, (kind,))]
    assert len(keys) == len(set(keys))


@pytest.mark.parametrize("kind", sorted(set(DETECTORS) - {"sound off"}))
def test_its_mend_takes_most_of_the_trouble_away(kind):
    evidence, _ = broken(kind)
    before = find_snags(evidence, (kind,))
    stack = parse_stack({"dynafaceStack": 1, "steps": joined(before)})
    after = find_snags(Evidence(evaluate(evidence.channels, stack), evidence.sound), (kind,))
    assert len(after) <= 0.25 * len(before)


def test_a_moved_sound_is_no_longer_off():
    evidence, _ = broken("sound off")
    (snag,) = find_snags(evidence, ("sound off",))
    moved = Evidence(evidence.channels, evidence.sound, snag.sound_shift)
    assert find_snags(moved, ("sound off",)) == []


@pytest.mark.parametrize("kind", sorted(DETECTORS))
def test_nothing_is_found_where_nothing_is_wrong_and_nothing_is_changed(kind):
    truth, voice, _ = take(44)
    before = truth.values.copy()
    assert find_snags(Evidence(truth, voice), (kind,)) == []
    np.testing.assert_array_equal(truth.values, before)


@pytest.mark.parametrize("kind", sorted(DETECTORS))
@pytest.mark.parametrize("frames", [0, 1, 3, 5, 40])
def test_short_takes_and_takes_with_few_channels_do_no_harm(kind, frames):
    given = channels(frames)
    _, voice, _ = take()
    find_snags(Evidence(given, voice), (kind,))
    find_snags(Evidence(Channels(("jawOpen",), given.values[:, :1], given.rate)), (kind,))
    find_snags(Evidence(given.with_values(np.full_like(given.values, np.nan)), voice), (kind,))


def test_the_same_take_gives_the_same_snags():
    evidence, _ = broken("spike")
    again = Evidence(evidence.channels, evidence.sound)
    assert find_snags(evidence) == find_snags(again)


def test_snags_close_together_have_keys_of_their_own():
    truth, _, _ = take()
    values = truth.values.copy()
    column = truth.names.index("cheekPuff")
    values[[400, 404], column] += 0.5
    found = find_snags(Evidence(truth.with_values(values)), ("spike",))
    assert len(found) == 2
    assert len({s.key for s in found}) == 2
