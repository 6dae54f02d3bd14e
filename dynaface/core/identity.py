"""Keys of nodes: a digest of everything that a result depends on, equal for equal content."""

import struct
from collections.abc import Callable, Mapping
from dataclasses import fields, is_dataclass
from fractions import Fraction
from hashlib import blake2b
from typing import Any

import numpy as np

Feed = Callable[[bytes], None]


def content_key(*parts: Any) -> str:
    """32 hexadecimal digits for plain values, tuples, mappings, sets, arrays and dataclasses of these.

    Mappings count as equal in any order, other sequences by theirs. Raises TypeError for anything else, so that nothing is
    left out of a key by mistake.
    """
    digest = blake2b(digest_size=16)
    for part in parts:
        _feed(part, digest.update)
    return digest.hexdigest()


def _feed(value: Any, feed: Feed) -> None:
    if value is None or isinstance(value, bool):
        feed(b"c" + str(value).encode())
    elif isinstance(value, str):
        raw = value.encode()
        feed(b"s" + struct.pack("<q", len(raw)) + raw)
    elif isinstance(value, int | float | np.integer | np.floating):
        # 1 and 1.0 are one number to every formula here.
        number = float(value)
        feed(b"n" + struct.pack("<d", number) if abs(number) < 2**53 else b"i" + str(value).encode())
    elif isinstance(value, Fraction):
        feed(b"f" + f"{value.numerator}/{value.denominator};".encode())
    elif isinstance(value, np.ndarray):
        feed(b"a" + f"{value.dtype.str}{value.shape};".encode())
        feed(np.ascontiguousarray(value).tobytes())
    elif isinstance(value, Mapping):
        feed(b"m" + struct.pack("<q", len(value)))
        for key in sorted(value):
            _feed(key, feed)
            _feed(value[key], feed)
    elif isinstance(value, set | frozenset):
        feed(b"u")
        _feed(tuple(sorted(value)), feed)
    elif isinstance(value, tuple | list):
        feed(b"l" + struct.pack("<q", len(value)))
        for item in value:
            _feed(item, feed)
    elif is_dataclass(value) and not isinstance(value, type):
        feed(b"d" + type(value).__qualname__.encode() + b";")
        for part in fields(value):
            if part.compare:
                _feed(getattr(value, part.name), feed)
    else:
        raise TypeError(f"a {type(value).__name__} has no content key")
