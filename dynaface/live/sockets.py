"""A WebSocket with what waits to be sent over it."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress

from aiohttp import web

from dynaface.live.wire import Outbox

MOST_BYTES = 1 << 18  # of a message that comes in


@asynccontextmanager
async def spoken_to(request: web.Request) -> AsyncIterator[tuple[web.WebSocketResponse, Outbox]]:
    """A socket, and what is put on its way to it while it is open."""
    socket = web.WebSocketResponse(heartbeat=20, max_msg_size=MOST_BYTES)
    await socket.prepare(request)
    waiting = Outbox()
    writing = asyncio.create_task(_write(socket, waiting))
    try:
        yield socket, waiting
    finally:
        writing.cancel()
        with suppress(asyncio.CancelledError, ConnectionError):
            await writing


async def _write(socket: web.WebSocketResponse, waiting: Outbox) -> None:
    while True:
        for said in await waiting.take():
            if isinstance(said, bytes):
                await socket.send_bytes(said)
            else:
                await socket.send_str(said)
