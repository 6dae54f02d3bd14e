"""Cameras in browsers: pictures over a WebSocket, several at once, damaged ones."""

import asyncio
import struct

import cv2
import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.entries import video
from dynaface.live.cameras import MOST
from dynaface.services.feed.tickets import make_ticket
from dynaface.services.footage.live_camera import picture_of
from dynaface.services.take.import_take import import_character
from tests.conftest import stored

MARA = ASSETS / "demo" / "mara_clip.mp4"


def jpeg(picture):
    return cv2.imencode(".jpg", picture[..., ::-1])[1].tobytes()


@pytest.fixture(scope="module")
def pictures():
    """Some pictures of Mara, as a browser sends them."""
    given = video.read(MARA.read_bytes()).pictures()
    return [jpeg(p) for _, p in zip(range(8), given, strict=False)]


def camera(stage, production=None):
    ticket = make_ticket(stage.work, stage.settings.secret, production or stage.production)
    return stage.session.ws_connect(f"{stage.base}/camera?ticket={ticket}")


async def looked(socket, number, data):
    await socket.send_bytes(struct.pack("<I", number) + data)
    return await socket.receive_json(timeout=30)


def test_a_face_is_found_with_its_scores_and_moves_the_character(on_stage, mara, production, pictures):
    odile = (ASSETS / "characters" / "odile.glb").read_bytes()
    import_character(mara, production, "Odile", stored(mara, odile, "odile.glb"))

    async def steps(stage):
        async with camera(stage) as socket:
            return [await looked(socket, n, p) for n, p in enumerate(pictures)]

    found = on_stage(steps)
    assert [f["number"] for f in found] == list(range(len(pictures)))
    last = found[-1]
    assert len(last["points"]) == 478
    assert all(0 <= v <= 1 for point in last["points"] for v in point)
    assert len(last["scores"]) == len(SHAPES)
    assert len(last["pose"]) == 7
    assert len(last["driven"]["weights"]) == len(last["driven"]["targets"]) > 0


def test_without_a_face_it_says_what_to_do_and_without_a_character_nothing_is_moved(on_stage, pictures):
    grey = jpeg(np.full((120, 160, 3), 90, np.uint8))

    async def steps(stage):
        async with camera(stage) as socket:
            return await looked(socket, 1, grey), await looked(socket, 2, pictures[0])

    nobody, somebody = on_stage(steps)
    assert nobody["points"] == []
    assert "No face" in nobody["words"][0]
    assert somebody["driven"] is None


def test_two_cameras_see_their_own_pictures_and_one_too_many_is_told(on_stage, pictures):
    async def steps(stage):
        sockets = [await camera(stage) for _ in range(MOST)]
        seen = await asyncio.gather(*(looked(s, n, pictures[n]) for n, s in enumerate(sockets[:2])))
        async with camera(stage) as more:
            refused = await more.receive_json(timeout=30)
        for socket in sockets:
            await socket.close()
        return seen, refused

    seen, refused = on_stage(steps)
    assert [s["number"] for s in seen] == [0, 1]
    assert seen[0]["points"] != seen[1]["points"]
    assert "cameras are open already" in refused["message"]


def test_of_pictures_that_come_faster_than_they_are_looked_at_the_newest_counts(on_stage, pictures):
    async def steps(stage):
        async with camera(stage) as socket:
            await looked(socket, 0, pictures[0])
            for number in range(1, 30):
                await socket.send_bytes(struct.pack("<I", number) + pictures[0])
            seen = []
            while not seen or seen[-1] != 29:
                seen.append((await socket.receive_json(timeout=30))["number"])
            return seen

    assert len(on_stage(steps)) < 29


@pytest.mark.parametrize(
    "data", [b"", b"GIF89a" + b"x" * 50, b"\xff\xd8\xff" + b"\x00" * 80, b"\xff\xd8\xff" + b"x" * 500_000]
)
def test_what_is_no_picture_is_refused_with_words(data):
    with pytest.raises(InputError) as refused:
        picture_of(data)
    assert refused.value.message


def test_a_broken_picture_is_told_and_the_next_is_looked_at(on_stage, pictures):
    async def steps(stage):
        async with camera(stage) as socket:
            return [await looked(socket, 1, b"\xff\xd8\xffnothing"), await looked(socket, 2, pictures[0])]

    broken, whole = on_stage(steps)
    assert "cannot be read" in broken["message"]
    assert len(whole["points"]) == 478
