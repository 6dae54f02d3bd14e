"""Uploads in pieces: they go on after a break, fit together, and leave nothing behind."""

from hashlib import sha256

import pytest

from dynaface.core.errors import InputError, LimitError, NotFoundError
from dynaface.services.media import receive_upload
from dynaface.services.media.receive_upload import add_piece, begin_upload, upload_state


@pytest.fixture(autouse=True)
def small(monkeypatch):
    monkeypatch.setattr(receive_upload, "PIECE", 10)


def sent(work, upload, data, at=0):
    media = ""
    for start in range(at, len(data), 10):
        media = add_piece(work, upload, start, data[start : start + 10]).media
    return media


def test_pieces_become_the_file_and_are_gone(mara, production):
    data = bytes(range(35))
    upload = begin_upload(mara, production, len(data))
    media = sent(mara, upload.id, data)
    assert mara.media.get(media) == data
    # An answer that was lost can be asked for again.
    assert upload_state(mara, upload.id).media == media
    piece, _ = mara.media.put_bytes(b"other")
    assert mara.media.size(piece) == 5
    with pytest.raises(NotFoundError):
        mara.media.get(sha256(data[:10]).hexdigest())


def test_after_a_break_it_goes_on_where_it_was(mara, production):
    data = b"a face that was filmed for a long time"
    upload = begin_upload(mara, production, len(data))
    add_piece(mara, upload.id, 0, data[:10])
    assert upload_state(mara, upload.id).received == 10
    # A piece whose answer was lost is sent again: it is refused with the place to go on from.
    with pytest.raises(InputError, match="10 have come"):
        add_piece(mara, upload.id, 0, data[:10])
    assert mara.media.get(sent(mara, upload.id, data, 10)) == data


def test_two_uploads_of_the_same_file_do_not_take_each_others_pieces(mara, production):
    data = b"the same file, sent by two pages at once"
    one, other = (begin_upload(mara, production, len(data)) for _ in range(2))
    add_piece(mara, other.id, 0, data[:10])
    assert mara.media.get(sent(mara, one.id, data)) == data
    assert mara.media.get(sent(mara, other.id, data, 10)) == data


def test_what_was_broken_off_between_its_last_piece_and_its_medium_is_finished_by_the_next_try(
    mara, production, monkeypatch
):
    data = b"twenty-two small bytes"
    upload = begin_upload(mara, production, len(data))

    def killed(work, found):
        raise KeyboardInterrupt

    with monkeypatch.context() as broken:
        broken.setattr(receive_upload, "_finished", killed)
        with pytest.raises(KeyboardInterrupt):
            sent(mara, upload.id, data)
    state = upload_state(mara, upload.id)
    assert (state.received, state.media) == (len(data), "")
    assert mara.media.get(add_piece(mara, upload.id, len(data), b"").media) == data
    assert add_piece(mara, upload.id, len(data), b"").media == upload_state(mara, upload.id).media


def test_an_empty_piece_finishes_nothing_that_is_not_there(mara, production):
    upload = begin_upload(mara, production, 30)
    with pytest.raises(InputError, match="0 bytes"):
        add_piece(mara, upload.id, 0, b"")


def test_a_file_of_one_piece_stays(mara, production):
    upload = begin_upload(mara, production, 5)
    assert mara.media.get(sent(mara, upload.id, b"small")) == b"small"


def test_what_does_not_fit_is_refused(mara, production):
    with pytest.raises(InputError, match="is empty"):
        begin_upload(mara, production, 0)
    with pytest.raises(LimitError, match="MB"):
        begin_upload(mara, production, 10**12)
    upload = begin_upload(mara, production, 12)
    for data in (b"", b"x" * 11):
        with pytest.raises(InputError, match="1 to 10"):
            add_piece(mara, upload.id, 0, data)
    add_piece(mara, upload.id, 0, b"x" * 10)
    with pytest.raises(InputError, match="the file has 12"):
        add_piece(mara, upload.id, 10, b"xyz")


def test_strangers_have_no_part_in_it(mara, ivo, stranger, production):
    upload = begin_upload(mara, production, 12)
    for other in (ivo, stranger):
        with pytest.raises(NotFoundError):
            add_piece(other, upload.id, 0, b"x")
        with pytest.raises(NotFoundError):
            upload_state(other, upload.id)
    with pytest.raises(NotFoundError):
        begin_upload(stranger, production, 12)
