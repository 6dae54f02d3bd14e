"""Matches of skeletons on the real database: said in a take, kept by name, found again, copied, written and read."""

import json
from fractions import Fraction

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about, multiply
from dynaface.core.body.skeleton import Motion
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.errors import DeniedError, InputError, NotFoundError
from dynaface.formats.entries import bvh
from dynaface.formats.entries.curve_table import write_table
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.match.keep_match import copy_match, export_match, import_match, keep_match, list_matches
from dynaface.services.match.report_match import match_report
from dynaface.services.people.manage_productions import begin_production
from dynaface.services.take.import_take import import_character, import_take
from dynaface.services.take.open_take import open_take
from dynaface.services.take.prepare_take import prepare_take
from dynaface.sims.skeletons import BUILDS, make
from tests.conftest import stored
from tests.makers import channels
from tests.services.evaluated import put

BODY = make(BUILDS[0], 12, "nonsense")
OF = dict(zip(BODY.truth, BODY.skeleton.names, strict=True))


def suit(prefix: str = "") -> bytes:
    """Ten seconds in a suit whose joints have names that say nothing; arms hang from the first frame on."""
    skeleton = BODY.skeleton
    local = skeleton.rest[None].repeat(600, axis=0)
    for side, sign in (("L", -1), ("R", 1)):
        joint = skeleton.index(OF[f"{side} upperarm"])
        local[:, joint] = multiply(about("z", sign * 75.0), local[:, joint])
    written = bvh.write(Motion(skeleton, local, np.zeros((600, 3)), Fraction(60))).decode()
    return "\n".join(
        (line.replace("ROOT ", f"ROOT {prefix}").replace("JOINT ", f"JOINT {prefix}")) for line in written.split("\n")
    ).encode()


def take_in(work, production, slate="4A", prefix=""):
    files = [
        stored(work, write_table(channels(frames=300)), "face.csv"),
        stored(work, suit(prefix), "suit.bvh"),
    ]
    return import_take(work, production, slate, "Mara Quill", files)


@pytest.fixture
def odile(mara, production):
    return import_character(
        mara, production, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    )


@pytest.fixture
def take(mara, production, odile):
    return take_in(mara, production)


def places(work, take):
    """Where the character's hands and feet are, in metres."""
    prepared = prepare_take(work, take.id)
    rig = prepared.snapshot.character.skeleton
    body = prepared.graph.body.result(prepared.cache)
    at = rig.pose(body.local, body.root)[1]
    return at[:, [rig.index(j) for j in ("handLeft", "handRight", "footLeft", "footRight", "head")]]


def say(work, take, *changes, label="match by hand"):
    join = open_take(work, take.id).join
    return edit_document(work, join.id, join.version, label, list(changes))


def test_both_skeletons_are_shown_with_what_is_matched(mara, take):
    found = match_report(mara, take.id)
    assert found["matches"]["handLeft"] == OF["L hand"]
    assert found["matches"]["index2Right"] == OF["R finger 2 2"]
    assert found["confidence"]["handLeft"] > 0.6
    assert found["shared"] == ["neck1", "neck2", "neck3", "spine1", "spine2", "spine3", "spine4", "spine5"]
    assert next(j for j in found["character"] if j["name"] == "thumb1Left")["twin"] == "thumb1Right"
    assert next(j for j in found["body"] if j["name"] == OF["head"])["twin"] == ""
    assert (found["own"], found["kept"], found["turns"]) == ([], None, {})
    assert found["differences"]["upperLegLeft"] < 10


def test_the_character_is_drawn_laid_along_the_body(mara, take):
    found = match_report(mara, take.id)
    ours, theirs = ({j["name"]: np.array(j["at"]) for j in found[k]} for k in ("character", "body"))
    one = ours["lowerArmLeft"] - ours["upperArmLeft"]
    two = theirs[OF["L lowerarm"]] - theirs[OF["L upperarm"]]
    assert one @ two / np.linalg.norm(one) / np.linalg.norm(two) == pytest.approx(1, abs=1e-6)


def test_a_match_is_kept_and_found_again_by_its_skeletons(mara, production, take):
    say(mara, take, put("matches/handLeft", ""), put("turns/upperArmLeft", [0, 0, 12.0]))
    kept = keep_match(mara, take.id, " Suit on Odile ")
    assert kept.body.name == "Suit on Odile"
    assert open_take(mara, take.id).join.body.matches == {}
    found = match_report(mara, take.id)
    assert "handLeft" not in found["matches"]
    assert found["kept"] == {"id": kept.id, "version": kept.version, "name": "Suit on Odile", "posed": False}
    again = match_report(mara, take_in(mara, production, "4B", "scene2:").id)
    assert "handLeft" not in again["matches"]
    assert again["matches"]["handRight"] == f"scene2:{OF['R hand']}"
    assert again["turns"] == {"upperArmLeft": [0.0, 0.0, 12.0]}
    assert (
        again["shared"]
        == found["shared"]
        == ["neck1", "neck2", "neck3", "spine1", "spine2", "spine3", "spine4", "spine5"]
    )


def test_what_a_take_says_itself_comes_first_and_can_be_taken_back(mara, take):
    keep_match(mara, take.id, "suit")
    say(mara, take, put("matches/handLeft", OF["R hand"]))
    assert match_report(mara, take.id)["matches"]["handLeft"] == OF["R hand"]
    undo(mara, [open_take(mara, take.id).join.id])
    assert match_report(mara, take.id)["matches"]["handLeft"] == OF["L hand"]


def test_keeping_again_changes_the_match_that_there_is(mara, production, take):
    first = keep_match(mara, take.id, "suit")
    say(mara, take, put("matches/head", ""))
    second = keep_match(mara, take.id, "suit, no head")
    assert second.id == first.id
    assert [m.body.name for m in list_matches(mara, production)] == ["suit, no head"]
    edit_document(mara, second.id, second.version, "forget", [put("archived", True)])
    assert list_matches(mara, production) == []
    assert "head" in match_report(mara, take.id)["matches"]
    assert keep_match(mara, take.id, "back").body.archived is False


def test_chains_of_unlike_length_share_or_double_their_last(mara, take):
    say(mara, take, put("chains", "last"))
    found = match_report(mara, take.id)
    assert (found["shared"], found["chains"], found["said"]) == ([], "last", 1)
    assert found["matches"]["neck3"] == found["matches"]["neck2"]
    assert set(found["confidence"]) == set(found["matches"])
    keep_match(mara, take.id, "the last doubled")
    assert open_take(mara, take.id).join.body.chains == ""
    again = match_report(mara, take.id)
    assert (again["chains"], again["said"], again["matches"]) == ("last", 0, found["matches"])
    say(mara, take, put("chains", "share"))
    assert len(match_report(mara, take.id)["shared"]) == 8
    with pytest.raises(InputError, match="chains"):
        say(mara, take, put("chains", "some"))


def test_a_held_pose_is_found_and_counts_as_rest(mara, take):
    (held,) = match_report(mara, take.id)["held"]
    assert (held["pose"], held["first"], held["last"]) == ("arms down", 0.0, 10.0)
    assert held["arms"] == pytest.approx(75, abs=2)
    moved = [places(mara, take)]
    say(mara, take, put("calibration", 5.0))
    moved.append(places(mara, take))
    # The limbs are laid along those of the pose: whichever counts as rest, arms hang as they were seen to.
    np.testing.assert_allclose(moved[1], moved[0], atol=0.02)
    kept = keep_match(mara, take.id, "calibrated")
    assert len(kept.body.rest) == len(BODY.truth)
    assert open_take(mara, take.id).join.body.calibration is None
    assert match_report(mara, take.id)["kept"]["posed"]
    moved.append(places(mara, take))
    np.testing.assert_allclose(moved[2], moved[1], atol=1e-5)


def test_a_match_goes_to_another_production(mara, take, production):
    say(mara, take, put("matches/handLeft", ""))
    kept, there = keep_match(mara, take.id, "suit"), begin_production(mara, "Another").id
    copied = copy_match(mara, kept.id, there)
    assert (copied.production, copied.body.matches) == (there, kept.body.matches)
    import_character(mara, there, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb"))
    assert "handLeft" not in match_report(mara, take_in(mara, there).id)["matches"]
    with pytest.raises(InputError, match="of that production already"):
        copy_match(mara, kept.id, production)


def test_a_match_is_written_and_read(mara, take):
    say(mara, take, put("matches/handLeft", ""), put("turns/head", [1.0, 2.0, 3.0]))
    name, data = export_match(mara, take.id)
    assert name == "4a_match.json"
    assert json.loads(data)["matches"]["handLeft"] == ""
    before = match_report(mara, take.id)
    say(mara, take, put("matches", {}), put("turns", {}))
    import_match(mara, take.id, stored(mara, data, name))
    after = match_report(mara, take.id)
    assert (after["matches"], after["turns"], after["shared"]) == (before["matches"], before["turns"], before["shared"])


@pytest.mark.parametrize(
    ("file", "why"),
    [
        (b"{", "no JSON"), (b"[]", "must be a table"), (b'{"matches": {"head": 3}}', "must be a table of joints"),
        (b'{"matches": {"tail": ""}}', "bad.json: the skeleton has no joint 'tail'"),
        (b'{"matches": {"head": "tail"}}', "no joint 'tail'"), (b'{"matches": {}, "turns": {"head": [1, 2]}}', "three angles"),
        (b'{"matches": {}, "turns": {"head": [1, 2, 900]}}', "180"),
    ],
)  # fmt: skip
def test_a_bad_match_is_refused_and_changes_nothing(mara, take, file, why):
    before = open_take(mara, take.id).join
    with pytest.raises(InputError, match=why):
        import_match(mara, take.id, stored(mara, file, "bad.json"))
    assert open_take(mara, take.id).join.version == before.version


def test_without_a_body_there_is_nothing_to_match(mara, production, odile):
    bare = import_take(mara, production, "1", "", [stored(mara, write_table(channels()), "face.csv")])
    for use in (match_report, export_match, lambda w, t: keep_match(w, t, "suit")):
        with pytest.raises(InputError, match="no body"):
            use(mara, bare.id)


def test_strangers_neither_see_nor_copy_a_match(mara, stranger, take, production):
    kept = keep_match(mara, take.id, "suit")
    theirs = begin_production(stranger, "Theirs").id
    for attempt in (
        lambda: list_matches(stranger, production), lambda: match_report(stranger, take.id), lambda: copy_match(stranger, kept.id, theirs),
        lambda: keep_match(stranger, take.id, "mine"), lambda: export_match(stranger, take.id), lambda: copy_match(mara, kept.id, theirs),
    ):  # fmt: skip
        with pytest.raises((DeniedError, NotFoundError)):
            attempt()


def test_a_match_names_two_skeletons_for_good(mara, take):
    kept = keep_match(mara, take.id, "suit")
    assert isinstance(kept.body, MatchBody)
    with pytest.raises(InputError, match="never changes"):
        edit_document(mara, kept.id, kept.version, "move", [put("body", "0" * 16)])
