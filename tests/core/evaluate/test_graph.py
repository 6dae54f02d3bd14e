"""Nodes: known by their content, worked out once, and the same in a window as in the whole."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Recording
from dynaface.core.curves.held import Held
from dynaface.core.curves.keys import Key
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.difference import changed_runs, patched
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import even_out, take_graph
from dynaface.core.identity import content_key
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.core.tidy.stack import STEPS, evaluate, placed
from tests.makers import body, character

FRAMES = 300
NAMES = ("jawOpen", "eyeBlinkLeft", "mouthSmileLeft", "headTurn", "headNod", "headTilt")
EVEN = placed("even out time", {})
SMOOTH = placed("smooth", {"amount": {"jaw": 0.5, "lips": 0.5, "lids": 0.5}})
WEAK = placed("strength", {"gain": {"jawOpen": 0.5}})


def recording() -> Recording:
    rng = np.random.default_rng(4)
    values = (
        0.5
        + 0.4 * np.sin(np.arange(FRAMES)[:, None] / 9 + np.arange(len(NAMES)))
        + rng.normal(0, 0.02, (FRAMES, len(NAMES)))
    )
    return Recording(NAMES, np.arange(FRAMES) / 60, values.astype(np.float32), Fraction(60))


SOURCE = constant("source", recording())
RAW = even_out(SOURCE, EVEN)


def graph(*steps, hand=None, **more):
    return take_graph(RAW, 60.0, steps, hand or {}, **more)


def test_a_graph_gives_what_the_plain_calls_give():
    cache, who = Cache(10**8), character()
    made = graph(SMOOTH, WEAK, character=constant("who", who), sheet=CastSheet(region_strength={"head": 0.5}),
                 body=constant("body", body(turn=20)), settings=JoinSettings(head_weight=Weight(0.5))).performed.result(cache)  # fmt: skip
    tidied = evaluate(recording(), (EVEN, SMOOTH, WEAK))
    plain = perform_take(
        tidied, who, CastSheet(region_strength={"head": 0.5}), body(turn=20), JoinSettings(head_weight=Weight(0.5))
    )
    np.testing.assert_array_equal(made.local, plain.local)
    np.testing.assert_array_equal(made.cast.weights, plain.cast.weights)


def test_equal_content_has_one_key_and_any_change_another():
    one = graph(SMOOTH, WEAK, character=constant("who", character()))
    assert graph(SMOOTH, WEAK, character=constant("who", character())).performed.key == one.performed.key
    others = [
        graph(WEAK, SMOOTH, character=constant("who", character())),
        graph(SMOOTH, placed("strength", {"gain": {"jawOpen": 0.6}}), character=constant("who", character())),
        graph(SMOOTH, WEAK, character=constant("other", character())),
        graph(SMOOTH, WEAK, character=constant("who", character()), sheet=CastSheet(bend={"jawOpen": 1.0})),
        graph(SMOOTH, WEAK, hand={"jawOpen": Held("keys", (Key(0, 0.5),))}, character=constant("who", character())),
        graph(SMOOTH, WEAK, character=constant("who", character()), body=constant("body", body(turn=20))),
    ]
    assert len({o.performed.key for o in [one, *others]}) == 7


def test_a_step_that_is_off_is_no_node():
    assert graph(SMOOTH, replace(WEAK, on=False)).tidied.key == graph(SMOOTH).tidied.key


def test_what_comes_before_a_change_is_not_worked_out_again():
    cache, ran = Cache(10**8), []
    counted = replace(SMOOTH.step, apply=lambda c, p: ran.append(1) or SMOOTH.step.apply(c, p))
    first = replace(SMOOTH, step=counted)
    for gain in (0.5, 0.6, 0.7):
        graph(first, placed("strength", {"gain": {"jawOpen": gain}})).tidied.result(cache)
    assert ran == [1]


@pytest.mark.parametrize("name", sorted(n for n in STEPS if STEPS[n].kind != "retiming"))
@pytest.mark.parametrize(("first", "stop"), [(0, 40), (130, 170), (260, 300), (299, 300)])
def test_a_window_is_what_the_whole_has_there(name, first, stop):
    places = {"places": [{"first": 50, "last": 200}]} if STEPS[name].within is not None else {}
    node = graph(placed(name, places), WEAK).tidied
    part = node.window(Cache(10**8), first, stop)
    np.testing.assert_allclose(part.values, node.result(Cache(10**8)).values[first:stop], atol=1e-6)


def test_a_window_of_a_step_that_looks_a_little_around_asks_for_a_little():
    cache = Cache(10**8)
    node = graph(placed("remove spikes", {}), WEAK).tidied
    assert node.window(cache, 100, 120).frames == 20
    assert cache.get(node.key) is None


@given(st.integers(0, 2**32 - 1), st.integers(1, 60), st.integers(1, 5), st.integers(1, 4))
def test_the_runs_that_changed_make_the_new_table_of_the_old_one(seed, frames, columns, size):
    rng = np.random.default_rng(seed)
    old = rng.normal(0, 1, (frames, columns, size)).astype(np.float32)
    old[rng.random(old.shape) < 0.1] = np.nan
    new = old.copy()
    new[rng.random((frames, columns)) < 0.1] = rng.choice([np.nan, 0.0, 1.0])
    runs, values = changed_runs(old, new)
    np.testing.assert_array_equal(patched(old, runs, values), new)
    assert len(values) == runs[:, 2].sum()


def test_nothing_changed_is_no_run():
    old = np.full((9, 2, 1), np.nan, np.float32)
    runs, values = changed_runs(old, old.copy())
    assert runs.shape == (0, 3)
    assert values.shape == (0, 1)


@pytest.mark.parametrize(
    "value", [{"b": 1, "a": (2, 3.0)}, [None, True, "x"], Fraction(1, 3), frozenset("ab"), np.arange(3)]
)
def test_a_key_is_of_the_content(value):
    assert content_key(value) == content_key(value)
    assert content_key(value) != content_key(value, None)


def test_keys_tell_apart_what_is_written_alike():
    values = ["1", 1, True, None, "None", ["a", "b"], ["ab"], [["a"], "b"], {"a": "b"}, 1.5, np.float32([1.5])]
    assert len({content_key(v) for v in values}) == len(values)
    assert content_key({"a": 1, "b": 2}) == content_key({"b": 2.0, "a": 1.0})
    with pytest.raises(TypeError, match="function"):
        content_key(lambda: 1)
