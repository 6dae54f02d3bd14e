"""The geometry of a character's file: nodes, several primitives, whole numbers, names that come twice."""

import numpy as np
import pytest
from pygltflib import (
    GLTF2,
    Animation,
    AnimationChannel,
    AnimationChannelTarget,
    AnimationSampler,
    Attributes,
    Mesh,
    Node,
    Primitive,
)

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError
from dynaface.formats.gltf.document import Appender
from dynaface.formats.gltf.geometry import read_geometry

POINTS = np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0)], np.float32)
MOVED = np.array([(0, 0, 0), (0, 0, 0.5), (0, 0, 0)], np.float32)


def glb(names=("jawOpen",), targets=1, primitives=1, animated=False, cut=0, **node):
    """A file with one mesh of triangles under a node."""
    document = GLTF2()
    out = Appender(document)

    def vectors(values):
        return out.accessor(values, "VEC3", limits=True)

    made = [
        Primitive(
            attributes=Attributes(POSITION=vectors(POINTS)),
            targets=[{"POSITION": vectors(MOVED[cut:])} for _ in range(targets)],
        )
        for _ in range(primitives)
    ]
    document.meshes = [Mesh(primitives=made, extras={"targetNames": list(names)}, weights=[0.0] * targets)]
    document.nodes = [Node(name="above", children=[1], translation=[0, 2, 0]), Node(name="face", mesh=0, **node)]
    if animated:
        times, values = (
            out.accessor(np.array([[0], [1]], np.float32), "SCALAR", limits=True),
            out.accessor(np.zeros((2, 1), np.float32), "SCALAR"),
        )
        channel = AnimationChannel(sampler=0, target=AnimationChannelTarget(node=1, path="weights"))
        document.animations = [
            Animation(name="idle", samplers=[AnimationSampler(input=times, output=values)], channels=[channel])
        ]
    out.finish()
    return b"".join(document.save_to_bytes())


def test_nodes_above_and_the_mesh_s_own_place_points_and_turn_offsets():
    half = np.sqrt(0.5)
    made = read_geometry(glb(rotation=[0, half, 0, half], scale=[2, 2, 2])).meshes[0]
    np.testing.assert_allclose(made.points, [(0, 2, 0), (0, 2, -2), (0, 4, 0)], atol=1e-6)
    np.testing.assert_allclose(made.offsets["jawOpen"][1], (1.0, 0, 0), atol=1e-6)


def test_a_matrix_stands_for_turn_and_place():
    matrix = np.eye(4, dtype=np.float32)
    matrix[:3, 3] = (1, 0, 0)
    made = read_geometry(glb(matrix=matrix.T.ravel().tolist())).meshes[0]
    np.testing.assert_allclose(made.points[0], (1, 2, 0), atol=1e-6)


def test_primitives_are_one_mesh_and_doubled_names_are_told():
    made = read_geometry(glb(names=("jawOpen", "jawOpen"), targets=2, primitives=2))
    assert made.meshes[0].points.shape == (6, 3)
    assert made.meshes[0].offsets["jawOpen"].shape == (6, 3)
    assert made.twice == (("face", "jawOpen"),)


def test_what_the_file_animates_is_told():
    assert read_geometry(glb(animated=True)).animated == (("face", "idle"),)
    assert read_geometry(glb()).animated == ()


def test_a_target_of_another_length_is_refused():
    with pytest.raises(InputError, match="moves 2 of 3 vertices"):
        read_geometry(glb(cut=1))


def test_odile_moves_her_jaw_down():
    made = {m.mesh: m for m in read_geometry((ASSETS / "characters/odile.glb").read_bytes()).meshes}
    face = made["face"]
    lowest = face.offsets["jawOpen"][:, 1].min()
    assert -0.06 < lowest < -0.01
    assert 1.4 < face.points[:, 1].mean() < 1.8
