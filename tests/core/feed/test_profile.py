"""What a profile makes of a performer's values."""

import numpy as np
import pytest

from dynaface.core.feed.profile import FeedProfile, Shaper, neutral_of, zero_of
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.shapes.standard import CHANNELS, HEAD_ANGLES, SHAPES

UNSMOOTHED = dict.fromkeys(REGIONS, 0.0)


def row(**values):
    made = np.full(len(CHANNELS), np.nan, np.float32)
    for name, value in values.items():
        made[CHANNELS.index(name)] = value
    return made


def made(profile, **values):
    found = Shaper(profile).made(row(**values))
    return {n: float(found[i]) for i, n in enumerate(CHANNELS) if np.isfinite(found[i])}


def test_a_plain_profile_changes_nothing_and_says_so():
    assert FeedProfile().plain
    assert made(FeedProfile(), jawOpen=0.5, headTurn=-12.0) == pytest.approx({"jawOpen": 0.5, "headTurn": -12.0})


def test_neutral_becomes_nothing_and_full_stays_full():
    profile = FeedProfile(neutral={"jawOpen": 0.2})
    assert made(profile, jawOpen=0.2)["jawOpen"] == 0
    assert made(profile, jawOpen=1.0)["jawOpen"] == pytest.approx(1)
    assert made(profile, jawOpen=0.1)["jawOpen"] == 0
    assert not profile.plain


def test_an_extreme_becomes_full():
    profile = FeedProfile(neutral={"mouthPucker": 0.1}, extremes={"mouthPucker": 0.6})
    assert profile.gain("mouthPucker") == pytest.approx(2)
    assert made(profile, mouthPucker=0.6)["mouthPucker"] == pytest.approx(1)


def test_an_extreme_at_neutral_does_not_make_noise_of_everything():
    assert FeedProfile(neutral={"jawOpen": 0.5}, extremes={"jawOpen": 0.5}).gain("jawOpen") == pytest.approx(20)


def test_the_head_looks_ahead_where_its_zero_was_taken_however_it_was_turned():
    zero = (20.0, -10.0, 8.0)
    found = made(FeedProfile(zero=zero), headTurn=20.0, headNod=-10.0, headTilt=8.0)
    assert [found[n] for n in HEAD_ANGLES] == pytest.approx([0, 0, 0], abs=1e-4)


def test_strength_is_of_a_region():
    found = made(FeedProfile(strength={"jaw": 2.0}), jawOpen=0.3, mouthPucker=0.3)
    assert found == pytest.approx({"jawOpen": 0.6, "mouthPucker": 0.3})


def test_a_mirror_changes_left_and_right_and_twice_is_nothing():
    profile = FeedProfile(mirror=True)
    found = made(
        profile,
        eyeBlinkLeft=0.9,
        eyeBlinkRight=0.1,
        headTurn=10.0,
        headNod=5.0,
        headTilt=3.0,
        jawLeft=0.4,
        jawRight=0.0,
    )
    assert found == pytest.approx(
        {
            "eyeBlinkLeft": 0.1,
            "eyeBlinkRight": 0.9,
            "headTurn": -10.0,
            "headNod": 5.0,
            "headTilt": -3.0,
            "jawLeft": 0.0,
            "jawRight": 0.4,
        }
    )
    assert made(profile, **found) == pytest.approx(
        {
            "eyeBlinkLeft": 0.9,
            "eyeBlinkRight": 0.1,
            "headTurn": 10.0,
            "headNod": 5.0,
            "headTilt": 3.0,
            "jawLeft": 0.4,
            "jawRight": 0.0,
        }
    )


def test_smoothness_is_of_a_region():
    shaper = Shaper(FeedProfile(smoothing={**UNSMOOTHED, "lips": 0.9}))
    shaper.smoothed(row(jawOpen=0.0, mouthPucker=0.0), 1 / 60)
    found = shaper.smoothed(row(jawOpen=1.0, mouthPucker=1.0), 1 / 60)
    assert found[CHANNELS.index("jawOpen")] == 1
    assert found[CHANNELS.index("mouthPucker")] < 0.8


def test_neutral_is_the_middle_of_a_moment_and_one_bad_frame_does_not_count():
    rows = np.stack([row(jawOpen=0.1, headTurn=5.0, headNod=1.0, headTilt=2.0)] * 9 + [row(jawOpen=0.9)])
    assert neutral_of(rows) == pytest.approx({"jawOpen": 0.1, "headTurn": 5.0, "headNod": 1.0, "headTilt": 2.0})
    assert zero_of(rows) == pytest.approx((5, 1, 2))


def test_without_a_head_there_is_no_zero_and_without_rows_nothing():
    assert zero_of(np.stack([row(jawOpen=0.1)])) is None
    assert neutral_of(np.empty((0, len(CHANNELS)), np.float32)) == {}


def test_every_shape_can_be_neutral_and_full():
    profile = FeedProfile(dict.fromkeys(SHAPES, 0.2), dict.fromkeys(SHAPES, 0.7))
    found = made(profile, **dict.fromkeys(SHAPES, 0.7))
    assert found == pytest.approx(dict.fromkeys(SHAPES, 1.0))
