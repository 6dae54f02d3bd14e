"""What goes to a page: texts in JSON, and a frame of a character as bytes."""

import asyncio
import struct
from collections import Counter, deque
from collections.abc import Sequence
from typing import Any

import numpy as np
import orjson

from dynaface.core.curves.channels import Floats
from dynaface.core.errors import DynafaceError

HEAD = struct.Struct("<IId")
MOST_TEXTS = 1000
WINDOW = 4  # frames of a sender that are on their way unseen


def as_text(said: Any) -> str:
    """JSON."""
    return orjson.dumps(said).decode()


def as_refusal(error: DynafaceError) -> dict[str, str]:
    """What was refused, where, and what to do."""
    return {"message": error.message, "where": error.where, "hint": error.hint}


def packed_frame(
    sender: int, number: int, wall: float, shown: Floats, weights: Floats, motion: Floats, shifts: Sequence[Floats]
) -> bytes:
    """Little-endian: u32 sender, u32 number of the frame, f64 milliseconds since 1970 when its packet came; then float32: the channels
    as they are shown (NaN where nothing is known), weights of targets, rotations of joints, metres of joints that shift.
    """
    parts = [shown, weights, np.ravel(motion), *shifts]
    body = np.concatenate([np.asarray(p, "<f4") for p in parts])
    return HEAD.pack(sender, number & 0xFFFFFFFF, wall * 1000) + body.tobytes()


class Outbox:
    """What waits to be sent to one socket: texts in their order, of frames only the newest of each sender. Of each sender at most `WINDOW` frames
    are on their way until the other side says that it saw one, so that a slow page or network sees less, not later.
    """

    def __init__(self) -> None:
        self._texts: deque[str] = deque(maxlen=MOST_TEXTS)
        self._frames: dict[int, bytes] = {}
        self._unseen: Counter[int] = Counter()
        self._more = asyncio.Event()

    def put(self, said: str | bytes) -> None:
        """Never waits; the oldest texts are dropped where nobody takes them."""
        if isinstance(said, bytes):
            self._frames[HEAD.unpack_from(said)[0]] = said
        else:
            self._texts.append(said)
        self._more.set()

    def seen(self, sender: Any) -> None:
        """The other side has taken a frame of a sender in."""
        if isinstance(sender, int) and self._unseen[sender] > 0:
            self._unseen[sender] -= 1
            self._more.set()

    async def take(self) -> list[str | bytes]:
        """All that waits and may go, once there is something."""
        while True:
            await self._more.wait()
            self._more.clear()
            ready = [sender for sender in self._frames if self._unseen[sender] < WINDOW]
            found: list[str | bytes] = [*self._texts, *(self._frames.pop(sender) for sender in ready)]
            self._unseen.update(ready)
            self._texts.clear()
            if found:
                return found
