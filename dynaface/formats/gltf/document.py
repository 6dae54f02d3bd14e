"""A glTF binary as a checked document: container, accessors, nodes."""

import json
import struct
from typing import Any

import numpy as np
from pygltflib import GLTF2, Accessor, Buffer, BufferView

from dynaface.core.errors import InputError
from dynaface.formats.gltf.decode import decode_document
from dynaface.formats.gltf.schema import check_kinds

COMPONENTS: dict[int, tuple[str, int]] = {
    5120: ("i1", 1), 5121: ("u1", 1), 5122: ("<i2", 2), 5123: ("<u2", 2), 5125: ("<u4", 4), 5126: ("<f4", 4),
}  # fmt: skip
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
MAX_PARTS = {
    "nodes": 5000,
    "meshes": 2000,
    "accessors": 20_000,
    "bufferViews": 40_000,
    "animations": 1000,
    "skins": 200,
}
MAX_VALUES, MAX_JSON = 60_000_000, 64_000_000
# What a file may ask for and still be read right by us.
_UNDERSTOOD = {"KHR_materials_unlit", "KHR_texture_transform", "KHR_materials_specular", "KHR_mesh_quantization",
               "KHR_materials_emissive_strength", "VRMC_vrm"}  # fmt: skip
_COMPRESSED = "Export it again with mesh compression switched off"
_REFUSED = {
    "KHR_draco_mesh_compression": (
        "its meshes are compressed (Draco), and compression changes the shapes",
        _COMPRESSED,
    ),
    "EXT_meshopt_compression": ("its meshes are compressed (meshopt)", _COMPRESSED),
    "KHR_meshopt_compression": ("its meshes are compressed (meshopt)", _COMPRESSED),
    "KHR_texture_basisu": ("its pictures are in a form that we do not show", "Export it with PNG or JPEG pictures"),
}


def is_glb(head: bytes) -> bool:
    """Whether the bytes begin as a glTF binary."""
    return head[:4] == b"glTF"


def open_glb(data: bytes) -> GLTF2:
    """The document; raises InputError naming the chunk and byte."""
    if len(data) < 20 or not is_glb(data):
        raise InputError("this is no glTF binary", where="byte 0", hint="Export the character as .glb")
    version, length = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise InputError(f"this is glTF version {version}", where="byte 4", hint="Export it as glTF 2.0")
    if length > len(data):
        raise InputError(f"the file says it has {length} bytes, but {len(data)} are there", where="byte 8",
                         hint="It was cut off; export it again")  # fmt: skip
    at, binary = 12, b""
    while at + 8 <= length:
        size, kind = struct.unpack_from("<I4s", data, at)
        if at + 8 + size > length:
            raise InputError(f"chunk {kind.decode('latin-1').strip()!r} is cut off", where=f"byte {at}")
        if kind == b"BIN\0":
            binary = data[at + 8 : at + 8 + size]
        at += 8 + size
    plain = _checked_json(data)
    try:
        document = decode_document(plain, binary)
    except (TypeError, ValueError, AttributeError, OverflowError) as error:
        raise InputError(f"the JSON chunk cannot be read: {type(error).__name__}", where="byte 20") from None
    for name in sorted(set(document.extensionsRequired or []) - _UNDERSTOOD):
        what, hint = _REFUSED.get(name, ("something that we cannot read", "Export it without that extension"))
        raise InputError(f"the file needs the extension {name}: {what}", hint=hint)
    _check_nodes(document)
    return document


def _checked_json(data: bytes) -> dict[str, Any]:
    """The JSON chunk, with no more parts than are read and each of the kind that the standard wants; raises InputError."""
    size, kind = struct.unpack_from("<I4s", data, 12)
    if kind != b"JSON" or size > MAX_JSON:
        raise InputError("the first chunk is no JSON of a readable size", where="byte 12", hint="Export the file again")
    try:
        plain = json.loads(data[20 : 20 + size])
    except (ValueError, RecursionError) as error:
        raise InputError(f"the JSON chunk cannot be read: {str(error)[:100]}", where="byte 20") from None
    if not isinstance(plain, dict):
        raise InputError("the JSON chunk is no glTF document", where="byte 20")
    for part, most in MAX_PARTS.items():
        held = plain.get(part, [])
        if not isinstance(held, list) or len(held) > most:
            count = len(held) if isinstance(held, list) else "no list of"
            raise InputError(f"the file has {count} {part}; {most} are read at most")
    moved = [a.get("channels") for a in plain.get("animations", []) if isinstance(a, dict)]
    if sum(len(m) for m in moved if isinstance(m, list)) > MAX_PARTS["accessors"]:
        raise InputError("the animations of the file have too many channels")
    check_kinds(plain)
    return plain


def _check_nodes(document: GLTF2) -> None:
    """Every number that a node holds must name something, and the nodes must be a forest."""
    count = len(document.nodes)
    parent = [-1] * count
    for index, node in enumerate(document.nodes):
        for child in node.children or []:
            if not isinstance(child, int) or not 0 <= child < count or parent[child] != -1 or child == index:
                raise InputError(f"node {index} has a child that is not there or not its own")
            parent[child] = index
        for name, held in (("mesh", document.meshes), ("skin", document.skins)):
            at = getattr(node, name)
            if at is not None and (not isinstance(at, int) or not 0 <= at < len(held)):
                raise InputError(f"node {index} names a {name} that is not there")
    state = [0] * count  # 0 not seen, 1 on the way up, 2 known to end at a root
    for start in range(count):
        way, at = [], start
        while at >= 0 and state[at] == 0:
            state[at] = 1
            way.append(at)
            at = parent[at]
        if at >= 0 and state[at] == 1:
            raise InputError("the nodes go round in a circle", where=f"node {at}")
        for seen in way:
            state[seen] = 2


def accessor_array(document: GLTF2, index: int) -> np.ndarray:
    """(count, width) of an accessor, sparse ones filled in; raises InputError when it points outside the file."""
    if not isinstance(index, int) or not 0 <= index < len(document.accessors):
        raise InputError(f"accessor {index} is not there")
    accessor = document.accessors[index]
    code, size = _component(accessor.componentType, index)
    width = WIDTHS.get(accessor.type, 0)
    if not width:
        raise InputError(
            f"accessor {index} is of type {accessor.type!r}", hint="glTF knows SCALAR, VEC2 .. VEC4, MAT2 .. MAT4"
        )
    count = accessor.count
    if not isinstance(count, int) or not 0 <= count <= MAX_VALUES // width:
        raise InputError(f"accessor {index} says that it has {count} values; {MAX_VALUES // width} are read at most")
    if accessor.bufferView is None:
        out = np.zeros((count, width), code)
    else:
        out = _view(document, accessor.bufferView, accessor.byteOffset or 0, count, code, size, width, index)
    if accessor.sparse is not None:
        sparse = accessor.sparse
        if not isinstance(sparse.count, int) or not 0 <= sparse.count <= count:
            raise InputError(f"accessor {index} is sparse with {sparse.count} of {count} values")
        kind, step = _component(sparse.indices.componentType, index)
        rows = _view(
            document, sparse.indices.bufferView, sparse.indices.byteOffset or 0, sparse.count, kind, step, 1, index
        )
        values = _view(
            document, sparse.values.bufferView, sparse.values.byteOffset or 0, sparse.count, code, size, width, index
        )
        if sparse.count and not 0 <= int(rows.min()) <= int(rows.max()) < count:
            raise InputError(f"accessor {index} is sparse beyond its end")
        out = out.copy()
        out[rows[:, 0].astype(np.int64)] = values
    return out


def scaled_array(document: GLTF2, index: int) -> np.ndarray:
    """(count, width) of an accessor as float64: whole numbers that stand for 0..1 or -1..1 are divided; all finite."""
    values = accessor_array(document, index).astype(np.float64)
    accessor = document.accessors[index]
    if accessor.normalized and accessor.componentType != 5126:
        values = np.maximum(values / float(np.iinfo(COMPONENTS[accessor.componentType][0]).max), -1.0)
    if not np.isfinite(values).all():
        raise InputError(f"accessor {index} has values that are not finite", hint="Export the file again")
    return values


def vectors(document: GLTF2, index: int) -> np.ndarray:
    """(count, 3) of an accessor of places or moves as float64; raises InputError for another width."""
    found = scaled_array(document, index)
    if found.shape[1] != 3:
        raise InputError(f"accessor {index} has {found.shape[1]} numbers for each vertex, where a place has 3")
    return found


def _component(kind: Any, accessor: int) -> tuple[str, int]:
    if kind not in COMPONENTS:
        raise InputError(f"accessor {accessor} has numbers of kind {kind!r}, which glTF does not know")
    return COMPONENTS[kind]


def _view(document: GLTF2, view_index: int, offset: int, count: int, code: str, size: int, width: int, accessor: int
          ) -> np.ndarray:  # fmt: skip
    if not isinstance(view_index, int) or not 0 <= view_index < len(document.bufferViews):
        raise InputError(f"accessor {accessor} names a buffer view that is not there")
    view = document.bufferViews[view_index]
    blob = document.binary_blob() or b""
    if view.buffer != 0:
        raise InputError(
            f"buffer view {view_index} lies in buffer {view.buffer}", hint="A .glb has one buffer, of its own"
        )
    start = (view.byteOffset or 0) + offset
    stride = view.byteStride or size * width
    if not size * width <= stride <= 65_536:
        raise InputError(f"buffer view {view_index} has a stride of {stride} bytes")
    end = start + stride * (count - 1) + size * width if count else start
    if end > len(blob) or start < 0:
        raise InputError(f"accessor {accessor} reads {end} bytes of a buffer that has {len(blob)}",
                         hint="The file was cut off or damaged; export it again")  # fmt: skip
    return np.ndarray((count, width), code, blob, start, (stride, size))


class Appender:
    """Adds arrays to a document's binary buffer, aligned to four bytes, as new accessors."""

    def __init__(self, document: GLTF2) -> None:
        self.document = document
        self.parts: list[bytes] = [document.binary_blob() or b""]
        self.length = len(self.parts[0])

    def view(self, raw: bytes, target: int | None = None) -> int:
        """A buffer view of the bytes."""
        pad = -self.length % 4
        self.parts.append(bytes(pad) + raw)
        self.document.bufferViews.append(
            BufferView(buffer=0, byteOffset=self.length + pad, byteLength=len(raw), target=target)
        )
        self.length += pad + len(raw)
        return len(self.document.bufferViews) - 1

    def accessor(self, array: np.ndarray, kind: str, *, limits: bool = False, target: int | None = None) -> int:
        """An accessor of float32, uint16, uint32 or uint8 (count, width) values."""
        flat = np.ascontiguousarray(array)
        component = {"f4": 5126, "u2": 5123, "u4": 5125, "u1": 5121}[flat.dtype.str[1:]]
        rows: Any = flat.reshape(len(flat), -1)
        self.document.accessors.append(
            Accessor(
                bufferView=self.view(flat.tobytes(), target),
                componentType=component,
                count=flat.size // WIDTHS[kind],
                type=kind,
                min=[float(v) for v in rows.min(axis=0)] if limits else None,
                max=[float(v) for v in rows.max(axis=0)] if limits else None,
            )
        )
        return len(self.document.accessors) - 1

    def finish(self) -> None:
        """Writes the buffer back into the document."""
        for accessor in self.document.accessors:
            if accessor.bufferView is None:
                accessor.byteOffset = None  # the library fills in a 0 that the standard forbids here
        blob = b"".join(self.parts)
        blob += bytes(-len(blob) % 4)
        self.document.set_binary_blob(blob)
        if not self.document.buffers:
            self.document.buffers.append(Buffer())
        self.document.buffers[0].byteLength = len(blob)
        self.document.buffers[0].uri = None
