"""Props of shots, on the real database: brought in, held, passed on, found, undone, handed over."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply, rotate
from dynaface.core.errors import ConflictError, InputError, NotFoundError
from dynaface.core.perform.held_props import Standing, holder_of
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.gltf.prop import carrier_of
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.handover.list_handovers import handover_file, list_handovers
from dynaface.services.handover.request_handover import request_role_handover
from dynaface.services.pieces import Piece
from dynaface.services.shot.bring_prop import bring_prop, find_prop_holds
from dynaface.services.shot.evaluate_shot import evaluate_role, prepare_role
from dynaface.services.shot.find_role_snags import OFF_PROP, list_role_snags
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_character, import_take
from dynaface.sims.body_suit import move
from tests.conftest import stored
from tests.core.prop.test_carry import swinging
from tests.formats.test_props import moving_prop
from tests.makers import channels
from tests.services.evaluated import put
from tests.services.test_bodies_of_shots import looking

LANTERN = (ASSETS / "props/lantern.glb").read_bytes()
SHELF = [-0.25, 1.15, 0.35]


@pytest.fixture
def cast(mara, production):
    """A take of five seconds with a body for each of two performers, and a character for each."""
    played = {
        n: import_character(
            mara, production, n, stored(mara, (ASSETS / f"characters/{n.lower()}.glb").read_bytes(), f"{n}.glb")
        )
        for n in ("Odile", "Brindle")
    }
    takes = [
        import_take(mara, production, slate, who, [
            stored(mara, write_table(channels(frames=300)), "face.csv"),
            stored(mara, bvh.write(move(6.0, None, seed, steps=0)), "body.bvh"),
        ])
        for slate, who, seed in (("4A", "Mara Quill", 3), ("4B", "Ivo Thackett", 4))
    ]  # fmt: skip
    return played, takes


@pytest.fixture
def shot(mara, production, cast):
    """Both at once: Odile, and Brindle where her right hand can reach his left one; a lantern."""
    played, takes = cast
    made = make_shot(mara, production, "Jetty", "60", [t.id for t in takes])
    odile, brindle = made.body.ordered
    changes = []
    for role, name in ((odile, "Odile"), (brindle, "Brindle")):
        placements = made.body.roles[role].placements
        changes.append(put(f"roles/{role}/character", played[name].id))
        for key in placements:
            changes += [
                put(f"roles/{role}/placements/{key}/shows", "both"),
                put(f"roles/{role}/placements/{key}/start", "0"),
            ]
    changes += [put("length", "5"), put(f"roles/{brindle}/at", [-0.3, 0.0, 0.32]), put(f"roles/{brindle}/turn", 180.0)]
    edit_document(mara, made.id, made.version, "set the scene", changes)
    version = open_shot(mara, made.id).shot.version
    return bring_prop(mara, made.id, version, stored(mara, LANTERN, "salt lantern.glb"))


def prop_of(shot):
    return next(iter(shot.body.props))


def roles_of(shot):
    return shot.body.ordered


def held(shot, **holds):
    """The change that lets hands hold the lantern: key=(role, side, first, last)."""
    names = dict(zip(("odile", "brindle"), roles_of(shot), strict=True))
    table = {
        key: {
            "role": names[who],
            "side": side,
            "first": first,
            "last": last,
            "at": [0.0, -0.25, 0.0] if who == "brindle" else [0, 0, 0],
            "closed": 0.0,
        }
        for key, (who, side, first, last) in holds.items()
    }
    return put(f"props/{prop_of(shot)}/holds", table)


def rig_of(work, shot, role):
    """The skeleton of a role's character."""
    return prepare_role(work, shot.id, role).snapshot.character.skeleton


def way(work, shot, *changes, role=None):
    """(metres (frames, 3), turns (frames, 4), head) of the lantern as the page is given it."""
    head, arrays = evaluate_role(work, shot.id, role or roles_of(shot)[0], [Piece("props")], ShotWish(shot=changes))
    table = arrays["props"].reshape(len(arrays["props"]), -1, 7)
    (piece,) = head["pieces"]
    assert piece["columns"] == [prop_of(shot)]
    return table[:, 0, :3], table[:, 0, 3:], head


def palm(work, shot, number, side, *changes):
    """Where a palm of a role is in the shot."""
    role = roles_of(shot)[number]
    prepared = prepare_role(work, shot.id, role, ShotWish(shot=changes))
    own = prepared.snapshot.role
    found = holder_of(prepared.performance, prepared.snapshot.character, Standing(own.at, own.turn))
    return found.palm(side)[0]


class TestBringing:
    def test_it_stands_beside_the_middle_under_the_name_of_its_file(self, shot):
        entry = shot.body.props[prop_of(shot)]
        assert (entry.name, entry.plays, entry.holds) == ("salt lantern", None, {})

    def test_everybody_sees_it_where_it_stands_also_who_holds_nothing(self, mara, shot):
        for role in roles_of(shot):
            at, _, head = way(mara, shot, put(f"props/{prop_of(shot)}/at", [1.0, 0.5, 0.25]), role=role)
            assert np.allclose(at, [1.0, 0.5, 0.25])
            assert head["short"] == {}

    def test_one_that_moves_by_itself_goes_its_way_from_the_beginning(self, mara, shot):
        made = bring_prop(mara, shot.id, shot.version, stored(mara, moving_prop(), "moved.glb"))
        key = next(k for k in made.body.props if k != prop_of(shot))
        assert made.body.props[key].plays == 0.0
        head, arrays = evaluate_role(mara, made.id, roles_of(made)[0], [Piece("props")])
        column = head["pieces"][0]["columns"].index(key)
        at = arrays["props"].reshape(len(arrays["props"]), -1, 7)[:, column, :3]
        assert np.allclose(at[:300], swinging().motion.shifts[:300], atol=1e-4)

    def test_what_is_no_prop_is_refused_with_the_name_of_the_file_and_changes_nothing(self, mara, shot):
        files = [("voice.wav", b"RIFF" + bytes(60)), ("body.bvh", bvh.write(move(1.0, None, 1))), ("cut.glb", LANTERN[:2000]), ("no.glb", b"")]  # fmt: skip
        for name, data in files:
            with pytest.raises(InputError, match=name.split(".")[0]):
                bring_prop(mara, shot.id, shot.version, stored(mara, data or b"glTF", name))
        assert open_shot(mara, shot.id).shot.version == shot.version

    def test_a_stranger_brings_nothing(self, stranger, mara, shot):
        with pytest.raises(NotFoundError):
            bring_prop(stranger, shot.id, shot.version, stored(mara, LANTERN, "salt lantern.glb"))

    def test_a_source_of_another_kind_or_production_is_no_prop(self, mara, shot, cast):
        body = cast[1][0].body.sources.body
        with pytest.raises((InputError, NotFoundError)):
            edit_document(mara, shot.id, shot.version, "swap", [put(f"props/{prop_of(shot)}/source", body)])

    def test_it_is_taken_away_and_comes_back_with_undo(self, mara, shot):
        gone = edit_document(mara, shot.id, shot.version, "away", [{"path": f"props/{prop_of(shot)}", "remove": True}])
        assert not gone.body.props
        assert prop_of(undo(mara, [shot.id])[0]) == prop_of(shot)


class TestHolding:
    def test_it_goes_along_in_the_hand(self, mara, shot):
        change = held(shot, a=("odile", "Right", 0, 299))
        at, _, head = way(mara, shot, change)
        assert np.abs(at - palm(mara, shot, 0, "Right", change)).max() < 1e-5
        assert head["short"]["a"] < 1e-5

    def test_it_is_passed_from_one_role_to_the_other(self, mara, shot):
        change = held(shot, a=("odile", "Right", 0, 180), b=("brindle", "Left", 150, 299))
        hangs = put(f"props/{prop_of(shot)}/hangs", True)
        at, turns, _ = way(mara, shot, change, hangs)
        grip = at + rotate(turns, np.broadcast_to([0.0, -0.25, 0.0], at.shape))
        takes = palm(mara, shot, 1, "Left", change, hangs)
        assert np.abs(at - palm(mara, shot, 0, "Right", change, hangs))[:181].max() < 1e-5
        assert np.abs(grip - takes)[150:].max() < 5e-3
        assert np.abs(np.diff(at, axis=0)).max() < 0.06

    def test_who_takes_it_bends_an_arm_and_who_gives_it_does_not(self, mara, shot):
        change = held(shot, a=("odile", "Right", 0, 180), b=("brindle", "Left", 150, 299))
        for number, changed in ((0, False), (1, True)):
            role = roles_of(shot)[number]
            free = prepare_role(mara, shot.id, role).performance
            made = prepare_role(mara, shot.id, role, ShotWish(shot=[change])).performance
            assert bool(np.abs(made.local - free.local).max() > 1e-3) is changed

    def test_fingers_close_about_it_as_far_as_is_asked(self, mara, shot):
        role, change = roles_of(shot)[0], held(shot, a=("odile", "Right", 0, 299))
        open_hand = prepare_role(mara, shot.id, role, ShotWish(shot=[change])).performance
        change["value"]["a"]["closed"] = 1.0
        closed = prepare_role(mara, shot.id, role, ShotWish(shot=[change])).performance
        assert (
            np.abs(
                closed.motion(rig_of(mara, shot, role)).local - open_hand.motion(rig_of(mara, shot, role)).local
            ).max()
            > 0.1
        )

    def test_a_hand_that_falls_short_is_said(self, mara, shot):
        change = held(shot, a=("odile", "Right", 60, 120))
        far = [put(f"props/{prop_of(shot)}/at", [3.0, 0.0, 0.0]), put(f"props/{prop_of(shot)}/begins", "place")]
        assert way(mara, shot, change, *far)[2]["short"]["a"] > 2.0

    def test_and_is_among_the_snags_of_its_role_alone(self, mara, shot):
        far = [put(f"props/{prop_of(shot)}/at", [3.0, 0.0, 0.0]), put(f"props/{prop_of(shot)}/begins", "place")]
        near = edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("odile", "Right", 60, 9999))])
        odile, brindle = roles_of(shot)
        assert [s["kind"] for s in list_role_snags(mara, shot.id, odile)["snags"] if s["kind"] == OFF_PROP] == []
        edit_document(mara, near.id, near.version, "far", far)
        (snag,) = [s for s in list_role_snags(mara, shot.id, odile)["snags"] if s["kind"] == OFF_PROP]
        assert (snag["first"], snag["last"]) == (60, 299)
        assert "right hand stays" in snag["words"]
        assert "salt lantern" in snag["words"]
        assert [s for s in list_role_snags(mara, shot.id, brindle)["snags"] if s["kind"] == OFF_PROP] == []

    def test_a_role_that_went_away_holds_nothing(self, mara, shot):
        made = edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("brindle", "Left", 0, 299))])
        gone = edit_document(
            mara, made.id, made.version, "away", [{"path": f"roles/{roles_of(shot)[1]}", "remove": True}]
        )
        assert way(mara, gone)[2]["short"] == {"a": None}

    @pytest.mark.parametrize(
        ("field", "value"), [("first", -1), ("last", 10), ("side", "Middle"), ("at", [0.0, 1e9, 0.0]), ("role", "")]
    )
    def test_a_hold_that_cannot_be_is_refused(self, mara, shot, field, value):
        change = held(shot, a=("odile", "Right", 60, 120))
        change["value"]["a"][field] = value
        with pytest.raises(InputError):
            edit_document(mara, shot.id, shot.version, "hold", [change])

    def test_two_people_drag_two_edges_and_the_same_one_meets(self, mara, ivo, shot):
        made = edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("odile", "Right", 60, 120))])
        edge = f"props/{prop_of(shot)}/holds/a"
        edit_document(mara, made.id, made.version, "edge", [put(f"{edge}/first", 50)])
        both = edit_document(ivo, made.id, made.version, "edge", [put(f"{edge}/last", 140)])
        hold = both.body.props[prop_of(shot)].holds["a"]
        assert (hold.first, hold.last) == (50, 140)
        with pytest.raises(ConflictError):
            edit_document(ivo, made.id, made.version, "edge", [put(f"{edge}/first", 40)])


class TestDragging:
    """What a page is shown while a layer is dragged, worked out from a stretch, has the arms that hold."""

    def test_a_stretch_of_a_face_layer_keeps_the_arms(self, mara, shot):
        shelf = [put(f"props/{prop_of(shot)}/at", SHELF), put(f"props/{prop_of(shot)}/begins", "place")]
        made = edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("odile", "Right", 40, 280)), *shelf])
        role = roles_of(made)[0]
        layer = add_layer(mara, made.id, role, "smile", "add", [])
        span = {"first": 20, "last": 22, "leadIn": 2, "leadOut": 2, "offset": {"mouthSmileLeft": 0.2}}
        edit_document(mara, layer.id, layer.version, "span", [put("spans/s", span)])
        parts = ["tidied", "weights", "motion", "root", "shifts", "props"]
        head, _ = evaluate_role(mara, made.id, role, [Piece(p) for p in parts])
        tags = {p["part"]: p["tag"] for p in head["pieces"]}
        wish = ShotWish(layers={layer.id: [put("spans/s/offset/mouthSmileLeft", 0.6)]})
        wished, arrays = evaluate_role(mara, made.id, role, [Piece(p, tags[p]) for p in parts], wish)
        assert {p["part"] for p in wished["pieces"]} == set(parts)
        assert arrays["motion runs"].shape[0] == 0
        assert arrays["weights runs"].shape[0] > 0

    def test_a_touch_up_of_the_hand_takes_the_prop_along(self, mara, shot):
        change = held(shot, a=("odile", "Right", 0, 299))
        made = edit_document(mara, shot.id, shot.version, "hold", [change])
        before = way(mara, made)[0]
        role = roles_of(made)[0]
        layer = add_layer(mara, made.id, role, "lift", "add", [], touchup=True)
        span = {"first": 100, "last": 200, "leadIn": 10, "leadOut": 10, "offset": {"limb handRight y": 120.0}}
        edit_document(mara, layer.id, layer.version, "span", [put("spans/s", span)])
        after = way(mara, made)[0]
        assert (after - before)[150, 1] == pytest.approx(0.12, abs=5e-3)
        assert np.abs(after - before)[:80].max() < 1e-6


class TestFinding:
    def test_hands_on_a_prop_that_moves_are_put_in_place_of_its_holds(self, mara, shot):
        """The lantern's way in her hand, brought back as a prop that moves by itself."""
        at, turns, _ = way(mara, shot, held(shot, a=("odile", "Right", 60, 240)))
        at[:60, 1] += np.linspace(-0.6, 0, 60)
        at[241:, 1] -= 4.9 * (np.arange(1, len(at) - 240) / 60) ** 2  # it falls
        made = bring_prop(mara, shot.id, shot.version, stored(mara, moving_prop(at, turns), "moved.glb"))
        key = next(k for k in made.body.props if k != prop_of(shot))
        found = find_prop_holds(mara, made.id, made.version, key)
        (hold,) = [h for h in found.body.props[key].holds.values() if h.role == roles_of(shot)[0]]
        assert hold.side == "Right"
        assert abs(hold.first - 60) < 10
        assert abs(hold.last - 240) < 10
        assert undo(mara, [shot.id])[0].body.props[key].holds == {}

    def test_where_no_hand_comes_it_is_said(self, mara, shot):
        with pytest.raises(InputError, match="no hand comes to salt lantern"):
            find_prop_holds(mara, shot.id, shot.version, prop_of(shot))
        with pytest.raises(NotFoundError):
            find_prop_holds(mara, shot.id, shot.version, "nothing")


def test_it_is_handed_over_in_the_hand_of_who_holds_it(mara, shot):
    hold = held(shot, b=("brindle", "Left", 0, 299))
    made = edit_document(mara, shot.id, shot.version, "hold", [hold])
    odile, brindle = roles_of(made)
    for role in (odile, brindle):
        run_job(mara, request_role_handover(mara, made.id, role, {"forms": {"gltf": {}}, "options": {"rate": "30"}}).id)
    his, hers = list_handovers(mara, made.production)[:2]
    assert [f["name"] for f in hers.files if "lantern" in f["name"]] == []
    number = next(n for n, f in enumerate(his.files) if "lantern" in f["name"])
    assert his.report["ok"]
    assert any("salt lantern where the viewer has it" in c["what"] for c in his.report["checks"])
    read = sample_glb(handover_file(mara, his.id, number)[1], np.arange(150))
    at, turns, _ = way(mara, made)
    own = made.body.roles[brindle]
    carrier = carrier_of("salt lantern")
    back = np.asarray(own.at) + rotate(about("y", own.turn), read[(carrier, "translation")].astype(np.float64))
    assert np.abs(back - at[::2]).max() < 1e-4
    facing = multiply(about("y", own.turn), read[(carrier, "rotation")].astype(np.float64))
    assert np.abs(np.abs((facing * turns[::2]).sum(axis=1)) - 1).max() < 1e-4


class TestLookingAtIt:
    """Eyes look at a prop wherever hands carry it."""

    def look(self, work, shot, at=(0.0, -0.2, 0.0)):
        aim = {"name": "lantern", "lies": "prop", "prop": prop_of(shot), "at": list(at)}
        # From some way off, so that eyes need not go farther than they can.
        stand = put(f"roles/{roles_of(shot)[1]}/at", [-0.3, 0.0, 2.2])
        edit_document(work, shot.id, shot.version, "an aim", [put("aims/lantern", aim), stand])
        layer = add_layer(work, shot.id, roles_of(shot)[1], "gaze", "add", [])
        gaze = {"maker": "gaze", "rank": 1.0, "steps": 0.0, "blinks": 0.0, "head": 0.3, "looks": {"l": [0, "lantern"]}}
        edit_document(work, layer.id, layer.version, "look", [put("makers/g", gaze)])
        return open_shot(work, shot.id).shot

    def degrees_off(self, work, shot, frames):
        """Between the way in which his left eye looks and the flame."""
        prepared = prepare_role(work, shot.id, roles_of(shot)[1])
        eye, ahead = looking(prepared, frames)
        own = prepared.snapshot.role
        turn = about("y", own.turn)
        at, turns, _ = way(work, shot)
        flame = at[frames] + rotate(turns[frames], np.tile([0.0, -0.2, 0.0], (len(frames), 1)))
        there = flame - np.asarray(own.at) - rotate(turn, eye)
        cosines = np.sum(rotate(turn, ahead) * there, axis=1) / np.linalg.norm(there, axis=1)
        return np.degrees(np.arccos(np.clip(cosines, -1, 1)))

    def test_they_meet_it_while_another_hand_carries_it(self, mara, shot):
        edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("odile", "Right", 0, 299))])
        shot = self.look(mara, open_shot(mara, shot.id).shot)
        assert self.degrees_off(mara, shot, np.arange(40, 280, 20)).max() < 2

    def test_a_hold_that_is_moved_moves_the_eyes(self, mara, shot):
        shot = self.look(mara, shot)
        before = prepare_role(mara, shot.id, roles_of(shot)[1]).graph.tidied.result(mara.cache).values.copy()
        edit_document(mara, shot.id, shot.version, "hold", [held(shot, a=("odile", "Right", 0, 299))])
        after = prepare_role(mara, shot.id, roles_of(shot)[1]).graph.tidied.result(mara.cache).values
        assert not np.array_equal(before, after, equal_nan=True)

    def test_the_hand_of_the_one_who_looks_at_it_may_carry_it(self, mara, shot):
        edit_document(
            mara,
            shot.id,
            shot.version,
            "hold",
            [held(shot, a=("brindle", "Left", 0, 200), b=("odile", "Right", 180, 299))],
        )
        shot = self.look(mara, open_shot(mara, shot.id).shot)
        made = prepare_role(mara, shot.id, roles_of(shot)[1]).performance
        assert np.isfinite(made.local).all()
        seen = [way(mara, shot, role=role)[0] for role in roles_of(shot)]
        np.testing.assert_array_equal(*seen)

    def test_an_aim_on_a_prop_needs_one_and_one_on_a_prop_that_is_gone_is_passed_over(self, mara, shot):
        with pytest.raises(InputError, match="needs a prop"):
            edit_document(mara, shot.id, shot.version, "aim", [put("aims/a", {"name": "a", "lies": "prop"})])
        shot = self.look(mara, shot)
        gone = edit_document(mara, shot.id, shot.version, "away", [{"path": f"props/{prop_of(shot)}", "remove": True}])
        prepared = prepare_role(mara, gone.id, roles_of(shot)[1])
        assert "lantern" not in prepared.around.result(mara.cache).aims
        assert prepared.performance.channels.frames == 300
