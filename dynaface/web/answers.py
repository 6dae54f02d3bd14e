"""Answers: JSON by orjson, bundles of arrays as binary."""

import gzip
import struct
from collections.abc import Mapping
from typing import Any
from urllib.parse import quote

import numpy as np
import orjson
from flask import Response, request
from werkzeug.datastructures import Headers
from werkzeug.exceptions import RequestedRangeNotSatisfiable

from dynaface.core.documents.model.record import Part
from dynaface.store.media import Medium

MAGIC = b"DYNB"
MIN_PACKED = 8192  # bytes of JSON that are worth packing


def _plain(value: Any) -> Any:
    if isinstance(value, Part):
        return value.plain()
    raise TypeError(f"a {type(value).__name__} is no plain data")


def as_json(value: Any, status: int = 200) -> Response:
    """Plain data, records and dataclasses as JSON."""
    raw = orjson.dumps(value, default=_plain, option=orjson.OPT_SERIALIZE_NUMPY | orjson.OPT_NON_STR_KEYS)
    return Response(raw, status, mimetype="application/json")


def pack(answer: Response) -> None:
    """Packs long JSON for those who can unpack it: a take with thousands of keys is mostly the same few letters."""
    if answer.mimetype != "application/json" or len(answer.data) < MIN_PACKED:
        return
    answer.vary.add("Accept-Encoding")
    if request.accept_encodings.quality("gzip") > 0:
        answer.data = gzip.compress(answer.data, 1)
        answer.content_encoding = "gzip"


def as_bundle(head: Mapping[str, Any], arrays: Mapping[str, np.ndarray]) -> Response:
    """Arrays as little-endian float32, whole numbers as int32, behind a JSON head, all aligned to four bytes.

    "DYNB", length of the head (uint32), the head padded with spaces, then the arrays in the order of head.arrays,
    each {"name", "shape", "type"} with the type "f4" or "i4".
    """
    types = {n: "i4" if a.dtype.kind == "i" else "f4" for n, a in arrays.items()}
    named = [{"name": n, "shape": list(a.shape), "type": types[n]} for n, a in arrays.items()]
    raw = orjson.dumps({**head, "arrays": named})
    raw += b" " * (-len(raw) % 4)
    body = [MAGIC, struct.pack("<I", len(raw)), raw]
    body += [np.ascontiguousarray(a, f"<{types[n]}").tobytes() for n, a in arrays.items()]
    return Response(b"".join(body), mimetype="application/octet-stream")


def as_file(name: str, data: bytes) -> Response:
    """Bytes to be kept as a file."""
    answer = Response(data, mimetype="application/octet-stream")
    plain = "".join(c if " " <= c <= "~" and c not in '"\\%' else "_" for c in name)
    # The whole name as RFC 8187 has it, and beside it one for those who know ASCII alone.
    more = "" if plain == name else f"; filename*=UTF-8''{quote(name, safe='')}"
    answer.headers["Content-Disposition"] = f'attachment; filename="{plain}"{more}'
    return answer


def as_medium(medium: Medium, mimetype: str) -> Response:
    """Bytes that never change under their hash, whole or one range of them (RFC 9110), sent in pieces as they are read."""
    headers = Headers(
        {"Accept-Ranges": "bytes", "ETag": f'"{medium.hash}"', "Cache-Control": "private, max-age=31536000"}
    )
    if request.if_none_match.contains(medium.hash):
        return Response(status=304, headers=headers)
    start, stop, status = 0, medium.size, 200
    asked = request.range if request.if_range.etag in (None, medium.hash) else None
    if asked is not None and asked.units == "bytes":
        wanted = asked.range_for_length(medium.size)
        if wanted is None:
            raise RequestedRangeNotSatisfiable(medium.size)
        start, stop, status = *wanted, 206
        headers["Content-Range"] = f"bytes {start}-{stop - 1}/{medium.size}"
    headers["Content-Length"] = str(stop - start)
    pieces = () if request.method == "HEAD" else medium.pieces(start, stop)
    return Response(pieces, status, headers, mimetype)
