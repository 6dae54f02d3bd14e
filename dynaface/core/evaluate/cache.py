"""One cache for results, bounded in bytes; what was used last is kept longest."""

from collections import OrderedDict
from collections.abc import Callable, Mapping
from threading import Lock, RLock
from typing import Any, TypeVar

import numpy as np

T = TypeVar("T")


class Cache:
    """Results by key. Several threads may ask at once: each key is worked out by one of them while the others wait."""

    def __init__(self, max_bytes: int) -> None:
        self.max_bytes = max_bytes
        self._held: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()
        self._working: dict[str, tuple[RLock, int]] = {}

    @property
    def bytes_held(self) -> int:
        """Bytes of all results that are held."""
        return self._bytes

    def get(self, key: str) -> Any | None:
        """The result, or None where it is not held."""
        with self._lock:
            if key not in self._held:
                return None
            self._held.move_to_end(key)
            return self._held[key][0]

    def put(self, key: str, value: Any) -> None:
        """Keeps a result; the least recently used ones make room. One that is larger than the whole cache is not kept."""
        size = size_of(value)
        with self._lock:
            if key in self._held:
                self._bytes -= self._held.pop(key)[1]
            if size > self.max_bytes:
                return
            self._held[key] = (value, size)
            self._bytes += size
            while self._bytes > self.max_bytes:
                self._bytes -= self._held.popitem(last=False)[1][1]

    def get_or_make(self, key: str, make: Callable[[], T]) -> T:
        """The result, made where it is not held. An error of `make` is raised to whoever made it; nothing is kept then."""
        held = self.get(key)
        if held is not None:
            return held
        with self._lock:
            lock, waiting = self._working.get(key, (RLock(), 0))
            self._working[key] = (lock, waiting + 1)
        try:
            with lock:
                held = self.get(key)
                if held is None:
                    held = make()
                    self.put(key, held)
                return held
        finally:
            with self._lock:
                lock, waiting = self._working[key]
                if waiting == 1:
                    del self._working[key]
                else:
                    self._working[key] = (lock, waiting - 1)

    def clear(self) -> None:
        """Forgets all results."""
        with self._lock:
            self._held.clear()
            self._bytes = 0


def size_of(value: Any) -> int:
    """Bytes of the arrays, bytes and texts in a value and in the fields of its objects; a hundred for anything else. A view
    counts as its base, once.
    """
    return _size(value, set())


def _size(value: Any, seen: set[int]) -> int:
    if isinstance(value, np.ndarray):
        base = value.base if isinstance(value.base, np.ndarray) else value
        if id(base) in seen:
            return 0
        seen.add(id(base))
        return int(base.nbytes)
    if isinstance(value, bytes | str):
        return len(value)
    if isinstance(value, Mapping):
        return 100 + sum(_size(v, seen) for v in value.values())
    if isinstance(value, tuple | list | set | frozenset):
        return 100 + sum(_size(v, seen) for v in value)
    if hasattr(value, "__dict__") and not isinstance(value, type):
        if id(value) in seen:
            return 0
        seen.add(id(value))
        return 100 + sum(_size(v, seen) for v in vars(value).values())
    return 100
