"""A .gltf with its files, in a .zip or with everything inside it, made one glTF binary. Nothing is unpacked to the disk."""

import base64
import binascii
import json
import struct
from collections.abc import Callable
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote

from dynaface.core.errors import InputError, LimitError
from dynaface.formats.archive import Archive, open_archive
from dynaface.formats.stored import Held

MAX_FILES, MAX_BYTES, MAX_JSON = 2000, 256_000_000, 64_000_000
Fetch = Callable[[str], bytes]


def is_archive(head: bytes) -> bool:
    """A .zip that holds a .gltf: its names stand at its end as well as before each file."""
    return head[:4] == b"PK\x03\x04" and b".gltf" in head.lower()


def is_plain(head: bytes) -> bool:
    """A .gltf by itself: JSON with an asset."""
    return (
        head.lstrip()[:1] == b"{"
        and b'"asset"' in head
        and (b'"meshes"' in head or b'"nodes"' in head or b'"buffers"' in head)
    )


def pack(data: bytes) -> bytes:
    """The glTF binary of an archive or of a .gltf with its data inside; raises InputError."""
    if is_plain(data[:65536]):
        return _packed(data, _nothing)
    with open_archive(Held(data), MAX_BYTES) as archive:
        return _from_archive(archive)


def _nothing(uri: str) -> bytes:
    raise InputError(f"the file needs {uri[:120]!r} beside it", hint="Put the .gltf and its files into one .zip")


def _from_archive(archive: Archive) -> bytes:
    infos = {i.filename: i for i in archive.members}
    if len(infos) > MAX_FILES:
        raise LimitError(f"the archive has {len(infos)} files", hint=f"At most {MAX_FILES}")
    found = [n for n in infos if n.lower().endswith(".gltf")]
    if len(found) != 1:
        raise InputError(f"the archive has {len(found)} .gltf files", hint="Put one character into one archive")
    folder = PurePosixPath(found[0]).parent

    def fetch(uri: str) -> bytes:
        name = unquote(uri)
        path = PurePosixPath(name)
        if "\\" in name or "://" in name or path.is_absolute() or ".." in path.parts or name[1:2] == ":":
            raise InputError(
                f"the file names {uri[:120]!r}, which is not beside it", hint="Only files of the archive are read"
            )
        held = infos.get(str(folder / path))
        if held is None:
            raise InputError(f"the archive has no {uri[:120]!r}", hint="Put all files of the character into it")
        return archive.read(held, MAX_BYTES)

    return _packed(archive.read(infos[found[0]], MAX_JSON), fetch)


def _packed(raw: bytes, fetch: Fetch) -> bytes:
    try:
        document: Any = json.loads(raw)
    except (ValueError, RecursionError) as error:
        raise InputError(f"the .gltf is no JSON: {str(error)[:120]}", hint="Export it again") from None
    if not isinstance(document, dict):
        raise InputError("the .gltf is no glTF document", hint="Export it again")
    parts: list[bytes] = []
    starts: list[int] = []
    length = 0
    for number, buffer in enumerate(_dicts(document, "buffers")):
        data = _data(buffer.get("uri"), f"buffer {number}", fetch)
        wanted = buffer.get("byteLength")
        if not isinstance(wanted, int) or not 0 <= wanted <= len(data):
            raise InputError(
                f"buffer {number} says it has {wanted} bytes, but {len(data)} are there", hint="Export it again"
            )
        starts.append(length)
        length = _add(parts, data[:wanted], length)
    views = _dicts(document, "bufferViews")
    for number, view in enumerate(views):
        at = view.get("buffer")
        if not isinstance(at, int) or not 0 <= at < len(starts):
            raise InputError(f"buffer view {number} names a buffer that is not there")
        offset = view.get("byteOffset") or 0
        if not isinstance(offset, int):
            raise InputError(f"buffer view {number} begins at {offset!r:.80}")
        view["byteOffset"] = offset + starts[at]
        view["buffer"] = 0
    for number, image in enumerate(_dicts(document, "images")):
        if "uri" in image:
            data = _data(image.pop("uri"), f"picture {number}", fetch)
            image.setdefault("mimeType", "image/png" if data[:4] == b"\x89PNG" else "image/jpeg")
            image["bufferView"] = len(views)
            views.append({"buffer": 0, "byteOffset": length, "byteLength": len(data)})
            length = _add(parts, data, length)
    document["bufferViews"] = views
    document["buffers"] = [{"byteLength": length}] if length else []
    return _binary(document, b"".join(parts))


def _binary(document: dict[str, Any], body: bytes) -> bytes:
    text = json.dumps({k: v for k, v in document.items() if v != []}).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if body:
        chunks += struct.pack("<I4s", len(body), b"BIN\0") + body
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def _add(parts: list[bytes], data: bytes, length: int) -> int:
    padded = data + bytes(-len(data) % 4)
    if length + len(padded) > MAX_BYTES:
        raise LimitError("the character is more than 256 MB", hint="Bring a smaller one")
    parts.append(padded)
    return length + len(padded)


def _dicts(document: dict[str, Any], name: str) -> list[dict[str, Any]]:
    held = document.get(name, [])
    if not isinstance(held, list) or not all(isinstance(h, dict) for h in held):
        raise InputError(f"the {name} of the .gltf are not what glTF says", hint="Export it again")
    return held


def _data(uri: Any, what: str, fetch: Fetch) -> bytes:
    if not isinstance(uri, str):
        raise InputError(f"{what} has no data", hint="Export the character as .glb")
    if not uri.startswith("data:"):
        return fetch(uri)
    head, _, text = uri.partition(",")
    try:
        return base64.b64decode(text, validate=True) if head.endswith(";base64") else unquote(text).encode("latin-1")
    except (binascii.Error, ValueError) as error:
        raise InputError(f"the data of {what} cannot be read: {error}", hint="Export it again") from None
