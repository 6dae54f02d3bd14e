"""Plain data of any origin: what no part of ours can hold is refused at its place."""

import json

import pytest

from dynaface.core.errors import InputError
from dynaface.core.plain import MAX_DEPTH, MAX_NUMBER, bounded, is_number


@pytest.mark.parametrize(
    "value", [None, True, 0, -3.5, 1e17, "", "日本 🙂", [], {}, {"a": [1, {"b": "c"}]}, 5e-324, -(10**17)]
)
def test_what_can_be_held_is_given_back(value):
    assert bounded(value, "it") is value


@pytest.mark.parametrize(
    ("value", "is_one"),
    [(0, True), (-2.5, True), (10**300, True), (10**400, False), (-(10**400), False), (True, False), ("1", False),
     (None, False), (float("nan"), False), (float("inf"), False)],
)  # fmt: skip
def test_a_number_is_what_a_float_can_hold(value, is_one):
    assert is_number(value) is is_one


@pytest.mark.parametrize(
    ("value", "where"),
    [
        ({"a": {"b": [0, 1e400]}}, "/a/b/1"), ([float("nan")], "/0"), ({"rate": 10**400}, "/rate"), ({"n": 2**63}, "/n"),
        ({"n": -(2**80)}, "/n"), ({"a": "x\x00"}, "/a"), ({"a\x00b": 1}, "/a\\0b"), (["\ud800"], "/0"), ({"\udfff": 1}, "/?"),
    ],
)  # fmt: skip
def test_what_cannot_is_refused_at_its_place(value, where):
    with pytest.raises(InputError) as refused:
        bounded(value, "it")
    assert refused.value.where == where
    assert str(refused.value).encode()


def test_a_value_by_itself_is_named_by_what_it_is():
    with pytest.raises(InputError) as refused:
        bounded(MAX_NUMBER, "file.json")
    assert refused.value.where == "file.json"


def test_the_depth_has_an_end():
    assert bounded(json.loads("[" * MAX_DEPTH + "]" * MAX_DEPTH), "it")
    with pytest.raises(InputError, match="deep"):
        bounded(json.loads("[" * (MAX_DEPTH + 2) + "]" * (MAX_DEPTH + 2)), "it")
