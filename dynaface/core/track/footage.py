"""Footage: moving pictures of a face."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from queue import Full, Queue
from threading import Event, Thread
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from dynaface.core.clock.timecode import Timecode
from dynaface.core.curves.channels import Times

AHEAD = 6  # pictures
Item = TypeVar("Item")


def ahead(items: Iterator[Item], most: int = AHEAD) -> Iterator[Item]:
    """The same items, made up to `most` ahead in a thread of their own: decoding goes on while a picture is looked at."""
    made: Queue[tuple[bool, Item | BaseException | None]] = Queue(most)
    left = Event()

    def give(more: bool, item: Item | BaseException | None) -> bool:
        while not left.is_set():
            try:
                made.put((more, item), timeout=0.1)
                return True
            except Full:
                continue
        return False

    def work() -> None:
        try:
            for item in items:
                if not give(True, item):
                    return
            give(False, None)
        except BaseException as error:  # raised in the thread that asks
            give(False, error)

    Thread(target=work, daemon=True).start()
    try:
        while True:
            more, item = made.get()
            if isinstance(item, BaseException):
                raise item
            if not more:
                return
            yield item  # type: ignore[misc]
    finally:
        left.set()


@dataclass(frozen=True)
class Footage:
    """width, height: pixels as shown, after turning; times: (frames,) seconds of each picture from the first; rate:
    nominal; sound: whether there is any; open: gives each picture (height, width, 3) RGB from a frame on.
    """

    width: int
    height: int
    times: Times
    rate: Fraction
    codec: str
    sound: bool
    timecode: Timecode | None
    open: Callable[[int], Iterator[NDArray[np.uint8]]]

    def pictures(self, first: int = 0) -> Iterator[NDArray[np.uint8]]:
        """Each picture (height, width, 3), RGB 0..255, from frame `first` on; fewer than `frames` when the tail is damaged. They are
        decoded ahead."""
        return ahead(self.open(first))

    @property
    def frames(self) -> int:
        """Number of pictures."""
        return len(self.times)

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return float(self.times[-1] - self.times[0]) + 1 / float(self.rate)
