"""The process of feeds on loopback, with a production and a page."""

import asyncio
import json
import socket
from contextlib import asynccontextmanager
from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from aiohttp import ClientSession, WSMsgType

from dynaface.core.curves.channels import Channels
from dynaface.core.shapes.standard import HEAD_ANGLES, SHAPES
from dynaface.live.serve import feeds
from dynaface.live.wire import HEAD
from dynaface.services.feed.tickets import TOKEN, make_ticket
from dynaface.sims.feed_phone import CALM, packets, plain, through
from tests.ports import free_port

NAMES = SHAPES + HEAD_ANGLES
PATIENCE = 20.0  # seconds until something that is waited for is given up


def face(frames=120, rate=60):
    """A face whose jaw opens and whose head turns."""
    t = np.arange(frames) / rate
    values = np.zeros((frames, len(NAMES)), np.float32)
    values[:, NAMES.index("jawOpen")] = 0.5 + 0.4 * np.sin(5 * t)
    values[:, NAMES.index("headTurn")] = 20 * np.sin(2 * t)
    return Channels(NAMES, values, Fraction(rate))


class Page:
    """A page that is connected: what it hears, and what it asks."""

    def __init__(self, socket):
        self._socket = socket
        self.state = self.hello = self.character = None
        self.frames = []
        self._answers = {}
        self._number = 0
        self._more = asyncio.Event()
        self._reading = asyncio.create_task(self._read())

    async def _read(self):
        async for message in self._socket:
            if message.type is WSMsgType.BINARY:
                self.frames.append(message.data)
                await self._socket.send_json({"do": "seen", "sender": HEAD.unpack_from(message.data)[0]})
            else:
                said = json.loads(message.data)
                if said["type"] in ("done", "refused"):
                    self._answers[said["number"]] = said
                else:
                    setattr(self, said["type"], said)
            self._more.set()

    async def until(self, what):
        """The state once something is so."""
        async with asyncio.timeout(PATIENCE):
            while not what(self):
                self._more.clear()
                await self._more.wait()
        return self.state

    async def asks(self, do, **given):
        """What is answered."""
        self._number += 1
        number = self._number
        await self._socket.send_json({"do": do, "number": number, **given})
        await self.until(lambda page: number in page._answers)
        return self._answers[number]

    def sender(self, called):
        return next((s for s in (self.state or {}).get("senders", []) if s["called"] == called), None)


class Stage:
    """The process with a production, and what is needed to speak with it."""

    def __init__(self, hub, work, production, settings, session):
        self.hub, self.work, self.production, self.settings, self.session = hub, work, production, settings, session
        self.base = f"http://127.0.0.1:{settings.live.port}"
        self._out = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)

    def token(self):
        return make_ticket(self.work, self.settings.secret, self.production, TOKEN)

    @asynccontextmanager
    async def page(self, work=None, production=None):
        ticket = make_ticket(work or self.work, self.settings.secret, production or self.production)
        async with self.session.ws_connect(f"{self.base}/feed?ticket={ticket}") as socket:
            page = Page(socket)
            await page.until(lambda p: p.state is not None)
            yield page

    def send(self, data):
        self._out.sendto(data, ("127.0.0.1", self.hub.about["port"]))

    async def plays(self, truth, performer="mara", weather=CALM, seed=1, how=plain, first=0, speed=1.0):
        """A phone that sends a face over a network, at its own speed."""
        sent = [how(p) for p in packets(truth, performer, first)]
        arrived = list(through(sent, weather, seed))
        for _, data in arrived:
            self.send(data)
            await asyncio.sleep(1 / float(truth.rate) / speed)
        return arrived


@pytest.fixture
def on_stage(mara, production, settings, tmp_path):
    """Runs a test's steps in the process."""

    def run(steps, **changed):
        usual = {"folder": tmp_path / "live", "port": free_port(), "feed_port": 0}
        live = replace(settings.live, **{**usual, **changed})

        async def all_of_it():
            made = replace(settings, live=live)
            async with feeds(mara, made, "127.0.0.1") as hub, ClientSession() as session:
                return await steps(Stage(hub, mara, production, made, session))

        return asyncio.run(all_of_it())

    return run
