import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.documents.changes import applied, changes_for, fits, overlap
from dynaface.core.documents.kinds import CHECKS, new_take, stack_of
from dynaface.core.errors import InputError

KEYS = st.sampled_from(["a", "b", "c"])
BODY = st.recursive(
    st.integers() | st.text(max_size=3) | st.lists(st.integers(), max_size=3),
    lambda inner: st.dictionaries(KEYS, inner, max_size=3),
    max_leaves=8,
)
DOCUMENT = st.dictionaries(KEYS, BODY, max_size=3)


@given(DOCUMENT, KEYS, BODY)
def test_a_change_taken_back_leaves_the_document_as_it_was(body, path, value):
    changes = changes_for(body, [{"path": path, "value": value}])
    changed = applied(body, changes)
    assert fits(changed, changes) is None
    assert applied(changed, [c.inverted() for c in reversed(changes)]) == body


def test_deep_paths_are_made_and_taken_away():
    body = {"tidy": {"steps": {}}}
    made = applied(body, changes_for(body, [{"path": "tidy/steps/s1/on", "value": True}]))
    assert made == {"tidy": {"steps": {"s1": {"on": True}}}}
    gone = applied(made, changes_for(made, [{"path": "tidy/steps/s1", "remove": True}]))
    assert gone == body
    assert body == {"tidy": {"steps": {}}}


def test_what_is_so_already_is_no_change():
    assert changes_for({"a": 1}, [{"path": "a", "value": 1}, {"path": "b", "remove": True}]) == []


def test_overlap_is_the_same_or_inside():
    assert overlap("a/b", "a/b")
    assert overlap("a", "a/b")
    assert not overlap("a/b", "a/bc")


@pytest.mark.parametrize("path", ["", "/", "a//b", "x" * 500])
def test_paths_that_are_none_are_refused(path):
    with pytest.raises(InputError):
        changes_for({}, [{"path": path, "value": 1}])


def test_a_new_take_is_sound_and_has_its_stack():
    body = new_take("1A", "Mara Quill", {})
    CHECKS["take"](body)
    assert [p.step.name for p in stack_of(body)] == ["even out time", "smooth", "strength"]


@pytest.mark.parametrize(
    "change",
    [
        {"slate": ""}, {"slate": "x" * 81}, {"circled": "yes"}, {"soundOffset": 99}, {"sources": {"curves": "../etc"}},
        {"sources": {"hat": "x"}}, {"unknown": 1}, {"tidy": {"order": [], "steps": {}}},
        {"tidy": {"order": ["smooth", "even"], "steps": {"even": {"step": "even out time"}, "smooth": {"step": "smooth"}}}},
        {"tidy": {"order": ["even", "even"], "steps": {"even": {"step": "even out time"}}}},
        {"tidy": {"order": ["even"], "steps": {"even": {"step": "even out time", "bridge": -1}}}},
    ],
)  # fmt: skip
def test_takes_that_may_not_be_so_are_refused(change):
    with pytest.raises(InputError):
        CHECKS["take"]({**new_take("1A", "", {}), **change})
