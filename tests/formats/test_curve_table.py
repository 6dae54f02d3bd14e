import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from dynaface.core.errors import DynafaceError, InputError, LimitError
from dynaface.core.shapes.standard import HEAD_TRAVEL, SHAPES
from dynaface.formats.catalogue import format_of
from dynaface.formats.entries.curve_table import detect, read_table, table_to_channels, write_table
from dynaface.formats.table.cells import MAX_ROWS
from tests.makers import channels, table

SOME = ("jawOpen", "eyeBlinkLeft", "mouthSmileRight")


def text(*lines):
    return ("\n".join(lines) + "\n").encode()


@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_delimiters(delimiter):
    recording, report = read_table(table(delimiter=delimiter))
    assert recording.values.shape == (60, 52)
    assert report.timing.nominal == 60


def test_columns_in_any_order_and_spelling():
    recording, report = read_table(text("Mouth_Smile_R;time;EYE_BLINK_L", "0.1;0;0.2", "0.3;0.5;0.4"))
    assert recording.names == ("mouthSmileRight", "eyeBlinkLeft")
    np.testing.assert_allclose(recording.values, [[0.1, 0.2], [0.3, 0.4]], rtol=1e-6)
    assert len(report.missing) == 50


@pytest.mark.parametrize(
    ("header", "stamps", "unit"),
    [
        ("time", ["0", "0.0167", "0.0333"], "seconds"), ("timestamp_ms", ["0", "16.7", "33.3"], "milliseconds"),
        ("time", ["0", "16.7", "33.3"], "milliseconds"), ("Timecode", ["10:00:00:00", "10:00:00:01", "10:00:00:02"], "timecode"),
        ("tc", ["10:00:00:58.250", "10:00:00:59.250", "10:00:01:00.250"], "timecode"),
        ("time_seconds", ["100.0", "100.0167", "100.0333"], "seconds"),
    ],
)  # fmt: skip
def test_time_in_any_unit(header, stamps, unit):
    recording, report = read_table(
        text(f"{header},jawOpen", *(f"{s},0.5" for s in stamps)),
        {"timecode_rate": "60"} if unit == "timecode" else None,
    )
    assert report.recipe.time_unit == unit
    np.testing.assert_allclose(np.diff(recording.times), 1 / 60, atol=2e-4)


def test_frame_numbers_need_a_rate():
    data = text("frame,jawOpen", "0,0.1", "1,0.2", "3,0.3")
    with pytest.raises(InputError, match="says no rate"):
        read_table(data)
    recording, report = read_table(data, {"rate": "30"})
    np.testing.assert_allclose(recording.times, [0, 1 / 30, 3 / 30])
    assert report.timing.dropped == 1


def test_without_a_time_column_the_rate_is_asked_for():
    data = text("jawOpen,eyeBlinkLeft", "0.1,0.2", "0.3,0.4")
    with pytest.raises(InputError, match="no time column"):
        read_table(data)
    recording, _ = read_table(data, {"rate": "25"})
    np.testing.assert_allclose(recording.times, [0, 0.04])


def test_percent_and_radians_are_told_from_the_values():
    recording, report = read_table(text("time,jawOpen,HeadYaw", "0,80,0.5", "0.1,20,-0.5"))
    assert report.recipe.percent
    assert report.recipe.radians
    np.testing.assert_allclose(recording.values[0], [0.8, np.degrees(0.5)], rtol=1e-5)


def test_signs_can_be_turned():
    recording, _ = read_table(text("time,headTurnDeg", "0,10", "0.5,20"), {"flipped": ["headTurn"]})
    assert recording.values[0, 0] == -10


def test_blank_and_nan_cells_become_gaps():
    recording, report = read_table(text("time,jawOpen,eyeBlinkLeft", "0,,0.1", "0.1,nan,0.2", "0.2,0.5,NaN"))
    assert report.blank_cells == 3
    assert np.isnan(recording.values[:2, 0]).all()


def test_decimal_commas():
    recording, _ = read_table(text("time;jawOpen", "0,0;0,25", "0,5;0,75"))
    np.testing.assert_allclose(recording.values[:, 0], [0.25, 0.75])


def test_rows_that_go_backward_are_put_in_order_and_told():
    recording, report = read_table(text("time,jawOpen", "0,0.1", "0.2,0.3", "0.1,0.2"))
    np.testing.assert_allclose(recording.values[:, 0], [0.1, 0.2, 0.3])
    assert "backward" in report.notes[0]


def test_timecode_past_midnight():
    recording, _ = read_table(text("timecode,jawOpen", "23:59:59:29,0.1", "00:00:00:00,0.2"), {"timecode_rate": "30"})
    np.testing.assert_allclose(recording.times, [0, 1 / 30], atol=1e-9)


def test_byte_order_marks_and_utf16():
    plain = "time,jawOpen\n0,0.1\n0.1,0.2\n"
    for data in (b"\xef\xbb\xbf" + plain.encode(), plain.encode("utf-16")):
        assert read_table(data)[0].names == ("jawOpen",)


def test_columns_can_be_corrected():
    recording, report = read_table(
        text("time,A,jawOpen", "0,0.1,0.2", "0.1,0.3,0.4"), {"columns": {"A": "cheekPuff", "jawOpen": ""}}
    )
    assert recording.names == ("cheekPuff",)
    assert report.unmatched == ("jawOpen",)


@pytest.mark.parametrize(
    ("row", "line"),
    [("0.5,0.1", "2 cells"), ("0.5,0.1,0.2,9", "4 cells"), ("0.5,open,0.2", "'open' is no number"), ("0.5,1e400,0.2", "infinite"),
     ("x,0.1,0.2", "'x' is no number"), ("0.50,inf,0.2", "infinite"), ('0.5,"0.1,0.2', "1 row")],
)  # fmt: skip
def test_a_broken_row_is_a_gap_and_is_told(row, line):
    rows = [f"{n / 10},0.{n % 10},0.2" for n in range(30)]
    rows[5 if "1 row" not in line else -1] = row
    recording, report = read_table(text("time,jawOpen,eyeBlinkLeft", *rows))
    assert line in report.notes[0]
    known = np.isfinite(recording.values).all(axis=1)
    assert known.sum() == 29
    assert len(recording.times) - 29 in (0, 1)
    whole = np.delete(np.arange(30), 5 if "1 row" not in line else 29)
    np.testing.assert_allclose(recording.times[known], whole / 10)
    np.testing.assert_allclose(recording.values[known, 1], 0.2, rtol=1e-6)


def test_a_row_whose_time_is_known_stays_in_its_place():
    rows = [f"{n / 10},0.1,0.2" for n in range(20)]
    rows[7] = "0.7,open,0.9"
    recording, report = read_table(text("time,jawOpen,eyeBlinkLeft", *rows))
    assert len(recording.times) == 20
    assert np.isnan(recording.values[7, 0])
    assert recording.values[7, 1] == np.float32(0.9)
    assert report.blank_cells == 1


def test_the_first_row_may_be_the_broken_one():
    recording, report = read_table(text("timecode,jawOpen", "rubbish", *(f"10:00:00:{n:02d},0.1" for n in range(20))))
    assert "line 2: this row has 1 cells" in report.notes[0]
    assert len(recording.times) == 20


def test_a_word_in_the_first_row_does_not_make_its_column_text():
    recording, report = read_table(
        text(
            "time,jawOpen",
            "0,open",
            *(f"{n / 10},0.{n}" for n in range(1, 9)),
            *(f"{n / 10},0.1" for n in range(9, 12)),
        )
    )
    assert "line 2, column 'jawOpen': 'open' is no number" in report.notes[0]
    assert np.isnan(recording.values[0, 0])
    np.testing.assert_allclose(recording.values[1:4, 0], [0.1, 0.2, 0.3], rtol=1e-6)


def test_more_than_a_tenth_of_broken_rows_are_too_many():
    rows = [f"{n / 10},0.1" for n in range(20)]
    rows[3] = rows[9] = "?"
    assert "2 rows are gaps" in read_table(text("time,jawOpen", *rows))[1].notes[0]
    rows[12] = "?"
    with pytest.raises(InputError, match="1 cells where the header has 2"):
        read_table(text("time,jawOpen", *rows))


def test_a_table_of_too_many_rows_is_refused_by_its_limit():
    with pytest.raises(LimitError, match=f"{MAX_ROWS} rows"):
        read_table(b"time,jawOpen\n" + b"0,0.1\n" * (MAX_ROWS + 20_000))


BROKEN = {
    "empty": (b"", "empty"),
    "only blank lines": (b"\n\n  \n", "empty"),
    "prose": (b"dear diary\nnothing happened\n", "no comma"),
    "header only": (b"time,jawOpen\n", "no rows"),
    "no header": (b"0,0.1,0.2\n1,0.2,0.3\n", "numbers where column names"),
    "no shape": (text("time,apples,pears", "0,1,2", "1,2,3"), "no column of this table names a face shape"),
    "infinite": (text("time,jawOpen", "0,0.1", "0.1,inf"), "infinite value"),
    "infinite by size": (text("time,jawOpen", "0,1e400", "0.1,1"), "infinite value"),
    "infinite word beside a timecode": (text("timecode,jawOpen", "00:00:00:00,Infinity"), "infinite value"),
    "word": (text("time,jawOpen", "0,0.1", "0.1,open"), "'open' is no number"),
    "word in the first row": (text("time,jawOpen", "0,open", "0.1,0.2"), "'open' is no number"),
    "cut row": (text("time,jawOpen,eyeBlinkLeft", "0,0.1,0.2", "0.1,0.2"), "2 cells where the header has 3"),
    "long row": (text("time,jawOpen", "0,0.1,0.2"), "3 cells where the header has 2"),
    "two columns of one name": (text("time,jawOpen,jawOpen", "0,0.1,0.2"), "two columns are named 'jawOpen'"),
    "2,000 columns": (text(",".join(["time", *(f"c{i}" for i in range(2000))])), "2001 columns"),
    "zero bytes": (b"time,jawOpen\n0,\x00\n", "no text"),
    "binary": (bytes(range(256)) * 8, "no text"),
    "blank time": (text("time,jawOpen", "0,0.1", ",0.2"), "time stamp is blank"),
    "one moment only": (text("time,jawOpen", "1,0.1", "1,0.2"), "fewer than two different time stamps"),
    "timecode out of range": (text("timecode,jawOpen", "00:00:00:00,0.1", "00:00:61:00,0.2"), "out of range"),
    "timecode broken": (text("timecode,jawOpen", *(f"00:00:00:{f:02d},0.1" for f in range(20)), "oops,0.2"), "no timecode"),
    "huge number": (text("time,jawOpen", "0,1e300", "0.1,0.5"), "too large"),
    "open quote": (b'time,jawOpen\n0,"0.1\n' + b"0,0.2\n" * 40000, "line"),
    "cut UTF-16": ("time,jawOpen\n0,0.1\n".encode("utf-16")[:-1], "UTF-16"),
    "html": (b"<html><body>404, not found</body></html>\n", "line 1"),
    "json": (b'{"time": [0, 1], "jawOpen": [0, 1]}\n', ""),
    "two columns for one shape by hand": (None, ""),
    "commas only": (b",,,,\n,,,,\n", ""),
    "semicolons in a comma file": (text("time,jawOpen", "0;0.1", "1;0.2"), "1 cells where the header has 2"),
    "rate unknown": (text("frame,jawOpen", "0,0.1", "1,0.2"), "says no rate"),
    "no time": (text("jawOpen,eyeBlinkLeft", "0.1,0.2"), "no time column"),
}  # fmt: skip


@pytest.mark.parametrize("name", [n for n in BROKEN if BROKEN[n][0] is not None])
def test_broken_tables_are_refused_in_words(name):
    data, says = BROKEN[name]
    with pytest.raises(InputError) as caught:
        read_table(data)
    assert says in str(caught.value)
    assert caught.value.where or caught.value.hint


def test_the_place_of_a_bad_cell_is_named():
    with pytest.raises(InputError) as caught:
        read_table(b"# from a phone\ntime,jawOpen,eyeBlinkLeft\n0,0.1,0.2\n0.1,0.2,shut\n")
    assert caught.value.where == "line 4, column 'eyeBlinkLeft'"


def test_a_table_over_the_limit_is_refused_before_it_is_read():
    class Large(bytes):
        def __len__(self):
            return 500_000_000

    with pytest.raises(LimitError, match="500 MB"):
        read_table(Large(b"time,jawOpen\n"))


@pytest.mark.parametrize(
    "bad",
    [
        {"rate": "no"},
        {"time_unit": "weeks"},
        {"columns": {"jawOpen": "elbow"}},
        {"nonsense": 1},
        {"flipped": ["jawOpen"]},
        {"time_column": "gone", "time_unit": "seconds"},
    ],
)
def test_bad_corrections_are_refused(bad):
    with pytest.raises(InputError):
        read_table(table(names=SOME), bad)


def test_our_own_table_comes_back():
    given_ = channels(names=(*SOME, "headTurn", "headNod", "headTilt", *HEAD_TRAVEL, "gazeTurnLeft", "distance3"))
    given_.values[10:14, 1] = np.nan
    read = table_to_channels(write_table(given_))
    assert set(read.names) == set(given_.names)
    for name in given_.names:
        np.testing.assert_allclose(read.column(name), given_.column(name), atol=1e-6)
    assert str(read.timecode) == str(given_.timecode)
    assert read.rate == given_.rate


def test_travel_of_the_head_is_neither_a_percentage_nor_an_angle():
    given_ = channels(names=(*SOME, "headTurn", "headSide"))
    given_.values[:, -1] = 40.0
    data = write_table(given_)
    assert b"headSideMm" in data
    recording, report = read_table(data, {"percent": True, "radians": True})
    assert (recording.values[:, recording.names.index("headSide")] == 40).all()
    assert "headSide" not in report.beyond


def test_an_uneven_table_is_not_taken_as_even():
    with pytest.raises(InputError, match="uneven in time"):
        table_to_channels(table(names=SOME, step=np.r_[0, np.ones(30), 3, np.ones(28)] / 60))


@settings(max_examples=200, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.binary(max_size=400) | st.text(alphabet='time,jawOpen0123456789.;\t\n:"-einf', max_size=300).map(str.encode))
def test_no_bytes_make_it_fail_in_other_ways(data):
    try:
        read_table(data)
    except DynafaceError as error:
        assert str(error)


def test_it_is_known_by_its_content():
    assert detect(table(names=SOME))
    assert format_of(table(names=SOME), "take.dat").name == "curve table"
    assert not detect(b"HIERARCHY\nROOT Hips\n")
    assert set(SOME) < set(SHAPES)


DAY_60 = 24 * 3600 * 60


def counted(header, first, rows=30, time=None, step=1):
    """A table with a count of frames, and time stamps of its own where `time` says how to write them."""
    lines = [",".join([*([header] if header else []), *(["time_s"] if time else []), "jawOpen"])]
    for n in range(rows):
        stamp = [f"{time(n):.5f}"] if time else []
        lines.append(",".join([str((first + n * step) % DAY_60), *stamp, "0.2"]))
    return text(*lines)


def test_frames_counted_from_midnight_are_timecode_at_the_rate_that_time_stamps_say():
    # 14:22:31:07 at 60, counted at 60 by a camera of 30.
    count = (14 * 3600 + 22 * 60 + 31) * 60 + 7
    recording, report = read_table(counted("frame", count, time=lambda n: n / 30, step=2))
    assert str(recording.timecode) == "14:22:31:07"
    assert report.timing.nominal == 30
    assert report.recipe.timecode_column == "frame"
    assert report.recipe.timecode_rate == "60"
    broadcast = read_table(counted("tc", 500, rows=1200, time=lambda n: n * 1001 / 30000))[0]
    assert str(broadcast.timecode.rate) == "30000/1001"


@pytest.mark.parametrize("header", ["Timecode", "frame"])
def test_a_count_without_time_stamps_asks_for_its_rate(header):
    data = counted(header, 3_000_000)
    with pytest.raises(InputError, match="says no rate"):
        read_table(data)
    recording = read_table(data, {"rate": "50"})[0]
    assert recording.rate == 50
    assert recording.timecode.frames == 3_000_000
    assert recording.timecode.seconds == 60_000


def test_a_count_goes_on_past_midnight():
    recording = read_table(counted("timecode", DAY_60 - 10), {"time_unit": "timecode", "timecode_rate": "60"})[0]
    assert recording.times[-1] == pytest.approx(29 / 60)
    assert str(recording.timecode) == "23:59:59:50"


def test_a_count_whose_rate_nothing_says_is_left_out_and_said():
    lines = ["frame,time_s,jawOpen"] + [f"{3_000_000 + 7 * n},{n / 60:.5f},0.2" for n in range(30)]
    recording, report = read_table(text(*lines))
    assert recording.timecode is None
    assert any("counts frames from midnight" in note for note in report.notes)
    assert read_table(text(*lines), {"timecode_rate": "25"})[0].timecode.frames == 3_000_000


def test_frames_of_a_take_are_no_timecode():
    recording, report = read_table(counted("frame", 12, time=lambda n: n / 30))
    assert recording.timecode is None
    assert report.recipe.timecode_column == ""
    with pytest.raises(InputError, match="no timecode in column"):
        read_table(table(), {"timecode_column": "jawOpen", "timecode_rate": "60"})
