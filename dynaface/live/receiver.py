"""A stand-in for the program that a feed drives: it hears a port as that would, shows each sender on a character, and measures what arrives."""

import asyncio
import time
from collections import deque
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

import numpy as np
from aiohttp import WSMsgType, web

from dynaface.core.cast.sheet import CastSheet
from dynaface.core.errors import InputError
from dynaface.core.feed.messages import packets_of
from dynaface.core.shapes.standard import CHANNELS
from dynaface.formats.character_file import open_character
from dynaface.formats.osc import read_datagram
from dynaface.live.sender import Sender
from dynaface.live.sockets import spoken_to
from dynaface.live.watched import MOST_WATCHED, Listener, Watched
from dynaface.live.wire import as_text
from dynaface.services.feed.live_character import LiveCharacter
from dynaface.settings import LOOPBACK

EACH = 0.5  # seconds between states
MEASURED = 600  # arrivals of which the gaps are looked at
NAMES = frozenset(LOOPBACK)


class Receiver(asyncio.DatagramProtocol):
    """character: a glTF binary; page: the folder of the built pages."""

    def __init__(self, character: bytes, name: str, page: Path) -> None:
        """Raises InputError for what is no character."""
        rig, _, self._glb = open_character(character, name)
        self._character = LiveCharacter(name, name, rig, CastSheet(), {})
        self._page = page
        self._watched = Watched()
        self._arrived: dict[int, deque[float]] = {}
        self._numbers: dict[tuple[str, str], int] = {}
        self.refused = 0

    def datagram_received(self, data: bytes, address: tuple[Any, ...]) -> None:
        """A datagram of any content."""
        try:
            packets = packets_of(read_datagram(data))
        except InputError:
            self.refused += 1
            return
        now = time.monotonic()
        for packet in packets:
            sender = self._sender(str(address[0]), packet.performer)
            if sender is None:
                continue
            found = sender.heard(packet, now)
            if found is not None:
                if packet.values or not sender.values:  # a body beside a face comes in a time of its own
                    self._arrived[sender.number].append(now)
                if found[1]:
                    self._watched.show(sender, found[0], now)

    def _sender(self, host: str, performer: str) -> Sender | None:
        """The sender of a performer, None for more than can be shown."""
        number = self._numbers.get((host, performer))
        if number is None:
            if len(self._numbers) >= MOST_WATCHED:
                return None
            number = self._numbers[host, performer] = len(self._numbers) + 1
            made = self._watched.senders[number] = Sender(number, host, "OSC", performer, performer=performer)
            self._watched.characters[performer] = self._character
            self._arrived[made.number] = deque(maxlen=MEASURED)
            for one in self._watched.listeners:
                self._watched.watch(one, list(self._watched.senders))
        return self._watched.senders[number]

    def state(self) -> dict[str, Any]:
        """What arrives of each sender."""
        now = time.monotonic()
        return {
            "type": "state",
            "refused": self.refused,
            "senders": [{**_short(s, now), **gaps_of(self._arrived[s.number])} for s in self._watched.senders.values()],
        }

    def application(self) -> web.Application:
        """The page and what it asks for."""
        app = web.Application(middlewares=[_only_here])
        app.router.add_get("/", self._index)
        app.router.add_get("/frames", self._frames)
        app.router.add_get("/api/sources/{source}/media", self._media)
        app.router.add_static("/assets", self._page / "assets")
        return app

    async def _index(self, request: web.Request) -> web.StreamResponse:
        return web.FileResponse(self._page / "receiver.html")

    async def _media(self, request: web.Request) -> web.StreamResponse:
        return web.Response(body=self._glb, content_type="model/gltf-binary")

    async def _frames(self, request: web.Request) -> web.StreamResponse:
        async with spoken_to(request) as (socket, waiting):
            listener = Listener(waiting.put)
            self._watched.listeners.add(listener)
            self._watched.watch(listener, list(self._watched.senders))
            listener.send(as_text({"type": "hello", "channels": len(CHANNELS)}))
            telling = asyncio.create_task(self._tell(listener))
            try:
                async for message in socket:
                    if message.type is WSMsgType.TEXT and message.data.isdecimal():
                        waiting.seen(int(message.data))
            finally:
                telling.cancel()
                self._watched.listeners.discard(listener)
        return socket

    async def _tell(self, listener: Listener) -> None:
        while True:
            listener.send(as_text(self.state()))
            await asyncio.sleep(EACH)


def gaps_of(arrived: deque[float]) -> dict[str, float]:
    """Milliseconds between arrivals: the middle, and the 95th of a hundred; 0 before there are two."""
    gaps = np.diff(np.array(arrived)) * 1000
    middle, high = np.percentile(gaps, (50, 95)) if len(gaps) else (0.0, 0.0)
    return {"gap": round(float(middle), 1), "longest": round(float(high), 1)}


def _short(sender: Sender, now: float) -> dict[str, Any]:
    said = sender.describe(now)
    return {name: said[name] for name in ("sender", "host", "called", "rate", "age", "lost", "packets", "joints")} | {
        "channels": sum(1 for signal in said["signals"] if signal[1])
    }


@web.middleware
async def _only_here(request: web.Request, handler: Any) -> web.StreamResponse:
    """Pages elsewhere must not read what performers do: other names of this machine and other origins are refused."""
    origin = request.headers.get("Origin")
    own = (request.host, f"http://{request.host}")
    if request.url.host not in NAMES or (origin is not None and origin not in own):
        raise web.HTTPForbidden(text="this page is for this machine alone")
    answer: web.StreamResponse = await handler(request)
    return answer


@asynccontextmanager
async def receiving(receiver: Receiver, at: tuple[str, int], port: int) -> AsyncIterator[tuple[int, int]]:
    """(port that is heard, port of the page) while it is entered; raises OSError where either is taken."""
    transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(lambda: receiver, local_addr=at)
    runner = web.AppRunner(receiver.application(), access_log=None, handle_signals=False, shutdown_timeout=1.0)
    try:
        await runner.setup()
        site = web.TCPSite(runner, LOOPBACK[0], port)
        await site.start()
        yield transport.get_extra_info("sockname")[1], runner.addresses[0][1]
    finally:
        transport.close()
        await runner.cleanup()
