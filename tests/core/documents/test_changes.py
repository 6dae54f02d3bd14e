"""Changes at paths: made, taken back, checked against what the document holds now."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.documents.changes import applied, asked, between, fits, overlap, path_of, value_at
from dynaface.core.errors import InputError

KEYS = st.sampled_from(["a", "b", "c"])
BODY = st.recursive(
    st.integers() | st.text(max_size=3) | st.lists(st.integers(), max_size=3),
    lambda inner: st.dictionaries(KEYS, inner, max_size=3),
    max_leaves=8,
)
DOCUMENT = st.dictionaries(KEYS, BODY, max_size=3)
PATH = st.lists(KEYS, min_size=1, max_size=3).map("/".join)
WANTED = st.builds(
    lambda path, value, remove: {"path": path, "remove": True} if remove else {"path": path, "value": value},
    PATH, BODY, st.booleans(),
)  # fmt: skip


def made(body, wanted):
    """(body after, changes) of what is asked for."""
    after = applied(body, asked(wanted))
    return after, between(body, after, [w["path"] for w in wanted])


@given(DOCUMENT, st.lists(WANTED, max_size=4))
def test_changes_taken_back_leave_the_document_as_it_was(body, wanted):
    try:
        after, changes = made(body, wanted)
    except InputError:
        return  # a path leads through a value that is no table
    assert fits(after, changes) is None
    restored = applied(after, [c.inverted() for c in reversed(changes)])
    again = applied(restored, changes)
    assert again == after
    for change in changes:
        assert value_at(restored, change.path)[1] == change.before


@given(DOCUMENT, KEYS, BODY)
def test_the_document_that_is_given_stays_as_it_is(body, key, value):
    before = repr(body)
    applied(body, asked([{"path": f"{key}/x", "value": value}]) if isinstance(body.get(key, {}), dict) else [])
    assert repr(body) == before


def test_nested_changes_in_one_edit_are_taken_back_together():
    after, changes = made({}, [{"path": "a", "value": {}}, {"path": "a/b", "value": 1}])
    assert after == {"a": {"b": 1}}
    assert fits(after, changes) is None
    assert applied(after, [c.inverted() for c in reversed(changes)]) == {}


def test_what_is_taken_out_of_a_table_that_is_gone_leaves_no_table_behind():
    assert applied({}, asked([{"path": "b/a/c", "remove": True}])) == {}
    after, changes = made({}, [{"path": "b/a", "value": {}}, {"path": "b", "value": {"a": 0}}])
    assert applied(after, [c.inverted() for c in reversed(changes)]) == {}


def test_deep_paths_are_made_and_taken_away():
    body = {"tidy": {"steps": {}}}
    after, _ = made(body, [{"path": "tidy/steps/s1/on", "value": True}])
    assert after == {"tidy": {"steps": {"s1": {"on": True}}}}
    assert made(after, [{"path": "tidy/steps/s1", "remove": True}])[0] == body


def test_what_is_so_already_is_no_change():
    assert made({"a": 1}, [{"path": "a", "value": 1}, {"path": "b", "remove": True}])[1] == []


def test_what_was_changed_since_no_longer_fits():
    after, changes = made({"a": 1}, [{"path": "a", "value": 2}])
    assert fits({**after, "a": 3}, changes) == changes[0]


def test_names_with_any_letters_are_keys():
    path = path_of("matches", "face/smile~1")
    assert applied({}, asked([{"path": path, "value": "x"}])) == {"matches": {"face/smile~1": "x"}}
    assert value_at({"matches": {"face/smile~1": "x"}}, path) == (True, "x")


def test_overlap_is_the_same_or_inside():
    assert overlap("a/b", "a/b")
    assert overlap("a", "a/b")
    assert not overlap("a/b", "a/bc")


@pytest.mark.parametrize("path", ["", "/", "a//b", "x" * 700])
def test_paths_that_are_none_are_refused(path):
    with pytest.raises(InputError):
        made({}, [{"path": path, "value": 1}])


def test_a_path_through_a_value_that_is_no_table_is_refused():
    with pytest.raises(InputError, match="nothing to change"):
        made({"a": 1}, [{"path": "a/b", "value": 1}])
