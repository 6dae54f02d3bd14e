"""A proposed stack: less error, nothing lost, a reason for each step."""

import numpy as np
import pytest

from dynaface.core.shapes.standard import SHAPES
from dynaface.core.snags.propose import joined, propose
from dynaface.core.snags.snag import Snag, place, step
from dynaface.core.tidy.stack import evaluate, parse_stack
from dynaface.sims.faults import break_take, drop_frames
from dynaface.sims.long_take import long_take


def error(given, truth):
    frames = min(given.frames, truth.frames)
    columns = [truth.names.index(n) for n in SHAPES]
    return float(np.sqrt(np.nanmean((given.values[:frames, columns] - truth.values[:frames, columns]) ** 2)))


@pytest.mark.parametrize("seed", [51, 52])
def test_the_error_is_at_most_half_of_what_it_was(seed):
    truth, voice, phones = long_take(seed, 4)
    damaged, _, _ = break_take(truth, voice, phones, ("jitter burst", "spike", "lids out of step", "drift"), seed, 0.01)
    recording = drop_frames(damaged, seed)
    before = recording.values.copy()
    made = propose(recording, voice)
    tidied = evaluate(recording, parse_stack({"dynafaceStack": 1, "steps": list(made.steps)}))
    assert error(tidied, truth) < 0.5 * error(evaluate(recording, ()), truth)
    assert len(made.reasons) == len(made.steps)
    assert made.steps[0]["step"] == "even out time"
    np.testing.assert_array_equal(recording.values, before)


def test_a_clean_take_is_hardly_changed():
    truth, voice, _ = long_take(53, 3)
    made = propose(truth, voice)
    assert error(evaluate(truth, parse_stack({"dynafaceStack": 1, "steps": list(made.steps)})), truth) < 0.003
    assert {s["step"] for s in made.steps} <= {"smooth"}


def test_mends_that_differ_only_in_place_become_one_step():
    def spike(at):
        return Snag(
            "spike",
            "jaw",
            ("jawOpen",),
            at,
            at,
            0.5,
            1,
            0,
            "",
            "x.",
            (step("bridge over", [place(("jawOpen",), at, at)]),),
        )

    (made,) = joined([spike(40), spike(9)])
    assert [p["first"] for p in made["places"]] == [9, 40]
