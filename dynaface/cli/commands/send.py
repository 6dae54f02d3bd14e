"""`dynaface send`."""

import argparse
import socket
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.cli.command import Command
from dynaface.cli.feed import place
from dynaface.cli.files import body_of
from dynaface.cli.table import recording_of
from dynaface.core import checks
from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import from_seconds
from dynaface.core.feed.body_packets import body_packets
from dynaface.core.feed.messages import Message, channel_messages, messages_of, parse_pattern
from dynaface.core.feed.packet import Packet
from dynaface.formats.catalogue import format_of
from dynaface.formats.osc import write_datagram


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument(
        "files", type=Path, nargs="+", metavar="file", help="a curve table, a body take (.bvh, .glb, .jsonl), or both"
    )
    one.add_argument("--to", type=place, required=True, metavar="HOST:PORT", help="where to")
    one.add_argument("--performer", default="performer", help="the performer's name in the addresses")
    one.add_argument("--rate", type=float, help="packets a second; without it, as the file has frames")
    one.add_argument("--address", default="", metavar="PATTERN",
                     help="one message a channel at such an address, as /face/{channel}; without it, our own layout")  # fmt: skip
    one.add_argument("--loop", action="store_true", help="over and over, until Ctrl+C")


def run(options: argparse.Namespace) -> None:
    """Sends curves and bodies as they were recorded, at their own speed."""
    if options.address:
        parse_pattern(options.address, "--address")
    rate = None
    if options.rate is not None:
        rate = Fraction(checks.within("rate", options.rate, 1, 240)).limit_denominator(1001)
    made = [list(_packets(file, options.performer, rate)) for file in options.files]
    length = max(found[-1][0] * (1 + 1 / max(len(found) - 1, 1)) for found in made)  # the last frame lasts as well
    packets = sorted((one for found in made for one in found), key=lambda one: one[0])
    sent, lap, began = Counter[bool](), 0, time.monotonic()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        try:
            while options.loop or not lap:
                for moment, packet in packets:
                    passed = lap * length + moment
                    time.sleep(max(0.0, began + passed - time.monotonic()))
                    face = bool(packet.values)
                    said = replace(packet, number=sent[face], seconds=passed)
                    out.sendto(write_datagram(_messages(said, options.address)), options.to)
                    sent[face] += 1
                lap += 1
        except KeyboardInterrupt:
            pass
    print(f"{sent.total()} packets sent to {options.to[0]}:{options.to[1]} in {time.monotonic() - began:.1f} s")


def _packets(file: Path, performer: str, rate: Fraction | None) -> Iterator[tuple[float, Packet]]:
    """(seconds from its beginning, packet) of what is sent of a file."""
    if format_of(file.read_bytes(), file.name).kind == "curves":
        yield from _face_packets(file, performer, rate)
        return
    motion = body_of(file)
    if rate is not None:
        seconds = np.arange(int(motion.seconds * float(rate))) / float(rate)
        motion = Motion(motion.skeleton, *motion.at(seconds), rate, motion.timecode)
    for number, packet in enumerate(body_packets(motion, performer)):
        yield number / float(motion.rate), packet


def _face_packets(file: Path, performer: str, rate: Fraction | None) -> Iterator[tuple[float, Packet]]:
    recording = recording_of(file)
    times, values = recording.times - recording.times[0], recording.values
    if rate is not None:
        even = np.arange(0, times[-1], float(1 / rate))
        values = np.stack([np.interp(even, times, column) for column in values.T.astype(np.float64)], axis=1)
        times = even
    start = recording.timecode.seconds if recording.timecode else None
    for number, (moment, row) in enumerate(zip(times.tolist(), values, strict=True)):
        label = str(from_seconds(start + moment, rate or recording.rate)) if start is not None else ""
        known = {n: float(v) for n, v in zip(recording.names, row, strict=True) if np.isfinite(v)}
        yield moment, Packet(performer, number, moment, label, known)


def _messages(packet: Packet, pattern: str) -> list[Message]:
    if not pattern or not packet.values:
        return list(messages_of(packet))
    return channel_messages(pattern, packet.performer, packet.values)


COMMAND = Command("send", "send curve tables and body takes as a feed over the network", arguments, run)
