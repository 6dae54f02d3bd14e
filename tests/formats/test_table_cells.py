"""A table's text cut into cells: what is read, and where it says that something is wrong."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.errors import InputError
from dynaface.formats.table.cells import MAX_COLUMNS, decode, delimiter_of, read_cells
from dynaface.formats.table.recipe import Recipe, parse_recipe


def refused(data, part=""):
    with pytest.raises(InputError) as error:
        read_cells(data if isinstance(data, bytes) else data.encode())
    assert part in error.value.message
    return error.value


NUMBER = st.floats(-1000, 1000).map(lambda v: round(v, 4))


@given(st.integers(1, 6), st.integers(1, 12), st.sampled_from([",", ";", "\t"]), st.data())
def test_any_table_of_numbers_comes_back(columns, rows, delimiter, data):
    header = [f"c{i}" for i in range(columns + 1)]
    values = [[data.draw(NUMBER) for _ in header] for _ in range(rows)]
    text = "\n".join(delimiter.join(map(str, line)) for line in [header, *values])
    cells = read_cells(text.encode())
    assert cells.header == tuple(header)
    np.testing.assert_allclose(cells.numbers, np.array(values))
    assert cells.first_line == 2


CELL = st.one_of(
    NUMBER.map(str), st.sampled_from(["", " ", "x", "inf", "nan", "true", "null", "+1", ".5", "1 2", "0x10", "1_0"])
)


@given(st.lists(st.lists(CELL, min_size=2, max_size=4), min_size=1, max_size=10), st.sampled_from([0, 3, 40, 1500]))
def test_a_table_in_blocks_reads_as_one_row_by_row(rows, sound):
    """A quoted cell sends a table row by row; both must read the same, gaps and their lines too."""
    good = [["0", "0.5", "-1e3"]] * sound
    body = "\n".join(",".join(r) for r in [["0", "0", "0"], *good, *rows, *good])
    read = []
    for header in ("a,b,c", '"a",b,c'):
        try:
            cells = read_cells(f"{header}\n{body}\n".encode())
        except InputError as error:
            read.append((error.message, error.where))
        else:
            gaps = [(row, e.message, e.where) for row, e in cells.broken]
            read.append((cells.header, cells.numbers.tobytes(), cells.texts, cells.first_line, gaps))
    assert read[0] == read[1]


@pytest.mark.parametrize("blank", ["", "nan", "NaN", "N/A", "null", "None", "-"])
def test_blanks_are_gaps(blank):
    cells = read_cells(f"a,b\n1,2\n{blank},4\n".encode())
    assert np.isnan(cells.numbers[1, 0])
    assert cells.numbers[1, 1] == 4


def test_a_column_of_labels_is_kept_as_text():
    cells = read_cells(b"code,a\n10:00:00:00,1\n10:00:00:01,2\n")
    assert cells.texts == {0: ["10:00:00:00", "10:00:00:01"]}
    np.testing.assert_array_equal(cells.numbers[:, 1], [1, 2])


def test_comments_and_blank_lines_before_the_header_are_skipped_and_counted():
    cells = read_cells(b"# made by a phone\n\na,b\n1,2\n")
    assert cells.header == ("a", "b")
    assert cells.first_line == 4
    assert refused("# one\n\na,b\n1,2\n1,x\n").where == "line 5, column 'b'"


def test_decimal_commas_are_read_where_the_separator_is_no_comma():
    np.testing.assert_array_equal(read_cells(b"a;b\n1,5;2\n0,25;3\n").numbers, [[1.5, 2], [0.25, 3]])


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1"])
def test_text_in_any_of_its_encodings(encoding):
    assert decode("größe,b".encode(encoding)) == "größe,b"


@pytest.mark.parametrize(("line", "delimiter"), [("a,b", ","), ("a;b;c", ";"), ("a\tb", "\t"), ("a,b;c;d", ";")])
def test_the_delimiter_is_the_one_that_cuts_most(line, delimiter):
    assert delimiter_of(line) == delimiter


@pytest.mark.parametrize(
    ("text", "message", "where"),
    [
        ("", "empty", ""),
        ("\n\n# nothing\n", "empty", ""),
        ("jawOpen\n0.5\n", "no table", "line 1"),
        ("a,b\n", "no rows", "line 1"),
        ("1,2\n3,4\n", "numbers where column names", "line 1"),
        ("a,a\n1,2\n", "two columns are named 'a'", "columns 1 and 2"),
        ("a,b\n1,2\n1\n", "1 cells where the header has 2", "line 3"),
        ("a,b\n1,2\n1,2,3\n", "3 cells where the header has 2", "line 3"),
        ("a,b\n1,2\n1,tall\n", "'tall' is no number", "line 3, column 'b'"),
        ("a,b\n1,2\ninf,2\n", "infinite", "line 3, column 'a'"),
        ("a,b\n1,2\n1.#INF,2\n", "infinite", "line 3, column 'a'"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(text, message, where):
    assert refused(text, message).where == where


def test_what_is_no_text_is_refused():
    assert refused(b"a,b\n1,\x002\n", "no text").where == "byte 6"
    assert refused(b"\xff\xfea", "breaks off").where


def test_a_table_with_too_many_columns_is_refused():
    names = ",".join(f"c{i}" for i in range(MAX_COLUMNS + 1))
    refused(f"{names}\n{names.replace('c', '')}\n", "columns")


def test_empty_cells_at_the_end_of_a_line_do_no_harm():
    np.testing.assert_array_equal(read_cells(b"a,b,\n1,2,\n3,4,\n").numbers, [[1, 2], [3, 4]])


class TestRecipe:
    def test_comes_back_from_its_description(self):
        recipe = Recipe(
            "t", "milliseconds", rate="60", percent=True, columns={"x": "jawOpen", "y": ""}, flipped=("headTurn",)
        )
        assert parse_recipe(recipe.describe()) == recipe

    def test_takes_what_is_absent_from_the_one_before(self):
        base = Recipe("t", "seconds", columns={"x": "jawOpen"})
        made = parse_recipe({"rate": "30"}, base)
        assert (made.time_column, made.rate, dict(made.columns)) == ("t", "30", {"x": "jawOpen"})

    @pytest.mark.parametrize(
        ("given", "message"),
        [
            ([], "must be an object"),
            ({"colour": 1}, "recipe field is 'colour'"),
            ({"time_unit": "hours"}, "time_unit"),
            ({"rate": "fast"}, "fast"),
            ({"columns": {"x": "noseWiggle"}}, "channel for column 'x'"),
            ({"columns": {"x": "jawOpen", "y": "jawOpen"}}, "both read as jawOpen"),
            ({"flipped": ["jawOpen"]}, "flipped"),
        ],
    )
    def test_refuses_what_makes_no_sense(self, given, message):
        with pytest.raises(InputError, match=message):
            parse_recipe(given)
