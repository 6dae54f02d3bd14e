"""Datagrams of feeds at the command line, where no server runs."""

import argparse
import re
import socket
import time
from collections.abc import Iterator

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import packets_of
from dynaface.formats.osc import MOST_BYTES, read_datagram
from dynaface.live.sender import Heard, Sender
from dynaface.settings import FEED_PORT

_TO = re.compile(r"^(?:(?P<host>[^:\s]+):)?(?P<port>\d{1,5})$")
EACH = 0.1  # seconds for which a datagram is waited for at once


def place(text: str) -> tuple[str, int]:
    """(host, port) of HOST:PORT or PORT, for an argument."""
    found = _TO.match(text)
    if found is None or not 1 <= int(found["port"]) <= 65535:
        raise argparse.ArgumentTypeError(f"{text!r} is no HOST:PORT")
    return found["host"] or "127.0.0.1", int(found["port"])


def listening(one: argparse.ArgumentParser) -> None:
    """Adds the arguments of what hears."""
    one.add_argument("--at", type=place, default=("127.0.0.1", FEED_PORT), metavar="HOST:PORT",
                     help=f"where to listen (127.0.0.1:{FEED_PORT}; 0.0.0.0:PORT hears other machines)")  # fmt: skip
    one.add_argument("--seconds", type=float, help="how long; without it, until Ctrl+C")


class Ears:
    """A socket and the senders that are heard at it."""

    def __init__(self, at: tuple[str, int]) -> None:
        """Raises InputError where the port is taken."""
        self.senders: dict[tuple[str, str], Sender] = {}
        self.refused: list[str] = []
        self._socket = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        try:
            self._socket.bind(at)
        except OSError as error:
            self._socket.close()
            raise InputError(
                f"nothing can be heard at {at[0]}:{at[1]}: {error.strerror}",
                hint="Dynaface itself may listen there; give another port with --at",
            ) from None
        self._socket.settimeout(EACH)

    def hear(self, seconds: float | None) -> Iterator[tuple[Sender, Heard] | None]:
        """What comes, and None whenever nothing did for a while; until the time is over or Ctrl+C is pressed."""
        until = time.monotonic() + seconds if seconds is not None else None
        try:
            while until is None or time.monotonic() < until:
                try:
                    data, address = self._socket.recvfrom(MOST_BYTES)
                except TimeoutError:
                    yield None
                    continue
                yield from self._taken(data, str(address[0]))
        except KeyboardInterrupt:
            return
        finally:
            self._socket.close()

    def _taken(self, data: bytes, host: str) -> Iterator[tuple[Sender, Heard]]:
        try:
            packets = packets_of(read_datagram(data))
        except InputError as error:
            self.refused.append(f"{host}: {error}")
            return
        for packet in packets:
            key = (host, packet.performer)
            sender = self.senders.get(key)
            if sender is None:
                sender = self.senders[key] = Sender(len(self.senders) + 1, host, "OSC", packet.performer)
                sender.performer = packet.performer
            found = sender.heard(packet, time.monotonic())
            if found is not None:
                yield sender, found[0]
