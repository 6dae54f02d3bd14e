"""Media over HTTP: whole, in ranges, and never more of them in memory than a piece."""

import pytest
from flask import Flask
from werkzeug.test import EnvironBuilder

from dynaface.core.errors import NotFoundError
from dynaface.store.media import PIECE, Media
from dynaface.web.answers import as_medium
from dynaface.web.errors import handle_errors


@pytest.fixture
def store(tmp_path):
    return Media(str(tmp_path))


@pytest.fixture(scope="module")
def app():
    made = Flask(__name__)
    handle_errors(made)
    return made


@pytest.fixture
def ask(app, store):
    """Answers a request for bytes 0, 1, 2, ... of a medium of 1,000."""
    media, _ = store.put_bytes(DATA)

    def answer(method="GET", **headers):
        named = {name.replace("_", "-"): value for name, value in headers.items()}
        with app.request_context(EnvironBuilder(method=method, headers=named).get_environ()):
            try:
                return as_medium(store.open(media), "video/mp4")
            except Exception as error:
                return app.make_response(app.handle_user_exception(error))

    answer.tag = f'"{media}"'
    return answer


DATA = bytes(range(250)) * 4


def test_the_whole_comes_with_its_length_and_its_tag(ask):
    answer = ask()
    assert (answer.status_code, answer.get_data(), answer.content_length) == (200, DATA, 1000)
    assert (answer.headers["ETag"], answer.headers["Accept-Ranges"]) == (ask.tag, "bytes")


@pytest.mark.parametrize(
    ("wanted", "first", "stop"),
    [
        ("bytes=0-3", 0, 4),
        ("bytes=990-", 990, 1000),
        ("bytes=-5", 995, 1000),
        ("bytes=100-5000", 100, 1000),
        ("bytes=7-7", 7, 8),
    ],
)
def test_a_range_comes_alone_and_says_where_it_lies(ask, wanted, first, stop):
    answer = ask(Range=wanted)
    assert (answer.status_code, answer.get_data()) == (206, DATA[first:stop])
    assert answer.headers["Content-Range"] == f"bytes {first}-{stop - 1}/1000"
    assert answer.content_length == stop - first


@pytest.mark.parametrize("wanted", ["bytes=1000-", "bytes=5000-6000"])
def test_a_range_beyond_the_end_cannot_be_met(ask, wanted):
    assert ask(Range=wanted).status_code == 416


@pytest.mark.parametrize("wanted", ["bytes=9-3", "lines=0-3", "bytes", "bytes=x-y"])
def test_what_is_no_range_gets_the_whole(ask, wanted):
    assert ask(Range=wanted).get_data() == DATA


def test_what_is_held_already_is_not_sent_again(ask):
    answer = ask(If_None_Match=ask.tag)
    assert (answer.status_code, answer.get_data()) == (304, b"")


def test_a_range_of_something_else_gets_the_whole(ask):
    assert ask(Range="bytes=0-3", If_Range='"another"').get_data() == DATA
    assert ask(Range="bytes=0-3", If_Range=ask.tag).get_data() == DATA[:4]


def test_only_the_head_is_told_where_only_that_is_asked_for(ask):
    answer = ask(method="HEAD")
    assert (answer.content_length, b"".join(answer.response)) == (1000, b"")


def test_no_more_than_a_piece_is_read_at_once(store, monkeypatch):
    media, size = store.put_bytes(bytes(3 * PIECE + 5))
    read = []
    plain = Media.read
    monkeypatch.setattr(
        Media, "read", lambda self, m, start, stop: read.append(stop - start) or plain(self, m, start, stop)
    )
    pieces = store.open(media).pieces(10, size)
    assert len(next(pieces)) == PIECE
    assert read == [PIECE]
    assert sum(map(len, pieces)) == size - 10 - PIECE
    assert max(read) == PIECE


def test_a_medium_that_is_not_there_is_said_so(store):
    with pytest.raises(NotFoundError):
        store.open("0" * 64)
