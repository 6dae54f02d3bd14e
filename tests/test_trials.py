"""A short run of each trial; the long ones are commands (`python -m trials.files --count 10000 --seed 1`)."""

import random

import pytest

from trials import calls, files, kills, rights
from trials.damage import DAMAGE
from trials.samples import samples
from trials.tally import Tally


def test_damaged_files_of_every_kind_are_read_or_refused():
    tally = files.run(300 * len(samples()), seed=11)
    assert tally.faults == {}
    assert tally.outcomes["read"] > 300
    assert tally.outcomes["refused"] > 300


def test_a_reader_that_fails_in_another_way_is_a_fault(monkeypatch):
    def breaks(data: bytes) -> None:
        raise KeyError("by itself")

    one = samples()["keys"]
    monkeypatch.setitem(samples(), "keys", type(one)(one.data, breaks, one.kind))
    assert files._read("keys", "1")[0] == "untyped"


@pytest.mark.parametrize("kind", sorted(DAMAGE))
def test_damage_is_the_same_for_the_same_seed_and_differs_from_the_sound_file(kind):
    sound = next(s.data for s in samples().values() if s.kind == kind)
    made = [DAMAGE[kind](sound, random.Random(n)) for n in range(40)]
    assert made == [DAMAGE[kind](sound, random.Random(n)) for n in range(40)]
    assert sum(m != sound for m in made) > 25


def test_malformed_calls_are_never_answered_with_500(settings):
    tally = calls.run(settings, 400, seed=3)
    assert tally.faults == {}
    assert tally.outcomes["422"] > 80
    assert tally.outcomes["200"] > 50


def test_others_ids_serve_and_change_nothing(settings):
    tally = rights.run(settings, 150, seed=5)
    assert tally.faults == {}
    assert sum(n for outcome, n in tally.outcomes.items() if outcome.startswith("nobody")) > 70


def test_killed_parts_come_back_with_nothing_lost_or_doubled():
    tally = kills.run(2, seed=3)
    assert tally.faults == {}
    assert tally.outcomes["edits answered"] > 10
    assert tally.outcomes["handovers"] > 0


def test_a_tally_says_what_was_counted():
    tally = Tally()
    for outcome in ("read", "read", "refused"):
        tally.count(outcome)
    tally.fault("too slow")
    tally.fault("too slow")
    assert str(tally).splitlines() == [
        "      2  read",
        "      1  refused",
        "  FAULT     2 x  too slow",
        "2 faults in 3",
    ]
