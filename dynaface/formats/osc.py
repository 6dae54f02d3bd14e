"""Open Sound Control 1.0 datagrams (opensoundcontrol.org) to messages and back."""

import logging
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from pythonosc.osc_bundle_builder import IMMEDIATELY, OscBundleBuilder
from pythonosc.osc_message_builder import OscMessageBuilder
from pythonosc.osc_packet import OscPacket, ParseError

from dynaface.core.errors import InputError
from dynaface.core.feed.messages import Message

MOST_BYTES = 65_507  # that a datagram can hold
DEEPEST = 4  # lists in lists
_WHOLE = 1 << 31


class _Unsaid(logging.Filter):
    """The library writes a line to the root logger for each datagram that it cannot read; we answer for those ourselves."""

    def filter(self, record: logging.LogRecord) -> bool:
        return "pythonosc" not in record.pathname


logging.getLogger().addFilter(_Unsaid())


def read_datagram(data: bytes) -> list[Message]:
    """The messages of a datagram, bundles opened, in their order; raises InputError for what is none."""
    try:
        return [(m.message.address, list(_flat(m.message.params, 0))) for m in OscPacket(data).messages]
    except ParseError as error:
        raise InputError(f"{len(data)} bytes that are no Open Sound Control: {str(error)[:120]}") from None
    except (UnicodeDecodeError, ValueError, IndexError, OverflowError, RecursionError) as error:
        raise InputError(f"{len(data)} bytes that are no Open Sound Control: {error}") from None


def write_datagram(messages: Sequence[Message] | Iterable[Message]) -> bytes:
    """One message, or several as a bundle to be used at once. Whole numbers are i or h, the seconds of a head d, other numbers f."""
    built = [_built(address, arguments) for address, arguments in messages]
    if len(built) == 1:
        return bytes(built[0].dgram)
    bundle = OscBundleBuilder(IMMEDIATELY)
    for message in built:
        bundle.add_content(message)
    return bytes(bundle.build().dgram)


def _built(address: str, arguments: Sequence[Any]):  # type: ignore[no-untyped-def]
    builder = OscMessageBuilder(address)
    for place, argument in enumerate(arguments):
        if isinstance(argument, str):
            builder.add_arg(argument, "s")
        elif isinstance(argument, int):
            builder.add_arg(argument, "i" if -_WHOLE <= argument < _WHOLE else "h")
        else:
            # A clock that counts seconds of a day does not fit a float: it would step by eight milliseconds.
            builder.add_arg(float(argument), "d" if place == 1 else "f")
    return builder.build()


def _flat(arguments: Iterable[Any], deep: int) -> Iterator[Any]:
    for argument in arguments:
        if isinstance(argument, list | tuple):
            if deep < DEEPEST:
                yield from _flat(argument, deep + 1)
        else:
            yield argument
