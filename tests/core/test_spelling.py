import pytest
from hypothesis import given
from hypothesis import strategies as st

from dynaface.core.shapes.regions import REGION, REGIONS
from dynaface.core.shapes.spelling import match_name
from dynaface.core.shapes.standard import CHANNELS, SHAPES, mirrored, side


@pytest.mark.parametrize(
    ("written", "meant"),
    [
        ("eyeBlinkLeft", "eyeBlinkLeft"), ("eye_blink_L", "eyeBlinkLeft"), ("EyeBlink_l", "eyeBlinkLeft"),
        ("left_eye_blink", "eyeBlinkLeft"), ("Eye Blink R", "eyeBlinkRight"), ("blink.eye.R", "eyeBlinkRight"),
        ("EYEBLINKLEFT", "eyeBlinkLeft"), ("face:jawOpen", "jawOpen"), ("Head.M_jawOpen", "jawOpen"),
        ("mouth_roll_lower", "mouthRollLower"), ("HeadRoll", "headTilt"), ("head_yaw_deg", "headTurn"),
        ("LeftEyePitch", "gazeNodLeft"), ("jaw_L", "jawLeft"), ("Brow Inner Up", "browInnerUp"),
        ("AU12_L", "mouthSmileLeft"), ("au 01", "browInnerUp"),
    ],
)  # fmt: skip
def test_many_spellings_mean_one_channel(written, meant):
    assert match_name(written) == meant


@pytest.mark.parametrize(
    "written", ["", "time", "foo", "eye", "left", "blink", "mouthWobble", "timestamp_ms", "12", "AU12", "AU26"]
)
def test_other_names_match_nothing(written):
    assert match_name(written) is None


def _spelled(channel, style):
    words = "".join(f" {c}" if c.isupper() else c for c in channel).split()
    styles = {
        "snake": "_".join(words).lower(), "kebab": "-".join(words).lower(), "shout": "_".join(words).upper(),
        "spaces": " ".join(words).title(), "letter": "_".join([*words[:-1], words[-1][0]]).lower()
        if words[-1] in ("Left", "Right") and channel not in ("jawLeft", "jawRight", "mouthLeft", "mouthRight") else channel,
        "front": " ".join([words[-1], *words[:-1]]) if words[-1] in ("Left", "Right") else channel,
    }  # fmt: skip
    return styles[style]


@given(st.sampled_from(CHANNELS), st.sampled_from(["snake", "kebab", "shout", "spaces", "letter", "front"]))
def test_each_channel_is_found_in_each_spelling(channel, style):
    assert match_name(_spelled(channel, style)) == channel


def test_there_are_52_shapes_and_each_channel_has_one_region():
    assert len(SHAPES) == len(set(SHAPES)) == 52
    assert set(REGION) == set(CHANNELS)
    assert set(REGION.values()) == set(REGIONS)


@given(st.sampled_from(CHANNELS))
def test_the_mirror_of_the_mirror_is_the_channel(channel):
    assert mirrored(mirrored(channel)) == channel
    assert {side(channel), side(mirrored(channel))} in ({"left", "right"}, {"middle"})
