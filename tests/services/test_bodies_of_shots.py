"""Bodies in the roles of shots, on the real database: placed with their faces, cut, taken apart, handed over."""

from dataclasses import replace
from fractions import Fraction as Fr

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dynaface.core.body.rotations import about, inverse, multiply, rotate
from dynaface.core.errors import InputError
from dynaface.core.perform.rerate import performance_at
from dynaface.formats.bodies import read_bodies
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.list_handovers import handover_file, list_handovers
from dynaface.services.handover.request_handover import request_role_handover
from dynaface.services.match.keep_match import keep_match
from dynaface.services.pieces import Piece
from dynaface.services.shot.cut_shot import Cut, cut_shot
from dynaface.services.shot.edit_layer_keys import edit_layer_keys
from dynaface.services.shot.evaluate_shot import evaluate_role, prepare_role
from dynaface.services.shot.find_role_snags import BODY_KINDS, list_role_snags
from dynaface.services.shot.make_shot import add_layer, list_reel, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.sims.walk import walk
from tests.conftest import stored
from tests.makers import channels
from tests.services.evaluated import put
from tests.services.test_hands import bring, gloves
from tests.services.test_matches import odile, say

__all__ = ["odile"]


def walking() -> bytes:
    """Eleven seconds of a body that walks with its head turned aside."""
    motion = walk(60, 4).motion
    local = motion.local.copy()
    head = motion.skeleton.index("Head")
    local[:, head] = multiply(about("y", 25.0), local[:, head])
    return bvh.write(replace(motion, local=local))


def take_with_body(work, production, body):
    """A take of five seconds with a body, given as BVH."""
    files = [
        stored(work, write_table(channels(frames=300)), "face.csv"),
        stored(work, body, "walk.bvh"),
    ]
    return import_take(work, production, "4A", "Mara Quill", files)


@pytest.fixture
def take(mara, production, odile):
    return take_with_body(mara, production, walking())


@pytest.fixture
def shot(mara, take):
    return make_shot(mara, take.production, "Jetty", takes=[take.id])


def role_of(shot):
    return shot.body.ordered[0]


def only(shot):
    return next(iter(shot.body.roles[role_of(shot)].placements))


def path(shot, *more):
    return "/".join(["roles", role_of(shot), "placements", only(shot), *more])


def performed(work, shot, *changes):
    return prepare_role(work, shot.id, role_of(shot), ShotWish(shot=changes)).performance


def now(work, shot):
    return open_shot(work, shot.id).shot


def test_a_take_with_a_body_is_placed_with_it_and_shows_what_the_take_shows(mara, take, shot):
    entry = shot.body.roles[role_of(shot)].placements[only(shot)]
    assert entry.shows == "both"
    assert list_reel(mara, take.production)[0]["body"]
    made, alone = performed(mara, shot), prepare_take(mara, take.id).performance
    assert made.root_joint == alone.root_joint
    assert made.joints == alone.joints
    assert np.array_equal(made.root, alone.root)
    assert np.array_equal(made.local, alone.local)


def test_face_or_body_alone_leaves_the_other_at_rest(mara, take, shot):
    both = performed(mara, shot)
    face, body = (performed(mara, shot, put(path(shot, "shows"), w)) for w in ("face", "body"))
    assert face.root_joint == ""
    assert np.array_equal(face.cast.weights, both.cast.weights)
    assert np.array_equal(body.root, both.root)
    assert not body.cast.weights.any()


def test_without_a_face_the_head_is_the_bodys_own(mara, take, shot):
    body = performed(mara, shot, put(path(shot, "shows"), "body"))
    own = performed(mara, shot, put(f"roles/{role_of(shot)}/headWeight/value", 0.0))
    joint = body.joints.index("head")
    assert_allclose(np.abs(np.sum(body.local[:, joint] * own.local[:, joint], axis=1)), 1, atol=1e-6)
    mixed = performed(mara, shot, put(f"roles/{role_of(shot)}/headWeight/value", 0.5))
    assert np.abs(mixed.local[:, joint] - own.local[:, joint]).max() > 1e-3
    with pytest.raises(InputError, match="headWeight"):
        performed(mara, shot, put(f"roles/{role_of(shot)}/headWeight/value", 1.2))


def test_what_is_joined_otherwise_in_the_take_is_so_in_the_shot(mara, take, shot):
    before = performed(mara, shot)
    say(mara, take, put("travel", "still"))
    after = performed(mara, shot)
    assert not np.array_equal(after.root, before.root)
    assert np.array_equal(after.root, prepare_take(mara, take.id).performance.root)
    keep_match(mara, take.id, "Mara on Odile")
    bring(mara, take, gloves(), "gloves.bvh", part="hands")
    curled = performed(mara, shot)
    joint = curled.joints.index("middle1Left")
    assert_allclose(curled.local[:, joint], prepare_take(mara, take.id).performance.local[:, joint], atol=1e-6)


def test_a_cut_changes_nothing_and_can_be_undone(mara, take, shot):
    before = performed(mara, shot)
    cut = cut_shot(mara, shot.id, shot.version, "split", Cut("split", role_of(shot), only(shot), Fr(1)))
    assert len(cut.body.roles[role_of(shot)].placements) == 2
    after = performed(mara, cut)
    assert_allclose(after.root, before.root, atol=1e-6)
    assert_allclose(np.abs(np.sum(after.local * before.local, axis=2)), 1, atol=1e-6)
    undo(mara, [shot.id])
    assert np.array_equal(performed(mara, now(mara, shot)).root, before.root)


def test_between_the_passes_of_a_repeated_body_a_cut_changes_nothing(mara, take, shot):
    edit_document(mara, shot.id, shot.version, "repeat", [
        put(path(shot, "first"), "0"), put(path(shot, "last"), "1"), put(path(shot, "repeats"), "3"),
    ])  # fmt: skip
    before = performed(mara, now(mara, shot))
    cut = cut_shot(mara, shot.id, now(mara, shot).version, "split", Cut("split", role_of(shot), only(shot), Fr(2)))
    assert_allclose(performed(mara, cut).root, before.root, atol=1e-6)


def test_a_take_without_a_body_is_only_a_face_whatever_is_asked(mara, take, shot):
    edit_document(mara, take.id, take.version, "no body", [put("sources/body", None)])
    assert performed(mara, shot).root_joint == ""
    assert prepare_role(mara, shot.id, role_of(shot)).bodies == []


def test_without_a_character_there_is_no_body_and_the_face_is_there(mara, shot):
    prepared = prepare_role(mara, shot.id, role_of(shot), ShotWish(shot=[put(f"roles/{role_of(shot)}/character", None)]))  # fmt: skip
    assert prepared.graph.performed is None
    assert prepared.graph.tidied.result(mara.cache).frames == shot.body.frames


def test_a_touch_up_that_replaces_stands_in_the_place_of_a_joint_of_the_body(mara, take, shot):
    leg, role = "upperLegLeft", role_of(shot)
    names = [f"joint {leg} turn {axis}" for axis in "xyz"]
    layer = add_layer(mara, shot.id, role, "leg", "replace", [], touchup=True)

    def seen(part):
        _, arrays = evaluate_role(mara, shot.id, role, [Piece(part)], wish=ShotWish(rig=names))
        return arrays[part]

    before = seen("rig")
    assert np.ptp(before, axis=0).max() > 5  # the leg swings, and its curves say so
    # The first key of a layer that replaces says what the body does there: nothing jumps.
    after = edit_layer_keys(
        mara, layer.id, layer.version, "key", {"do": "insert", "channels": {names[0]: []}, "frame": 60}
    )[0]
    assert_allclose(seen("rig")[60], before[60], atol=0.01)
    keys = {f"keys/{n}": {"k": [0, v, 0, 0, "stepped"]} for n, v in zip(names, (0.0, 10.0, -20.0), strict=True)}
    edit_document(mara, after.id, after.version, "hold the leg", [put(p, v) for p, v in keys.items()])
    assert_allclose(seen("rig"), np.tile([0.0, 10.0, -20.0], (len(before), 1)), atol=1e-3)
    assert_allclose(seen("rigRaw"), before, atol=1e-3)
    made = prepare_role(mara, shot.id, role).performance
    held = made.local[:, made.joints.index(leg)]
    assert_allclose(held, np.tile(held[0], (len(held), 1)), atol=1e-5)


def test_handed_over_at_another_rate_the_body_goes_as_far(mara, take, shot):
    made = performed(mara, shot)
    other = performance_at(made, Fr(24))
    assert other.channels.frames == pytest.approx(made.channels.frames * 24 / 60, abs=1.5)
    assert np.abs(other.root[-1] - made.root[-1]).max() < 0.1
    settings = {"forms": {"gltf": {}, "curve table": {}, "bvh": {}}, "options": {"rate": "24"}}
    run_job(mara, request_role_handover(mara, shot.id, role_of(shot), settings).id)
    (kept,) = list_handovers(mara, take.production)
    assert kept.report["ok"]
    number = next(n for n, f in enumerate(kept.files) if f["name"].endswith(".bvh"))
    motion = read_bodies(handover_file(mara, kept.id, number)[1], "body.bvh")[0].motion
    assert_allclose(np.ptp(motion.root, axis=0), np.ptp(other.root, axis=0), atol=1e-3)


def looking(prepared, frames):
    """(frames, 3) where the left eye is and which way it looks, in the character's own space."""
    made, rig = prepared.performance, prepared.snapshot.character.skeleton
    local = np.tile(rig.rest, (made.channels.frames, 1, 1)).astype(np.float64)
    for number, joint in enumerate(made.joints):
        local[:, rig.index(joint)] = made.local[:, number]
    turns, places = rig.pose(local[frames], made.root[frames].astype(np.float64))
    eye = rig.index("eyeLeft")
    turn = multiply(turns[:, eye], inverse(rig.global_rest()[0][eye]))
    return places[:, eye], rotate(turn, np.tile([0.0, 0.0, 1.0], (len(frames), 1)))


def test_a_look_at_an_aim_meets_it_while_the_body_goes_and_turns(mara, take, shot):
    role = role_of(shot)
    aim = {"name": "the lantern", "lies": "point", "at": [1.2, 1.3, 4.5]}
    shot = edit_document(mara, shot.id, shot.version, "aim", [put("aims/lantern", aim)])
    layer = add_layer(mara, shot.id, role, "looks", "add", [])
    gaze = {"maker": "gaze", "rank": 1.0, "looks": {"l0": [0, "lantern"]}, "head": 0.0}
    edit_document(mara, layer.id, layer.version, "look", [put("makers/gaze", gaze)])
    prepared = prepare_role(mara, shot.id, role)
    frames = np.arange(60, 280, 20)
    eye, way = looking(prepared, frames)
    there = np.array(aim["at"]) - eye
    off = np.degrees(np.arccos(np.sum(way * there, axis=1) / np.linalg.norm(there, axis=1)))
    assert off.max() < 2


class TestSnags:
    """What cuts and joins of bodies do to a character is found in the shot."""

    @staticmethod
    def found(work, shot, *kinds):
        listed = list_role_snags(work, shot.id, role_of(shot))
        return [s for s in listed["snags"] if s["kind"] in (kinds or BODY_KINDS)], {k["name"] for k in listed["kinds"]}

    def test_feet_that_nobody_holds_slide_until_the_take_holds_them(self, mara, shot, take):
        body = walk(60, 4).motion
        slow = np.cumsum(np.full((body.frames, 1), 0.004), axis=0) * [[0.0, 0.0, 1.0]]
        sliding = bvh.write(replace(body, root=body.root + slow))
        other = take_with_body(mara, take.production, sliding)
        shot = make_shot(mara, take.production, "Sliding", takes=[other.id])
        entry = put(path(shot, "shows"), "both")
        edit_document(mara, shot.id, shot.version, "both", [entry])
        snags, kinds = self.found(mara, shot, "foot slides")
        assert set(BODY_KINDS) <= kinds
        assert snags
        assert all(not s["steps"] and s["region"] in ("legLeft", "legRight") for s in snags)
        say(mara, other, put("feet", True))
        assert self.found(mara, shot, "foot slides")[0] == []

    def test_without_a_body_nothing_of_bodies_is_looked_for(self, mara, shot):
        edit_document(mara, shot.id, shot.version, "face", [put(path(shot, "shows"), "face")])
        snags, kinds = self.found(mara, shot)
        assert snags == []
        assert not kinds & set(BODY_KINDS)
