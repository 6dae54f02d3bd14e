"""Tables of labelled 3D points."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.errors import InputError
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries import marker_table
from dynaface.formats.entries.marker_table import read, write
from tests.makers import markers

HEADER = "time,a.x,a.y,a.z,b.x,b.y,b.z,c.x,c.y,c.z\n"
ROWS = "0,0,0,0,60,0,0,0,70,0\n0.01,0,0,1,60,0,1,,,\n0.02,0,0,2,60,0,2,0,70,2\n"


def test_what_is_written_is_read_again():
    take = replace(markers(), timecode=parse_timecode("01:02:03:04", markers().rate))
    again = read(write(take))
    assert (again.labels, again.rate, again.timecode) == (take.labels, take.rate, take.timecode)
    np.testing.assert_allclose(again.points, take.points, atol=1e-7)


@pytest.mark.parametrize("spelled", ["{}.{}", "{}_{}", "{} {}", "{}:{}", "{} ({})", '"{}-{}"'])
def test_columns_are_spelled_in_many_ways(spelled):
    header = "time," + ",".join(spelled.format(n, a.upper()) for n in ("lip", "brow", "chin") for a in "xyz") + "\n"
    take = read((header + ROWS).encode())
    assert take.labels == ("lip", "brow", "chin")
    assert np.isnan(take.points[1, 2]).all()
    assert float(take.rate) == pytest.approx(100)


@pytest.mark.parametrize(
    ("size", "said"), [(1, ""), (0.1, ""), (0.001, ""), (1, "# unit: mm\n"), (1 / 25.4, "# unit: in\n")]
)
def test_the_unit_is_said_or_told_from_the_size_of_a_face(size, said):
    scaled = "\n".join(
        ",".join([row.split(",")[0], *(f"{float(c) * size:.6f}" if c else "" for c in row.split(",")[1:])])
        for row in ROWS.strip().split("\n")
    )
    take = read((said + HEADER + scaled).encode())
    assert take.points[0, 1, 0] == pytest.approx(0.06, abs=1e-6)


def test_a_table_of_markers_is_no_curve_table():
    assert format_of((HEADER + ROWS).encode(), "points.csv").name == "marker table"
    assert not marker_table.detect(b"time,jawOpen,eyeBlinkLeft\n0,0.1,0.2\n")


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (HEADER.replace("time", "frame") + ROWS, "neither times nor a rate"),
        ("# unit: cubit\n" + HEADER + ROWS, "cubit"),
        ("# rate: fast\n" + HEADER + ROWS, "fast"),
        (HEADER + ROWS + "0.5,0,0,2,60,0,2,0,70,2\n", "not even in time"),
        (HEADER + "0,,,,,,,,,\n0.1,,,,,,,,,\n", "3 markers"),
        ("time,a.x,a.y,a.z\n0,1,2,3\n", "no table of markers"),
    ],
)
def test_what_cannot_be_read_is_explained(text, words):
    with pytest.raises(InputError, match=words):
        read(text.encode())
