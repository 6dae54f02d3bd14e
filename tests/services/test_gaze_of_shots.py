"""Aims of a shot: points, other roles' eyes, the camera; and the captured gaze as looks."""

import numpy as np
import pytest

from dynaface.core.body.rotations import about, rotate
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.layers.gaze import angles_beneath, direction, head_turns
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.make_shot import add_layer
from dynaface.services.shot.snap_gaze import snap_gaze
from dynaface.services.shot.surroundings import eyes_of
from tests.services.evaluated import put
from tests.services.test_shots import first_role, odile, shot, takes  # noqa: F401

QUIET = {"maker": "gaze", "rank": 1.0, "steps": 0.0, "blinks": 0.0, "head": 0.2}


@pytest.fixture
def stage(mara, shot):  # noqa: F811
    """Both roles on the ground, turned toward each other, with aims."""
    one, other = shot.body.ordered
    return edit_document(mara, shot.id, shot.version, "stand", [
        put(f"roles/{one}/at", [-0.5, 0.0, 0.0]), put(f"roles/{one}/turn", 70.0),
        put(f"roles/{other}/at", [0.6, 0.0, 0.1]), put(f"roles/{other}/turn", -80.0),
        put("camera", [0.3, 1.5, 2.0]),
        put("aims/lamp", {"name": "lamp", "lies": "point", "at": [0.8, 1.6, 0.9]}),
        put("aims/him", {"name": "him", "lies": "eyes", "role": other}),
        put("aims/lens", {"name": "lens", "lies": "camera"}),
        put("aims/hand", {"name": "hand", "lies": "head", "at": [0.05, -0.1, 0.3]}),
    ])  # fmt: skip


def look(work, shot_id, role, *rows):
    layer = add_layer(work, shot_id, role, "gaze", "add", [])
    looks = {f"l{n}": list(row) for n, row in enumerate(rows)}
    return edit_document(work, layer.id, layer.version, "look", [put("makers/g", {**QUIET, "looks": looks})])


def where_it_looks(work, shot_id, role, frame):
    """(the eye in the shot, the way it looks) of the left eye, worked out from the performance's own channels."""
    prepared = prepare_role(work, shot_id, role)
    channels, own = prepared.graph.tidied.result(work.cache), prepared.snapshot.role
    eyes = eyes_of(prepared.snapshot.character)
    head, pivot = head_turns(channels)[frame], np.asarray(eyes.pivot)
    eye = pivot + rotate(head, np.asarray(eyes.left) - pivot)
    way = rotate(head, direction(angles_beneath(channels, "left")[frame]))
    turn = about("y", own.turn)
    return np.asarray(own.at) + rotate(turn, eye), rotate(turn, way)


def degrees_off(work, shot_id, role, frame, at):
    eye, way = where_it_looks(work, shot_id, role, frame)
    there = np.asarray(at) - eye
    return float(np.degrees(np.arccos(np.clip(way @ there / np.linalg.norm(there), -1, 1))))


def test_eyes_look_at_points_of_the_shot_wherever_the_role_stands(mara, stage):
    role = first_role(stage)
    look(mara, stage.id, role, (10, "lamp"), (100, "lens"))
    assert degrees_off(mara, stage.id, role, 60, (0.8, 1.6, 0.9)) < 0.1
    assert degrees_off(mara, stage.id, role, 160, (0.3, 1.5, 2.0)) < 0.1


def test_eyes_look_into_another_roles_eyes_as_its_head_moves(mara, stage):
    one, other = stage.body.ordered
    look(mara, stage.id, one, (0, "him"))
    for frame in (40, 120, 200):
        theirs = prepare_role(mara, stage.id, other)
        eyes, own = eyes_of(theirs.snapshot.character), theirs.snapshot.role
        head = head_turns(theirs.graph.lanes.result(mara.cache))[frame]
        pivot = np.asarray(eyes.pivot)
        at = np.asarray(own.at) + rotate(about("y", own.turn), pivot + rotate(head, eyes.middle - pivot))
        assert degrees_off(mara, stage.id, one, frame, at) < 0.1


def test_moving_an_aim_moves_the_eyes_and_nothing_of_another_role(mara, stage):
    one, other = stage.body.ordered
    look(mara, stage.id, one, (0, "lamp"))
    before = {r: prepare_role(mara, stage.id, r).graph.tidied.result(mara.cache).values.copy() for r in (one, other)}
    edit_document(mara, stage.id, stage.version, "move the lamp", [put("aims/lamp/at", [0.2, 1.3, 1.5])])
    after = {r: prepare_role(mara, stage.id, r).graph.tidied.result(mara.cache).values for r in (one, other)}
    assert not np.array_equal(before[one], after[one], equal_nan=True)
    np.testing.assert_array_equal(before[other], after[other])
    assert degrees_off(mara, stage.id, one, 60, (0.2, 1.3, 1.5)) < 0.1


def test_the_captured_gaze_becomes_looks_in_one_step_that_is_undone_in_one(mara, stage):
    role = first_role(stage)
    layer = look(mara, stage.id, role)
    found = snap_gaze(mara, layer.id, layer.version, "g", 45.0)
    looks = found.layer.body.plain()["makers"]["g"]["looks"]
    assert found.fixations >= found.met > 0
    assert len(looks) <= found.fixations
    assert found.error is not None
    assert {aim for _, aim in looks.values()} <= {"lamp", "him", "lens", "hand", "held"}
    undo(mara, [layer.id])
    assert prepare_role(mara, stage.id, role).snapshot.layers[-1].body.plain()["makers"]["g"]["looks"] == {}


def test_only_a_gaze_maker_takes_looks(mara, stage):
    layer = look(mara, stage.id, first_role(stage))
    edited = edit_document(mara, layer.id, layer.version, "blink", [put("makers/b", {"maker": "blinks", "rank": 2.0})])
    with pytest.raises(InputError, match="has no looks"):
        snap_gaze(mara, layer.id, edited.version, "b", 6.0)
    with pytest.raises(NotFoundError):
        snap_gaze(mara, layer.id, edited.version, "not there", 6.0)


@pytest.mark.parametrize("aim", [
    {"name": "x", "lies": "eyes"},
    {"name": "x", "lies": "point", "role": "r"},
    {"name": "x", "lies": "point", "at": [0, 0, 1e6]},
    {"name": "", "lies": "camera"},
])  # fmt: skip
def test_an_aim_that_cannot_be_is_refused_and_nothing_is_harmed(mara, stage, aim):
    with pytest.raises(InputError):
        edit_document(mara, stage.id, stage.version, "an aim", [put("aims/x", aim)])
    assert "x" not in prepare_role(mara, stage.id, first_role(stage)).snapshot.documents.shot.body.aims
