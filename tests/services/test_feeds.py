"""Feeds: tickets, profiles of performers, recipes by sender, recordings as takes; against the real database."""

import json
import threading

import numpy as np
import pytest
from itsdangerous import URLSafeTimedSerializer

from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import DeniedError, InputError, NotFoundError
from dynaface.core.feed.packet import Packet
from dynaface.core.feed.profile import FeedProfile
from dynaface.core.shapes.standard import CHANNELS, HEAD_ANGLES, SHAPES
from dynaface.formats.table.recipe import Recipe
from dynaface.live.recorder import ABOUT, Recorder, left_behind
from dynaface.live.sender import Sender
from dynaface.services.edit_document import undo
from dynaface.services.feed import tickets
from dynaface.services.feed.keep_recording import keep_recording, next_number
from dynaface.services.feed.profiles import (
    change_feed_profile,
    keep_feed_performer,
    keep_feed_recipe,
    kept_feed_performer,
    kept_feed_recipe,
    list_feed_profiles,
    own_feed_profile,
)
from dynaface.services.feed.tickets import TICKET, TOKEN, make_ticket, read_ticket
from dynaface.services.load_source import load_recording
from dynaface.services.take.import_take import import_character
from dynaface.services.work import source_within
from tests.conftest import stored

SECRET = "a secret of the tests"


def test_a_ticket_says_who_and_about_what(mara, production):
    for kind in (TICKET, TOKEN):
        bearer = read_ticket(mara, SECRET, make_ticket(mara, SECRET, production, kind), kind)
        assert (bearer.production, bearer.person) == (production, mara.person)


def test_a_ticket_is_no_token_and_another_server_gives_none(mara, production):
    ticket = make_ticket(mara, SECRET, production)
    for secret, kind, given in ((SECRET, TOKEN, ticket), ("another", TICKET, ticket), (SECRET, TICKET, ticket[:-2] + "xx"), (SECRET, TICKET, ""), (SECRET, TICKET, "x" * 5000)):  # fmt: skip
        with pytest.raises(DeniedError):
            read_ticket(mara, secret, given, kind)


def test_a_ticket_is_good_for_a_minute(mara, production, monkeypatch):
    ticket = make_ticket(mara, SECRET, production)
    monkeypatch.setitem(tickets.SECONDS, TICKET, -1)
    with pytest.raises(DeniedError, match="too old"):
        read_ticket(mara, SECRET, ticket)


def test_who_is_no_member_has_no_ticket(mara, stranger, production):
    with pytest.raises(NotFoundError):
        make_ticket(stranger, SECRET, production)
    of_a_stranger = URLSafeTimedSerializer(SECRET, salt=TOKEN).dumps([production, stranger.person])
    with pytest.raises(NotFoundError):
        read_ticket(mara, SECRET, of_a_stranger, TOKEN)


def test_a_profile_is_kept_with_its_performer_and_can_be_undone(mara, ivo, production):
    change_feed_profile(
        mara, production, "Mara Quill", "take neutral", [{"path": "neutral", "value": {"jawOpen": 0.1}}]
    )
    made = change_feed_profile(ivo, production, "Mara Quill", "mirror", [{"path": "mirror", "value": True}])
    assert made.body.profile == FeedProfile(neutral={"jawOpen": 0.1}, mirror=True)
    assert [d.body.performer for d in list_feed_profiles(ivo, production)] == ["Mara Quill"]
    undo(mara, [made.id])
    assert own_feed_profile(mara, production, "Mara Quill").body.profile == FeedProfile(mirror=True)


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("neutral", {"nose": 0.1}),
        ("extremes", {"headTurn": 10}),
        ("strength", {"ears": 1}),
        ("smoothing/jaw", 1.5),
        ("zero", [0, 0]),
        ("character", "00000000-0000-0000-0000-000000000000"),
        ("performer", "somebody else"),
    ],
)
def test_what_no_profile_holds_is_refused(mara, production, path, value):
    with pytest.raises(InputError):
        change_feed_profile(mara, production, "Mara Quill", "something", [{"path": path, "value": value}])


def test_how_a_sender_is_read_is_kept_for_the_next_time(mara, ivo, stranger, production):
    assert kept_feed_recipe(mara, production, "10.0.0.7 mara") is None
    base = Recipe(columns={"/a": "", "/b": "jawOpen"})
    keep_feed_recipe(mara, production, "10.0.0.7 mara", {"columns": {"/a": "tongueOut"}, "percent": True}, base)
    found = kept_feed_recipe(ivo, production, "10.0.0.7 mara")
    assert found.columns == {"/a": "tongueOut", "/b": "jawOpen"}
    assert found.percent
    assert kept_feed_recipe(mara, production, "10.0.0.8 mara") is None
    with pytest.raises(NotFoundError):
        kept_feed_recipe(stranger, production, "10.0.0.7 mara")


def test_whom_a_sender_captures_is_kept_for_the_next_time(mara, production):
    assert kept_feed_performer(mara, production, "10.0.0.7") == ""
    keep_feed_performer(mara, production, "10.0.0.7", " Mara Quill ")
    assert kept_feed_performer(mara, production, "10.0.0.7") == "Mara Quill"
    with pytest.raises(InputError, match="no performer"):
        keep_feed_performer(mara, production, "10.0.0.7", "x" * 81)


@pytest.mark.parametrize(
    "wrong", [{"columns": {"/a": "nose"}}, {"columns": {"/a": "jawOpen"}}, {"percent": "yes"}, {"loud": True}, 7]
)
def test_a_recipe_that_is_none_is_refused(mara, production, wrong):
    with pytest.raises(InputError):
        keep_feed_recipe(mara, production, "x", wrong, Recipe(columns={"/a": "", "/b": "jawOpen"}))


def talk(sender, frames=60, first=0, named=lambda n: n, factor=1.0):
    """What a sender hears of a face that opens its jaw: the packets as heard."""
    return [
        sender.heard(
            Packet(
                sender.called,
                n,
                n / 60,
                f"10:00:{n // 60:02d}:{n % 60:02d}",
                {named("jawOpen"): factor * n / frames, named("headTurn"): 5.0},
            ),
            n / 60,
        )[0]
        for n in range(first, first + frames)
    ]


def recorded(folder, work, production, senders, profile=None, slate="lamp"):
    recorder = Recorder(folder, production, work.person, slate)
    for sender in senders:
        sender.performer = sender.called
        if profile:
            sender.use(profile)
        for heard in talk(sender):
            recorder.write(sender, heard)
    return recorder


def about(folder):
    return json.loads((folder / ABOUT).read_text())


def curves_of(work, take):
    with work.store.unit() as unit:
        source = source_within(unit, take.production, take.body.sources.curves, "curves")
        return load_recording(work, unit, source)


def column(recording, name):
    return recording.values[:, recording.names.index(name)]


def test_a_recording_becomes_a_take_of_each_performer(mara, production, tmp_path):
    recorder = recorded(tmp_path, mara, production, [Sender(1, "h", "OSC", "mara"), Sender(2, "h", "OSC", "ivo")])
    recorder.close()
    takes, _ = keep_recording(mara, recorder.folder, about(recorder.folder))
    assert [(t.body.slate, t.body.performer) for t in takes] == [("lamp_01 mara", "mara"), ("lamp_01 ivo", "ivo")]
    found = curves_of(mara, takes[0])
    assert column(found, "jawOpen") == pytest.approx(np.arange(60) / 60, abs=1e-5)
    assert found.times == pytest.approx(np.arange(60) / 60, abs=1e-5)
    assert str(found.timecode) == "10:00:00:00"
    assert found.rate == parse_rate("60")
    assert next_number(mara, production, "lamp") == 2


def test_what_a_profile_made_stands_on_the_packets_and_undo_shows_them(mara, production, tmp_path):
    sender = Sender(1, "h", "OSC", "mara")
    recorder = recorded(tmp_path, mara, production, [sender], FeedProfile(neutral={"jawOpen": 0.5}))
    recorder.close()
    (take,), _ = keep_recording(mara, recorder.folder, about(recorder.folder))
    assert column(curves_of(mara, take), "jawOpen")[-1] == pytest.approx((59 / 60 - 0.5) / 0.5, abs=1e-4)
    raw, _ = undo(mara, [take.id])
    assert column(curves_of(mara, raw), "jawOpen") == pytest.approx(np.arange(60) / 60, abs=1e-5)


def test_names_and_units_of_another_program_are_read_as_they_were_live(mara, production, tmp_path):
    sender = Sender(1, "h", "OSC", "")
    sender.performer = "mara"
    recorder = Recorder(tmp_path, production, mara.person, "lamp")
    for heard in talk(sender, named=lambda n: f"/rig.v2/{n}", factor=100):
        recorder.write(sender, heard)
    recorder.close()
    (take,), _ = keep_recording(mara, recorder.folder, about(recorder.folder))
    assert column(curves_of(mara, take), "jawOpen") == pytest.approx(np.arange(60) / 60, abs=1e-4)


def test_a_recording_whose_process_was_killed_is_readable_to_its_last_line(mara, production, tmp_path):
    recorder = recorded(tmp_path, mara, production, [Sender(1, "h", "OSC", "mara")])
    recorder.flush()
    file = recorder.folder / "1.face.jsonl"
    file.write_bytes(file.read_bytes()[:-40])  # what was being written just then
    (folder,) = left_behind(tmp_path)
    (take,), _ = keep_recording(mara, folder, about(folder))
    found = curves_of(mara, take)
    assert np.isfinite(column(found, "jawOpen")).sum() == 59


def test_a_recording_in_which_nothing_can_be_read_says_so(mara, production, tmp_path):
    recorder = Recorder(tmp_path, production, mara.person, "lamp")
    recorder.close()
    with pytest.raises(InputError, match="no packet came"):
        keep_recording(mara, recorder.folder, about(recorder.folder))


def test_a_full_disk_ends_a_recording_with_what_was_written(mara, production, tmp_path):
    recorder = recorded(tmp_path, mara, production, [Sender(1, "h", "OSC", "mara")])
    recorder.flush()
    recorder.tracks[1, "face"].stream.close()
    recorder.tracks[1, "face"].stream = open("/dev/full", "ab")  # noqa: SIM115
    sender = Sender(1, "h", "OSC", "mara")
    for heard in talk(sender, first=60, frames=600):
        recorder.write(sender, heard)
    assert "No space left" in recorder.trouble
    recorder.close()
    (take,), _ = keep_recording(mara, recorder.folder, about(recorder.folder))
    assert len(curves_of(mara, take).times) == 60


def test_where_nothing_can_be_written_no_recording_begins(mara, production, tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(InputError, match="can't be written"):
        Recorder(tmp_path / "file", production, mara.person, "lamp")


def test_numbers_count_each_slate_by_itself(mara, production, tmp_path):
    for slate in ("a", "a", "b", "a+"):
        recorder = recorded(tmp_path, mara, production, [Sender(1, "h", "OSC", "mara")], slate=slate)
        recorder.close()
        keep_recording(mara, recorder.folder, about(recorder.folder))
    assert [next_number(mara, production, s) for s in ("a", "b", "a+", "c")] == [3, 2, 2, 1]


def test_a_live_character_is_the_wanted_one_with_its_performers_sheet(mara, production):
    from dynaface.assets import ASSETS
    from dynaface.services.feed.live_character import live_character

    assert live_character(mara, production) is None
    made = {}
    for name in ("odile", "kettle"):
        data = (ASSETS / "characters" / f"{name}.glb").read_bytes()
        made[name] = import_character(mara, production, name, stored(mara, data, f"{name}.glb"))
    assert live_character(mara, production).id == made["odile"].id
    found = live_character(mara, production, "Mara Quill", made["kettle"].id)
    assert found.id == made["kettle"].id
    row = np.zeros(len(CHANNELS), np.float32)
    row[CHANNELS.index("jawOpen")] = 1
    frame = found.frame(CHANNELS, row)
    assert "jaw" in frame.joints
    assert len(frame.motion) == len(frame.joints)


def test_values_that_are_not_known_leave_the_character_at_rest(mara, production):
    from dynaface.assets import ASSETS
    from dynaface.core.cast.sheet import CastSheet
    from dynaface.core.perform.one_frame import one_frame
    from dynaface.formats.gltf.character import read_character

    rig = read_character((ASSETS / "characters" / "odile.glb").read_bytes(), "odile.glb")
    unknown = one_frame(CHANNELS, np.full(len(CHANNELS), np.nan, np.float32), rig, CastSheet())
    rest = one_frame(SHAPES + HEAD_ANGLES, np.zeros(55, np.float32), rig, CastSheet())
    assert np.allclose(unknown.weights, rest.weights)
    assert np.allclose(unknown.motion, rest.motion)


def test_a_recording_that_ends_waits_for_the_flush_that_is_under_way(mara, production, tmp_path, monkeypatch):
    recorder = recorded(
        tmp_path, mara, production, [Sender(n, "h", "OSC", name) for n, name in ((1, "mara"), (2, "ivo"))]
    )
    reached, goes_on, wrong = threading.Event(), threading.Event(), []

    def slow(_):
        reached.set()
        assert goes_on.wait(10)

    def flush():
        try:
            recorder.flush()
        except ValueError as error:
            wrong.append(error)

    monkeypatch.setattr("dynaface.live.recorder.os.fdatasync", slow)
    flushing, ending = threading.Thread(target=flush), threading.Thread(target=recorder.close)
    flushing.start()
    assert reached.wait(10)
    ending.start()
    ending.join(0.2)
    assert ending.is_alive()
    goes_on.set()
    flushing.join()
    ending.join()
    assert not wrong
    assert not recorder.trouble
    recorder.flush()
