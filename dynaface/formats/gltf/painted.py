"""A character of a glTF as it is drawn in pictures."""

from dataclasses import replace

import cv2
import numpy as np
from pygltflib import GLTF2

from dynaface.core.cast.geometry import MeshGeometry
from dynaface.core.errors import InputError
from dynaface.core.picture.draw import Floats, Paint, linear
from dynaface.core.picture.model import Mesh, Skin
from dynaface.formats.gltf.binding import Binding, binding_of
from dynaface.formats.gltf.document import open_glb
from dynaface.formats.gltf.dress import colour_of, dress_of, holds_of, image_bytes, picture_of
from dynaface.formats.gltf.geometry import read_geometry

LARGEST = 2048  # pixels of a picture's longest side that are kept


def painted(data: bytes) -> tuple[tuple[Mesh, ...], Binding | None]:
    """(its meshes that have triangles, how they hang on its joints); raises InputError for one that shows nothing."""
    document = open_glb(data)
    binding = binding_of(document)
    pictures: dict[int, Floats | None] = {}
    nodes = [i for i, node in enumerate(document.nodes) if node.mesh is not None]
    pairs = zip(nodes, read_geometry(data).meshes, strict=True)
    meshes = tuple(_mesh(document, node, mesh, binding, pictures) for node, mesh in pairs if len(mesh.triangles))
    if not meshes:
        raise InputError("the character has no triangles, so there is nothing to see")
    return meshes, binding


def _mesh(
    document: GLTF2, node: int, mesh: MeshGeometry, binding: Binding | None, pictures: dict[int, Floats | None]
) -> Mesh:
    dress = dress_of(document, node, len(mesh.points))
    parts = tuple((first, stop, _paint(document, material, pictures)) for first, stop, material in dress.parts)
    skin = None
    if binding is not None and node in binding.placed:
        joints, weights = np.zeros((len(mesh.points), 4), np.int64), np.zeros((len(mesh.points), 4))
        if node in binding.rigid:
            joints[:, 0], weights[:, 0] = binding.rigid[node], 1
        else:
            joints, weights = holds_of(binding, mesh)
        skin = Skin(joints.astype(np.int64), weights, np.asarray(binding.placed[node]))
    nothing = np.zeros((len(mesh.points), 3))
    places = dress.places if dress.places is not None else nothing[:, :2]
    made = Mesh(mesh.mesh, mesh.points, nothing, places, mesh.triangles, parts, mesh.offsets, skin)
    normals = dress.normals if dress.normals is not None else made.smooth
    return replace(made, normals=np.asarray(normals, np.float64))


def _paint(document: GLTF2, material: int | None, pictures: dict[int, Floats | None]) -> Paint:
    look = colour_of(document, material)
    number = picture_of(document, material) if material is not None else None
    if number is not None and number not in pictures:
        pictures[number] = _picture(document, number)
    *colour, opacity = look.colour
    picture = pictures[number] if number is not None else None
    return Paint(
        np.array(colour, np.float32), picture, 0.5 * (1 - look.roughness), opacity if look.blended else 1.0, look.both
    )


def _picture(document: GLTF2, image: int) -> Floats | None:
    found = image_bytes(document, image)
    pixels = cv2.imdecode(np.frombuffer(found[1], np.uint8), cv2.IMREAD_COLOR) if found else None
    if pixels is None:
        return None
    shrink = LARGEST / max(pixels.shape[:2])
    if shrink < 1:
        pixels = cv2.resize(pixels, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
    return linear(np.ascontiguousarray(pixels[..., ::-1]))
