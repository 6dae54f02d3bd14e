"""Curve tables as JSON lines: an object a line, whatever holds the shapes in it."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import unit_of
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries.curve_table import read_table, write_table
from dynaface.formats.table.cells import read_cells
from tests.makers import channels

FACE = channels(frames=40)


def lines(make, frames=40):
    """A file with the object of each frame: make(frame, second, shape -> weight)."""
    named = [n + unit_of(n) for n in FACE.names]
    rows = [{n: round(float(v), 6) for n, v in zip(named, row, strict=True)} for row in FACE.values]
    return "\n".join(json.dumps(make(f, f / 60, rows[f])) for f in range(frames)).encode() + b"\n"


LAYOUTS = {
    "flat": lambda f, s, row: {"time": s, **row},
    "in an object": lambda f, s, row: {"time": s, "face": {"shapes": row}},
    "a list of names": lambda f, s, row: {"time": s, "shapes": [{"name": n, "value": v} for n, v in row.items()]},
    "with more beside": lambda f, s, row: {"id": "phone 1", "time": s, "ok": True, "none": None, "shapes": row, "at": [1, 2.5]},
    "milliseconds": lambda f, s, row: {"timeMs": s * 1000, "shapes": row},
}  # fmt: skip


@pytest.mark.parametrize("layout", LAYOUTS)
def test_a_face_in_json_lines_is_the_face_of_its_table(layout):
    data = lines(LAYOUTS[layout])
    assert format_of(data, "face.jsonl").name == "curve table"
    recording, report = read_table(data)
    wanted, _ = read_table(write_table(FACE))
    assert set(FACE.names) <= set(recording.names)
    order = [recording.names.index(n) for n in FACE.names]
    own = [wanted.names.index(n) for n in FACE.names]
    np.testing.assert_allclose(recording.values[:, order], wanted.values[:, own], atol=1e-5)
    np.testing.assert_allclose(np.diff(recording.times), 1 / 60, atol=1e-6)
    assert report.timing.dropped == 0


VALUE = st.one_of(st.none(), st.booleans(), st.integers(-(2**70), 2**70), st.floats(), st.text(max_size=4))
OBJECT = st.recursive(
    st.dictionaries(st.text(max_size=3), VALUE, max_size=4),
    lambda inner: st.dictionaries(st.text(max_size=3), st.one_of(inner, st.lists(inner, max_size=3)), max_size=3),
    max_leaves=8,
)


@given(st.lists(OBJECT, min_size=1, max_size=6))
def test_whatever_objects_there_are_they_are_read_or_refused_in_words(objects):
    data = "\n".join([json.dumps({"a": 1, "b": 2}), *map(json.dumps, objects)]).encode()
    try:
        cells = read_cells(data)
    except InputError as error:
        assert error.message
    else:
        assert cells.numbers.shape[1] == len(cells.header)


def test_a_name_in_several_objects_keeps_what_it_is_in():
    data = b'{"left": {"x": 1, "y": 2}, "right": {"x": 3}, "jawOpen": 0.5}\n{"left": {"x": 2}, "jawOpen": 0.25}\n'
    cells = read_cells(data)
    assert cells.header == ("left.x", "y", "right.x", "jawOpen")
    np.testing.assert_array_equal(cells.numbers, [[1, 2, 3, 0.5], [2, np.nan, np.nan, 0.25]])


def test_what_begins_later_is_a_gap_before():
    rows = [{"time": 0.0, "jawOpen": 0.1}, {"time": 0.1, "jawOpen": 0.2, "cheekPuff": 0.3}]
    cells = read_cells("\n".join(map(json.dumps, rows)).encode())
    assert cells.header == ("time", "jawOpen", "cheekPuff")
    assert np.isnan(cells.numbers[0, 2])


def test_a_line_that_is_no_object_is_named_by_its_number():
    good = lines(LAYOUTS["flat"]).decode().splitlines()
    cells = read_cells("\n".join([*good[:20], good[20][:30], *good[21:]]).encode())
    assert [row for row, _ in cells.broken] == [20]
    assert "line 21" in cells.broken[0][1].where
    with pytest.raises(InputError) as error:
        read_cells("\n".join([good[0], *(line[:30] for line in good[1:])]).encode())
    assert "line 2" in error.value.where


@pytest.mark.parametrize(
    "data",
    [
        b'{"a": 1}', b'{\n "a": 1\n}\n', b'{"name": "sheet"}\n{"name": "other"}\n', b'[1, 2]\n[3, 4]\n',
        b'{"a": ' + b"[" * 100_000 + b"\n{}",
    ],
)  # fmt: skip
def test_other_json_is_no_table(data):
    with pytest.raises(InputError):
        format_of(data, "sheet.dat")


def test_too_many_names_are_refused():
    data = "\n".join(json.dumps({f"n{i}{f}": 0.5 for i in range(700)}) for f in range(9)).encode()
    with pytest.raises(InputError, match="4096"):
        read_cells(data)
