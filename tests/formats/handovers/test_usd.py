"""USD stages, read by usd-core itself."""

import numpy as np
import pytest
from pxr import Gf, Sdf, Usd, UsdGeom, UsdSkel
from pygltflib import GLTF2, Node, Skin

from dynaface.core.body.rotations import rotate
from dynaface.core.errors import CancelledError, InputError
from dynaface.core.perform.perform import Performance
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.gltf.binding import binding_of
from dynaface.formats.gltf.document import Appender, open_glb, scaled_array
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.usd.names import joint_paths, prim_names
from dynaface.formats.usd.stage import faults_of, open_stage

FORM = HANDOVERS["usd"]


def quiet(part, message):
    """Says nothing."""


def opened(delivery, folder, **settings):
    """(the stage, its file) of a delivery."""
    files = FORM.write(delivery, FORM.complete(settings), quiet)
    for name, data in files.items():
        (folder / name).write_bytes(data)
    name = next(n for n in files if n.endswith((".usdc", ".usda")))
    return open_stage(folder / name), folder / name


def shown_by_gltf(raw: bytes, skeleton, made: Performance, frame: int) -> dict[str, np.ndarray]:
    """mesh -> (vertices, 3) as the glTF standard says: shapes first, then joints with their inverse bind matrices."""
    document: GLTF2 = open_glb(raw)
    turns, places = skeleton.pose(made.motion(skeleton).local[[frame]], made.motion(skeleton).root[[frame]])
    world = {}
    for number, name in enumerate(skeleton.names):
        matrix = np.eye(4)
        matrix[:3, :3] = rotate(turns[0, number], np.eye(3)).T
        matrix[:3, 3] = places[0, number]
        world[name] = matrix
    weights = dict(zip(made.cast.targets, made.cast.weights[frame], strict=True))
    out = {}
    nodes = [n for n in document.nodes if n.mesh is not None]
    for node, mesh in zip(nodes, read_geometry(raw).meshes, strict=True):
        still = {t for m, t in made.cast.still if m == mesh.mesh}
        points = mesh.points + sum(weights.get(t, 0) * o for t, o in mesh.offsets.items() if t not in still)
        joints = document.skins[node.skin].joints
        back = (
            scaled_array(document, document.skins[node.skin].inverseBindMatrices).reshape(-1, 4, 4).transpose(0, 2, 1)
        )
        moved = np.zeros_like(points)
        for number, joint in enumerate(joints):
            name = document.nodes[joint].name
            if name in mesh.held:
                matrix = world[name] @ back[number]
                moved += mesh.held[name][:, None] * (points @ matrix[:3, :3].T + matrix[:3, 3])
        out[mesh.mesh] = moved
    return out


@pytest.mark.parametrize("name", ["odile", "brindle", "kettle"])
def test_every_vertex_is_where_gltf_has_it(name, delivered, played, tmp_path):
    rig, raw, made = played[name]
    stage, _ = opened(delivered(name), tmp_path)
    root = UsdSkel.Root(stage.GetPrimAtPath(f"/World/{name}"))
    frame = 23
    assert UsdSkel.BakeSkinning(root, Gf.Interval(frame, frame))
    meant = shown_by_gltf(raw, rig.skeleton, made, frame)
    for (mesh, points), prim in zip(meant.items(), prim_names(meant), strict=True):
        found = np.array(UsdGeom.Mesh(stage.GetPrimAtPath(f"/World/{name}/{prim}")).GetPointsAttr().Get(frame))
        assert np.abs(found - points).max() < 2e-5, mesh


def test_several_stand_in_one_file_where_they_stand_in_the_shot(delivered, tmp_path):
    stage, path = opened(delivered("odile", "brindle"), tmp_path, characters="all in one file", form="text")
    assert path.name == "shot.usda"
    place = UsdGeom.Xformable(stage.GetPrimAtPath("/World/brindle")).ComputeLocalToWorldTransform(0)
    assert tuple(place.ExtractTranslation()) == pytest.approx((1, 0, 0.5))
    assert faults_of(stage) == []


def test_each_has_a_file_of_its_own_and_stands_by_itself(delivered):
    files = FORM.write(delivered("odile", "brindle"), FORM.complete({}), quiet)
    assert {n for n in files if n.endswith(".usdc")} == {"odile.usdc", "brindle.usdc"}


def test_units_axis_rate_and_count_are_said(delivered, tmp_path):
    delivery = delivered("odile", rate="24")
    stage, _ = opened(delivery, tmp_path, units="centimetres", up="z")
    assert UsdGeom.GetStageUpAxis(stage) == "Z"
    assert UsdGeom.GetStageMetersPerUnit(stage) == 0.01
    assert (stage.GetTimeCodesPerSecond(), stage.GetEndTimeCode()) == (
        24,
        delivery.first.performance.channels.frames - 1,
    )
    box = (
        UsdGeom.BBoxCache(0, ["default", "render"])
        .ComputeWorldBound(stage.GetPrimAtPath("/World/odile"))
        .ComputeAlignedRange()
    )
    assert 140 < box.GetMax()[2] - box.GetMin()[2] < 200
    said = stage.GetRootLayer().customLayerData["dynaface"]
    assert said["timecode"] == "10:00:00:03"
    assert said["timecodeFraction"] == pytest.approx(0.25)


def test_the_sound_lies_beside_it(delivered, tmp_path):
    stage, _ = opened(delivered("odile"), tmp_path)
    sound = stage.GetPrimAtPath("/World/Sound")
    assert sound.GetAttribute("filePath").Get().path == "shot.wav"
    assert (tmp_path / "shot.wav").stat().st_size > 10_000


def test_a_stage_with_a_picture_that_is_missing_is_said_to_be_broken(delivered, tmp_path):
    _, path = opened(delivered("odile"), tmp_path)
    for picture in tmp_path.glob("*.jpg"):
        picture.unlink()
    assert any("odile_0.jpg" in fault for fault in faults_of(open_stage(path)))


@pytest.mark.parametrize("data", [b"", b"#usda 1.0\n(", b"PXR-USDC" + bytes(200), b"not usd"])
def test_damaged_stages_are_refused(data, tmp_path):
    (tmp_path / "x.usd").write_bytes(data)
    with pytest.raises(InputError, match="cannot be read"):
        open_stage(tmp_path / "x.usd")


def test_names_are_made_valid_and_stay_apart():
    assert prim_names(["jaw open", "jaw_open", "1", "", "jaw.open"]) == [
        "jaw_open",
        "jaw_open_2",
        "_1",
        "unnamed",
        "jaw_open_3",
    ]
    assert joint_paths(["a", "b b", "c"], (-1, 0, 1)) == ["a", "a/b_b", "a/b_b/c"]
    assert all(Sdf.Path.IsValidIdentifier(n) for n in prim_names(["ä", "x-y", "9to5"]))


def test_meshes_that_hang_on_a_joint_are_carried_by_it(played):
    """A node without a skin below a joint of the head."""
    document = open_glb(played["odile"][1])
    head = next(i for i, n in enumerate(document.nodes) if n.name == "head")
    document.nodes.append(Node(name="hat", mesh=0, translation=[0, 0.2, 0]))
    document.nodes[head].children = [*(document.nodes[head].children or []), len(document.nodes) - 1]
    found = binding_of(document)
    carried = found.rigid[len(document.nodes) - 1]
    assert found.joints[carried] == "head"


@pytest.mark.parametrize("alike", [True, False], ids=["moved as a whole", "otherwise"])
def test_a_second_skin_may_bind_elsewhere_but_not_otherwise(alike, played):
    """Where all its joints are moved alike the mesh is, which the stage can say; one joint alone it cannot."""
    document = open_glb(played["odile"][1])
    skin = document.skins[0]
    back = scaled_array(document, skin.inverseBindMatrices).astype(np.float32)
    back[slice(None) if alike else slice(1), 13] += 0.3
    out = Appender(document)
    document.skins.append(Skin(joints=skin.joints, inverseBindMatrices=out.accessor(back, "MAT4")))
    meshes = [i for i, n in enumerate(document.nodes) if n.mesh is not None]
    document.nodes[meshes[1]].skin = 1
    out.finish()
    if not alike:
        with pytest.raises(InputError, match="binds its joints otherwise"):
            binding_of(document)
        return
    placed = binding_of(document).placed[meshes[1]]
    turned = binding_of(document).binds[0] @ back[0].reshape(4, 4).T
    np.testing.assert_allclose(placed, turned, atol=1e-5)


def test_it_says_how_far_it_is_and_can_be_stopped(delivered):
    told = []
    FORM.write(delivered("odile", "brindle"), FORM.complete({}), lambda part, message: told.append(part))
    assert told == sorted(told)
    assert (told[0], told[-1] < 1) == (0, True)

    def stop(part, message):
        raise CancelledError("stopped")

    with pytest.raises(CancelledError):
        FORM.write(delivered("odile"), FORM.complete({}), stop)


def test_it_is_opened_by_the_library_alone(delivered, tmp_path):
    _, path = opened(delivered("odile"), tmp_path)
    stage = Usd.Stage.Open(str(path))
    assert stage.GetDefaultPrim().GetPath() == "/World"
    assert len([p for p in stage.Traverse() if p.IsA(UsdSkel.BlendShape)]) >= 52
