"""A character of a glTF binary as UsdSkel: its meshes with their shapes, its skeleton, its motion."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdShade, UsdSkel, Vt
from pygltflib import GLTF2

from dynaface.core.cast.geometry import MeshGeometry
from dynaface.core.handover.delivery import Figure
from dynaface.core.handover.few_keys import few_keys
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.perform.perform import Performance
from dynaface.formats.gltf.binding import Binding, binding_of
from dynaface.formats.gltf.document import open_glb, scaled_array
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.usd.names import joint_paths, prim_names
from dynaface.formats.usd.surfaces import add_surfaces, pictures_of

HELD_BY = 4  # joints that hold a vertex at most, as glTF has it
ROOT, SKELETON, MOTION = "root", "Skeleton", "Motion"
Array = np.ndarray


def add_figure(stage: Usd.Stage, path: Sdf.Path, figure: Figure, options: HandoverOptions) -> dict[str, bytes]:
    """Puts a character with its motion on a stage; gives the pictures of its materials, to lie beside it."""
    assert figure.model is not None
    document = open_glb(figure.model)
    binding = binding_of(document)
    UsdSkel.Root.Define(stage, path)
    names = [options.named(n) for n in binding.joints] if binding else [ROOT]
    joints = joint_paths(names, binding.parents if binding else (-1,))
    skeleton = UsdSkel.Skeleton.Define(stage, path.AppendChild(SKELETON))
    skeleton.CreateJointsAttr(joints)
    skeleton.CreateJointNamesAttr(names)
    still = np.eye(4)[None]
    skeleton.CreateBindTransformsAttr(_matrices(binding.binds if binding else still))
    skeleton.CreateRestTransformsAttr(_matrices(binding.rests if binding else still))
    motion = path.AppendChild(MOTION)
    UsdSkel.BindingAPI.Apply(skeleton.GetPrim()).CreateAnimationSourceRel().SetTargets([motion])
    pictures = pictures_of(document, figure.name)
    surfaces = add_surfaces(stage, path.AppendChild("Surfaces"), document, pictures)
    add = _Meshes(stage, path, document, binding, surfaces, figure.performance, options.named)
    add.all(figure.model, tuple(joints))
    _animate(stage, motion, figure.performance, binding, joints, options)
    return dict(pictures.values())


def _matrices(columns: Array) -> Vt.Matrix4dArray:
    """USD multiplies rows."""
    return Vt.Matrix4dArray.FromNumpy(np.ascontiguousarray(columns.transpose(0, 2, 1), np.float64))


@dataclass(frozen=True)
class _Meshes:
    """Adds the meshes of a character under a path."""

    stage: Usd.Stage
    path: Sdf.Path
    document: GLTF2
    binding: Binding | None
    surfaces: list[UsdShade.Material]
    performance: Performance
    named: Callable[[str], str]

    def all(self, model: bytes, joints: tuple[str, ...]) -> None:
        """Every mesh that has triangles."""
        geometry = read_geometry(model)
        nodes = [i for i, node in enumerate(self.document.nodes) if node.mesh is not None]
        for index, name, mesh in zip(nodes, prim_names(m.mesh for m in geometry.meshes), geometry.meshes, strict=True):
            if len(mesh.triangles):
                self._mesh(index, self.path.AppendChild(name), mesh, joints)

    def _mesh(self, index: int, path: Sdf.Path, mesh: MeshGeometry, joints: tuple[str, ...]) -> None:
        out = UsdGeom.Mesh.Define(self.stage, path)
        out.CreatePointsAttr(_vectors(mesh.points))
        out.CreateExtentAttr(_vectors(np.stack([mesh.points.min(axis=0), mesh.points.max(axis=0)])))
        out.CreateFaceVertexCountsAttr(Vt.IntArray([3] * len(mesh.triangles)))
        out.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(mesh.triangles.ravel().astype(np.int32)))
        out.CreateSubdivisionSchemeAttr("none")
        self._dress(index, out, len(mesh.points))
        api = UsdSkel.BindingAPI.Apply(out.GetPrim())
        api.CreateSkeletonRel().SetTargets([self.path.AppendChild(SKELETON)])
        self._hang(index, api, mesh, joints)
        self._shape(path, api, mesh)

    def _dress(self, index: int, out: UsdGeom.Mesh, points: int) -> None:
        """Normals, places on pictures, and which triangles have which surface."""
        primitives = [
            p
            for p in self.document.meshes[self.document.nodes[index].mesh].primitives
            if p.attributes.POSITION is not None
        ]
        for wanted in ("NORMAL", "TEXCOORD_0"):
            held = [getattr(p.attributes, wanted) for p in primitives]
            if any(a is None for a in held):
                continue
            values = np.concatenate([scaled_array(self.document, a) for a in held]).astype(np.float32)
            if len(values) != points:
                continue
            if wanted == "NORMAL":
                out.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(values))
                out.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
            else:
                st = UsdGeom.PrimvarsAPI(out).CreatePrimvar(
                    "st", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex
                )
                st.Set(Vt.Vec2fArray.FromNumpy(np.stack([values[:, 0], 1 - values[:, 1]], axis=1)))
        at = 0
        for number, primitive in enumerate(primitives):
            held = primitive.indices if primitive.indices is not None else primitive.attributes.POSITION
            count = self.document.accessors[held].count
            faces = np.arange(
                at, at + (count // 3 if primitive.mode in (None, 4) else max(count - 2, 0)), dtype=np.int32
            )
            at += len(faces)
            if primitive.material is None or not 0 <= primitive.material < len(self.surfaces):
                continue
            surface = self.surfaces[primitive.material]
            if self.document.materials[primitive.material].doubleSided:
                out.CreateDoubleSidedAttr(True)
            if len(primitives) == 1:
                UsdShade.MaterialBindingAPI.Apply(out.GetPrim()).Bind(surface)
                return
            api = UsdShade.MaterialBindingAPI.Apply(out.GetPrim())
            part = api.CreateMaterialBindSubset(f"part_{number}", Vt.IntArray.FromNumpy(faces))
            UsdShade.MaterialBindingAPI.Apply(part.GetPrim()).Bind(surface)

    def _hang(self, index: int, api: UsdSkel.BindingAPI, mesh: MeshGeometry, joints: tuple[str, ...]) -> None:
        """Which joints hold its vertices."""
        if self.binding is None or index not in self.binding.placed:
            return
        api.CreateGeomBindTransformAttr(Gf.Matrix4d(self.binding.placed[index].T.tolist()))
        if index in self.binding.rigid:
            api.CreateJointIndicesPrimvar(True, 1).Set(Vt.IntArray([self.binding.rigid[index]]))
            api.CreateJointWeightsPrimvar(True, 1).Set(Vt.FloatArray([1.0]))
            return
        held = np.zeros((len(mesh.points), len(joints)))
        for joint, weights in mesh.held.items():
            held[:, self.binding.joints.index(joint)] = weights
        most = min(HELD_BY, len(joints))
        order = np.argsort(-held, axis=1, kind="stable")[:, :most]
        weights = np.take_along_axis(held, order, axis=1)
        total = weights.sum(axis=1, keepdims=True)
        weights = np.divide(weights, total, out=np.zeros_like(weights), where=total > 0)
        api.CreateJointIndicesPrimvar(False, most).Set(Vt.IntArray.FromNumpy(order.astype(np.int32).ravel()))
        api.CreateJointWeightsPrimvar(False, most).Set(Vt.FloatArray.FromNumpy(weights.ravel().astype(np.float32)))

    def _shape(self, path: Sdf.Path, api: UsdSkel.BindingAPI, mesh: MeshGeometry) -> None:
        """Its targets, each with the vertices that it moves."""
        if not mesh.offsets:
            return
        still = set(self.performance.cast.still)
        tokens, paths = [], []
        for (target, offsets), name in zip(
            mesh.offsets.items(), prim_names(map(self.named, mesh.offsets)), strict=True
        ):
            shape = UsdSkel.BlendShape.Define(self.stage, path.AppendChild(name))
            moved = np.flatnonzero(np.abs(offsets).max(axis=1) > 0)
            shape.CreateOffsetsAttr(_vectors(offsets[moved]))
            shape.CreatePointIndicesAttr(Vt.IntArray.FromNumpy(moved.astype(np.int32)))
            # A target that stays still on this mesh alone has a name of its own, which the motion does not have.
            tokens.append(f"{mesh.mesh}:{self.named(target)}" if (mesh.mesh, target) in still else self.named(target))
            paths.append(shape.GetPath())
        api.CreateBlendShapesAttr(tokens)
        api.CreateBlendShapeTargetsRel().SetTargets(paths)


def _vectors(values: Array) -> Vt.Vec3fArray:
    return Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(values, np.float32))


def _animate(stage: Usd.Stage, path: Sdf.Path, made: Performance, binding: Binding | None, joints: list[str], options: HandoverOptions) -> None:  # fmt: skip
    motion = UsdSkel.Animation.Define(stage, path)
    motion.CreateBlendShapesAttr([options.named(t) for t in made.cast.targets])
    _keys(motion.CreateBlendShapeWeightsAttr(), made.cast.weights, options, Vt.FloatArray.FromNumpy)
    motion.CreateJointsAttr(joints)
    places, turns, scales = moving(made, binding)
    _keys(motion.CreateTranslationsAttr(), places, options, Vt.Vec3fArray.FromNumpy)
    _keys(motion.CreateRotationsAttr(), turns, options, Vt.QuatfArray.FromNumpy)
    motion.CreateScalesAttr(Vt.Vec3hArray([Gf.Vec3h(*map(float, s)) for s in scales]))


def moving(made: Performance, binding: Binding | None) -> tuple[Array, Array, Array]:
    """(frames, joints, 3) places in metres against the joint above, (frames, joints, 4) turns, (joints, 3) scales."""
    if binding is None:
        frames = made.channels.frames
        return np.zeros((frames, 1, 3)), np.tile([0.0, 0.0, 0.0, 1.0], (frames, 1, 1)), np.ones((1, 3))
    split = [Gf.Transform(Gf.Matrix4d(rest.T.tolist())) for rest in binding.rests]
    scales = np.array([list(s.GetScale()) for s in split])
    rest_turns = np.array(
        [[*s.GetRotation().GetQuat().GetImaginary(), s.GetRotation().GetQuat().GetReal()] for s in split]
    )
    frames = made.channels.frames
    places = np.tile(binding.rests[:, :3, 3], (frames, 1, 1))
    turns = np.tile(rest_turns, (frames, 1, 1))
    for number, name in enumerate(made.joints):
        turns[:, binding.joints.index(name)] = made.local[:, number]
    moved: Mapping[str, Array] = {**made.shifts, made.root_joint: made.root} if made.root_joint else made.shifts
    for name, shift in moved.items():
        places[:, binding.joints.index(name)] += shift
    return places, turns, scales


def _keys(attribute: Usd.Attribute, values: Array, options: HandoverOptions, packed: Callable[[Array], object]) -> None:
    shown = np.ascontiguousarray(values, np.float32)
    for frame in few_keys(shown, options.tolerance).tolist():
        attribute.Set(packed(shown[frame]), frame)
