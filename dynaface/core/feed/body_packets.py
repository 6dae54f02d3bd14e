"""A motion as the packets of a feed."""

from collections.abc import Iterator

from dynaface.core.body.skeleton import Motion
from dynaface.core.clock.timecode import Timecode
from dynaface.core.feed.joint_rows import rows_of
from dynaface.core.feed.packet import Packet

SAID_AGAIN = 1.0  # seconds after which the skeleton is said again


def body_packets(motion: Motion, performer: str = "", first: int = 0) -> Iterator[Packet]:
    """A packet a frame with number, clock and timecode; the skeleton goes along about once a second."""
    rows, names, rate, code = rows_of(motion.skeleton), motion.skeleton.names, float(motion.rate), motion.timecode
    every = max(1, round(rate * SAID_AGAIN))
    places = motion.root + motion.skeleton.offsets[0]
    for number, (turns, (x, y, z)) in enumerate(zip(motion.local.tolist(), places.tolist(), strict=True)):
        label = ""
        if code is not None:
            count = code.frames + int(code.fraction + number / rate * float(code.rate))
            label = str(Timecode(count, code.rate, drop=code.drop))
        joints = {name: (a, b, c, d) for name, (a, b, c, d) in zip(names, turns, strict=True)}
        skeleton = rows if number % every == 0 else ()
        yield Packet(performer, first + number, number / rate, label, joints=joints, root=(x, y, z), skeleton=skeleton)
