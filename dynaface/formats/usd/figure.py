"""A character of a glTF binary as UsdSkel: its meshes with their shapes, its skeleton, its motion."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdShade, UsdSkel, Vt
from pygltflib import GLTF2

from dynaface.core.cast.geometry import MeshGeometry
from dynaface.core.handover.delivery import Figure
from dynaface.core.handover.few_keys import few_keys
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.perform.perform import Performance
from dynaface.formats.gltf.binding import Binding, binding_of, locals_of
from dynaface.formats.gltf.document import open_glb
from dynaface.formats.gltf.dress import HELD_BY, dress_of, holds_of
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.handover import Tell
from dynaface.formats.usd.names import joint_paths, prim_names
from dynaface.formats.usd.surfaces import add_surfaces, pictures_of

TOLD = 500  # frames after which it is said how far the writing is
ROOT, SKELETON, MOTION = "root", "Skeleton", "Motion"
Array = np.ndarray


def add_figure(
    stage: Usd.Stage, path: Sdf.Path, figure: Figure, options: HandoverOptions, tell: Tell
) -> dict[str, bytes]:
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
    add.all(figure.model)
    _animate(stage, motion, figure.performance, binding, joints, options, tell)
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

    def all(self, model: bytes) -> None:
        """Every mesh that has triangles."""
        geometry = read_geometry(model)
        nodes = [i for i, node in enumerate(self.document.nodes) if node.mesh is not None]
        for index, name, mesh in zip(nodes, prim_names(m.mesh for m in geometry.meshes), geometry.meshes, strict=True):
            if len(mesh.triangles):
                self._mesh(index, self.path.AppendChild(name), mesh)

    def _mesh(self, index: int, path: Sdf.Path, mesh: MeshGeometry) -> None:
        out = UsdGeom.Mesh.Define(self.stage, path)
        out.CreatePointsAttr(_vectors(mesh.points))
        out.CreateExtentAttr(_vectors(np.stack([mesh.points.min(axis=0), mesh.points.max(axis=0)])))
        out.CreateFaceVertexCountsAttr(Vt.IntArray([3] * len(mesh.triangles)))
        out.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(mesh.triangles.ravel().astype(np.int32)))
        out.CreateSubdivisionSchemeAttr("none")
        self._dress(index, out, len(mesh.points))
        api = UsdSkel.BindingAPI.Apply(out.GetPrim())
        api.CreateSkeletonRel().SetTargets([self.path.AppendChild(SKELETON)])
        self._hang(index, api, mesh)
        self._shape(path, api, mesh)

    def _dress(self, index: int, out: UsdGeom.Mesh, points: int) -> None:
        """Normals, places on pictures, and which triangles have which surface."""
        dress = dress_of(self.document, index, points)
        if dress.normals is not None:
            out.CreateNormalsAttr(_vectors(dress.normals))
            out.SetNormalsInterpolation(UsdGeom.Tokens.vertex)
        if dress.places is not None:
            st = UsdGeom.PrimvarsAPI(out).CreatePrimvar("st", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.vertex)
            upward = np.stack([dress.places[:, 0], 1 - dress.places[:, 1]], axis=1)
            st.Set(Vt.Vec2fArray.FromNumpy(upward.astype(np.float32)))
        api = UsdShade.MaterialBindingAPI.Apply(out.GetPrim())
        for number, (first, stop, material) in enumerate(dress.parts):
            if material is None:
                continue
            if self.document.materials[material].doubleSided:
                out.CreateDoubleSidedAttr(True)
            if len(dress.parts) == 1:
                api.Bind(self.surfaces[material])
                return
            faces = Vt.IntArray.FromNumpy(np.arange(first, stop, dtype=np.int32))
            part = api.CreateMaterialBindSubset(f"part_{number}", faces)
            UsdShade.MaterialBindingAPI.Apply(part.GetPrim()).Bind(self.surfaces[material])

    def _hang(self, index: int, api: UsdSkel.BindingAPI, mesh: MeshGeometry) -> None:
        """Which joints hold its vertices."""
        if self.binding is None or index not in self.binding.placed:
            return
        api.CreateGeomBindTransformAttr(Gf.Matrix4d(self.binding.placed[index].T.tolist()))
        if index in self.binding.rigid:
            api.CreateJointIndicesPrimvar(True, 1).Set(Vt.IntArray([self.binding.rigid[index]]))
            api.CreateJointWeightsPrimvar(True, 1).Set(Vt.FloatArray([1.0]))
            return
        order, weights = holds_of(self.binding, mesh)
        api.CreateJointIndicesPrimvar(False, HELD_BY).Set(Vt.IntArray.FromNumpy(order.astype(np.int32).ravel()))
        api.CreateJointWeightsPrimvar(False, HELD_BY).Set(Vt.FloatArray.FromNumpy(weights.ravel().astype(np.float32)))

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


def _animate(stage: Usd.Stage, path: Sdf.Path, made: Performance, binding: Binding | None, joints: list[str], options: HandoverOptions, tell: Tell) -> None:  # fmt: skip
    motion = UsdSkel.Animation.Define(stage, path)
    motion.CreateBlendShapesAttr([options.named(t) for t in made.cast.targets])
    motion.CreateJointsAttr(joints)
    places, turns, scales = locals_of(made, binding)
    motion.CreateScalesAttr(Vt.Vec3hArray([Gf.Vec3h(*map(float, s)) for s in scales]))
    keyed: list[tuple[Usd.Attribute, Array, Callable[[Array], object]]] = [
        (motion.CreateBlendShapeWeightsAttr(), made.cast.weights, Vt.FloatArray.FromNumpy),
        (motion.CreateTranslationsAttr(), places, Vt.Vec3fArray.FromNumpy),
        (motion.CreateRotationsAttr(), turns, Vt.QuatfArray.FromNumpy),
    ]
    for number, (attribute, values, packed) in enumerate(keyed):
        shown = np.ascontiguousarray(values, np.float32)
        frames = few_keys(shown, options.tolerance).tolist()
        for done, frame in enumerate(frames):
            if done % TOLD == 0:
                tell((number + done / len(frames)) / len(keyed), f"frame {frame} of the stage")
            attribute.Set(packed(shown[frame]), frame)
