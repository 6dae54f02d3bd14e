"""The production's character: moved by a live camera, and looked over."""

import numpy as np
import pytest

from dynaface.assets import ASSETS
from dynaface.core.body.rotations import about
from dynaface.core.errors import NotFoundError
from dynaface.core.shapes.standard import SHAPES
from dynaface.services.character.character_health import character_health
from dynaface.services.feed.live_character import live_character
from dynaface.services.footage.live_camera import driven
from dynaface.services.take.import_take import import_character
from tests.conftest import stored

LOOKING_AHEAD = np.array([0.0, 0.0, 0.0, 1.0])


def scores(**given):
    out = np.zeros(len(SHAPES))
    for name, value in given.items():
        out[SHAPES.index(name)] = value
    return out


def drive_live(work, production, shown, turn):
    """The production's first character, moved by what a camera shows."""
    return driven(live_character(work, production), shown, turn)


@pytest.fixture
def odile(mara, production):
    return import_character(
        mara, production, "Odile", stored(mara, (ASSETS / "characters/odile.glb").read_bytes(), "odile.glb")
    )


def test_without_a_character_nothing_is_driven(mara, production):
    assert drive_live(mara, production, scores(), LOOKING_AHEAD) is None


def test_scores_arrive_at_their_targets(mara, production, odile):
    made = drive_live(mara, production, scores(jawOpen=0.6, mouthSmileLeft=0.3), LOOKING_AHEAD)
    weights = dict(zip(made["targets"], made["weights"], strict=True))
    assert weights["jawOpen"] == pytest.approx(0.6)
    assert weights["mouthSmileLeft"] == pytest.approx(0.3)
    assert sum(v > 0 for v in weights.values()) == 2
    assert made["source"] == odile.body.source
    assert len(made["motion"]) == 4 * len(made["joints"])


def test_the_head_turns_and_the_eyes_look(mara, production, odile):
    still = drive_live(mara, production, scores(), LOOKING_AHEAD)
    turned = drive_live(mara, production, scores(), about("y", np.array(25.0)))
    looking = drive_live(mara, production, scores(eyeLookOutLeft=0.8, eyeLookInRight=0.8), LOOKING_AHEAD)

    def joint(made, name):
        at = made["joints"].index(name)
        return np.array(made["motion"][4 * at : 4 * at + 4])

    assert np.abs(joint(turned, "head") - joint(still, "head")).max() > 0.01
    assert np.abs(joint(looking, "eyeLeft") - joint(still, "eyeLeft")).max() > 0.05


def test_the_health_of_a_character_is_told_to_members_only(mara, stranger, production, odile):
    assert character_health(mara, odile.id)["findings"] == []
    with pytest.raises(NotFoundError):
        character_health(stranger, odile.id)


def test_nobody_else_s_character_is_driven(stranger, production, odile):
    with pytest.raises(NotFoundError):
        drive_live(stranger, production, scores(), LOOKING_AHEAD)
