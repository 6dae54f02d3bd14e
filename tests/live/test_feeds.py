"""The process of feeds on loopback: senders and pages, with loss, reordering and several senders."""

import asyncio
import socket
from fractions import Fraction

import numpy as np
import pytest
from aiohttp import WSServerHandshakeError

from dynaface.assets import ASSETS
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import NotFoundError
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.feed_line import read_line, write_line
from dynaface.formats.osc import write_datagram
from dynaface.live.sender import Sender
from dynaface.live.wire import HEAD
from dynaface.services.take.import_take import import_character
from dynaface.sims.feed_phone import Weather, foreign, packets
from tests.conftest import stored
from tests.live.conftest import NAMES, face


def test_what_a_phone_sends_is_seen_with_its_rate_and_read(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            assert page.hello["port"] > 0
            assert page.hello["addresses"][0]["code"].startswith("data:image/svg")
            assert page.state["senders"] == []
            await stage.plays(face(90))
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] == 90)
            return page.sender("mara")

    seen = on_stage(steps)
    assert seen["lost"] == 0
    assert seen["how"] == "OSC"
    assert {s[1] for s in seen["signals"]} == set(NAMES)
    assert 0 < seen["rate"] < 90


def test_the_character_of_who_begins_to_send_is_looked_for_at_once(on_stage, mara, production, monkeypatch):
    odile = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", odile)

    async def steps(stage):
        async with stage.page() as page:
            monkeypatch.setattr("dynaface.live.hub.REFRESH", 1e9)
            await stage.plays(face(20))
            (room,) = stage.hub.rooms.values()
            await page.until(lambda p: p.sender("mara") and not room.awaited)
            return room.characters

    assert set(on_stage(steps)) == {"mara"}


def test_whoever_opens_the_feed_has_those_who_send_without_waiting_for_a_tick(on_stage, mara, production, monkeypatch):
    odile = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    import_character(mara, production, "Odile", odile)

    async def steps(stage):
        monkeypatch.setattr("dynaface.live.hub.EACH", 1e9)
        await stage.plays(face(20))
        async with stage.page() as page:
            (room,) = stage.hub.rooms.values()
            return [s["called"] for s in page.state["senders"]], set(room.characters)

    assert on_stage(steps) == (["mara"], {"mara"})


def test_losses_are_counted_and_what_comes_late_or_twice_is_not_shown(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            arrived = await stage.plays(face(200), weather=Weather(0.06, 0.05, 0.05), seed=4, speed=3)
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] == len(arrived))
            return arrived, page.sender("mara")

    arrived, seen = on_stage(steps)
    numbers = {n for n, _ in arrived}
    assert seen["lost"] == len(set(range(arrived[0][0], max(numbers))) - numbers)


def test_three_senders_at_once_are_kept_apart_and_one_that_stops_comes_back(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            await asyncio.gather(
                *(
                    stage.plays(face(90), name, Weather(0.1, 0.1, 0.1), seed)
                    for seed, name in enumerate(("mara", "ivo", "tam"))
                )
            )
            await page.until(lambda p: len(p.state["senders"]) == 3 and all(s["age"] > 1 for s in p.state["senders"]))
            silent = {s["called"]: s["sender"] for s in page.state["senders"]}
            await stage.plays(face(60), "ivo")
            await page.until(lambda p: p.sender("ivo")["begun"] == 1 and p.sender("ivo")["age"] < 1)
            assert {s["called"]: s["sender"] for s in page.state["senders"]} == silent
            return page.sender("tam")

    assert on_stage(steps)["begun"] == 0


def test_another_program_is_understood_corrected_and_remembered(on_stage):
    async def steps(stage):
        def odd(packet):
            return write_datagram(
                [("/rig/lid_a", (packet.values["jawOpen"],)), ("/rig/jawOpen", (packet.values["jawOpen"],))]
            )

        async with stage.page() as page:
            await stage.plays(face(40), "", how=odd)
            await page.until(lambda p: p.state["senders"])
            number = page.state["senders"][0]["sender"]
            assert [s[:2] for s in page.state["senders"][0]["signals"]] == [
                ["/rig/lid_a", ""],
                ["/rig/jawOpen", "jawOpen"],
            ]
            wrong = await page.asks("recipe", sender=number, columns={"/rig/lid_a": "nose"})
            assert wrong["type"] == "refused"
            assert "nose" in wrong["message"]
            right = await page.asks("recipe", sender=number, columns={"/rig/lid_a": "eyeBlinkLeft"})
            assert right["type"] == "done"
        stage.hub.senders.clear()
        stage.hub.rooms.clear()
        async with stage.page() as page:
            await stage.plays(face(40), "", how=odd)
            await page.until(lambda p: p.state["senders"] and p.state["senders"][0]["kept"])
            return page.state["senders"][0]

    assert on_stage(steps)["signals"][0][1] == "eyeBlinkLeft"


def test_the_performer_and_the_slate_are_there_when_the_feed_is_opened_again(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            await stage.plays(face(30), "")
            await page.until(lambda p: p.state["senders"])
            number = page.state["senders"][0]["sender"]
            assert (await page.asks("performer", sender=number, name="Mara Quill"))["type"] == "done"
            await page.asks("slate", slate="lamp")
        await asyncio.sleep(0.5)
        assert not stage.hub.rooms
        async with stage.page() as page:
            await page.until(lambda p: p.state["senders"])
            return page.state

    state = on_stage(steps)
    assert state["senders"][0]["performer"] == "Mara Quill"
    assert state["slate"] == "lamp"


def test_percent_and_radians_are_seen(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            await stage.plays(face(60), "", how=foreign)
            await page.until(lambda p: p.state["senders"] and p.state["senders"][0]["percent"])
            return page.state["senders"][0]

    seen = on_stage(steps)
    assert seen["radians"]
    assert {s[1] for s in seen["signals"]} == set(NAMES)


def test_a_character_is_moved_by_what_is_watched(on_stage, mara, production):
    data = (ASSETS / "characters" / "odile.glb").read_bytes()
    import_character(mara, production, "Odile", stored(mara, data, "odile.glb"))

    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(1500)))
            await page.until(lambda p: p.sender("mara"))
            await page.asks("watch", senders=[page.sender("mara")["sender"]])
            await page.until(lambda p: p.character and len(p.frames) > 40)
            playing.cancel()
            return page.character, page.frames

    character, frames = on_stage(steps)
    sizes = len(CHANNELS), len(character["targets"]), 4 * len(character["joints"]), 3 * len(character["shifted"])
    jaws = []
    for raw in frames:
        assert len(raw) == HEAD.size + 4 * sum(sizes)
        values = np.frombuffer(raw, "<f4", offset=HEAD.size)
        jaws.append((values[CHANNELS.index("jawOpen")], values[sizes[0] + character["targets"].index("jawOpen")]))
    jaws = np.array(jaws)
    assert np.ptp(jaws[:, 1]) > 0.2
    assert np.allclose(jaws[:, 0], jaws[:, 1], atol=1e-4)


def test_neutral_extremes_and_zero_are_kept_with_the_performer(on_stage, mara, production):
    def still(jaw, turn):
        values = np.zeros((60, len(NAMES)), np.float32)
        values[:, NAMES.index("jawOpen")], values[:, NAMES.index("headTurn")] = jaw, turn
        return Channels(NAMES, values, Fraction(60))

    async def steps(stage):
        async with stage.page() as page:
            await stage.plays(still(0.1, 12))
            await page.until(lambda p: p.sender("mara"))
            number = page.sender("mara")["sender"]
            assert (await page.asks("neutral", sender=number))["type"] == "done"
            await stage.plays(still(0.1, 12), first=60)
            await page.until(lambda p: abs(p.sender("mara")["shown"][CHANNELS.index("headTurn")]) < 0.1)
            assert page.sender("mara")["shown"][CHANNELS.index("jawOpen")] == 0
            hardly = await page.asks("extreme", sender=number, shape="jawOpen")
            assert "hardly shown" in hardly["message"]
            await stage.plays(still(0.6, 12), first=120)
            assert (await page.asks("extreme", sender=number, shape="jawOpen"))["type"] == "done"
            await stage.plays(still(0.6, 12), first=180)
            await page.until(lambda p: p.sender("mara")["shown"][CHANNELS.index("jawOpen")] > 0.99)
            await page.asks(
                "profile", sender=number, label="take it back", changes=[{"path": "extremes/jawOpen", "remove": True}]
            )
            await stage.plays(still(0.6, 12), first=240)
            await page.until(lambda p: p.sender("mara")["shown"][CHANNELS.index("jawOpen")] < 0.6)

    on_stage(steps)


def test_json_lines_come_in_and_go_out_over_websockets(on_stage):
    async def steps(stage):
        async with (
            stage.page() as page,
            stage.session.ws_connect(f"{stage.base}/out?token={stage.token()}") as out,
            stage.session.ws_connect(f"{stage.base}/in") as into,
        ):
            heard = []

            async def listen():
                async for message in out:
                    heard.append(read_line(message.data))

            listening = asyncio.create_task(listen())
            await into.send_str("this is no line")
            for packet in packets(face(60), "mara"):
                await into.send_str(write_line(packet))
                await asyncio.sleep(1 / 120)
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] == 60)
            state = page.state
            listening.cancel()
            return state, heard

    state, heard = on_stage(steps)
    assert state["refusals"] == 1
    assert state["senders"][0]["how"] == "WebSocket"
    assert heard
    assert heard[-1].values["headTurn"] != 0


def test_nobody_gets_in_without_a_ticket_and_a_web_page_sends_nothing_without_a_token(on_stage, stranger):
    async def steps(stage):
        for path, headers in (("feed?ticket=x", {}), ("out", {}), ("in", {"Origin": "http://elsewhere.example"})):
            with pytest.raises(WSServerHandshakeError) as refused:
                await stage.session.ws_connect(f"{stage.base}/{path}", headers=headers)
            assert refused.value.status == 403

    on_stage(steps)


def test_a_sender_belongs_to_the_production_that_looked_first(on_stage, mara):
    from dynaface.services.people.manage_productions import begin_production

    other = begin_production(mara, "Another").id

    async def steps(stage):
        async with stage.page() as page, stage.page(production=other) as elsewhere:
            await stage.plays(face(30))
            await page.until(lambda p: p.sender("mara") or elsewhere.sender("mara"))
            await page.until(lambda p: p.state["elsewhere"] + elsewhere.state["elsewhere"] == 1)
            assert bool(page.sender("mara")) != bool(elsewhere.sender("mara"))

    on_stage(steps)


def test_bytes_of_any_kind_are_counted_and_hurt_nothing(on_stage):
    rng = np.random.default_rng(1)

    async def steps(stage):
        async with stage.page() as page:
            for size in (0, 1, 3, 16, 200, 5000, 60_000):
                stage.send(rng.bytes(size))
            stage.send(write_datagram([("/dynaface/mara/face", (1, 0.5))]))
            await stage.plays(face(20))
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] == 20 and p.state["refusals"])
            return page.state

    state = on_stage(steps)
    assert "must begin with" in " ".join(state["refused"]) or state["refusals"] > 3


def test_names_that_change_with_each_packet_fill_nothing():
    sender = Sender(1, "h", "OSC", "")
    for n in range(3 * MOST_SIGNALS):
        sender.heard(Packet(values={f"/count/{n}": 1.0}), n / 60)
    assert len(sender.values) == len(sender.low) == MOST_SIGNALS


def test_what_comes_late_is_recorded_as_what_it_is_and_not_shown():
    sender = Sender(1, "h", "OSC", "mara")
    for number in (0, 2):
        sender.heard(Packet("mara", number, number / 60, "", {"jawOpen": number / 10}, ours=True), number / 60)
    late, newer = sender.heard(Packet("mara", 1, 1 / 60, "", {"jawOpen": 0.1}, ours=True), 0.04)
    assert not newer
    assert late.made[CHANNELS.index("jawOpen")] == pytest.approx(0.1)
    after, _ = sender.heard(Packet("mara", 3, 3 / 60, "", {}, ours=True), 0.05)
    assert after.row[CHANNELS.index("jawOpen")] == pytest.approx(0.2)


def test_while_nothing_stored_can_be_read_what_is_heard_goes_on(on_stage, monkeypatch, caplog):
    def away(*_):
        raise NotFoundError("the database is away")

    async def steps(stage):
        async with stage.page() as page:
            await stage.plays(face(30))
            await page.until(lambda p: p.sender("mara"))
            monkeypatch.setattr("dynaface.live.room.list_feed_profiles", away)
            await asyncio.sleep(2.5)
            await stage.plays(face(60), first=30)
            await page.until(lambda p: p.sender("mara")["packets"] == 90)

    on_stage(steps)
    assert sum("can't be read" in r.message for r in caplog.records) == 1


def test_a_port_that_is_taken_is_told_and_the_rest_works(on_stage):
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as taken:
        taken.bind(("127.0.0.1", 0))
        port = taken.getsockname()[1]

        async def steps(stage):
            async with stage.page() as page:
                return page.hello

        hello = on_stage(steps, feed_port=port)
    assert f"port {port}" in hello["trouble"]


def test_what_the_page_asks_wrongly_is_refused_and_the_page_stays(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            answers = [
                await page.asks("fly"),
                await page.asks("watch", senders=[99]),
                await page.asks("neutral", count=-1),
                await page.asks("slate", slate="a/b"),
                await page.asks("performer", sender=1, name=7),
            ]
            await page._socket.send_str("no json")
            await page._socket.send_bytes(b"bytes")
            return [a["type"] for a in answers], await page.asks("slate", slate="fine")

    kinds, after = on_stage(steps)
    assert set(kinds) == {"refused"}
    assert after["type"] == "done"


def test_signs_that_are_none_are_refused_before_they_come_to_the_database(on_stage):
    async def steps(stage):
        async with stage.page() as page, stage.session.ws_connect(f"{stage.base}/in") as into:
            await into.send_str('{"performer": "ma\\u0000ra", "channels": {"jawOpen": 0.5}}')
            await stage.plays(face(20))
            await page.until(lambda p: p.sender("mara") and p.state["refusals"])
            answer = await page.asks("performer", sender=page.sender("mara")["sender"], name="Mara")
            await page._socket.send_str('{"do": "slate", "number": 99, "slate": "la\\u0000mp"}')
            await page.until(lambda p: None in p._answers)
            return page.state["senders"], answer, page._answers[None]

    senders, answer, refused = on_stage(steps)
    assert [s["called"] for s in senders] == ["mara"]
    assert answer["type"] == "done"
    assert refused["type"] == "refused"
    assert "U+0000" in refused["message"]


def test_two_performers_are_shown_at_once_and_no_crowd(on_stage, mara, production):
    data = (ASSETS / "characters" / "odile.glb").read_bytes()
    import_character(mara, production, "Odile", stored(mara, data, "odile.glb"))

    async def steps(stage):
        async with stage.page() as page:
            playing = [asyncio.create_task(stage.plays(face(600), name)) for name in ("mara", "ivo")]
            await page.until(lambda p: p.sender("mara") and p.sender("ivo"))
            both = [page.sender(name)["sender"] for name in ("mara", "ivo")]
            assert (await page.asks("watch", senders=both))["type"] == "done"
            await page.until(lambda p: {HEAD.unpack_from(f)[0] for f in p.frames} == set(both))
            assert (await page.asks("watch", senders=[both[0]] * 4))["type"] == "refused"
            assert (await page.asks("watch", senders=both[0]))["type"] == "refused"
            assert (await page.asks("watch", senders=[both[1]]))["type"] == "done"
            page.frames.clear()
            await page.until(lambda p: len(p.frames) > 30)
            for one in playing:
                one.cancel()
            return both, [HEAD.unpack_from(f)[0] for f in page.frames[3:]]

    both, seen = on_stage(steps)
    assert set(seen) == {both[1]}
