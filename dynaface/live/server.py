"""The process's web server: a WebSocket for pages, one for senders of JSON lines, one that sends on, and commands over HTTP."""

import asyncio
import time
from typing import Any

import orjson
from aiohttp import WSMsgType, web

from dynaface.core.errors import DeniedError, DynafaceError, InputError, NotFoundError
from dynaface.core.plain import bounded
from dynaface.formats.feed_line import read_line
from dynaface.live.cameras import Cameras
from dynaface.live.commands import COMMANDS, REMOTE
from dynaface.live.hub import Hub
from dynaface.live.room import Room
from dynaface.live.sockets import MOST_BYTES, spoken_to
from dynaface.live.watched import Listener
from dynaface.live.wire import Outbox, as_refusal, as_text
from dynaface.services.feed.tickets import TICKET, TOKEN, Bearer, read_ticket
from dynaface.services.work import Work

MOST_PICTURE = 1 << 19  # of a picture of a camera
STATUS = {InputError: 422, DeniedError: 403, NotFoundError: 404}


class Server:
    """hub: what it speaks for; secret: by which tickets are signed."""

    def __init__(self, hub: Hub, secret: str) -> None:
        self._hub, self._secret = hub, secret
        self.cameras = Cameras()

    def application(self) -> web.Application:
        """Its addresses."""
        app = web.Application(client_max_size=MOST_BYTES)
        app.router.add_get("/feed", self._page)
        app.router.add_get("/camera", self._camera)
        app.router.add_get("/in", self._lines_in)
        app.router.add_get("/out", self._lines_out)
        app.router.add_post("/commands/{command}", self._command)
        return app

    async def ask(self, token: str, command: str, given: dict[str, Any]) -> str:
        """A command from another machine: what happened; raises DynafaceError."""
        room, work = await self._admitted(token, TOKEN)
        await self._hub.hold(room)
        said = await REMOTE[command](self._hub.desk(room, work), given)
        room.say(f"from another machine: {said}")
        return said

    async def _bearer(self, ticket: str, kind: str) -> Bearer:
        return await asyncio.to_thread(read_ticket, self._hub.work, self._secret, ticket, kind)

    async def _admitted(self, ticket: str, kind: str) -> tuple[Room, Work]:
        bearer = await self._bearer(ticket, kind)
        work = self._hub.work.by(bearer.person)
        return self._hub.room(bearer.production, work), work

    async def _command(self, request: web.Request) -> web.Response:
        """POST /commands/start, stop, neutral, slate with a token and a JSON object."""
        command = request.match_info["command"]
        token = request.headers.get("Authorization", "").removeprefix("Bearer ").strip()
        try:
            if command not in REMOTE:
                raise NotFoundError(f"there is no command {command[:40]!r}; there are {', '.join(REMOTE)}")
            body = await request.text()
            given = _object(body) if body.strip() else {}
            return web.json_response({"said": await self.ask(token, command, given)})
        except DynafaceError as error:
            return _refusal(error)

    async def _page(self, request: web.Request) -> web.StreamResponse:
        try:
            room, work = await self._admitted(request.query.get("ticket", ""), TICKET)
        except DynafaceError as error:
            return _refusal(error)
        async with spoken_to(request) as (socket, waiting):
            listener = self._hub.listen(room, waiting.put)
            listener.send(as_text({"type": "hello", **self._hub.about}))
            try:
                await self._hub.look_around(room)
                listener.send(as_text(self._hub.state(room)))
                await self._serve_page(socket, room, work, listener, waiting)
            finally:
                room.listeners.discard(listener)
        return socket

    async def _serve_page(
        self, socket: web.WebSocketResponse, room: Room, work: Work, listener: Listener, waiting: Outbox
    ) -> None:
        desk = self._hub.desk(room, work)
        async for message in socket:
            if message.type is WSMsgType.BINARY:
                try:
                    room.hear_microphone(message.data, time.time())
                except InputError as error:
                    listener.send(as_text({"type": "refused", "number": None, **as_refusal(error)}))
            if message.type is not WSMsgType.TEXT:
                continue
            number: Any = None
            try:
                given = _object(message.data)
                number = given.get("number")
                if given.get("do") == "seen":
                    waiting.seen(given.get("sender"))
                    continue
                if given.get("do") == "watch":
                    room.watch(listener, given.get("senders"))
                    said = ""
                elif given.get("do") in COMMANDS:
                    said = await COMMANDS[given["do"]](desk, given)
                else:
                    raise InputError(f"there is no {given.get('do')!r:.40}", hint="Reload the page")
                listener.send(as_text({"type": "done", "number": number, "said": said}))
            except DynafaceError as error:
                listener.send(as_text({"type": "refused", "number": number, **as_refusal(error)}))

    async def _camera(self, request: web.Request) -> web.StreamResponse:
        """Pictures of a page's camera, and what is seen in them."""
        try:
            bearer = await self._bearer(request.query.get("ticket", ""), TICKET)
        except DynafaceError as error:
            return _refusal(error)
        socket = web.WebSocketResponse(heartbeat=20, max_msg_size=MOST_PICTURE)
        await socket.prepare(request)
        await self.cameras.serve(socket, self._hub.work.by(bearer.person), bearer.production)
        return socket

    async def _lines_in(self, request: web.Request) -> web.StreamResponse:
        """A sender of JSON lines; one that a web page makes must show a token."""
        host = request.remote or ""
        try:
            if "Origin" in request.headers:
                await self._admitted(request.query.get("token", ""), TOKEN)
        except DynafaceError as error:
            return _refusal(error)
        socket = web.WebSocketResponse(heartbeat=20, max_msg_size=MOST_BYTES)
        await socket.prepare(request)
        async for message in socket:
            if message.type is not WSMsgType.TEXT:
                self._hub.refuse(host, "a message that is no text")
                continue
            for line in str(message.data).splitlines():
                try:
                    self._hub.heard(host, "WebSocket", read_line(line))
                except InputError as error:
                    self._hub.refuse(host, str(error))
        return socket

    async def _lines_out(self, request: web.Request) -> web.StreamResponse:
        """What is shown of a production's senders, as JSON lines, to whoever shows a token."""
        try:
            room, _ = await self._admitted(request.query.get("token", ""), TOKEN)
        except DynafaceError as error:
            return _refusal(error)
        async with spoken_to(request) as (socket, waiting):
            room.readers.add(waiting)
            try:
                async for _ in socket:
                    pass
            finally:
                room.readers.discard(waiting)
        return socket


def _object(text: str) -> dict[str, Any]:
    try:
        found = bounded(orjson.loads(text), "what is asked")
    except orjson.JSONDecodeError:
        raise InputError("this is no JSON") from None
    if not isinstance(found, dict):
        raise InputError("this must be a JSON object")
    return found


def _refusal(error: DynafaceError) -> web.Response:
    status = next((code for kind, code in STATUS.items() if isinstance(error, kind)), 409)
    return web.json_response(as_refusal(error), status=status)
