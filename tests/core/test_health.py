"""What is found on a character before any take."""

import numpy as np
import pytest

from dynaface.core.cast.character import Character, MeshTargets
from dynaface.core.cast.geometry import Geometry, MeshGeometry
from dynaface.core.cast.health import examine_character
from dynaface.core.shapes.standard import SHAPES
from tests.makers import skeleton

GRID = np.array([(x, y, 0.0) for x in np.linspace(-0.08, 0.08, 9) for y in np.linspace(1.5, 1.72, 9)])
BODY = np.array([(x, y, 0.0) for x in (-0.3, 0.3) for y in (0.0, 1.75)])


def bump(x, y, way=(0, 0, 0.01), spread=0.03):
    """Offsets about a place of the face."""
    near = np.exp(-((GRID[:, 0] - x) ** 2 + (GRID[:, 1] - y) ** 2) / spread**2)
    return near[:, None] * np.array(way)


def good(name):
    """A motion on the side that the shape's name speaks of."""
    x = 0.05 if name.endswith("Left") else -0.05 if name.endswith("Right") else 0.0
    return bump(x, 1.6)


def examined(offsets, more=(), scale=1.0, turn=None, **about):
    place = (lambda p: p @ turn.T) if turn is not None else (lambda p: p)
    meshes = (
        MeshGeometry("face", place(GRID * scale), {n: o * scale for n, o in offsets.items()}),
        MeshGeometry("body", place(BODY * scale), {}),
        *more,
    )
    held = tuple(MeshTargets(m.mesh, tuple(m.offsets)) for m in meshes)
    return examine_character(Character("Test", held, skeleton()), Geometry(meshes, **about))


def kinds(health):
    return {(f.kind, f.target) for f in health.findings}


def test_a_sound_character_has_nothing_wrong_with_it():
    made = examined({n: good(n) for n in SHAPES})
    assert made.findings == ()
    assert {p[0] for p in made.present} == set(SHAPES)
    assert (made.unit, made.up) == ("metres", "y")
    assert set(made.joints) == {"eye", "neck", "head"}


def test_what_is_absent_and_what_is_there_twice_is_named():
    made = examined({"jawOpen": good("jawOpen"), "Jaw_Open": good("jawOpen")}, twice=(("face", "jawOpen"),))
    found = kinds(made)
    assert ("missing", "mouthClose") in found
    assert [f.words for f in made.findings if f.kind == "duplicate"] == [
        "face has the target jawOpen twice.", "jawOpen, Jaw_Open are all spellings of jawOpen."]  # fmt: skip


def test_a_target_that_moves_nothing_and_one_that_moves_the_head():
    made = examined(
        {
            "jawOpen": good("jawOpen") * 1e-6,
            "cheekPuff": np.tile([0, 0.02, 0], (len(GRID), 1)),
            "mouthClose": good("mouthClose"),
        }
    )
    assert {("still", "jawOpen"), ("whole head", "cheekPuff")} <= kinds(made)
    assert not any(t == "mouthClose" for _, t in kinds(made))


def test_a_target_that_is_still_on_one_mesh_but_not_on_another_moves():
    lashes = MeshGeometry("lashes", GRID, {"eyeBlinkLeft": good("eyeBlinkLeft")})
    made = examined({"eyeBlinkLeft": np.zeros_like(GRID), "jawOpen": good("jawOpen")}, (lashes,))
    assert ("still", "eyeBlinkLeft") not in kinds(made)


def test_swapped_sides_are_measured_from_the_offsets():
    made = examined(
        {
            "mouthSmileLeft": good("mouthSmileRight"),
            "mouthSmileRight": good("mouthSmileLeft"),
            "mouthLeft": good("xRight"),
            "jawLeft": good("xRight"),
        }
    )
    assert {t for k, t in kinds(made) if k == "swapped sides"} == {"mouthSmileLeft", "mouthSmileRight"}


@pytest.mark.parametrize(("scale", "unit"), [(1, "metres"), (100, "centimetres"), (1000, "millimetres"), (1e6, "")])
def test_the_unit_is_guessed_from_the_size(scale, unit):
    made = examined({"jawOpen": good("jawOpen")}, scale=scale)
    assert made.unit == unit
    assert any(k == "unit" for k, _ in kinds(made)) == (unit != "metres")


def test_one_that_lies_on_its_back_is_told():
    turn = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])
    assert ("up", "") in kinds(examined({"jawOpen": good("jawOpen")}, turn=turn))


def test_what_already_moves_is_told_and_all_of_it_is_plain_data():
    made = examined({"jawOpen": good("jawOpen")}, animated=(("face", "walk"),))
    assert ("animated", "") in kinds(made)
    assert made.describe()["findings"][-1]["words"] == "face already moves by the animation 'walk' in the file."
