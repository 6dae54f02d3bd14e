"""The stand-in for a driven program: who is heard is shown and measured; nothing of it is read from elsewhere."""

import asyncio
import json
import socket
from collections import deque

import pytest
from aiohttp import ClientSession, WSMsgType

from dynaface.assets import ASSETS
from dynaface.cli import main
from dynaface.core.errors import InputError
from dynaface.core.feed.body_packets import body_packets
from dynaface.live.receiver import Receiver, gaps_of, receiving
from dynaface.live.wire import HEAD
from dynaface.sims.body_suit import move
from dynaface.sims.feed_phone import packets, plain
from tests.live.conftest import PATIENCE, face
from tests.ports import free_port

ODILE = (ASSETS / "characters/odile.glb").read_bytes()


@pytest.fixture
def page(tmp_path):
    """A folder of built pages."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "receiver.html").write_text("<p>receiver</p>")
    return tmp_path


def received(page, steps):
    """What a test's steps give with a receiver: its ports, a session and how to send to it."""

    async def run():
        receiver = Receiver(ODILE, "odile.glb", page)
        async with receiving(receiver, ("127.0.0.1", 0), 0) as (heard, port), ClientSession() as session:
            with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
                return await steps(lambda data: out.sendto(data, ("127.0.0.1", heard)), port, session)

    return asyncio.run(run())


def test_a_face_and_a_body_are_shown_on_the_character_and_measured(page):
    async def steps(send, port, session):
        faces, bodies = packets(face(60), "mara"), list(body_packets(move(0.5, None, 1), "mara"))
        frames, states, characters = [], [], []
        async with session.ws_connect(f"http://127.0.0.1:{port}/frames") as socket, asyncio.timeout(PATIENCE):

            async def plays():
                for one, other in zip(faces, bodies, strict=True):
                    send(plain(one))
                    send(plain(other))
                    await asyncio.sleep(1 / 60)

            playing = asyncio.create_task(plays())
            while not (playing.done() and states and states[-1]["senders"]):
                message = await socket.receive()
                if message.type is WSMsgType.BINARY:
                    frames.append(message.data)
                    await socket.send_str(str(HEAD.unpack_from(message.data)[0]))
                else:
                    said = json.loads(message.data)
                    {"state": states, "character": characters}.get(said["type"], []).append(said)
            return frames, states[-1], characters[-1]

    frames, state, character = received(page, steps)
    (one,) = state["senders"]
    assert one["called"] == "mara"
    assert one["channels"] == 55
    assert len(one["joints"]) == 52
    assert one["lost"] == 0
    assert one["gap"] > 0
    assert len(character["joints"]) > 40
    assert frames


def test_what_is_no_feed_is_counted_and_a_fourth_performer_is_not_shown(page):
    async def steps(send, port, session):
        send(b"bytes")
        for name in "abcd":
            send(plain(packets(face(1), name)[0]))
        async with session.ws_connect(f"http://127.0.0.1:{port}/frames") as socket, asyncio.timeout(PATIENCE):
            while True:
                message = await socket.receive()
                if message.type is WSMsgType.TEXT and '"refused":1' in message.data and '"called":"c"' in message.data:
                    return json.loads(message.data)

    assert [s["called"] for s in received(page, steps)["senders"]] == ["a", "b", "c"]


def test_its_page_and_character_are_served_to_this_machine_alone(page):
    async def steps(send, port, session):
        base = f"http://127.0.0.1:{port}"
        answers = []
        for path, headers in (
            ("/", {}),
            ("/api/sources/odile.glb/media", {}),
            ("/", {"Host": "elsewhere.example"}),
            ("/frames", {"Origin": "http://elsewhere.example"}),
            ("/frames", {"Origin": "null"}),
        ):
            async with session.get(base + path, headers=headers) as answer:
                answers.append((answer.status, (await answer.read())[:4]))
        return answers

    answers = received(page, steps)
    assert answers[0] == (200, b"<p>r")
    assert answers[1] == (200, b"glTF")
    assert [status for status, _ in answers[2:]] == [403, 403, 403]


def test_gaps_between_arrivals_are_in_milliseconds():
    assert gaps_of(deque([1.0, 1.010, 1.020, 1.050])) == {"gap": 10.0, "longest": pytest.approx(28.0, abs=0.1)}
    assert gaps_of(deque([1.0])) == {"gap": 0.0, "longest": 0.0}


def test_what_is_no_character_is_refused(page):
    with pytest.raises(InputError):
        Receiver(b"bytes", "odile.glb", page)


def test_a_port_that_is_taken_is_told(capsys):
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as ear:
        ear.bind(("127.0.0.1", 0))
        with pytest.raises(SystemExit) as ended:
            main(["receive", "--at", str(ear.getsockname()[1]), "--page", str(free_port())])
    assert ended.value.code == 2
    assert "can't be used" in capsys.readouterr().err
