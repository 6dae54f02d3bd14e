"""Runs the process: sockets, hub, web server, until it is told to stop."""

import asyncio
import gc
import socket
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import segno
from aiohttp import web

from dynaface.live.hub import Hub
from dynaface.live.server import Server
from dynaface.live.stopping import told_to_stop
from dynaface.live.udp import Datagrams
from dynaface.pipelines.warm_up import warm_up_frames
from dynaface.services.work import Work
from dynaface.settings import LOOPBACK, Settings

GIVE_WAY = 0.0005  # seconds
BUFFER = 1 << 22  # bytes of datagrams that wait while something else is done


@asynccontextmanager
async def feeds(work: Work, settings: Settings, host: str) -> AsyncIterator[Hub]:
    """The hub with all that leads to it, until it is left; then what is recorded is kept. What can't be opened for senders is told in
    the page (`hub.about`); raises OSError where pages can't be served.
    """
    live = settings.live
    hub = Hub(work, live.folder)
    server = Server(hub, settings.secret)
    await asyncio.to_thread(hub.keep_left_behind)
    trouble, port, transport = "", live.feed_port, None
    try:
        transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(
            lambda: Datagrams(hub, server.ask), local_addr=(live.feed_host, live.feed_port)
        )
        bound = transport.get_extra_info("socket")
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, BUFFER)
        port = bound.getsockname()[1]
    except OSError as error:
        trouble = f"nothing can be heard at port {live.feed_port}: {error.strerror}"
    hub.about = {
        "trouble": trouble,
        "port": port,
        "addresses": [
            {"host": a, "code": segno.make(f"{a}:{port}").svg_data_uri(scale=4)} for a in addresses(live.feed_host)
        ],
        "alone": live.feed_host in LOOPBACK,
    }
    runner = web.AppRunner(server.application(), access_log=None, handle_signals=False, shutdown_timeout=1.0)
    await runner.setup()
    running = asyncio.create_task(hub.run())
    warming = asyncio.create_task(asyncio.to_thread(_warm, server))
    try:
        await web.TCPSite(runner, host, live.port).start()
        yield hub
    finally:
        if transport is not None:
            transport.close()
        running.cancel()
        await asyncio.wait([running, warming])
        await runner.cleanup()


def _warm(server: Server) -> None:
    """What takes a moment when it is first used, used before anybody waits for it."""
    warm_up_frames()
    server.cameras.warm()


async def serve_feeds(work: Work, settings: Settings, host: str) -> None:
    """Until SIGINT or SIGTERM; raises OSError where pages can't be served."""
    stopped = told_to_stop()
    # Threads of services give way to packets sooner, and what was loaded once is never looked through again.
    sys.setswitchinterval(GIVE_WAY)
    async with feeds(work, settings, host):
        gc.collect()
        gc.freeze()
        await stopped.wait()


def addresses(host: str) -> list[str]:
    """Addresses of this machine to type into a sender: the one that is bound, or all where that is any."""
    if host not in ("0.0.0.0", "::"):  # not a bind: what was bound is looked at
        return [host]
    found = {info[4][0] for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)}
    # The address by which this machine would speak to others; nothing is sent for asking.
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asking:
        try:
            asking.connect(("192.0.2.1", 9))
            found.add(asking.getsockname()[0])
        except OSError:
            pass
    outside = sorted(str(a) for a in found if not str(a).startswith("127."))
    return outside or ["127.0.0.1"]
