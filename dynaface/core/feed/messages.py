"""Messages (an address and its arguments) to packets and back: our own layout, and what any other layout says.

Our layout, PERFORMER being any word without a slash:

    /dynaface/PERFORMER/face           number, seconds, timecode, then the first 52, 55, 59 or 62 of FACE_CHANNELS
    /dynaface/PERFORMER/channel/NAME   one value
    /dynaface/PERFORMER/body           number, seconds, timecode, root (3 metres), then for each joint its name and 4 numbers
    /dynaface/PERFORMER/skeleton       for each joint its name, the name above or "", its place (3 metres) and 4 numbers, both at rest

number counts packets, -1 where they are not counted; seconds is negative where the sender has no clock; timecode is "" where there
is none. Weights are 0..1, angles degrees, travel millimetres; a value that is not known is NaN.
"""

import math
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from dynaface.core.errors import InputError
from dynaface.core.feed.arguments import MOST_COUNT, number_of
from dynaface.core.feed.body_messages import body_arguments, skeleton_arguments, with_body, with_skeleton
from dynaface.core.feed.packet import MOST_SIGNALS, Packet
from dynaface.core.shapes.standard import GAZE_ANGLES, HEAD_ANGLES, HEAD_TRAVEL, SHAPES

Message = tuple[str, Sequence[Any]]
ROOT = "dynaface"
CHANNEL, PERFORMER = "{channel}", "{performer}"  # in the address of a message a channel
_ADDRESS = re.compile(r"^/[^\s#*,?\[\]]{1,120}$")
_NO_WORD = re.compile(r"[\s/#*,?\[\]{}]+")
FACE_CHANNELS: tuple[str, ...] = SHAPES + HEAD_ANGLES + GAZE_ANGLES + HEAD_TRAVEL
LENGTHS = (52, 55, 59, 62)
HEAD_OF_MESSAGE = 3  # number, seconds, timecode


def packets_of(messages: Iterable[Message]) -> list[Packet]:
    """The packets of the messages that came together: one for each performer of our layout, one of all else.

    Raises InputError for a message of our layout that is not as it must be.
    """
    ours: dict[str, list[Packet]] = {}
    other: dict[str, float] = {}
    for address, arguments in messages:
        words = address.strip("/").split("/")
        if words[0] == ROOT and len(words) >= 3:
            ours.setdefault(words[1], []).append(_own(address, words, arguments))
        else:
            other.update(signals(address, arguments))
            if len(other) > MOST_SIGNALS:
                raise InputError(f"a packet holds more than {MOST_SIGNALS} values", where=address)
    found = [_joined(parts) for parts in ours.values()]
    return [*found, Packet(values=other)] if other else found


def messages_of(packet: Packet, names: Sequence[str] = FACE_CHANNELS) -> Iterator[Message]:
    """A packet whose signals are channels, in our layout; names: channels in the order of FACE_CHANNELS, a beginning of it."""
    head = (
        -1 if packet.number is None else packet.number,
        -1.0 if packet.seconds is None else packet.seconds,
        packet.timecode,
    )
    start = f"/{ROOT}/{packet.performer or 'performer'}"
    if packet.values:
        yield f"{start}/face", (*head, *(float(packet.values.get(n, math.nan)) for n in names))
    if packet.joints or packet.root is not None:
        yield f"{start}/body", (*head, *body_arguments(packet))
    if packet.skeleton:
        yield f"{start}/skeleton", skeleton_arguments(packet.skeleton)


def parse_pattern(given: Any, where: str = "pattern") -> str:
    """The address of a channel with {channel} and perhaps {performer} in it; raises InputError."""
    if not isinstance(given, str) or not is_address(given) or CHANNEL not in given:
        raise InputError(f"{given!r:.60} is no address with {CHANNEL} in it", where=where)
    return given


def is_address(given: str) -> bool:
    """Whether it can stand as an address, or part of one after a slash."""
    return bool(_ADDRESS.match(given))


def as_word(text: str) -> str:
    """A text as a word of an address."""
    return _NO_WORD.sub("_", text)


def channel_messages(pattern: str, performer: str, values: Mapping[str, float]) -> list[Message]:
    """One message a value; values: by what is called there."""
    address = pattern.replace(PERFORMER, performer)
    return [(address.replace(CHANNEL, called), (value,)) for called, value in values.items()]


def signals(address: str, arguments: Sequence[Any]) -> Iterator[tuple[str, float]]:
    """(name, value) of the numbers of a message in any layout: a text names the numbers after it, several numbers are counted."""
    name = address
    run: list[float] = []
    for argument in [*arguments, ""]:
        number = number_of(argument)
        if number is not None:
            run.append(number)
        elif isinstance(argument, str):
            yield from _named(name, run)
            name, run = f"{address} {argument}", []


def _named(name: str, run: list[float]) -> Iterator[tuple[str, float]]:
    if len(run) == 1:
        yield name, run[0]
    else:
        yield from ((f"{name}[{i}]", v) for i, v in enumerate(run))


def _own(address: str, words: list[str], arguments: Sequence[Any]) -> Packet:
    performer, kind = words[1], words[2]
    if kind == "channel" and len(words) == 4:
        value = number_of(arguments[0]) if len(arguments) == 1 else None
        return Packet(performer, values={} if value is None else {words[3]: value}, ours=True)
    if kind == "skeleton" and len(words) == 3:
        return with_skeleton(Packet(performer, ours=True), arguments, address)
    if kind not in ("face", "body") or len(words) != 3:
        raise InputError(f"our layout has no {kind!r}", where=address, hint="docs/formats.md lists its addresses")
    if len(arguments) < HEAD_OF_MESSAGE or not isinstance(arguments[2], str):
        raise InputError("the message must begin with number, seconds and timecode", where=address)
    count, clock = number_of(arguments[0], MOST_COUNT), number_of(arguments[1], MOST_COUNT)
    if count is None or clock is None:
        raise InputError("number and seconds must be numbers", where=address)
    number = int(count) if count >= 0 else None
    head = Packet(performer, number, clock if clock >= 0 else None, arguments[2][:20], ours=True)
    rest = arguments[HEAD_OF_MESSAGE:]
    return _face(address, head, rest) if kind == "face" else with_body(head, rest, address)


def _face(address: str, head: Packet, rest: Sequence[Any]) -> Packet:
    if len(rest) not in LENGTHS:
        allowed = ", ".join(map(str, LENGTHS))
        raise InputError(f"{len(rest)} values; there must be one of {allowed}", where=address)
    numbers = {n: number_of(v) for n, v in zip(FACE_CHANNELS, rest, strict=False)}
    values = {n: v for n, v in numbers.items() if v is not None}
    return replace(head, values=values)


def _joined(parts: list[Packet]) -> Packet:
    """One packet of what came together of a performer: the first that counts says when."""
    first = next((p for p in parts if p.number is not None or p.seconds is not None), parts[0])
    values = {n: v for p in parts for n, v in p.values.items()}
    joints = {n: q for p in parts for n, q in p.joints.items()}
    root = next((p.root for p in parts if p.root is not None), None)
    skeleton = next((p.skeleton for p in parts if p.skeleton), ())
    return replace(first, values=values, joints=joints, root=root, skeleton=skeleton)
