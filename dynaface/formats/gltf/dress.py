"""What a mesh of a glTF wears: its normals, its places on pictures, and which triangles have which material."""

from dataclasses import dataclass

import numpy as np
from pygltflib import GLTF2

from dynaface.core.cast.geometry import MeshGeometry
from dynaface.formats.gltf.binding import Binding
from dynaface.formats.gltf.document import scaled_array

HELD_BY = 4  # joints that hold a vertex at most, as glTF has it
Array = np.ndarray


@dataclass(frozen=True)
class Dress:
    """normals: (v, 3), places: (v, 2) from the upper left corner of a picture, None where not all of the mesh has them; parts: (first triangle, stop,
    material or None).
    """

    normals: Array | None
    places: Array | None
    parts: tuple[tuple[int, int, int | None], ...]


def dress_of(document: GLTF2, node: int, points: int) -> Dress:
    """What the mesh of a node wears, its primitives in the order in which `read_geometry` puts them together."""
    mesh = document.meshes[document.nodes[node].mesh]
    primitives = [p for p in mesh.primitives if p.attributes.POSITION is not None]
    found: dict[str, Array | None] = {}
    for wanted, width in (("NORMAL", 3), ("TEXCOORD_0", 2)):
        held = [getattr(p.attributes, wanted) for p in primitives]
        values = None if any(a is None for a in held) else np.concatenate([scaled_array(document, a) for a in held])
        found[wanted] = values if values is not None and values.shape == (points, width) else None
    parts, at = [], 0
    for primitive in primitives:
        held = primitive.indices if primitive.indices is not None else primitive.attributes.POSITION
        count = document.accessors[held].count
        stop = at + (count // 3 if primitive.mode in (None, 4) else max(count - 2, 0))
        known = primitive.material is not None and 0 <= primitive.material < len(document.materials)
        parts.append((at, stop, primitive.material if known else None))
        at = stop
    return Dress(found["NORMAL"], found["TEXCOORD_0"], tuple(parts))


def holds_of(binding: Binding, mesh: MeshGeometry) -> tuple[Array, Array]:
    """(joints (v, 4), weights (v, 4) that add up to 1 or are all 0) of a skinned mesh."""
    held = np.zeros((len(mesh.points), max(len(binding.joints), HELD_BY)))
    number = {name: n for n, name in enumerate(binding.joints)}
    for joint, weights in mesh.held.items():
        held[:, number[joint]] = weights
    order = np.argsort(-held, axis=1, kind="stable")[:, :HELD_BY]
    weights = np.take_along_axis(held, order, axis=1)
    total = weights.sum(axis=1, keepdims=True)
    weights = np.divide(weights, total, out=np.zeros_like(weights), where=total > 0)
    return np.where(weights > 0, order, 0), weights


def picture_of(document: GLTF2, material: int) -> int | None:
    """The number of the image that colours a material."""
    plain = document.materials[material].pbrMetallicRoughness
    texture = plain.baseColorTexture if plain else None
    if texture is None or texture.index is None or not 0 <= texture.index < len(document.textures):
        return None
    source = document.textures[texture.index].source
    return source if source is not None and 0 <= source < len(document.images) else None


def image_bytes(document: GLTF2, image: int) -> tuple[str, bytes] | None:
    """(kind, bytes) of an image that lies inside the file; None for another."""
    found = document.images[image]
    if found.bufferView is None or not found.mimeType:
        return None
    view = document.bufferViews[found.bufferView]
    start = view.byteOffset or 0
    return found.mimeType, (document.binary_blob() or b"")[start : start + view.byteLength]


@dataclass(frozen=True)
class Look:
    """colour: red, green, blue, opacity, linear 0..1; blended: whether its opacity counts; both: whether its back is seen."""

    colour: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    metallic: float = 0.0
    roughness: float = 1.0
    blended: bool = False
    both: bool = False


def colour_of(document: GLTF2, material: int | None) -> Look:
    """What a material looks like, as glTF has it where nothing is said."""
    if material is None:
        return Look()
    found = document.materials[material]
    blended, both = found.alphaMode in ("BLEND", "MASK"), bool(found.doubleSided)
    plain = found.pbrMetallicRoughness
    if plain is None:
        return Look(metallic=1.0, blended=blended, both=both)
    red, green, blue, opacity = (float(c) for c in plain.baseColorFactor or [1, 1, 1, 1])
    metallic, roughness = (1.0 if v is None else float(v) for v in (plain.metallicFactor, plain.roughnessFactor))
    return Look((red, green, blue, opacity), metallic, roughness, blended, both)
