"""Blink profiles of a production and blinks that are loosened from their maker, on the real database."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.layers.profile import BUILT_IN
from dynaface.services.edit_document import edit_document, undo
from dynaface.services.pieces import Piece
from dynaface.services.shot.blink_profiles import loosen_blink, own_profiles
from dynaface.services.shot.evaluate_shot import evaluate_role
from dynaface.services.shot.make_shot import add_layer, make_shot
from dynaface.services.shot.open_shot import open_shot
from dynaface.services.take.import_take import import_take
from tests.conftest import stored
from tests.services.evaluated import put

SLOW = [[0, 0], [0.6, 1], [1, 0]]


@pytest.fixture
def shot(mara, production):
    lamp = stored(mara, (ASSETS / "demo/mara_lamp.csv").read_bytes(), "mara_lamp.csv")
    return make_shot(mara, production, "Landing", takes=[import_take(mara, production, "4A", "Mara Quill", [lamp]).id])


@pytest.fixture
def layer(mara, shot):
    made = add_layer(mara, shot.id, shot.body.ordered[0], "blinks", "add", [])
    blinks = {"maker": "blinks", "rank": 1, "frames": [60, 160]}
    return edit_document(mara, made.id, made.version, "blink", [put("makers/m", blinks)])


def lids(work, shot):
    """(frames, 2) of both upper lids, and (frames,) of the ring of the left eye."""
    head, arrays = evaluate_role(work, shot.id, shot.body.ordered[0], [Piece("tidied")])
    names = ("eyeBlinkLeft", "eyeBlinkRight", "eyeSquintLeft")
    return np.nan_to_num(arrays["tidied"][:, [head["channels"].index(n) for n in names]])


def test_a_production_has_its_own_copies_once(mara, ivo, production):
    own = own_profiles(mara, production)
    assert set(own.body.profiles) == set(BUILT_IN)
    assert own_profiles(ivo, production).id == own.id


def test_blinks_of_every_shot_follow_a_profile_that_is_edited(mara, production, shot, layer):
    before = lids(mara, shot)
    own = own_profiles(mara, production)
    assert np.array_equal(lids(mara, shot), before)
    assert open_shot(mara, shot.id).profiles.id == own.id
    edit_document(mara, own.id, own.version, "slower", [put("profiles/plain/upper", SLOW)])
    after = lids(mara, shot)
    assert after[52, 0] > before[52, 0] + 0.1
    undo(mara, [own.id])
    assert np.array_equal(lids(mara, shot), before)


def test_a_profile_that_is_no_blink_is_refused_and_strangers_have_none(mara, stranger, production):
    own = own_profiles(mara, production)
    with pytest.raises(InputError, match="upper lid"):
        edit_document(mara, own.id, own.version, "worse", [put("profiles/plain/upper", [[0, 0.5], [0.3, 1], [1, 0]])])
    with pytest.raises(NotFoundError):
        own_profiles(stranger, production)


def test_a_blink_is_loosened_from_its_profile_and_looks_the_same(mara, production, shot, layer):
    before = lids(mara, shot)
    loose = loosen_blink(mara, layer.id, layer.version, "m", 60)
    assert loose.body.makers["m"].placed.parameters["loose"] == [60]
    assert "eyeBlinkLeft" in loose.body.keys
    assert np.abs(lids(mara, shot) - before).max() < 0.012
    # The profile no longer moves it; the other blink follows.
    own = own_profiles(mara, production)
    edit_document(mara, own.id, own.version, "slower", [put("profiles/plain/upper", SLOW)])
    after = lids(mara, shot)
    assert np.abs(after[40:80] - before[40:80]).max() < 0.012
    assert np.abs(after[140:180] - before[140:180]).max() > 0.1
    undo(mara, [own.id])
    undo(mara, [layer.id])
    assert np.array_equal(lids(mara, shot), before)


def test_where_no_blink_is_made_there_is_none_to_loosen(mara, layer):
    with pytest.raises(InputError, match="no blink is made at frame 110"):
        loosen_blink(mara, layer.id, layer.version, "m", 110)
