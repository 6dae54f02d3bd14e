"""`dynaface send`."""

import argparse
import socket
import time
from fractions import Fraction
from pathlib import Path

import numpy as np

from dynaface.cli.command import Command
from dynaface.cli.feed import place
from dynaface.cli.table import recording_of
from dynaface.core import checks
from dynaface.core.clock.timecode import from_seconds
from dynaface.core.feed.messages import Message, channel_messages, messages_of, parse_pattern
from dynaface.core.feed.packet import Packet
from dynaface.formats.osc import write_datagram


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table")
    one.add_argument("--to", type=place, required=True, metavar="HOST:PORT", help="where to")
    one.add_argument("--performer", default="performer", help="the performer's name in the addresses")
    one.add_argument("--rate", type=float, help="packets a second; without it, as the table has rows")
    one.add_argument("--address", default="", metavar="PATTERN",
                     help="one message a channel at such an address, as /face/{channel}; without it, our own layout")  # fmt: skip
    one.add_argument("--loop", action="store_true", help="over and over, until Ctrl+C")


def run(options: argparse.Namespace) -> None:
    """Sends a table's curves as they were recorded, at their own speed."""
    if options.address:
        parse_pattern(options.address, "--address")
    recording = recording_of(options.table)
    times, values = recording.times - recording.times[0], recording.values
    rate = recording.rate
    if options.rate is not None:
        rate = Fraction(checks.within("rate", options.rate, 1, 240)).limit_denominator(1001)
        even = np.arange(0, times[-1], float(1 / rate))
        values = np.stack([np.interp(even, times, column) for column in values.T.astype(np.float64)], axis=1)
        times = even
    start = recording.timecode.seconds if recording.timecode else None
    length = float(times[-1]) + float(1 / rate)
    sent, began = 0, time.monotonic()
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        try:
            while True:
                for moment, row in zip(times, values, strict=True):
                    passed = (sent // len(times)) * length + float(moment)
                    time.sleep(max(0.0, began + passed - time.monotonic()))
                    label = str(from_seconds(start + passed, rate)) if start is not None else ""
                    known = {n: float(v) for n, v in zip(recording.names, row, strict=True) if np.isfinite(v)}
                    packet = Packet(options.performer, sent, passed, label, known)
                    out.sendto(write_datagram(_messages(packet, options.address)), options.to)
                    sent += 1
                if not options.loop:
                    break
        except KeyboardInterrupt:
            pass
    print(f"{sent} packets sent to {options.to[0]}:{options.to[1]} in {time.monotonic() - began:.1f} s")


def _messages(packet: Packet, pattern: str) -> list[Message]:
    if not pattern:
        return list(messages_of(packet))
    return channel_messages(pattern, packet.performer, packet.values)


COMMAND = Command("send", "send a curve table as a feed over the network", arguments, run)
