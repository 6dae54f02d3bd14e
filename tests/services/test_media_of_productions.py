"""Bytes belong to the production into which they were brought: a hash that somebody knows is of no use elsewhere."""

import json

import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import NotFoundError
from dynaface.services.cast.carry_sheet import import_sheet, swap_character
from dynaface.services.media.inspect_upload import inspect_upload
from dynaface.services.media.receive_upload import add_piece, begin_upload, receive_upload
from dynaface.services.media.uploaded import uploaded
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.take.apply_notes import apply_notes
from dynaface.services.take.import_clips import import_clips
from dynaface.services.take.import_take import import_character, import_take
from dynaface.store.tables.uploads import uploads
from tests.conftest import stored
from tests.makers import table


@pytest.fixture
def theirs(stranger) -> dict[str, str]:
    """A file that somebody else has brought into a production of their own."""
    begin_production(stranger, "Elsewhere")
    return stored(stranger, table(), "take.csv")


def test_a_known_hash_is_of_no_use_in_another_production(mara, production, theirs):
    for use in (
        lambda: inspect_upload(mara, production, theirs["media"], theirs["name"]),
        lambda: import_take(mara, production, "1", "Mara", [theirs]),
        lambda: import_character(mara, production, "Odile", theirs),
        lambda: import_clips(mara, production, "Mara", theirs),
        lambda: apply_notes(mara, production, theirs["media"], theirs["name"]),
        lambda: uploaded(mara, production, theirs["media"]),
    ):
        with pytest.raises(NotFoundError):
            use()


def test_nor_as_a_sheet(mara, production, stranger):
    sheet = stored(stranger, json.dumps({"dynafaceSheet": 1}).encode(), "sheet.json")
    character = import_character(
        mara, production, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    )
    take = import_take(mara, production, "1", "Mara", [stored(mara, table(), "take.csv")])
    swap_character(mara, take.id, character.id)
    with pytest.raises(NotFoundError):
        import_sheet(mara, take.id, sheet)


def test_it_does_not_say_whether_the_bytes_are_there(mara, production, theirs):
    messages = []
    for media in (theirs["media"], "0" * 64):
        with pytest.raises(NotFoundError) as refused:
            uploaded(mara, production, media)
        messages.append(str(refused.value))
    assert messages[0] == messages[1]


def test_members_share_what_was_brought(mara, ivo, production):
    media, _ = receive_upload(ivo, production, iter([table()]))
    assert uploaded(mara, production, media) == table()


def test_what_came_in_pieces_may_be_used_once_it_is_whole(mara, production):
    data = table()
    upload = begin_upload(mara, production, len(data))
    media = add_piece(mara, upload.id, 0, data).media
    assert uploaded(mara, production, media) == data


def test_a_source_of_the_production_may_be_used_again(mara, production):
    file = stored(mara, table(), "take.csv")
    import_take(mara, production, "1", "Mara", [file])
    with mara.store.unit() as unit:
        unit.connection.execute(uploads.delete().where(uploads.c.media == file["media"]))
    assert uploaded(mara, production, file["media"]) == table()
