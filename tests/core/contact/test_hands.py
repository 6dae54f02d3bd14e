"""Hands that touch: found where they were planned, held there on other bodies whatever their heads do, set by hand."""

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion, Skeleton, at_rest
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.cast.study import Study, parse_study
from dynaface.core.contact.by_hand import SetContact
from dynaface.core.contact.find_hands import TOUCHES, Toucher, find_touches
from dynaface.core.contact.hands import PLACES, hands_of
from dynaface.core.contact.head_surface import adult_head, directions, surface_of_points
from dynaface.core.contact.hold_hands import hold_hands
from dynaface.core.contact.touching import none_touching, touches_with_set, touching_of
from dynaface.core.curves.channels import Channels
from dynaface.core.evaluate.cache import Cache
from dynaface.core.evaluate.node import constant
from dynaface.core.evaluate.take import take_graph
from dynaface.core.perform.join_settings import JoinSettings, parse_join
from dynaface.core.perform.perform import perform_take
from dynaface.core.shapes.standard import HEAD_ANGLES
from dynaface.formats.character_file import open_character
from dynaface.sims.body_suit import move
from dynaface.sims.body_suit import skeleton as suit
from dynaface.sims.touches import Plan, touched

RATE, SECONDS = 120, 12
CHIN, CLAP, PALMS = Plan("RightHand", 5.0, 6.5), Plan("Hands", 7.6, 7.66, 0.2), Plan("Hands", 9.0, 10.2)
ARMLESS = Skeleton(("hips", "spine"), (-1, 0), np.array([[0, 1.0, 0], [0, 0.3, 0]]), np.tile([0, 0, 0, 1.0], (2, 1)))
RIGS = {n: open_character((ASSETS / f"characters/{n}.glb").read_bytes())[0] for n in ("odile", "brindle", "kettle")}
FREE = move(SECONDS, None, 5)
BUSY = touched(FREE, (CHIN, CLAP, PALMS))
FOUND = find_touches(BUSY)


def face(turn=0.0):
    """A face take of the whole time whose head turns to and fro."""
    frames = SECONDS * 60
    values = np.zeros((frames, len(HEAD_ANGLES)), np.float32)
    values[:, 0] = turn * np.sin(np.arange(frames) / 15)
    return Channels(HEAD_ANGLES, values, Fraction(60))


def played(name, turn=0.0, body=BUSY, **settings):
    """(Toucher, global rotations, global positions) of a character that plays the body."""
    rig = RIGS[name]
    made = perform_take(face(turn), rig, CastSheet(), body, JoinSettings(**settings)).motion(rig.skeleton)
    return Toucher.of(rig.skeleton, rig.study.head), *rig.skeleton.pose(made.local, made.root)


def rows(plan, rate=60):
    """Frames well within a plan."""
    return slice(round(plan.first * rate) + 1, round(plan.last * rate))


def off_head(who, rotations, positions, own):
    hand = who.hands["Right"]
    gaps = [who.beyond_skin(hand, p, rotations[own], positions[own])[0] for p in PLACES if p in hand.places]
    return min(gaps, key=lambda g: abs(np.median(g)))


def apart(who, rotations, positions, own):
    return min((who.apart(p, p, rotations[own], positions[own])[0] for p in ("palm", "finger3")), key=np.median)


class TestHands:
    @pytest.mark.parametrize("name", RIGS)
    def test_both_are_alike_and_tips_lie_beyond_the_palm(self, name):
        rig = RIGS[name].skeleton
        local, positions = rig.global_rest()
        hands = hands_of(rig)
        assert set(hands) == {"Left", "Right"}
        assert hands["Left"].size == pytest.approx(hands["Right"].size, rel=1e-3)
        for hand in hands.values():
            wrist = positions[hand.bones.end]
            palm, tip = (hand.place(p, local[None], positions[None])[0] for p in ("palm", "finger3"))
            assert np.linalg.norm(palm - wrist) < np.linalg.norm(tip - wrist) < 0.25 * hand.size

    def test_a_finger_that_is_not_there_is_another_one_or_the_palm(self):
        hand = hands_of(RIGS["kettle"].skeleton)["Left"]
        rest = [v[None] for v in RIGS["kettle"].skeleton.global_rest()]
        assert np.array_equal(hand.place("finger2", *rest), hand.place("finger3", *rest))
        palm_only = replace(hand, places={"palm": hand.places["palm"]})
        assert np.array_equal(palm_only.place("finger1", *rest), palm_only.place("palm", *rest))

    def test_a_skeleton_without_arms_has_none(self):
        assert hands_of(ARMLESS) == {}
        assert find_touches(Motion(ARMLESS, *at_rest(ARMLESS, 4), Fraction(60))) == {}


class TestHeadSurface:
    def test_a_ball_is_as_far_away_in_all_directions(self):
        ball = surface_of_points(0.12 * directions() + [0, 1.5, 0.1])
        assert ball.middle == pytest.approx([0, 1.5, 0.1], abs=0.005)
        assert ball.radius(directions()[::7]) == pytest.approx(0.12, abs=0.006)

    def test_what_lies_within_is_no_skin(self):
        ball = surface_of_points(np.concatenate([0.12 * directions(), [[0, -0.02, 0.03]] * 9]))
        assert ball.radius(directions()) == pytest.approx(0.12, abs=0.006)

    def test_few_points_say_nothing(self):
        assert surface_of_points(np.zeros((10, 3))) is None

    @pytest.mark.parametrize("name", ["odile", "brindle"])
    def test_a_character_has_its_own_which_is_kept_with_what_is_known_of_it(self, name):
        own = RIGS[name].study.head
        again = parse_study(RIGS[name].study.describe()).head
        assert again.radii == pytest.approx(own.radii, abs=1e-4)
        assert again.middle == pytest.approx(own.middle, abs=1e-4)
        # It has two like sides, and is about as large as a head of its arms should be.
        assert np.abs(own.radii - own.radii[:, ::-1]).mean() < 0.004
        assert 0.5 < own.radii.mean() / adult_head(RIGS[name].skeleton).radii.mean() < 3

    def test_of_an_older_study_nothing_is_known(self):
        assert parse_study({**Study().describe(), "version": 1}) is None
        assert parse_study(Study().describe()).head is None


class TestFinding:
    def test_touches_are_found_where_they_were_planned(self):
        seconds = {k: [(a / RATE, b / RATE) for a, b in spans] for k, spans in FOUND.items()}
        assert seconds["RightHand"] == [pytest.approx((CHIN.first, CHIN.last), abs=0.1)]
        assert seconds["Hands"] == [pytest.approx((p.first, p.last), abs=0.1) for p in (CLAP, PALMS)]
        assert seconds["LeftHand"] == []

    @pytest.mark.parametrize("seed", range(6))
    def test_who_talks_with_the_hands_touches_nothing(self, seed):
        assert not any(find_touches(move(SECONDS, None, seed)).values())

    def test_size_does_not_matter(self):
        small = replace(suit(), offsets=suit().offsets * 0.4)
        found = find_touches(replace(BUSY, skeleton=small, root=BUSY.root * 0.4))
        assert {k: len(v) for k, v in found.items()} == {"LeftHand": 0, "RightHand": 1, "Hands": 2}

    def test_a_hand_that_only_passes_by_the_chin_does_not_touch_it(self):
        quick = touched(FREE, [Plan("RightHand", 5.0, 5.02, 0.2)])
        assert find_touches(quick)["RightHand"] == ()


class TestHolding:
    @pytest.mark.parametrize("name", RIGS)
    def test_palms_that_met_meet(self, name):
        free, held = (apart(*played(name, touch=on), rows(PALMS)) for on in (False, True))
        assert np.abs(held).max() < 0.002
        assert np.median(free) > 2 * np.abs(held).max()

    @pytest.mark.parametrize("name", RIGS)
    def test_a_clap_meets(self, name):
        assert np.abs(apart(*played(name, touch=True), rows(CLAP))).max() < 0.002

    @pytest.mark.parametrize("name", RIGS)
    @pytest.mark.parametrize("turn", [0, 20])
    def test_a_finger_stays_on_the_head_however_the_face_take_turns_it(self, name, turn):
        held = off_head(*played(name, turn, touch=True), rows(CHIN))
        assert np.abs(held).max() < 0.002

    def test_it_touches_the_chin_not_the_cheek(self):
        who, rotations, positions = played("odile", touch=True)
        own = rows(CHIN)
        tip = who.hands["Right"].place("finger2", rotations[own], positions[own])
        away = who.seen_from_head(tip, rotations[own], positions[own])
        assert (away[:, 1] < -0.05).all()
        assert (away[:, 2] > 0.03).all()
        assert (np.abs(away[:, 0]) < 0.03).all()

    def test_where_nothing_touches_nothing_changes(self):
        (_, free, at), (_, held, there) = (played("odile", touch=on) for on in (False, True))
        far = slice(0, round((CHIN.first - 0.6) * 60))
        assert np.array_equal(free[far], held[far])
        assert np.array_equal(at[far], there[far])
        legs = [RIGS["odile"].skeleton.index(n) for n in ("hips", "footLeft", "head")]
        assert np.allclose(at[:, legs], there[:, legs])

    def test_hands_keep_how_they_are_turned(self):
        who, free, _ = played("kettle")
        _, held, _ = played("kettle", touch=True)
        wrists = [h.bones.end for h in who.hands.values()]
        assert np.abs((free[:, wrists] * held[:, wrists]).sum(axis=2)).min() > 1 - 1e-6

    def test_arms_come_and_go_without_a_jump(self):
        who, _, free = played("kettle")
        _, _, held = played("kettle", touch=True)
        ends = [h.bones.end for h in who.hands.values()]
        most = [np.linalg.norm(np.diff(at[:, ends], axis=0), axis=2).max() for at in (free, held)]
        assert most[1] < most[0] + 0.012

    def test_of_hands_that_touch_while_one_is_on_the_chin_the_other_goes_all_the_way(self):
        both = touched(FREE, [CHIN, Plan("LeftHand", 5.0, 6.5)])
        set_too = {"a": SetContact("Hands", 5.2, 6.2)}
        who, rotations, positions = played("odile", body=both, touch=True, contacts=set_too)
        own = rows(Plan("Hands", 5.4, 6.0))
        assert np.abs(off_head(who, rotations, positions, own)).max() < 0.002

    def test_without_a_touch_or_without_arms_it_is_the_same_motion(self):
        local = BUSY.local[:5]
        assert hold_hands(Toucher.of(suit()), local, BUSY.root[:5], none_touching(5), 120) is local
        still, root = at_rest(ARMLESS, 5)
        on = none_touching(5)
        on.on[:] = True
        assert hold_hands(Toucher.of(ARMLESS), still, root, on, 60) is still

    def test_a_body_matched_to_itself_stays_as_it_is(self):
        rig = replace(RIGS["odile"], skeleton=suit(), study=None, meshes=())
        made = [perform_take(face(), rig, CastSheet(), BUSY, JoinSettings(touch=on)) for on in (False, True)]
        who = Toucher.of(suit())
        at = [suit().pose(*(m.motion(suit()).local, m.root.astype(float)))[1] for m in made]
        ends = [h.bones.end for h in who.hands.values()]
        # The chin of a made head lies a finger's breadth off the one that heads are thought to have.
        assert np.linalg.norm(at[0][:, ends] - at[1][:, ends], axis=2).max() < 0.04


class TestByHand:
    def test_an_edge_that_was_moved_and_one_that_was_added(self):
        (first, last), *rest = FOUND["Hands"]
        over = (first / RATE, last / RATE)
        by_hand = {"a": SetContact("Hands", 7.0, 7.7, over=over), "b": SetContact("LeftHand", 1.0, 2.0)}
        made = touches_with_set(FOUND, by_hand, RATE, BUSY.frames)
        assert made["Hands"] == ((840, 924), *rest)
        assert made["LeftHand"] == ((120, 240),)
        assert made["RightHand"] == FOUND["RightHand"]

    def test_one_that_is_taken_away_is_not_held(self):
        gone = {"a": SetContact("Hands", PALMS.first - 0.2, PALMS.last + 0.2, stands=False)}
        free, held = (apart(*played("kettle", **more), rows(PALMS)) for more in ({}, {"touch": True, "contacts": gone}))
        assert held == pytest.approx(free)

    def test_settings_name_what_touches(self):
        made = parse_join({"touch": True, "contacts": {"a": {"side": "Hands", "first": 1, "last": 2}}})
        assert made.touch
        assert made.contacts["a"] == SetContact("Hands", 1.0, 2.0)


class TestMoments:
    def test_at_another_rate_it_is_the_same_moment(self):
        seconds = np.arange(SECONDS * 24) / 24
        seen = touching_of(BUSY, FOUND, seconds)
        held = np.flatnonzero(seen.on[:, TOUCHES.index("RightHand")]) / 24
        assert (held[0], held[-1]) == pytest.approx((CHIN.first, CHIN.last), abs=0.1)
        assert (seen.places[seen.on[:, 1], 1, 1] == PLACES.index("finger2")).all()

    def test_a_touch_belongs_to_the_body_wherever_it_goes(self):
        turned = replace(BUSY, local=BUSY.local.copy())
        turned.local[:, 0] = multiply(about("y", 70.0), BUSY.local[:, 0])
        seconds = np.arange(0, SECONDS, 0.1)
        one, other = (touching_of(m, FOUND, seconds) for m in (BUSY, turned))
        assert one.way == pytest.approx(other.way, abs=1e-9)


def test_a_graph_gives_what_a_take_gives_at_once_and_an_edge_leaves_the_body_alone():
    rig, settings = RIGS["odile"], JoinSettings(touch=True)
    cache = Cache(500_000_000)

    def graph(join):
        return take_graph(
            constant("face", face(10)), 60.0, [], {}, constant("rig", rig), None, constant("body", BUSY), join
        )

    whole = graph(settings)
    assert np.array_equal(
        whole.performed.result(cache).local, perform_take(face(10), rig, CastSheet(), BUSY, settings).local
    )
    moved = graph(replace(settings, contacts={"a": SetContact("Hands", 1.0, 2.0)}))
    assert moved.body.inputs[0].key == whole.body.inputs[0].key
    assert moved.performed.key != whole.performed.key
