"""Characters whose names say nothing: recognised by what targets and joints do."""

from dataclasses import replace

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import rotate
from dynaface.core.body.skeleton import Skeleton
from dynaface.core.cast.carry import compare_builds, compare_sheets, same_build, translate_sheet
from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.edges import find_edges
from dynaface.core.cast.geometry import Geometry, MeshGeometry
from dynaface.core.cast.measures import propose_proportions
from dynaface.core.cast.propose_joints import DOWN, aim, propose_drives, try_joint
from dynaface.core.cast.recognise import recognise
from dynaface.core.cast.sheet import parse_sheet
from dynaface.core.cast.study_character import study_character
from dynaface.core.errors import InputError
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry
from dynaface.formats.head_file import general_face, general_head
from dynaface.sims.strange_rigs import make_rig


def brought(name):
    data = (ASSETS / f"characters/{name}.glb").read_bytes()
    return read_character(data, name), read_geometry(data)


@pytest.fixture(scope="module")
def brindle():
    character, geometry = brought("brindle")
    return character, geometry, study_character(character, geometry, general_face())


@pytest.mark.parametrize(("seed", "surface"), [(51, "coarser"), (52, "as it is")])
def test_a_rig_with_random_names_is_recognised_by_shape(seed, surface):
    rig = make_rig(general_head(), seed, surface, extra=20, split=1)
    found, guesses = recognise(rig.geometry, general_face())
    right = sum(rig.truth[t] == m.shape for t, m in found.items() if rig.truth[t])
    assert right >= 0.9 * sum(s != "" for s in rig.truth.values())
    assert right >= 0.95 * len(found)
    assert not set(guesses) & set(found)


def test_a_rig_that_looks_the_other_way_or_lies_on_its_back_is_recognised_all_the_same():
    rig = make_rig(general_head(), 53, "coarser", extra=0, missing=0)
    turn = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])  # z is up
    meshes = tuple(
        MeshGeometry(m.mesh, m.points @ turn.T, {t: o @ turn.T for t, o in m.offsets.items()}, m.triangles)
        for m in rig.geometry.meshes
    )
    found, _ = recognise(Geometry(meshes), general_face())
    assert sum(rig.truth[t] == m.shape for t, m in found.items()) >= 47


def test_a_character_with_its_own_names_is_matched_whole(brindle):
    _, _, study = brindle
    said = {t: m.shape for t, m in study.matches.items()}
    assert said["gawp"] == "jawOpen"
    assert (said["grin P"], said["grin S"]) == ("mouthSmileLeft", "mouthSmileRight")
    assert (said["bilge P"], said["bilge S"]) == ("cheekPuff", "cheekPuff")
    assert "ear flick P" not in said
    assert len(said) == 49


def test_lips_and_lids_are_found_from_what_the_shapes_move(brindle):
    _, _, study = brindle
    assert {"lips", "lid left", "lid right"} <= set(study.edges)
    lips = study.edges["lips"]
    assert 0.02 < lips.size < 0.08
    assert (lips.change["gawp"] > 0.02).all()
    # The rig's own way of shutting an open mouth shuts it.
    np.testing.assert_allclose(lips.change["gawp"] + lips.change["clamp"], 0, atol=0.002)
    assert find_edges(Geometry(()), {}) == {}


@pytest.mark.parametrize("turn", [(1, -1, 1), (1, 0, 1)], ids=["up", "ahead"])
def test_a_blink_that_brings_nothing_down_shuts_no_eye(brindle, turn):
    _, geometry, study = brindle
    parts = {target: ((match.shape, 1.0),) for target, match in study.matches.items()}
    blinks = {t for t, made in parts.items() if made[0][0].startswith("eyeBlink")}
    meshes = tuple(
        replace(m, offsets={t: o * (turn if t in blinks else 1) for t, o in m.offsets.items()}) for m in geometry.meshes
    )
    found = find_edges(replace(geometry, meshes=meshes), parts)
    assert "lips" in found
    assert not {"lid left", "lid right"} & set(found)
    assert {"lid left", "lid right"} <= set(find_edges(geometry, parts))


def test_joints_are_aimed_by_what_hangs_on_them():
    character, geometry = brought("kettle")
    drives = propose_drives(character.skeleton, geometry, set())
    skeleton = character.skeleton
    for key, way in (("jaw:jawOpen", (0, -1, 0)), ("lidUpperLeft:eyeBlinkLeft", (0, -1, 0)), ("lidLowerRight:eyeBlinkRight", (0, 1, 0)),
                     ("browPlateLeft:browOuterUpLeft", (0, 1, 0)), ("browPlateRight:browDownRight", (0, -1, 0))):  # fmt: skip
        drive = drives[key]
        tried = try_joint(skeleton, geometry, drive.joint)
        if drive.moves == "shift":
            moved = rotate(tried.rest, np.array(drive.axis) * drive.most)
        else:
            axis = int(np.argmax(np.abs(drive.axis)))
            watched = tried.rim(np.array([0.0, 1, 0]) if "Lower" in key else DOWN)
            moved = tried.turned(axis, 5.0 * drive.axis[axis], watched).mean(axis=0)
        assert moved @ np.array(way, float) > 0.5 * np.linalg.norm(moved), key
    assert drives["jaw:jawOpen"].axis == (0.0, -1.0, 0.0)
    assert propose_drives(None, geometry, set()) == {}
    assert "jaw:jawOpen" not in propose_drives(skeleton, geometry, {"jawOpen"})


def hinge(turned):
    """A plate that hangs 10 cm ahead of its joint, which stands turned."""
    points = np.array([(x, 1.0 + y, 0.1 + z) for x in (-0.02, 0, 0.02) for y in (-0.01, 0.01) for z in (-0.02, 0.02)])
    plate = MeshGeometry("plate", points, {}, held={"jaw": np.ones(len(points))})
    bones = Skeleton(("root", "jaw"), (-1, 0), np.array([[0, 1.0, 0], [0, 0, 0]]), np.array([[0, 0, 0, 1.0], turned]))
    return bones, Geometry((plate,))


@pytest.mark.parametrize(
    ("turned", "axis"),
    [((0, 0, 0, 1.0), (1, 0, 0)), ((0, 0, np.sqrt(0.5), np.sqrt(0.5)), (0, -1, 0)), ((0, 1.0, 0, 0), (-1, 0, 0))],
)
def test_the_axis_of_a_known_hinge(turned, axis):
    bones, geometry = hinge(turned)
    drive = aim(try_joint(bones, geometry, "jaw"), DOWN, 0.03, "jaw:jawOpen")
    assert drive.moves == "turn"
    np.testing.assert_allclose(drive.axis, axis, atol=1e-6)
    assert drive.most == pytest.approx(np.degrees(np.arcsin(0.3)), abs=2.5)
    with pytest.raises(InputError):
        try_joint(bones, geometry, "nose")
    assert try_joint(bones, Geometry(()), "jaw") is None


def test_strengths_come_from_how_far_each_goes_for_its_size():
    ours = {"jaw open": 0.4, "brows up": 0.10, "lips up": 0.31, "direction: jaw aside": 3.0}
    theirs = {"jaw open": 0.5, "brows up": 0.05, "lips up": 0.30, "lid left": 0.65, "direction: jaw aside": -1.0}
    found = {(p.field, p.name): p.value for p in propose_proportions(ours, theirs, {})}
    assert found == {("wayStrength", "jaw open"): 0.8, ("wayStrength", "brows up"): 1.8,
                     ("shapeStrength", "eyeBlinkLeft"): 0.65, ("directions", "jaw aside"): 4.0}  # fmt: skip
    taken = {
        "wayStrength": {"jaw open": 0.8, "brows up": 1.8},
        "shapeStrength": {"eyeBlinkLeft": 0.65},
        "directions": {"jaw aside": 4.0},
    }
    assert propose_proportions(ours, theirs, taken) == []


def made(name, targets, scale=1.0, renamed=None):
    rng = np.random.default_rng(4)
    points = rng.uniform(-0.1, 0.1, (300, 3))
    offsets = {}
    for i, target in enumerate(targets):
        at = points[i * 7]
        bump = np.exp(-((points - at) ** 2).sum(axis=1) / 0.002)[:, None] * np.array([0.01, 0.002 * i, -0.004])
        offsets[(renamed or {}).get(target, target)] = bump * (scale if i == 0 else 1.0)
    character = Character(name, (MeshTargets("face", tuple(offsets)),), None)
    return character, Geometry((MeshGeometry("face", points, offsets),))


def test_a_newer_rig_is_compared_by_what_its_targets_do():
    old = made("Old", ("jawOpen", "grin", "frown", "cheekPuff"))
    new = made("New", ("jawOpen", "grin", "frown"), scale=1.5, renamed={"grin": "beam"})
    change = compare_builds(old, new)
    assert change.renamed == {"grin": "beam"}
    assert change.moved == ("jawOpen",)
    assert change.gone == ("cheekPuff",)
    assert change.added == ()
    assert not same_build(old[0], new[0])
    assert same_build(old[0], old[0])


def test_a_sheet_is_carried_and_says_what_it_left_behind():
    old, new = made("Old", ("jawOpen", "grin", "pout"))[0], made("New", ("jawOpen", "beam"))[0]
    sheet = parse_sheet({"matches": {"grin": "mouthSmileLeft", "pout": "mouthShrugLower"}, "regionStrength": {"lips": 0.8},
                         "joints": {"jaw:jawOpen": {"most": 9}}})  # fmt: skip
    carried, words = translate_sheet(sheet, old, new, {"grin": "beam"})
    assert carried.matches == {"beam": (("mouthSmileLeft", 1.0),)}
    assert carried.region_strength == {"lips": 0.8}
    assert any("pout" in w for w in words)
    assert any("jaw" in w for w in words)
    assert any(w == "New lacks mouthShrugLower." for w in words)
    differ = compare_sheets(sheet, carried)
    assert ("matches", "pout", {"mouthShrugLower": 1.0}, None) in differ
    assert compare_sheets(sheet, sheet) == []
