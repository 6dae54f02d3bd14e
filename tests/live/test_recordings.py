"""Recordings of feeds: count-in, what came before, microphone, commands of other machines, whatever ends them."""

import asyncio
import socket
import struct
import time
from fractions import Fraction

import numpy as np
import pytest

from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.errors import InputError
from dynaface.formats.osc import read_datagram, write_datagram
from dynaface.live.microphone import piece_of
from dynaface.live.recorder import left_behind
from dynaface.services.load_source import load_recording, load_sound
from dynaface.services.take.open_take import list_takes
from dynaface.services.work import document_for, source_within
from dynaface.sims.ltc import ltc
from tests.live.conftest import PATIENCE, face


def curves(work, take):
    with work.store.unit() as unit:
        found = document_for(work, unit, take, TakeBody)
        source = source_within(unit, found.production, found.body.sources.curves, "curves")
        return load_recording(work, unit, source)


def test_a_countdown_takes_neutral_at_its_end_and_another_must_wait(on_stage):
    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(600)))
            await page.until(lambda p: p.sender("mara"))
            number = page.sender("mara")["sender"]
            assert (await page.asks("neutral", sender=number, count=3))["type"] == "done"
            assert page.state["count"] is None or page.state["count"]["what"] == "neutral"
            assert (await page.asks("neutral", sender=number, count=3))["type"] == "refused"
            await page.until(lambda p: "neutral of mara is taken" in p.state["said"])
            playing.cancel()

    on_stage(steps)


def test_a_recording_has_what_came_before_the_button_and_ends_in_any_order(on_stage, mara, production):
    truth = face(240)

    async def steps(stage):
        async with stage.page() as page:
            assert (await page.asks("start"))["type"] == "refused"
            assert (await page.asks("stop"))["type"] == "refused"
            playing = asyncio.create_task(stage.plays(truth))
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] > 60)
            assert (await page.asks("start", slate="lamp"))["said"] == "lamp_01 is recorded"
            assert (await page.asks("start"))["type"] == "refused"
            assert (await page.asks("slate", slate="other"))["type"] == "refused"
            await playing
            await page.until(lambda p: p.sender("mara")["packets"] == 240)
            assert (await page.asks("stop"))["said"] == "lamp_01 is kept"
            await page.until(lambda p: p.state["made"])
            assert page.state["number"] == 2
            return page.state["made"][0]

    take = on_stage(steps)
    found = curves(mara, take)
    assert len(found.times) == 240
    jaw = found.values[:, found.names.index("jawOpen")]
    assert jaw == pytest.approx(truth.column("jawOpen"), abs=1e-5)


def test_a_count_in_can_be_stopped_and_a_page_that_is_closed_ends_nothing(on_stage, mara, production):
    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(400)))
            await page.until(lambda p: p.sender("mara"))
            await page.asks("start", count=20)
            assert "stopped" in (await page.asks("stop"))["said"]
            await page.asks("start", count=0.3)
            await page.until(lambda p: p.state["recording"])
        await asyncio.sleep(0.6)
        async with stage.page() as page:
            assert page.state["recording"]["packets"] > 20
            await page.asks("stop")
            await page.until(lambda p: p.state["made"])
            playing.cancel()

    on_stage(steps)
    assert [t["slate"] for t in list_takes(mara, production)] == ["live_01"]


def test_a_recording_of_a_process_that_ends_is_kept(on_stage, mara, production):
    async def steps(stage):
        async with stage.page() as page:
            await stage.plays(face(60))
            await page.until(lambda p: p.sender("mara"))
            await page.asks("start")

    on_stage(steps)
    assert [t["slate"] for t in list_takes(mara, production)] == ["live_01"]


def test_a_recording_of_a_process_that_was_killed_is_kept_by_the_next(on_stage, mara, production, tmp_path):
    async def killed(stage):
        async with stage.page() as page:
            await stage.plays(face(60))
            await page.until(lambda p: p.sender("mara"))
            await page.asks("start")
            room = stage.hub.rooms[production]
            room.recorder.flush()
            room.recorder = None  # as if everything ended here
            assert left_behind(stage.settings.live.folder)

    async def next_one(stage):
        return left_behind(stage.settings.live.folder)

    on_stage(killed)
    assert on_stage(next_one) == []
    (take,) = list_takes(mara, production)
    assert len(curves(mara, take["id"]).times) == 60


def test_commands_come_over_http_with_a_token(on_stage, mara, production):
    async def steps(stage):
        async def command(name, token, **given):
            async with stage.session.post(
                f"{stage.base}/commands/{name}", json=given, headers={"Authorization": f"Bearer {token}"}
            ) as answer:
                return answer.status, await answer.json()

        await stage.plays(face(60))
        token = stage.token()
        assert (await command("start", "nonsense"))[0] == 403
        assert (await command("profile", token))[0] == 404
        assert await command("slate", token, slate="far") == (200, {"said": "next: far_01"})
        assert await command("start", token) == (200, {"said": "far_01 is recorded"})
        assert (await command("start", token))[0] == 422
        assert (await command("neutral", token, performer="nobody"))[0] == 422
        await stage.plays(face(30), first=60)
        assert await command("stop", token) == (200, {"said": "far_01 is kept"})

    on_stage(steps)
    assert [t["slate"] for t in list_takes(mara, production)] == ["far_01"]


def test_commands_come_over_osc_and_are_answered_where_they_came_from(on_stage, mara, production):
    async def steps(stage):
        loop = asyncio.get_running_loop()
        asking = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        asking.setblocking(False)
        asking.bind(("127.0.0.1", 0))

        async def command(address, *arguments):
            await loop.sock_sendto(
                asking, write_datagram([(address, arguments)]), ("127.0.0.1", stage.hub.about["port"])
            )
            async with asyncio.timeout(PATIENCE):
                return read_datagram(await loop.sock_recv(asking, 4000))[0]

        await stage.plays(face(60))
        token = stage.token()
        assert await command("/dynaface/start", token, "wide") == (
            "/dynaface/answer",
            ["start", 1, "wide_01 is recorded"],
        )
        await stage.plays(face(30), first=60)
        assert await command("/dynaface/stop", token) == ("/dynaface/answer", ["stop", 1, "wide_01 is kept"])
        (_, refused) = await command("/dynaface/stop", "nonsense")
        assert refused[:2] == ["stop", 0]
        asking.close()

    on_stage(steps)
    assert [t["slate"] for t in list_takes(mara, production)] == ["wide_01"]


def sound_piece(samples, rate=48_000, latency=0.01, channels=1):
    """A message of a page's microphone."""
    return struct.pack("<IfI", rate, latency, channels) + (np.asarray(samples) * 32767).astype("<i2").tobytes()


def test_a_microphone_is_recorded_with_what_came_before_and_lies_where_it_was_in_the_air(on_stage, mara, production):
    rate, each = 16_000, 800
    clap = np.zeros(each)
    clap[400:440] = 0.9

    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(300)))
            await page.until(lambda p: p.sender("mara"))
            clapped, began = 0.0, time.time()
            for piece in range(50):
                await asyncio.sleep(max(0.0, began + (piece + 1) * each / rate - time.time()))
                if piece == 10:
                    await page.asks("start")
                if piece == 30:
                    clapped = began + (30 * each + 400) / rate - 0.01
                await page._socket.send_bytes(sound_piece(clap if piece == 30 else np.zeros(each), rate))
            first = stage.hub.rooms[production].recorder.tracks[1, "face"].wall
            await page.asks("stop")
            await page.until(lambda p: p.state["made"])
            playing.cancel()
            return page.state["made"][0], clapped - first

    take, clapped = on_stage(steps)
    with mara.store.unit() as unit:
        body = document_for(mara, unit, take, TakeBody).body
        source = source_within(unit, production, body.sources.sound, "sound")
    sound = load_sound(mara, source)
    assert sound.seconds == pytest.approx(50 * each / rate, abs=0.2)
    heard = int(np.argmax(np.abs(sound.mono()) > 0.5)) / rate + body.sound_offset
    assert heard == pytest.approx(clapped, abs=0.08)


@pytest.mark.parametrize("beside", [True, False], ids=["beside a voice", "alone"])
def test_timecode_in_the_sound_counts_a_recording(on_stage, mara, production, beside):
    rate, each = 24_000, 1200
    start = parse_timecode("11:22:33:10", Fraction(25))
    coded = ltc(start, 4.0, rate, level=0.4)
    voice = 0.3 * np.sin(np.arange(len(coded)) / 9)
    samples = np.stack([voice, coded], axis=1) if beside else coded[:, None]

    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(400)))
            await page.until(lambda p: p.sender("mara"))
            began = time.time()
            for piece in range(60):
                await asyncio.sleep(max(0.0, began + (piece + 1) * each / rate - time.time()))
                data = samples[piece * each : (piece + 1) * each]
                await page._socket.send_bytes(sound_piece(data, rate, 0.0, samples.shape[1]))
                if piece == 45:
                    await page.until(lambda p: p.state["timecode"])
                    assert page.state["timecode"]["rate"] == "25"
                    await page.asks("start")
            first = stage.hub.rooms[production].recorder.tracks[1, "face"].wall
            await page.asks("stop")
            await page.until(lambda p: p.state["made"])
            playing.cancel()
            return page.state["made"][0], first - began

    take, after = on_stage(steps)
    found = curves(mara, take)
    assert found.timecode.rate == 25
    counted = found.timecode.seconds - start.seconds
    assert counted == pytest.approx(after, abs=0.15)
    with mara.store.unit() as unit:
        sources = document_for(mara, unit, take, TakeBody).body.sources
    assert (sources.sound is not None) == beside


@pytest.mark.parametrize(
    "message",
    [
        b"",
        b"\0" * 12,
        struct.pack("<IfI", 10, 0.0, 1) + b"ab",
        struct.pack("<IfI", 48_000, 9.0, 1) + b"ab",
        struct.pack("<IfI", 48_000, 0.0, 1) + b"abc",
        struct.pack("<IfI", 48_000, 0.0, 3) + b"abcdef",
        struct.pack("<IfI", 48_000, 0.0, 0) + b"ab",
    ],
)
def test_what_is_no_sound_is_refused(message):
    with pytest.raises(InputError):
        piece_of(message)
