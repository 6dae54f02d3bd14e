"""Answers as they go over the wire: long JSON packed for those who can unpack it, bundles of arrays aligned."""

import gzip
import json
import struct

import numpy as np
import pytest
from flask import Flask

from dynaface.web.answers import MIN_PACKED, as_bundle, as_file, as_json, pack
from dynaface.web.app import make_app

APP = Flask(__name__)
LONG = {"keys": [[n, 0.5, 0, 0, "smooth"] for n in range(2000)]}


def answer(value, accepts=""):
    with APP.test_request_context(headers={"Accept-Encoding": accepts} if accepts else {}):
        made = as_json(value)
        pack(made)
        return made


def test_long_json_is_packed_for_who_can_unpack_it():
    made = answer(LONG, "gzip, deflate, br")
    assert made.headers["Content-Encoding"] == "gzip"
    assert json.loads(gzip.decompress(made.data)) == LONG
    assert len(made.data) < 0.25 * len(json.dumps(LONG))


@pytest.mark.parametrize("accepts", ["", "br", "gzip;q=0"])
def test_who_cannot_unpack_it_gets_it_as_it_is(accepts):
    made = answer(LONG, accepts)
    assert "Content-Encoding" not in made.headers
    assert json.loads(made.data) == LONG


def test_caches_are_warned_that_it_depends_on_who_asks():
    assert answer(LONG, "gzip").headers["Vary"] == answer(LONG).headers["Vary"] == "Accept-Encoding"


def test_short_json_is_not_worth_it():
    made = answer({"a": "b" * (MIN_PACKED // 2)}, "gzip")
    assert "Content-Encoding" not in made.headers


def test_numbers_of_numpy_are_plain_numbers():
    assert json.loads(answer({"a": np.float32(0.5), "b": np.arange(3)}).data) == {"a": 0.5, "b": [0, 1, 2]}


def test_what_is_no_plain_data_is_our_mistake():
    with pytest.raises(TypeError, match="object"):
        answer({"a": object()})


@pytest.mark.parametrize("word", ["", "a", "ab", "abc", "abcd"])
def test_arrays_of_a_bundle_begin_at_four_bytes(word):
    arrays = {"x": np.arange(6, dtype=np.float64).reshape(2, 3), "runs": np.array([[1, 2, 3]], np.int64)}
    raw = as_bundle({"word": word}, arrays).data
    assert raw[:4] == b"DYNB"
    (length,) = struct.unpack("<I", raw[4:8])
    assert length % 4 == 0
    head = json.loads(raw[8 : 8 + length])
    assert head["word"] == word
    assert head["arrays"] == [
        {"name": "x", "shape": [2, 3], "type": "f4"},
        {"name": "runs", "shape": [1, 3], "type": "i4"},
    ]
    np.testing.assert_array_equal(np.frombuffer(raw, "<f4", 6, 8 + length), np.arange(6))
    np.testing.assert_array_equal(np.frombuffer(raw, "<i4", 3, 8 + length + 24), [1, 2, 3])


def test_gaps_go_over_the_wire():
    raw = as_bundle({}, {"x": np.array([np.nan, 1.0])}).data
    assert np.isnan(np.frombuffer(raw[-8:], "<f4")[0])


def test_bundles_and_files_go_as_they_are():
    with APP.test_request_context(headers={"Accept-Encoding": "gzip"}):
        for made in (as_bundle({}, {"x": np.zeros(90_000)}), as_file("a.glb", bytes(90_000))):
            before = made.data
            pack(made)
            assert made.data == before
            assert made.content_encoding is None


def test_a_long_answer_of_the_application_is_checked_and_then_packed(base, settings):
    client = make_app(base, settings).test_client()
    plain = client.get("/api/catalogue")
    made = client.get("/api/catalogue", headers={"Accept-Encoding": "gzip"})
    assert made.status_code == 200
    assert json.loads(gzip.decompress(made.data)) == plain.json
    assert int(made.headers["Content-Length"]) == len(made.data) < len(plain.data)


def test_a_file_is_kept_under_its_name():
    assert as_file("4A_1.glb", b"x").headers["Content-Disposition"] == 'attachment; filename="4A_1.glb"'
    far = as_file('日本_"1.json', b"x").headers["Content-Disposition"]
    assert far == "attachment; filename=\"____1.json\"; filename*=UTF-8''%E6%97%A5%E6%9C%AC_%221.json"
    assert "\n" not in as_file("a\nSet-Cookie: b", b"").headers["Content-Disposition"]
    assert far.isascii()
