"""Cameras in browsers: pictures come as bytes over a WebSocket, what is seen in each goes back; each camera has eyes of its own."""

import asyncio
from contextlib import suppress
from typing import Any

from aiohttp import WSMsgType, web

from dynaface.core.errors import InputError
from dynaface.live.wire import as_refusal, as_text
from dynaface.services.feed.live_character import live_character
from dynaface.services.footage.live_camera import LiveCamera
from dynaface.services.work import Work

MOST = 4  # cameras at once
NUMBER = 4  # bytes of a picture's number, before its own


class Cameras:
    """Eyes that are ready, and how many are open."""

    def __init__(self) -> None:
        self._ready: list[LiveCamera] = []
        self._open = 0

    def warm(self) -> None:
        """Makes the first one before anybody asks; takes a while."""
        self._ready.append(LiveCamera())

    async def serve(self, socket: web.WebSocketResponse, work: Work, production: str) -> None:
        """Looks at pictures until the socket is closed. Of pictures that come faster than they are looked at the newest counts."""
        if self._open >= MOST:
            refused = InputError(f"{MOST} cameras are open already", hint="Close one")
            await socket.send_str(as_text(as_refusal(refused)))
            return
        self._open += 1
        camera: LiveCamera | None = None
        try:
            camera = self._ready.pop() if self._ready else await asyncio.to_thread(LiveCamera)
            camera.character = await asyncio.to_thread(live_character, work, production)
            await _look(socket, camera)
        finally:
            self._open -= 1
            if camera is not None:
                self._ready.append(camera)


async def _look(socket: web.WebSocketResponse, camera: LiveCamera) -> None:
    newest: list[bytes] = []
    more = asyncio.Event()

    async def see() -> None:
        while True:
            await more.wait()
            more.clear()
            data = newest.pop()
            newest.clear()
            await socket.send_str(as_text(await asyncio.to_thread(_seen, camera, data)))

    seeing = asyncio.create_task(see())
    try:
        async for message in socket:
            if message.type is WSMsgType.BINARY:
                newest[:] = [message.data]
                more.set()
    finally:
        seeing.cancel()
        with suppress(asyncio.CancelledError, ConnectionError):
            await seeing


def _seen(camera: LiveCamera, data: bytes) -> dict[str, Any]:
    """What is seen in a picture, with its number; or why nothing is."""
    number = int.from_bytes(data[:NUMBER], "little")
    try:
        return {"number": number, **camera.look(data[NUMBER:])}
    except InputError as error:
        return {"number": number, **as_refusal(error)}
