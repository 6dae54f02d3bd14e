"""Shots made of takes, evaluated, cut and layered; two people on one shot."""

from fractions import Fraction as Fr

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import ConflictError, DynafaceError, InputError, NotFoundError
from dynaface.formats.entries import wav
from dynaface.jobs.run_job import run_job
from dynaface.services.edit_document import edit_document, redo, undo
from dynaface.services.handover.list_handovers import handover_file, list_handovers
from dynaface.services.handover.request_handover import request_role_handover
from dynaface.services.load_source import load_geometry
from dynaface.services.pieces import Piece
from dynaface.services.shot.cut_shot import Cut, cut_shot
from dynaface.services.shot.end_maker import end_maker
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.freeze_clip import follow_take, freeze_clip
from dynaface.services.shot.grab_face import grab_face
from dynaface.services.shot.make_shot import add_layer, add_to_reel, list_reel, list_shots, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.shot.shot_sound import let_sound_go, shot_peaks, shot_sound, shot_wav
from dynaface.services.shot.snapshot import ShotWish
from dynaface.services.take.import_take import import_character, import_take
from tests.conftest import stored
from tests.services.evaluated import evaluated, put

DEMO = ASSETS / "demo"
ALL = ("raw", "tidied", "weights", "motion", "root", "shifts")


def demo(work, name):
    return stored(work, (DEMO / name).read_bytes(), name)


@pytest.fixture
def odile(mara, production):
    rig = stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    return import_character(mara, production, "Odile", rig)


@pytest.fixture
def takes(mara, production, odile):
    lamp = import_take(mara, production, "4A", "Mara Quill", [demo(mara, "mara_lamp.csv"), demo(mara, "mara_lamp.wav")])
    again = import_take(mara, production, "4B", "Mara Quill", [demo(mara, "mara_lamp.csv")])
    other = import_take(mara, production, "7", "Ivo Thackett", [demo(mara, "mara_lamp.csv")])
    return lamp, again, other


@pytest.fixture
def shot(mara, production, takes):
    return make_shot(mara, production, "Ferry landing", takes=[t.id for t in takes])


def played(work, shot, role, parts=("raw", "tidied"), wish=None):
    head, arrays = evaluate_role(work, shot.id, role, [Piece(p) for p in parts], wish)
    return head, arrays


def first_role(shot):
    return shot.body.ordered[0]


def test_a_shot_of_takes_has_a_role_a_performer_and_clips_in_a_row(mara, production, shot, takes):
    assert [shot.body.roles[r].performer for r in shot.body.ordered] == ["Mara Quill", "Ivo Thackett"]
    mine = sorted(shot.body.roles[first_role(shot)].placements.values(), key=lambda p: Fr(p.start))
    assert Fr(mine[0].start) == 0
    assert Fr(mine[1].start) == Fr(mine[0].last)
    reel = list_reel(mara, production)
    assert [c["name"] for c in reel] == ["Ivo-Thackett_7_01", "Mara-Quill_4A_01", "Mara-Quill_4B_01"]
    assert all(c["used"] == ["Ferry landing"] for c in reel)
    (row,) = list_shots(mara, production)
    assert row["roles"] == ["Odile", "Odile"]


def test_one_clip_of_one_take_shows_what_the_take_shows_bit_for_bit(mara, production, takes):
    alone = make_shot(mara, production, "One", takes=[takes[0].id])
    _, mine = played(mara, alone, first_role(alone), ALL)
    _, theirs = evaluated(mara, takes[0].id, list(ALL))
    theirs["raw"] = theirs["tidied"]  # clips give what their take gives in the end
    for part in ALL:
        np.testing.assert_array_equal(mine[part].reshape(theirs[part].shape), theirs[part], err_msg=part)


def test_a_layer_acts_on_the_result_and_can_be_undone_and_redone(mara, shot):
    role = first_role(shot)
    _, before = played(mara, shot, role)
    layer = add_layer(mara, shot.id, role, "lip", "add", ["lips", "jaw"])
    span = {"first": 60, "last": 90, "offset": {"jawOpen": 0.2}}
    edit_document(mara, layer.id, layer.version, "raise", [put("spans/a", span)])
    head, after = played(mara, shot, role)
    column = head["channels"].index("jawOpen")
    assert after["tidied"][75, column] - before["tidied"][75, column] == pytest.approx(0.2, abs=1e-6)
    np.testing.assert_array_equal(after["raw"], before["raw"])
    np.testing.assert_array_equal(after["tidied"][:40], before["tidied"][:40])
    documents = [shot.id, layer.id]
    undo(mara, documents)
    np.testing.assert_array_equal(played(mara, shot, role)[1]["tidied"], before["tidied"])
    undo(mara, documents)
    assert all(n.body.archived for n in open_shot(mara, shot.id).layers)
    redo(mara, documents)
    redo(mara, documents)
    np.testing.assert_array_equal(played(mara, shot, role)[1]["tidied"], after["tidied"])


def test_what_is_only_wished_for_is_not_stored(mara, shot):
    role = first_role(shot)
    layer = add_layer(mara, shot.id, role, "lip", "replace", [])
    wish = ShotWish(
        [put(f"roles/{role}/capture/jaw", {"value": 0.5})],
        {layer.id: [put("spans/a", {"first": 0, "last": 20, "offset": {"cheekPuff": 0.4}})]},
    )
    head, tried = played(mara, shot, role, wish=wish)
    assert tried["tidied"][10, head["channels"].index("cheekPuff")] == pytest.approx(0.4)
    head, now = played(mara, shot, role)
    assert now["tidied"].tobytes() == now["raw"].tobytes()


def test_solo_and_mute_choose_the_layers_that_count(mara, shot):
    role = first_role(shot)
    for name, value in (("one", 0.1), ("two", 0.2)):
        layer = add_layer(mara, shot.id, role, name, "add", [])
        edit_document(mara, layer.id, layer.version, name, [put("keys/jawOpen", {"k": [0, value, 0, 0, "flat"]})])
    one, _two = open_shot(mara, shot.id).layers

    def added():
        head, arrays = played(mara, shot, role)
        column = head["channels"].index("jawOpen")
        return round(float(arrays["tidied"][30, column] - arrays["raw"][30, column]), 4)

    assert added() == 0.3
    one = edit_document(mara, one.id, one.version, "mute", [put("mute", True)])
    assert added() == 0.2
    edit_document(mara, one.id, one.version, "solo", [put("solo", True), put("mute", False)])
    assert added() == 0.1


def test_made_blinks_are_part_of_the_result(mara, shot):
    role = first_role(shot)
    layer = add_layer(mara, shot.id, role, "blinks", "add", [])
    edit_document(
        mara, layer.id, layer.version, "blink", [put("makers/m", {"maker": "blinks", "rank": 1, "frames": [50]})]
    )
    head, arrays = played(mara, shot, role)
    assert arrays["tidied"][50, head["channels"].index("eyeBlinkLeft")] == pytest.approx(1, abs=0.02)


def test_a_clip_is_split_and_joined_and_no_curve_changes(mara, shot):
    role = first_role(shot)
    name, entry = next(iter(sorted(shot.body.roles[role].placements.items(), key=lambda i: Fr(i[1].start))))
    _, before = played(mara, shot, role)
    cut = cut_shot(mara, shot.id, shot.version, "split", Cut("split", role, name, Fr(7, 5)))
    assert len(cut.body.roles[role].placements) == 3
    np.testing.assert_allclose(played(mara, cut, role)[1]["tidied"], before["tidied"], atol=1e-6)
    whole = cut_shot(mara, shot.id, cut.version, "join", Cut("join", role, name))
    assert len(whole.body.roles[role].placements) == 2
    assert Fr(whole.body.roles[role].placements[name].last) == Fr(entry.last)
    np.testing.assert_array_equal(played(mara, whole, role)[1]["tidied"], before["tidied"])
    undo(mara, [shot.id])
    undo(mara, [shot.id])
    np.testing.assert_array_equal(played(mara, whole, role)[1]["tidied"], before["tidied"])


def test_time_is_put_in_and_taken_out_with_what_lies_behind(mara, shot):
    role, other = shot.body.ordered
    starts = lambda body, key: sorted(Fr(p.start) for p in body.roles[key].placements.values())  # noqa: E731
    before, theirs = starts(shot.body, role), starts(shot.body, other)
    room = cut_shot(mara, shot.id, shot.version, "room", Cut("make room", "", "", Fr(1), Fr(2)))
    assert starts(room.body, role) == [before[0], before[1] + 2]
    assert starts(room.body, other) == [theirs[0] + 2]
    assert Fr(room.body.length) == Fr(shot.body.length) + 2
    one = cut_shot(mara, shot.id, room.version, "room", Cut("make room", role, "", Fr(1), Fr(1)))
    assert starts(one.body, other) == [theirs[0] + 2]
    first = min(one.body.roles[role].placements, key=lambda n: Fr(one.body.roles[role].placements[n].start))
    out = cut_shot(mara, shot.id, one.version, "out", Cut("take out", role, first))
    assert starts(out.body, role) == [before[1] + 3 - before[1]]


@pytest.mark.parametrize(
    ("cut", "says"),
    [(Cut("split", "r", "p"), "no such clip"), (Cut("fold"), "do"), (Cut("make room"), "no time")],
)  # fmt: skip
def test_cuts_that_cannot_be_made_are_refused(mara, shot, cut, says):
    with pytest.raises(DynafaceError, match=says):
        cut_shot(mara, shot.id, shot.version, "cut", cut)


def test_two_people_work_on_two_layers_at_once_and_meet_on_one(mara, ivo, shot):
    role = first_role(shot)
    mine, theirs = (add_layer(w, shot.id, role, n, "add", []) for w, n in ((mara, "lips"), (ivo, "lids")))
    span = {"first": 1, "last": 9, "offset": {"jawOpen": 0.2}}
    edit_document(mara, mine.id, mine.version, "a", [put("spans/a", span)])
    edit_document(ivo, theirs.id, theirs.version, "b", [put("spans/b", span)])
    edit_document(ivo, mine.id, mine.version, "c", [put("spans/c", span)])  # another span of the same layer
    with pytest.raises(ConflictError, match="Mara"):
        edit_document(ivo, mine.id, mine.version, "d", [put("spans/a/strength", 0.5)])
    undo(mara, [mine.id])
    (left,) = [n for n in open_shot(mara, shot.id).layers if n.id == mine.id]
    assert list(left.body.spans) == ["c"]


def test_the_sound_of_clips_moves_with_them_and_can_be_let_go(mara, shot, takes):
    role = first_role(shot)
    tag, sound = shot_sound(mara, shot.id)
    assert sound.rate == 48_000
    assert sound.seconds >= float(Fr(shot.body.length))
    assert np.abs(sound.samples).max() > 0.05
    name = next(n for n, p in shot.body.roles[role].placements.items() if Fr(p.start) == 0)
    moved = edit_document(mara, shot.id, shot.version, "move", [put(f"roles/{role}/placements/{name}/start", "1/2")])
    later = shot_sound(mara, shot.id)[1].samples
    np.testing.assert_allclose(later[24_000:100_000], sound.samples[:76_000], atol=2e-4)
    free = let_sound_go(mara, shot.id, moved.version, role, name)
    assert shot_sound(mara, shot.id)[1].samples.tobytes() == later.tobytes()
    (key,) = free.body.sounds
    edit_document(mara, shot.id, free.version, "mute", [put(f"sounds/{key}/mute", True)])
    assert not shot_sound(mara, shot.id)[1].samples.any()
    with pytest.raises(InputError, match="no sound"):
        let_sound_go(mara, shot.id, free.version, role, name)
    assert wav.read(shot_wav(mara, shot.id)).timecode is None
    counted = edit_document(
        mara, shot.id, open_shot(mara, shot.id).shot.version, "count", [put("timecode", "10:04:10:00")]
    )
    assert str(wav.read(shot_wav(mara, shot.id)).timecode) == str(counted.body.begins)
    assert shot_peaks(mara, shot.id)[1].shape[1] == 2
    assert tag


def test_a_clip_follows_its_take_and_says_that_it_changed(mara, shot, takes):
    role = first_role(shot)
    entry = next(p for p in shot.body.roles[role].placements.values() if Fr(p.start) == 0)
    head, before = played(mara, shot, role)
    assert head["takes"][entry.clip] == entry.seen
    take = takes[0]
    edit_document(
        mara,
        take.id,
        take.version,
        "hand",
        [put("hand/jawOpen", {"mode": "offset", "keys": {"k": [0, 0.1, 0, 0, "flat"]}})],
    )
    head, after = played(mara, shot, role)
    assert head["takes"][entry.clip] != entry.seen
    column = head["channels"].index("jawOpen")
    np.testing.assert_allclose(after["raw"][:100, column] - before["raw"][:100, column], 0.1, atol=1e-6)


def test_a_stretch_of_a_take_joins_the_reel_and_is_found_unused(mara, production, takes):
    clip = add_to_reel(mara, takes[0].id, "1/2", "3/2", "wink")
    (row,) = list_reel(mara, production)
    assert (row["name"], row["first"], row["last"], row["used"]) == ("wink", "1/2", "3/2", [])
    assert clip.body.take == takes[0].id
    with pytest.raises(InputError, match="the take has"):
        add_to_reel(mara, takes[0].id, "1", "99999")


def test_another_production_s_clips_and_characters_are_refused(mara, stranger, shot, takes):
    role = first_role(shot)
    for read in (open_shot, shot_wav):
        with pytest.raises(NotFoundError):
            read(stranger, shot.id)
    with pytest.raises(NotFoundError):
        played(stranger, shot, role)
    with pytest.raises(NotFoundError):
        add_layer(stranger, shot.id, role, "x", "add", [])
    stolen = put(f"roles/{role}/placements/z", {"clip": takes[0].id, "start": "0", "first": "0", "last": "1"})
    with pytest.raises(InputError, match="no clip"):
        edit_document(mara, shot.id, shot.version, "steal", [stolen])
    with pytest.raises(NotFoundError, match="no such role"):
        played(mara, shot, "nobody")


@pytest.mark.parametrize(
    ("path", "value"),
    [("length", "0"), ("length", "1e9"), ("length", "1/0"), ("timecode", "99:00:00:00"), ("roles/r", {"performer": "x"}),
     ("rate", "30"), ("roles/r", {"performer": "x", "rank": 1, "capture": {"hair": {}}}), ("roles/r", {"performer": "x", "rank": 1, "turn": 1e9})],
)  # fmt: skip
def test_shots_that_cannot_be_are_refused_with_the_place(mara, shot, path, value):
    with pytest.raises(InputError):
        edit_document(mara, shot.id, shot.version, "bad", [put(path, value)])


SCREEN = ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0])


def lip(mara, odile):
    """A place of Odile's lower lip, at rest."""
    with mara.store.unit() as unit:
        source = unit.sources.get(odile.body.source)
    face = load_geometry(mara, source).face
    down = face.offsets["mouthLowerDownLeft"]
    return face.points[int(np.linalg.norm(down, axis=1).argmax())], face, down


def test_a_lip_that_is_dragged_goes_where_it_is_dragged_by_what_moves_lips(mara, shot, odile):
    role = first_role(shot)
    place, face, _ = lip(mara, odile)
    vertex = int(np.linalg.norm(face.points - place, axis=1).argmin())
    wanted = (0.0, -0.003)
    found = grab_face(mara, shot.id, role, 30, place.tolist(), SCREEN, wanted)["channels"]
    assert 0 < len(found) < 8
    assert "mouthLowerDownLeft" in found
    assert set(grab_face(mara, shot.id, role, 30, place.tolist(), SCREEN, wanted, ["jaw"])["channels"]) <= {
        "jawOpen",
        "jawForward",
        "jawLeft",
        "jawRight",
    }
    with pytest.raises(InputError, match="nothing that may change"):
        grab_face(mara, shot.id, role, 30, place.tolist(), SCREEN, wanted, ["brows"])
    # The curves with it on a layer bring the vertex there: half a millimetre.
    layer = add_layer(mara, shot.id, role, "lip", "add", [])
    values = {layer.id: [put("spans/a", {"first": 20, "last": 40, "offset": found})]}
    moved = []
    for wish in (None, ShotWish(layers=values)):
        head, arrays = played(mara, shot, role, ("weights",), wish)
        targets = next(p["columns"] for p in head["pieces"] if p["part"] == "weights")
        weights = arrays["weights"][30]
        moved.append(
            sum(w * face.offsets[t][vertex] for t, w in zip(targets, weights, strict=True) if t in face.offsets)
        )
    assert np.linalg.norm((moved[1] - moved[0])[:2] - wanted) < 0.0005


def test_eyes_follow_the_pointer_together_and_the_head_turns_as_a_whole(mara, shot, odile):
    role = first_role(shot)
    at = (30, (0.0, 1.5, 0.1), SCREEN, (0.004, 0.0))
    eyes = grab_face(mara, shot.id, role, *at, mesh="eyes")
    assert eyes["part"] == "eyes"
    # To the right of the screen is the performer's own left: one eye goes out, the other in.
    assert eyes["channels"]["eyeLookOutLeft"] > 0.2
    assert eyes["channels"]["eyeLookInRight"] > 0.2
    assert abs(eyes["channels"]["eyeLookUpLeft"]) < 0.02
    head = grab_face(mara, shot.id, role, 30, (0.0, 1.7, 0.0), SCREEN, (0.0, 0.02), mesh="body")
    assert head == {"part": "head", "channels": {"headTurn": 0.0, "headNod": pytest.approx(10.48, abs=0.02)}}
    # A place of the face that no shape moves, as low on the neck, goes with the head.
    neck = lip(mara, odile)[1].points
    low = neck[neck[:, 1].argmin()]
    assert grab_face(mara, shot.id, role, 30, low.tolist(), SCREEN, (0.01, 0.0), mesh="face")["part"] == "head"
    with pytest.raises(InputError, match="does not reach the eyes"):
        grab_face(mara, shot.id, role, *at, regions=["lips"], mesh="eyes")


def test_what_cannot_be_grabbed_is_said(mara, shot, stranger):
    role = first_role(shot)
    with pytest.raises(InputError, match="nothing of the face"):
        grab_face(mara, shot.id, role, 0, (5.0, 5.0, 5.0), SCREEN, (0.0, 0.01))
    bare = edit_document(mara, shot.id, shot.version, "none", [put(f"roles/{role}/character", None)])
    with pytest.raises(InputError, match="no character"):
        grab_face(mara, bare.id, role, 0, (0.0, 1.5, 0.1), SCREEN, (0.0, 0.01))
    with pytest.raises(NotFoundError):
        grab_face(stranger, shot.id, role, 0, (0.0, 1.5, 0.1), SCREEN, (0.0, 0.01))


def test_a_maker_becomes_keys_that_do_the_same(mara, shot):
    role = first_role(shot)
    layer = add_layer(mara, shot.id, role, "blinks", "add", [])
    made = {"maker": "blinks", "rank": 1, "frames": [40, 160], "captured": "replace"}
    layer = edit_document(mara, layer.id, layer.version, "blink", [put("makers/m", made)])
    _, before = played(mara, shot, role)
    ended = end_maker(mara, layer.id, layer.version, "m")
    assert ended.body.makers == {}
    assert set(ended.body.keys) >= {"eyeBlinkLeft", "eyeBlinkRight"}
    _, after = played(mara, shot, role)
    np.testing.assert_allclose(after["tidied"], before["tidied"], atol=0.01)
    undo(mara, [layer.id])
    np.testing.assert_array_equal(played(mara, shot, role)[1]["tidied"], before["tidied"])
    with pytest.raises(NotFoundError):
        end_maker(mara, layer.id, ended.version + 1, "nothing")


def test_a_role_is_handed_over_with_its_layers_and_the_mixed_sound(mara, production, shot):
    role = first_role(shot)
    timed = edit_document(mara, shot.id, shot.version, "start", [put("timecode", "01:00:10:00")])
    job = request_role_handover(
        mara, timed.id, role, {"forms": {"gltf": {}, "curve table": {}, "sound": {}}, "options": {"rate": "24"}}
    )
    run_job(mara, job.id)
    (done,) = list_handovers(mara, production)
    assert done.report["ok"]
    assert [f["name"] for f in done.files] == [
        "Ferry_landing_Odile.glb",
        "Ferry_landing_Odile.csv",
        "Ferry_landing_Odile.wav",
        "Ferry_landing_Odile.manifest.json",
    ]
    name, table = handover_file(mara, done.id, 1)
    assert name.endswith(".csv")
    assert b"01:00:10:00" in table.splitlines()[1]
    assert done.report["frames"] == pytest.approx(float(Fr(timed.body.length)) * 24, abs=1.5)
    bare = edit_document(mara, shot.id, timed.version, "none", [put(f"roles/{role}/character", None)])
    with pytest.raises(InputError, match="no character"):
        request_role_handover(mara, bare.id, role, {})


def test_a_clip_is_held_to_what_its_take_gives_and_follows_it_again(mara, shot, takes):
    role = first_role(shot)
    entry = next(p for p in shot.body.roles[role].placements.values() if Fr(p.start) == 0)
    head, before = played(mara, shot, role)
    held = freeze_clip(mara, entry.clip, 1)
    with pytest.raises(InputError, match="held already"):
        freeze_clip(mara, entry.clip, held.version)
    hand = {"mode": "offset", "keys": {"k": [0, 0.1, 0, 0, "flat"]}}
    edit_document(mara, takes[0].id, takes[0].version, "hand", [put("hand/jawOpen", hand)])
    np.testing.assert_allclose(played(mara, shot, role)[1]["raw"][:300], before["raw"][:300], atol=2e-5)
    follow_take(mara, entry.clip, held.version)
    column = head["channels"].index("jawOpen")
    after = played(mara, shot, role)[1]["raw"]
    np.testing.assert_allclose(after[:100, column] - before["raw"][:100, column], 0.1, atol=1e-5)
    undo(mara, [entry.clip])
    np.testing.assert_allclose(played(mara, shot, role)[1]["raw"][:300], before["raw"][:300], atol=2e-5)
