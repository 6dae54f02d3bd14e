"""A node of an evaluation: what it is made of, and how."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Generic, TypeVar, cast

from dynaface.core import checks
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache

T = TypeVar("T")
WHOLE = -1  # a halo that needs the input from end to end


@dataclass(frozen=True)
class Node(Generic[T]):
    """key: equal for equal content and equal inputs; inputs: nodes whose results `make` is given, in order.

    halo: for a node that makes Channels of its first input alone, how many frames to either side a frame depends on, or
    WHOLE; with a halo a window is worked out from a window of the input.
    """

    key: str
    make: Callable[..., T]
    inputs: tuple["Node[Any]", ...] = ()
    halo: int = WHOLE

    def result(self, cache: Cache) -> T:
        """The whole result."""
        return cache.get_or_make(self.key, lambda: self.make(*(n.result(cache) for n in self.inputs)))

    def window(self, cache: Cache, first: int, stop: int) -> Channels:
        """Frames first..stop - 1 of a node that makes Channels: the same values as in the whole result."""
        checks.within("first", first, 0, stop)
        whole = cache.get(self.key)
        if whole is None and self.halo != WHOLE:
            low = max(first - self.halo, 0)
            part = self.inputs[0].window(cache, low, stop + self.halo)
            made = cast(Channels, self.make(part))
            return replace(made, values=made.values[first - low : stop - low])
        channels = cast(Channels, self.result(cache) if whole is None else whole)
        return replace(channels, values=channels.values[first:stop])


@dataclass(frozen=True)
class Constant(Node[T]):
    """A node that is there already; the cache of results does not hold it."""

    def result(self, cache: Cache) -> T:
        """The value."""
        return self.make()


def constant(key: str, value: T) -> Node[T]:
    """Something that was read and never changes under its key, such as a source under its id."""
    return Constant(key, lambda: value)
