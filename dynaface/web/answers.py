"""Answers: JSON by orjson, bundles of arrays as binary."""

import struct
from collections.abc import Mapping
from typing import Any

import numpy as np
import orjson
from flask import Response, request

MAGIC = b"DYNB"


def as_json(value: Any, status: int = 200) -> Response:
    """Plain data and dataclasses as JSON."""
    raw = orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY | orjson.OPT_NON_STR_KEYS)
    return Response(raw, status, mimetype="application/json")


def as_bundle(head: Mapping[str, Any], arrays: Mapping[str, np.ndarray]) -> Response:
    """Arrays as little-endian float32 behind a JSON head, all aligned to four bytes.

    "DYNB", length of the head (uint32), the head padded with spaces, then the arrays in the order of head.arrays,
    each {"name", "shape"}.
    """
    named = [{"name": n, "shape": list(a.shape)} for n, a in arrays.items()]
    raw = orjson.dumps({**head, "arrays": named})
    raw += b" " * (-len(raw) % 4)
    body = [MAGIC, struct.pack("<I", len(raw)), raw]
    body += [np.ascontiguousarray(a, "<f4").tobytes() for a in arrays.values()]
    return Response(b"".join(body), mimetype="application/octet-stream")


def as_file(name: str, data: bytes) -> Response:
    """Bytes to be kept as a file."""
    answer = Response(data, mimetype="application/octet-stream")
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


def as_medium(data: bytes, tag: str, mimetype: str) -> Response:
    """Bytes that never change under their tag, whole or a range of them."""
    answer = Response(data, mimetype=mimetype)
    answer.accept_ranges = "bytes"
    answer.set_etag(tag)
    answer.cache_control.private = True
    answer.cache_control.max_age = 31536000
    answer.make_conditional(request, accept_ranges=True, complete_length=len(data))
    return answer
