"""Bodies in feeds: beside a face, from another machine, of which only names are known, recorded and sent on."""

import asyncio
import socket
import struct
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.clock.timecode import parse_timecode
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.feed.body_packets import body_packets
from dynaface.core.feed.messages import packets_of
from dynaface.core.perform.join import Moments, begins_in_body, carried_body
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.character_file import open_character
from dynaface.formats.osc import read_datagram, write_datagram
from dynaface.live.wire import HEAD
from dynaface.services.load_source import load_motion
from dynaface.services.take.import_take import import_character
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import document_for, source_within
from dynaface.sims.body_suit import move
from dynaface.sims.feed_phone import plain
from tests.conftest import stored
from tests.live.conftest import face


@pytest.fixture(scope="module")
def walk():
    return move(3.0, None, 2)


@pytest.fixture
def odile(mara, production):
    data = (ASSETS / "characters/odile.glb").read_bytes()
    return import_character(mara, production, "Odile", stored(mara, data, "odile.glb"))


async def wears(stage, motion, performer="mara", how=plain, speed=1.0):
    """A suit that sends a body at its own speed."""
    for packet in body_packets(motion, performer):
        stage.send(how(packet))
        await asyncio.sleep(1 / float(motion.rate) / speed)


def turns_of(page):
    """(joints, 4) of the last frame that came."""
    about, raw = page.character, page.frames[-1]
    numbers = np.frombuffer(raw, "<f4", offset=HEAD.size)
    first = len(CHANNELS) + len(about["targets"])
    count = len(about["joints"])
    return dict(zip(about["joints"], numbers[first : first + 4 * count].reshape(-1, 4), strict=True))


def test_a_body_moves_the_character_as_the_same_take_does(on_stage, odile, walk):
    async def steps(stage):
        async with stage.page() as page:
            await wears(stage, walk, speed=4)
            await page.until(lambda p: p.sender("mara") and p.sender("mara")["packets"] >= walk.frames)
            await page.asks("watch", senders=[page.sender("mara")["sender"]])
            await wears(stage, walk)
            await page.until(lambda p: p.sender("mara")["packets"] >= 2 * walk.frames and p.frames)
            return page.sender("mara"), turns_of(page), page.character

    seen, turns, described = on_stage(steps)
    assert seen["signals"] == []
    assert seen["hangs"] == "skeleton"
    assert set(seen["joints"]) == set(walk.skeleton.names)
    assert len(turns) > 40
    assert described["shifted"]
    data = (ASSETS / "characters/odile.glb").read_bytes()
    target = open_character(data, "odile.glb", studied=False)[0].skeleton
    end = Moments(np.array([(walk.frames - 1) / float(walk.rate)]), Fraction(60))
    wanted = carried_body(end, target, walk, JoinSettings()).local[0]
    for joint in ("hips", "spine3", "upperArmLeft", "lowerLegRight", "head"):
        assert abs(float(turns[joint] @ wanted[target.index(joint)])) == pytest.approx(1, abs=1e-3)


def test_a_body_of_another_program_is_learned_and_hangs_by_its_names(on_stage, odile, walk):
    def foreign(packet):
        turns = [("/suit/bone", (name, q[3], *q[:3])) for name, q in packet.joints.items()]
        return write_datagram([*turns, ("/suit/jawOpen", (0.4,))])

    async def steps(stage):
        async with stage.page() as page:
            await wears(stage, walk, "", foreign)
            await page.until(lambda p: p.sender("") and p.sender("")["packets"] >= walk.frames)
            await page.asks("watch", senders=[page.sender("")["sender"]])
            await wears(stage, walk, "", foreign)
            await page.until(lambda p: p.sender("")["packets"] >= 2 * walk.frames and p.frames)
            return page.sender(""), turns_of(page)

    seen, turns = on_stage(steps)
    assert [s[:2] for s in seen["signals"]] == [["/suit/jawOpen", "jawOpen"]]
    assert set(seen["joints"]) == set(walk.skeleton.names)
    assert seen["hangs"] == "names"
    assert len(turns) > 40


def test_face_and_body_of_two_senders_are_one_performer(on_stage, odile, walk):
    async def steps(stage):
        async with stage.page() as page:
            phone = asyncio.create_task(stage.plays(face(400), "Mara"))
            suit = asyncio.create_task(wears(stage, walk, "suit7"))
            await page.until(lambda p: p.sender("Mara") and p.sender("suit7"))
            await page.asks("performer", sender=page.sender("suit7")["sender"], name="Mara")
            await page.asks("watch", senders=[page.sender("Mara")["sender"]])
            await page.until(lambda p: p.character and len(p.character["joints"]) > 40 and p.frames)
            phone.cancel()
            suit.cancel()
            return turns_of(page), page.character

    turns, described = on_stage(steps)
    assert len(turns) > 40
    assert described["targets"]


def test_a_recorded_body_is_the_body_of_the_faces_take(on_stage, mara, production, walk):
    async def steps(stage):
        async with stage.page() as page:
            playing = [asyncio.create_task(stage.plays(face(180))), asyncio.create_task(wears(stage, walk))]
            await page.until(lambda p: p.sender("mara"))
            await page.asks("start", slate="walk")
            await asyncio.gather(*playing)
            await page.until(lambda p: p.sender("mara")["packets"] == 180 + walk.frames)
            await page.asks("stop")
            await page.until(lambda p: p.state["made"] and not p.state["keeping"])
            return page.state["made"]

    (take,) = on_stage(steps)
    with mara.store.unit() as unit:
        sources = document_for(mara, unit, take, TakeBody).body.sources
        source = source_within(unit, production, sources.body, "body")
    assert sources.curves is not None
    found = load_motion(mara, source)
    assert found.skeleton.names == walk.skeleton.names
    assert found.rate == walk.rate
    assert found.frames == pytest.approx(walk.frames, abs=3)
    count = min(found.frames, walk.frames)
    assert np.abs((found.local[:count] * walk.local[:count]).sum(axis=-1)).min() > np.cos(np.radians(2))
    # Both were labelled by one clock, so the body begins within the face.
    face_code, body_code = prepare_take(mara, take).raw.timecode, found.timecode
    assert body_code.seconds - face_code.seconds == pytest.approx(0, abs=0.5)


def test_a_body_with_a_timecode_lies_where_it_came_beside_a_face_without(on_stage, mara, production):
    coded = move(1.5, parse_timecode("03:00:00:00", Fraction(60)), 2)

    async def steps(stage):
        async with stage.page() as page:
            playing = asyncio.create_task(stage.plays(face(150)))
            await page.until(lambda p: p.sender("mara"))
            await page.asks("start")
            await asyncio.sleep(0.5)
            await asyncio.gather(playing, wears(stage, coded))
            await page.asks("stop")
            await page.until(lambda p: p.state["made"] and not p.state["keeping"])
            return page.state["made"][0]

    take = on_stage(steps)
    prepared = prepare_take(mara, take)
    body = prepared.snapshot.body
    assert str(body.timecode) == "03:00:00:00"
    join = open_take(mara, take).join.body
    settings = JoinSettings(nudge=join.nudge)
    assert -1.5 < begins_in_body(prepared.raw, body, settings) < -0.3


def test_a_body_alone_is_a_take_and_one_that_hangs_on_nothing_is_kept_and_said(on_stage, mara, production, walk):
    def unnamed(packet):
        joints = {f"j{n}": q for n, q in enumerate(packet.joints.values())}
        return plain(type(packet)(packet.performer, packet.number, packet.seconds, "", joints=joints, root=packet.root))

    async def steps(stage):
        async with stage.page() as page:
            playing = [
                asyncio.create_task(wears(stage, walk)),
                asyncio.create_task(wears(stage, walk, "odd", unnamed)),
            ]
            await page.until(lambda p: p.sender("mara") and p.sender("odd"))
            await page.asks("start")
            await asyncio.gather(*playing)
            await page.asks("stop")
            await page.until(lambda p: p.state["made"] and not p.state["keeping"])
            return page.state

    state = on_stage(steps)
    takes = state["made"]
    assert any("odd: what the joints of the body hang on is not known" in words for words in state["said"])
    with mara.store.unit() as unit:
        bodies = {b.performer: b for b in (document_for(mara, unit, take, TakeBody).body for take in takes)}
        source = source_within(unit, production, bodies["odd"].sources.body, "body")
    assert bodies.keys() == {"mara", "odd"}
    assert all(b.sources.body and b.sources.curves is None for b in bodies.values())
    kept = load_motion(mara, source)
    assert kept.skeleton.names[:2] == ("j0", "j1")
    assert np.abs((kept.local[-1] * walk.local[-1]).sum(axis=-1)).min() > np.cos(np.radians(3))


def test_a_body_is_sent_on_with_its_skeleton(on_stage, walk):
    async def steps(stage):
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as ear:
            ear.bind(("127.0.0.1", 0))
            ear.settimeout(0.01)
            heard = []
            async with stage.page() as page:
                await page.asks("send", host="127.0.0.1", port=ear.getsockname()[1], rate=120)
                playing = asyncio.create_task(wears(stage, walk))
                while not playing.done():
                    await asyncio.sleep(0.05)
                    try:
                        while True:
                            heard += packets_of(read_datagram(ear.recv(65_507)))
                    except TimeoutError:
                        pass
            return heard

    heard = on_stage(steps)
    said = [p.skeleton for p in heard if p.skeleton]
    assert [row.name for row in said[0]] == list(walk.skeleton.names)
    assert len([p for p in heard if p.joints]) > 100
    assert not any(p.values for p in heard)


def test_a_skeleton_that_is_none_is_refused_and_the_feed_goes_on(on_stage, walk):
    async def steps(stage):
        async with stage.page() as page:
            stage.send(b"/dynaface/mara/skeleton\0,sff\0\0\0\0a\0\0\0" + struct.pack(">ff", 1, 2))
            await wears(stage, move(0.2, None, 1))
            await page.until(lambda p: p.sender("mara") and p.state["refusals"])
            return page.state

    assert "a skeleton is a name" in on_stage(steps)["refused"][0]
