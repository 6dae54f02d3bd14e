"""Writes a figure as a glTF binary with sparse morph targets, a skin and textures."""

from dataclasses import dataclass, field

import numpy as np
from pygltflib import (
    GLTF2,
    Accessor,
    AccessorSparseIndices,
    AccessorSparseValues,
    Asset,
    Attributes,
    Image,
    Material,
    Mesh,
    Node,
    PbrMetallicRoughness,
    Primitive,
    Sampler,
    Scene,
    Skin,
    Sparse,
    Texture,
    TextureInfo,
)

from dynaface.core.body.rotations import rotate
from dynaface.formats.gltf.document import Appender
from tools.characters.base import Rig
from tools.characters.surface import Drawn

ARRAY_BUFFER, ELEMENT_BUFFER = 34962, 34963
STILL = 2e-5  # metres: a smaller offset is left out


@dataclass
class Piece:
    """One primitive: drawn vertices with positions and normals in metres, weights over joints, a material's name.

    shapes: target -> (vertices, 3) offsets and normal offsets of the drawn vertices.
    """

    surface: Drawn
    positions: np.ndarray
    normals: np.ndarray
    weights: np.ndarray
    material: str
    shapes: dict[str, tuple[np.ndarray, np.ndarray]] = field(default_factory=dict)


class Writer:
    """Collects meshes, then gives the file's bytes."""

    def __init__(self, rig: Rig, name: str, credit: str, stance: dict[str, np.ndarray] | None = None) -> None:
        """stance: joint -> (4,) rotation at rest, for joints that nothing hangs on."""
        self.document = GLTF2(asset=Asset(version="2.0", generator="Dynaface character tools", copyright=credit))
        self.document.scenes = [Scene(nodes=[], name=name)]
        self.document.scene = 0
        self.document.samplers = [Sampler(magFilter=9729, minFilter=9987, wrapS=10497, wrapT=10497)]
        self.out = Appender(self.document)
        self.materials: dict[str, int] = {}
        self.rig = rig
        self._skeleton(stance or {})

    def _skeleton(self, stance: dict[str, np.ndarray]) -> None:
        heads = self.rig.heads
        for joint, name in enumerate(self.rig.names):
            parent = self.rig.parents[joint]
            offset = heads[joint] - (heads[parent] if parent >= 0 else 0)
            children = [c for c, p in enumerate(self.rig.parents) if p == joint]
            node = Node(name=name, translation=[float(v) for v in offset], children=children)
            if name in stance:
                node.rotation = [float(v) for v in stance[name]]
            self.document.nodes.append(node)
        inverse = np.tile(np.eye(4, dtype=np.float32), (len(heads), 1, 1))
        inverse[:, 3, :3] = -heads  # glTF matrices are column-major
        for joint, name in enumerate(self.rig.names):
            if name in stance:
                back = stance[name] * [-1, -1, -1, 1]
                # Rows of this array are the columns of the matrix: where each axis and the origin go.
                inverse[joint, :3, :3] = rotate(back, np.eye(3))
                inverse[joint, 3, :3] = rotate(back, -heads[joint])
        bind = self.out.accessor(inverse.reshape(len(heads), 16), "MAT4")
        self.document.skins = [Skin(joints=list(range(len(heads))), inverseBindMatrices=bind, skeleton=0)]
        self.document.scenes[0].nodes.append(0)

    def image(self, raw: bytes, mime: str) -> int:
        """A texture of the image's bytes."""
        self.document.images.append(Image(bufferView=self.out.view(raw), mimeType=mime))
        self.document.textures.append(Texture(source=len(self.document.images) - 1, sampler=0))
        return len(self.document.textures) - 1

    def material(self, name: str, colour: tuple[float, float, float], rough: float, texture: int | None = None,
                 double: bool = False, alpha: float = 1.0) -> None:  # fmt: skip
        """A material by name; colour in linear RGB."""
        pbr = PbrMetallicRoughness(baseColorFactor=[*colour, alpha], metallicFactor=0.0, roughnessFactor=rough)
        if texture is not None:
            pbr.baseColorTexture = TextureInfo(index=texture)
        made = Material(name=name, pbrMetallicRoughness=pbr, doubleSided=double, alphaCutoff=None)
        made.alphaMode = "BLEND" if alpha < 1 else "OPAQUE"
        self.materials[name] = len(self.document.materials)
        self.document.materials.append(made)

    def mesh(self, name: str, pieces: list[Piece], targets: tuple[str, ...] = ()) -> None:
        """A skinned mesh node; all its pieces carry the same targets."""
        primitives = [self._primitive(p, targets) for p in pieces]
        mesh = Mesh(name=name, primitives=primitives)
        if targets:
            mesh.extras = {"targetNames": list(targets)}
            mesh.weights = [0.0] * len(targets)
        self.document.meshes.append(mesh)
        self.document.nodes.append(Node(name=name, mesh=len(self.document.meshes) - 1, skin=0))
        self.document.scenes[0].nodes.append(len(self.document.nodes) - 1)

    def _primitive(self, piece: Piece, targets: tuple[str, ...]) -> Primitive:
        position = piece.positions.astype(np.float32)
        top = np.argsort(-piece.weights, axis=1)[:, :4]
        held = np.take_along_axis(piece.weights, top, axis=1)
        held /= held.sum(axis=1, keepdims=True)
        quantised = np.round(held * 255).astype(int)
        quantised[:, 0] += 255 - quantised.sum(axis=1)
        top[quantised == 0] = 0
        weights = self.out.accessor(quantised.astype(np.uint8), "VEC4", target=ARRAY_BUFFER)
        self.document.accessors[weights].normalized = True
        attributes = Attributes(
            POSITION=self.out.accessor(position, "VEC3", limits=True, target=ARRAY_BUFFER),
            NORMAL=self.out.accessor(_unit(piece.normals).astype(np.float32), "VEC3", target=ARRAY_BUFFER),
            TEXCOORD_0=self.out.accessor(
                (piece.surface.uv * [1, -1] + [0, 1]).astype(np.float32), "VEC2", target=ARRAY_BUFFER
            ),
            JOINTS_0=self.out.accessor(top.astype(np.uint8), "VEC4", target=ARRAY_BUFFER),
            WEIGHTS_0=weights,
        )
        index_type = np.uint16 if len(position) < 65535 else np.uint32
        indices = self.out.accessor(
            piece.surface.tris.astype(index_type).reshape(-1, 1), "SCALAR", target=ELEMENT_BUFFER
        )
        made = [
            {
                "POSITION": self._sparse(piece.shapes[t][0], piece.shapes[t][0], limits=True),
                "NORMAL": self._sparse(piece.shapes[t][1], piece.shapes[t][0]),
            }
            for t in targets
        ]
        return Primitive(
            attributes=attributes,
            indices=indices,
            material=self.materials[piece.material],
            targets=made or None,
            mode=4,
        )

    def _sparse(self, values: np.ndarray, offsets: np.ndarray, limits: bool = False) -> int:
        normal_moves = np.abs(values).max(axis=1) > (0.01 if not limits else STILL)
        rows = np.flatnonzero((np.abs(offsets).max(axis=1) > STILL) if limits else normal_moves)
        accessor = Accessor(componentType=5126, count=len(values), type="VEC3", byteOffset=None)
        if len(rows):
            accessor.sparse = Sparse(
                count=len(rows),
                indices=AccessorSparseIndices(
                    bufferView=self.out.view(rows.astype(np.uint16).tobytes()), componentType=5123
                ),
                values=AccessorSparseValues(bufferView=self.out.view(values[rows].astype(np.float32).tobytes())),
            )
        if limits:
            full = np.zeros_like(values, np.float32)
            full[rows] = values[rows]
            accessor.min = [float(v) for v in full.min(axis=0)]
            accessor.max = [float(v) for v in full.max(axis=0)]
        self.document.accessors.append(accessor)
        return len(self.document.accessors) - 1

    def finish(self) -> bytes:
        """The file."""
        self.out.finish()
        return b"".join(self.document.save_to_bytes())


def _unit(vectors: np.ndarray) -> np.ndarray:
    """(n, 3) of length one; up where there is no direction, as at the point of a blade: glTF wants one everywhere."""
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.where(length < 1e-9, [0.0, 1.0, 0.0], vectors / np.maximum(length, 1e-12))
