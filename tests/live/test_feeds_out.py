"""Feeds out on loopback: what is shown and what is played, in our layout and as single channels."""

import asyncio
import socket

import pytest

from dynaface.assets import ASSETS
from dynaface.core.feed.messages import FACE_CHANNELS, packets_of
from dynaface.formats.osc import read_datagram
from dynaface.services.feed.names_of import names_of_character
from dynaface.services.take.import_take import import_character
from tests.conftest import stored
from tests.live.conftest import NAMES, PATIENCE, face


def test_what_is_shown_goes_out_in_our_layout_and_as_single_channels(on_stage):
    async def steps(stage):
        loop = asyncio.get_running_loop()
        ears = []
        for _ in range(2):
            ear = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
            ear.bind(("127.0.0.1", 0))
            ear.setblocking(False)
            ears.append(ear)
        heard = [[], []]

        async def listen(which):
            while True:
                heard[which].append(await loop.sock_recv(ears[which], 65000))

        async with stage.page() as page:
            listening = [asyncio.create_task(listen(i)) for i in range(2)]
            await page.asks("send", host="127.0.0.1", port=ears[0].getsockname()[1])
            await page.asks(
                "send",
                host="127.0.0.1",
                port=ears[1].getsockname()[1],
                pattern="/face/{channel}",
                changes=True,
                rate=10,
            )
            await stage.plays(face(120))
            await page.until(lambda p: p.state["outs"][0]["sent"] >= 80)
            assert page.state["outs"][1]["sent"] < 0.85 * page.state["outs"][0]["sent"]
            await page.asks("end_sending", place=0)
            await page.until(lambda p: len(p.state["outs"]) == 1)
            for one in listening:
                one.cancel()
        return heard

    ours, single = on_stage(steps)
    found = [packets_of(read_datagram(d))[0] for d in ours]
    assert [p.number for p in found] == list(range(len(found)))
    assert {p.performer for p in found} == {"mara"}
    assert set(found[-1].values) == set(NAMES) & set(FACE_CHANNELS)
    names = {address for d in single[1:] for address, _ in read_datagram(d)}
    assert names <= {"/face/jawOpen", "/face/headTurn"}


@pytest.mark.parametrize(
    "wrong",
    [{"host": "no such host.", "port": 5}, {"host": "127.0.0.1", "port": 0}, {"host": "127.0.0.1", "port": 5, "rate": 1000},
     {"host": "127.0.0.1", "port": 5, "pattern": "/face"}, {"host": "127.0.0.1", "port": 5, "changes": True},
     {"host": "127.0.0.1", "port": 5, "pattern": "/{channel}", "names": {"nose": "x"}}, {"host": "a.invalid", "port": 5}],
)  # fmt: skip
def test_a_feed_out_that_can_not_be_is_refused(on_stage, wrong):
    async def steps(stage):
        async with stage.page() as page:
            return await page.asks("send", **wrong)

    assert on_stage(steps)["type"] == "refused"


def test_what_a_page_plays_goes_out_where_it_is_wanted(on_stage):
    async def steps(stage):
        loop = asyncio.get_running_loop()
        ears = [socket.socket(socket.AF_INET, socket.SOCK_DGRAM) for _ in range(2)]
        async with stage.page() as page:
            for ear, of in zip(ears, ("timeline", "live"), strict=True):
                ear.bind(("127.0.0.1", 0))
                ear.setblocking(False)
                await page.asks("send", host="127.0.0.1", port=ear.getsockname()[1], of=of, rate=120)
            wrong = [
                await page.asks("play", seconds=0, values={"nose": 1}),
                await page.asks("play", seconds=-1, values={}),
                await page.asks("play", seconds=0, values={"jawOpen": "wide"}),
            ]
            assert {w["type"] for w in wrong} == {"refused"}
            await page.asks(
                "play", seconds=1.5, performer="Mara Quill", timecode="10:00:01:30", values={"jawOpen": 0.4}
            )
            async with asyncio.timeout(PATIENCE):
                heard = await loop.sock_recv(ears[0], 4000)
            await page.until(lambda p: any(o["sent"] == 1 for o in p.state["outs"]))
            assert page.state["outs"][1]["sent"] == 0
        for ear in ears:
            ear.close()
        return packets_of(read_datagram(heard))[0]

    packet = on_stage(steps)
    assert (packet.performer, packet.seconds, packet.timecode) == ("Mara_Quill", 1.5, "10:00:01:30")
    assert packet.values == pytest.approx({"jawOpen": 0.4}, abs=1e-6)


def test_channels_go_out_by_the_names_of_a_character(on_stage, mara, production):
    data = (ASSETS / "characters" / "brindle.glb").read_bytes()
    brindle = import_character(mara, production, "Brindle", stored(mara, data, "brindle.glb"))

    async def steps(stage):
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as ear:
            ear.bind(("127.0.0.1", 0))
            ear.settimeout(PATIENCE)
            given = {"host": "127.0.0.1", "port": ear.getsockname()[1], "pattern": "/rig/{channel}"}
            async with stage.page() as page:
                assert (await page.asks("send", **given, character="nobody"))["type"] == "refused"
                assert (await page.asks("send", **given, character=brindle.id))["type"] == "done"
                playing = asyncio.create_task(stage.plays(face(600)))
                heard = {address for address, _ in read_datagram(await asyncio.to_thread(ear.recv, 65_507))}
                playing.cancel()
                return heard

    names = {address.removeprefix("/rig/") for address in on_stage(steps)}
    targets = set(names_of_character(mara, production, brindle.id).values())
    assert names <= targets
    assert "headTurn" in names
    assert "jawOpen" not in names
    assert len(names) > 30
