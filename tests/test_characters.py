"""The demo's characters: nothing of a mouth comes through the skin, whatever the face does."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from dynaface.assets import ASSETS
from dynaface.formats.gltf.character import read_character
from dynaface.formats.gltf.geometry import read_geometry

MOUTHS = {"odile": ("teethUpper", "teethLower", "tongue"), "brindle": ("fangs over", "fangs under", "lick")}
DEEP = 0.0008  # metres before the skin from which on something is thought to come through it
FREE = 0.14  # metres of free way before a place of the skin that shows it to be outside of the mouth
SAMPLED = 200


def normals(points, triangles):
    face = np.cross(
        points[triangles[:, 1]] - points[triangles[:, 0]], points[triangles[:, 2]] - points[triangles[:, 0]]
    )
    out = np.zeros_like(points)
    for corner in range(3):
        np.add.at(out, triangles[:, corner], face)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)


def shows_outward(points, triangles, normal, asked):
    """(vertices,) whether a ray along the normal leaves the skin: within the bag of the mouth it meets the other wall
    (Möller & Trumbore 1997).
    """
    out = np.ones(len(points), bool)
    a = points[triangles[:, 0]]
    e1, e2 = points[triangles[:, 1]] - a, points[triangles[:, 2]] - a
    rows = np.flatnonzero(asked)
    for start in range(0, len(rows), 128):
        some = rows[start : start + 128]
        way = normal[some][:, None]
        from_ = (points[some] + DEEP * normal[some])[:, None] - a[None]
        p = np.cross(way, e2[None])
        det = (p * e1[None]).sum(-1)
        with np.errstate(divide="ignore", invalid="ignore"):
            u = (from_ * p).sum(-1) / det
            q = np.cross(from_, e1[None])
            v, away = (way * q).sum(-1) / det, (e2[None] * q).sum(-1) / det
        hit = (np.abs(det) > 1e-14) & (u >= 0) & (v >= 0) & (u + v <= 1) & (away > 0) & (away < FREE)
        out[some] = ~hit.any(axis=1)
    return out


def poses_of(names, seed):
    rng = np.random.default_rng(seed)
    yield {}
    yield from ({name: 1.0} for name in names)
    for _ in range(SAMPLED):
        chosen = rng.choice(names, rng.integers(2, 7), replace=False)
        yield {str(name): float(rng.uniform(0.2, 1)) for name in chosen}


def posed(mesh, pose):
    return mesh.points + sum((w * mesh.offsets[n] for n, w in pose.items() if n in mesh.offsets), np.zeros((1, 3)))


@pytest.fixture(scope="module", params=sorted(MOUTHS))
def mouth(request):
    """(skin, upper teeth, lower teeth, tongue)."""
    geometry = read_geometry((ASSETS / f"characters/{request.param}.glb").read_bytes())
    meshes = {m.mesh: m for m in geometry.meshes}
    return geometry.face, *(meshes[name] for name in MOUTHS[request.param])


def test_no_tooth_and_no_tongue_comes_through_the_skin(mouth):
    skin, *parts = mouth
    arch = np.concatenate([p.points for p in parts[:2]])
    middle, size = arch.mean(axis=0), float(np.ptp(arch[:, 0]))
    near = (np.abs(skin.points[:, 0]) < 0.9 * size) & (np.abs(skin.points[:, 1] - middle[1]) < 1.2 * size)
    shown = shows_outward(skin.points, skin.triangles, normals(skin.points, skin.triangles), near)
    assert 0.2 < shown[near].mean() < 0.9  # a part of what lies near is the bag of the mouth, a part is not
    wrong = []
    for pose in poses_of(sorted(skin.offsets), 5):
        at = posed(skin, pose)
        normal = normals(at, skin.triangles)
        tree = cKDTree(at)
        for part in parts:
            if part is parts[2] and pose.get("tongueOut", 0):
                continue  # put out, it is before the lips
            points = posed(part, pose)
            _, nearest = tree.query(points)
            height = ((points - at[nearest]) * normal[nearest]).sum(axis=1)
            if (shown[nearest] & (height > DEEP)).any():
                wrong.append((part.mesh, round(float(height[shown[nearest]].max()) * 1000, 1), pose))
    assert wrong == []


def test_the_tongue_stays_below_the_upper_teeth_unless_it_is_put_out(mouth):
    skin, upper, _, tongue = mouth
    tip = int(np.argmax(tongue.points[:, 2]))
    for pose in poses_of(sorted(skin.offsets), 6):
        if not pose.get("tongueOut", 0):
            assert posed(tongue, pose)[tip, 1] < posed(upper, pose)[:, 1].min(), pose


def test_an_open_jaw_takes_lower_teeth_and_tongue_along(mouth):
    skin, upper, lower, tongue = mouth
    jaw = "jawOpen" if "jawOpen" in skin.offsets else "gawp"
    falls = [float(-(posed(m, {jaw: 1.0}) - m.points)[:, 1].mean()) for m in (upper, lower, tongue)]
    assert falls[0] == 0
    assert falls[1] > 0.008
    assert falls[2] == pytest.approx(falls[1], rel=0.4)


def test_the_sprite_keeps_its_own_words():
    brindle = read_character((ASSETS / "characters/brindle.glb").read_bytes())
    assert {"gawp", "grin P", "shutter S", "ear flick P", "bilge S", "gawp and grin"} <= set(brindle.targets)
    assert not {"jawOpen", "eyeBlinkLeft"} & set(brindle.targets)
