"""A phone that sends its face live over a network that loses, doubles and reorders packets."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.feed.messages import messages_of
from dynaface.core.feed.packet import Packet
from dynaface.core.shapes.standard import SHAPES
from dynaface.formats.osc import write_datagram
from dynaface.sims.phone import table_spelling


@dataclass(frozen=True)
class Weather:
    """lost, doubled, late: shares of packets; a late one comes `behind` packets later."""

    lost: float = 0.0
    doubled: float = 0.0
    late: float = 0.0
    behind: int = 3


CALM = Weather()


def packets(truth: Channels, performer: str = "", first: int = 0) -> list[Packet]:
    """A packet a frame, in our own names, with number and clock."""
    rows = truth.values.astype(float)
    return [
        Packet(performer, first + n, n / float(truth.rate), "", dict(zip(truth.names, map(float, row), strict=True)))
        for n, row in enumerate(rows)
    ]


def plain(packet: Packet) -> bytes:
    """A packet in our own layout."""
    return write_datagram(messages_of(packet))


def foreign(packet: Packet) -> bytes:
    """A packet as another program sends it: a text and a number in percent for each shape, radians for the head, no number."""
    shapes = [("/rig/weight", (table_spelling(n), v * 100)) for n, v in packet.values.items() if n in SHAPES]
    angles = [(f"/rig/{table_spelling(n).removesuffix('_deg')}_rad", (float(np.radians(v)),))
              for n, v in packet.values.items() if n not in SHAPES]  # fmt: skip
    return write_datagram([*shapes, *angles])


def through(sent: list[bytes], weather: Weather, seed: int) -> Iterator[tuple[int, bytes]]:
    """(number of the packet, datagram) in the order in which they arrive."""
    rng = np.random.default_rng(seed)
    due: list[tuple[float, int, bytes]] = []
    for number, data in enumerate(sent):
        if rng.uniform() < weather.lost:
            continue
        at = number + (weather.behind + 0.5 if rng.uniform() < weather.late else 0.0)
        due.append((at, number, data))
        if rng.uniform() < weather.doubled:
            due.append((at + 0.1, number, data))
    yield from ((number, data) for _, number, data in sorted(due, key=lambda d: d[:2]))
