"""A document is what the glTF library's own reader makes of the same bytes."""

import dataclasses
import json
import struct
import warnings

import pytest
from pygltflib import GLTF2, Attributes

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.formats.gltf.decode import decode_document
from dynaface.formats.gltf.document import open_glb

FILES = sorted(ASSETS.rglob("*.glb"))


def glb(plain, binary=b""):
    text = json.dumps(plain).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def told(value):
    """All that an object holds, as plain data with the names of its types."""
    if dataclasses.is_dataclass(value) or isinstance(value, Attributes):
        return type(value).__name__, {k: told(v) for k, v in vars(value).items() if not k.startswith("_")}
    if isinstance(value, list):
        return [told(v) for v in value]
    return type(value).__name__, value


def by_library(data):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return GLTF2.load_from_bytes(data)


@pytest.mark.parametrize("path", FILES, ids=lambda p: p.stem)
def test_our_characters_and_props_are_the_same_to_the_last_field(path):
    data = path.read_bytes()
    ours, theirs = open_glb(data), by_library(data)
    assert told(ours) == told(theirs)
    assert ours.binary_blob() == theirs.binary_blob()


@pytest.mark.parametrize(
    "plain",
    [
        {"asset": {"version": "2.0"}},
        {"asset": {"version": "2.0", "extras": {"a": [1]}}, "extensionsUsed": ["X"], "extensions": {"X": {"b": 1}}},
        {"asset": {"version": "2.0"}, "nodes": [{"name": None, "children": None, "scale": [1, 2, 3]}, {"mesh": 0}],
         "meshes": [{"primitives": [{"attributes": {"POSITION": 0, "_OWN": 1}, "targets": [{"POSITION": 2}]}],
                     "weights": [0, 1], "extras": {"targetNames": ["a"]}}], "unheard": {"of": 1}},
        {"asset": {"version": "2.0"}, "accessors": [{"componentType": 5126, "count": 1, "type": "SCALAR", "min": [0], "max": [1.5],
          "sparse": {"count": 1, "indices": {"bufferView": 0, "componentType": 5121}, "values": {"bufferView": 0}}}],
         "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [1, 0, 0, 1]}, "emissiveFactor": [0, 0, 0]}]},
    ],
    ids=["nothing", "extensions", "meshes", "sparse and materials"],
)  # fmt: skip
def test_documents_of_all_kinds_are_the_same(plain):
    assert told(decode_document(plain, b"abc")) == told(by_library(glb(plain)))


@pytest.mark.parametrize("factor", [[10**400, 0, 0, 1], ["red", 0, 0, 1], 3, {"a": 1}])
def test_numbers_that_are_none_are_refused(factor):
    plain = {"asset": {"version": "2.0"}, "materials": [{"pbrMetallicRoughness": {"baseColorFactor": factor}}]}
    with pytest.raises(InputError, match="cannot be read"):
        open_glb(glb(plain))


def test_of_several_chunks_of_bytes_the_library_and_we_take_the_last():
    data = glb({"asset": {"version": "2.0"}}, b"1234")
    two = data + struct.pack("<I4s", 4, b"BIN\0") + b"5678"
    two = two[:8] + struct.pack("<I", len(two)) + two[12:]
    assert open_glb(two).binary_blob() == by_library(two).binary_blob() == b"5678"
