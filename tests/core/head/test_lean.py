"""The head's travel before a fixed camera: measured where the head sits on its neck, and given back as a lean of the trunk."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import IDENTITY, about, head_rotation, inverse, multiply, rotate
from dynaface.core.body.skeleton import Skeleton, at_rest
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.curves.channels import Channels
from dynaface.core.errors import InputError
from dynaface.core.head.lean import ADULT, LIMIT, lean, trunk
from dynaface.core.head.neck import head_chain
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES, HEAD_TRAVEL
from dynaface.core.track.travel import SEAT, travel_of
from dynaface.formats.gltf.character import read_character
from tests.makers import body, skeleton

RIGS = {n: read_character((ASSETS / f"characters/{n}.glb").read_bytes()) for n in ("odile", "brindle", "kettle")}
ODILE = RIGS["odile"].skeleton


def standing(rig, frames):
    local, _ = at_rest(rig, frames)
    return np.broadcast_to(IDENTITY, (frames, len(rig.names), 4)).copy(), local


def neck_of(rig, local):
    """(frames, 3) where the neck begins."""
    return rig.pose(local, np.zeros((len(local), 3)))[1][:, head_chain(rig)[0]]


def face(frames=60, **columns):
    """Angles of the head and its travel."""
    names = HEAD_ANGLES + HEAD_TRAVEL
    at = np.arange(frames) / 10
    values = np.stack([columns.get(n, 0) * np.sin(at + i) for i, n in enumerate(names)], axis=1)
    return Channels(names, values.astype(np.float32), Fraction(60))


class TestTravel:
    def test_a_turn_about_the_seat_is_no_travel(self):
        turns = head_rotation(*np.random.default_rng(1).uniform(-30, 30, (3, 50)))
        assert np.abs(travel_of(turns, -rotate(turns, SEAT), IDENTITY)).max() < 1e-9

    def test_travel_is_in_millimetres_from_where_the_head_mostly_was_and_in_the_performers_own_directions(self):
        went = np.zeros((9, 3))
        went[6:] = 0.02, 0.01, 0.03
        turned = about("y", 90.0)  # the performer looks along the camera's x
        found = travel_of(np.tile(turned, (9, 1)), rotate(turned, went) + [1.0, 2.0, -3.0], turned)
        assert np.allclose(found[:6], 0)
        assert np.allclose(found[6:], [20, 10, 30])

    def test_frames_without_a_head_are_bridged_and_no_head_is_no_travel(self):
        places = np.array([[0, 0, 0], [0, 0, 0], [np.nan] * 3, [0.02, 0, 0]])
        turns = np.where(np.isnan(places[:, :1]), np.nan, IDENTITY)
        assert np.allclose(travel_of(turns, places, IDENTITY)[:, 0], [0, 0, 10, 20])
        assert not travel_of(turns[2:3], places[2:3], IDENTITY).any()


class TestTrunk:
    def test_it_goes_from_above_the_hips_to_beneath_the_neck(self):
        assert [ODILE.names[j] for j in trunk(ODILE)] == ["spine1", "spine2", "spine3", "spine4", "spine5"]

    def test_what_carries_legs_stands(self):
        rows = [("root", -1), ("pelvis", 0), ("thighLeft", 1), ("spine", 1), ("neck", 3), ("head", 4)]
        names, parents = zip(*rows, strict=True)
        rig = Skeleton(names, parents, np.tile([0.0, 0.3, 0.0], (6, 1)), np.tile(IDENTITY, (6, 1)))
        assert trunk(rig) == [3]

    def test_a_head_alone_has_none_and_stays(self):
        rig = Skeleton(("head",), (-1,), np.zeros((1, 3)), IDENTITY[None])
        turns, local = standing(rig, 4)
        assert trunk(rig) == []
        assert lean(rig, turns, local, np.full((4, 3), 50.0)) == (turns, local)


class TestLean:
    @pytest.mark.parametrize("name", RIGS)
    def test_the_neck_goes_where_the_head_went_in_the_characters_own_measure(self, name):
        rig = RIGS[name].skeleton
        rng = np.random.default_rng(5)
        travel = rng.uniform(-90, 90, (80, 3))
        turns, local = standing(rig, 80)
        _, leant = lean(rig, turns, local, travel)
        at = rig.global_rest()[1]
        size = np.linalg.norm(at[head_chain(rig)[0]] - at[trunk(rig)[0]]) / ADULT
        went = (neck_of(rig, leant) - neck_of(rig, local)) * 1000 / size
        assert np.abs(went - travel)[:, [0, 2]].max() < 0.5

    def test_it_goes_on_softly_to_its_limit_and_no_further(self):
        travel = np.outer(np.linspace(0, 600, 600), [1.0, 0, 0])
        turns, _ = lean(ODILE, *standing(ODILE, 600), travel)
        angle = np.degrees(2 * np.arccos(np.clip(np.abs(turns[:, trunk(ODILE)[-1], 3]), 0, 1)))
        assert angle.max() <= LIMIT + 1e-6
        assert (np.diff(angle) > -1e-9).all()
        assert np.abs(np.diff(angle, 2)).max() < 0.01

    def test_the_other_way_is_the_mirror_of_one_way(self):
        left, right = (lean(ODILE, *standing(ODILE, 1), np.array([[s * 60.0, 0, 20.0]]))[0] for s in (1, -1))
        mirrored = right * [1, -1, -1, 1]
        spine = trunk(ODILE)
        assert np.allclose(left[:, spine], mirrored[:, spine], atol=1e-3)

    def test_arms_go_along_and_legs_stand(self):
        turns, _ = lean(ODILE, *standing(ODILE, 1), np.array([[80.0, 0, 0]]))
        moved = {n for n, t in zip(ODILE.names, turns[0], strict=True) if abs(t[3]) < 1 - 1e-9}
        assert {"spine5", "handLeft", "upperArmRight"} <= moved
        assert not moved & {"hips", "footLeft", "head", "neck1"}

    def test_who_looks_another_way_leans_that_way(self):
        rig = skeleton()
        turns, local = standing(rig, 1)
        turns = multiply(about("y", 90.0), turns)
        local[:, 0] = multiply(about("y", 90.0), local[:, 0])
        _, leant = lean(rig, turns, local, np.array([[0, 0, 40.0]]))
        went = neck_of(rig, leant) - neck_of(rig, local)
        assert went[0, 0] > 0.005
        assert abs(went[0, 2]) < 1e-6


class TestPerformed:
    def test_without_lean_travel_changes_nothing_bit_for_bit(self):
        still = perform_take(face(headTurn=20), RIGS["odile"], CastSheet())
        gone = perform_take(face(headTurn=20, headSide=50), RIGS["odile"], CastSheet())
        assert still.joints == gone.joints
        assert still.local.tobytes() == gone.local.tobytes()

    @pytest.mark.parametrize("whose", [None, body(turn=20)])
    def test_the_head_looks_where_it_looked_and_stays_on_its_neck(self, whose):
        given = face(headTurn=20, headNod=10, headSide=60, headForward=40)
        plain, leant = (perform_take(given, RIGS["odile"], CastSheet(), whose, JoinSettings(lean=v)) for v in (0, 1))
        (turned, at), (turned_leant, at_leant) = (_posed(m) for m in (plain, leant))
        head, neck = ODILE.index("head"), head_chain(ODILE)[-2]
        off = multiply(inverse(turned[:, head]), turned_leant[:, head])
        assert np.abs(off[:, :3]).max() < 1e-5
        apart = [np.linalg.norm(a[:, head] - a[:, neck], axis=1) for a in (at, at_leant)]
        assert np.abs(apart[0] - apart[1]).max() < 1e-6
        assert np.abs(at_leant[:, head] - at[:, head]).max() > 0.03

    def test_the_lean_is_from_0_to_1(self):
        assert parse_join({"lean": 0.5}).lean == 0.5
        with pytest.raises(InputError, match="lean"):
            parse_join({"lean": 1.5})


def _posed(made):
    """World turns and places of Odile's joints in a performance."""
    local, root = at_rest(ODILE, made.channels.frames)
    local[:, [ODILE.index(n) for n in made.joints]] = made.local
    return ODILE.pose(local, root + (made.root if made.root_joint else 0))


def test_the_travel_of_a_gap_is_bridged():
    given = face(headSide=40)
    holed = replace(given, values=np.where(np.arange(60)[:, None] == 30, np.float32(np.nan), given.values))
    one, other = (perform_take(f, RIGS["odile"], CastSheet(), None, JoinSettings(lean=1)) for f in (given, holed))
    assert np.isfinite(other.local).all()
    assert np.abs(one.local - other.local).max() < 0.01
