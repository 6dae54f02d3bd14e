"""A glTF binary as a checked document: container, accessors, nodes."""

import struct
from typing import Any

import numpy as np
from pygltflib import GLTF2, Accessor, Buffer, BufferView

from dynaface.core.errors import InputError

COMPONENTS: dict[int, tuple[str, int]] = {
    5120: ("i1", 1), 5121: ("u1", 1), 5122: ("<i2", 2), 5123: ("<u2", 2), 5125: ("<u4", 4), 5126: ("<f4", 4),
}  # fmt: skip
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
# What a file may ask for and still be read right by us.
_UNDERSTOOD = {"KHR_materials_unlit", "KHR_texture_transform", "KHR_materials_specular", "KHR_mesh_quantization"}


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
    at = 12
    while at + 8 <= length:
        size, kind = struct.unpack_from("<I4s", data, at)
        if at + 8 + size > length:
            raise InputError(f"chunk {kind.decode('latin-1').strip()!r} is cut off", where=f"byte {at}")
        at += 8 + size
    try:
        document = GLTF2.load_from_bytes(data)
    except Exception as error:  # the library raises many kinds for a damaged JSON chunk
        raise InputError(f"the JSON chunk cannot be read: {type(error).__name__}", where="byte 20") from None
    if document is None:
        raise InputError("the JSON chunk cannot be read", where="byte 20")
    unknown = set(document.extensionsRequired or []) - _UNDERSTOOD
    if unknown:
        raise InputError(f"the file needs the extension {', '.join(sorted(unknown))}",
                         hint="Export it without compression")  # fmt: skip
    return document


def accessor_array(document: GLTF2, index: int) -> np.ndarray:
    """(count, width) of an accessor, sparse ones filled in; raises InputError when it points outside the file."""
    if not 0 <= index < len(document.accessors):
        raise InputError(f"accessor {index} is not there")
    accessor = document.accessors[index]
    code, size = COMPONENTS[accessor.componentType]
    width = WIDTHS[accessor.type]
    if accessor.bufferView is None:
        out = np.zeros((accessor.count, width), code)
    else:
        out = _view(document, accessor.bufferView, accessor.byteOffset or 0, accessor.count, code, size, width, index)
    if accessor.sparse is not None:
        sparse = accessor.sparse
        kind, step = COMPONENTS[sparse.indices.componentType]
        rows = _view(
            document, sparse.indices.bufferView, sparse.indices.byteOffset or 0, sparse.count, kind, step, 1, index
        )
        values = _view(
            document, sparse.values.bufferView, sparse.values.byteOffset or 0, sparse.count, code, size, width, index
        )
        if sparse.count and int(rows.max()) >= accessor.count:
            raise InputError(f"accessor {index} is sparse beyond its end")
        out = out.copy()
        out[rows[:, 0]] = values
    return out


def _view(document: GLTF2, view_index: int, offset: int, count: int, code: str, size: int, width: int, accessor: int
          ) -> np.ndarray:  # fmt: skip
    if not 0 <= view_index < len(document.bufferViews):
        raise InputError(f"accessor {accessor} names a buffer view that is not there")
    view = document.bufferViews[view_index]
    blob = document.binary_blob() or b""
    start = (view.byteOffset or 0) + offset
    stride = view.byteStride or size * width
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
