"""Datagrams in: Open Sound Control from senders, and commands from other machines, which are answered where they came from."""

import asyncio
from collections.abc import Awaitable, Callable
from typing import Any

from dynaface.core.errors import DynafaceError, InputError
from dynaface.core.feed.messages import ROOT, Message, packets_of
from dynaface.formats.osc import read_datagram, write_datagram
from dynaface.live.commands import REMOTE
from dynaface.live.hub import Hub

ANSWER = f"/{ROOT}/answer"
MOST_LETTERS = 200
Ask = Callable[[str, str, dict[str, Any]], Awaitable[str]]
"""token, command, what is given with it -> what happened."""


class Datagrams(asyncio.DatagramProtocol):
    """The socket on which senders are heard."""

    def __init__(self, hub: Hub, ask: Ask) -> None:
        self._hub, self._ask = hub, ask
        self._transport: asyncio.DatagramTransport | None = None
        self._asking: set[asyncio.Task[None]] = set()

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """The socket is open."""
        self._transport = transport  # type: ignore[assignment]

    def datagram_received(self, data: bytes, address: tuple[Any, ...]) -> None:
        """A datagram of any content."""
        host = str(address[0])
        try:
            messages = read_datagram(data)
            commands = [m for m in messages if command_of(m)]
            for packet in packets_of(m for m in messages if not command_of(m)):
                self._hub.heard(host, "OSC", packet)
        except InputError as error:
            return self._hub.refuse(host, str(error))
        for message in commands[:1]:
            task = asyncio.get_running_loop().create_task(self._answer(message, address))
            self._asking.add(task)
            task.add_done_callback(self._asking.discard)

    async def _answer(self, message: Message, address: tuple[Any, ...]) -> None:
        command = command_of(message)
        token, given = given_with(command, message)
        try:
            said, done = await self._ask(token, command, given), 1
        except DynafaceError as error:
            said, done = str(error), 0
        if self._transport is not None:
            self._transport.sendto(write_datagram([(ANSWER, (command, done, said[:MOST_LETTERS]))]), address)


def command_of(message: Message) -> str:
    """The command that a message gives, "" for one that gives none."""
    words = message[0].strip("/").split("/")
    return words[1] if len(words) == 2 and words[0] == ROOT and words[1] in REMOTE else ""


def given_with(command: str, message: Message) -> tuple[str, dict[str, Any]]:
    """The token and what a command is given: a text (slate of start and slate, performer of neutral) and a number of seconds."""
    texts = [a for a in message[1] if isinstance(a, str)]
    numbers = [a for a in message[1] if isinstance(a, int | float) and not isinstance(a, bool)]
    given: dict[str, Any] = {}
    if len(texts) > 1:
        given["performer" if command == "neutral" else "slate"] = texts[1][:MOST_LETTERS]
    if numbers:
        given["count"] = numbers[0]
    return (texts[0] if texts else ""), given
